"""Height maps: read from a grey picture, or taken from a model seen from above."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..scene import HeightMap, Model, ModelFile
from ..space.ground import meet_mesh
from ..space.mesh import solid
from .artwork import resolve
from .errors import FileError
from .gltf import read_model
from .images import probe, read_picture

Array = NDArray[np.float64]

SIDE = 129
"""Points along the longer side of a map."""


def heights_of_picture(path: Path, source: str, high: float = 2.0) -> HeightMap:
    """A height map from a picture: black is 0, white is ``high`` units. FileError where it is no picture."""
    grey = _grey(path)
    rows, columns = _fitted(*grey.shape)
    image = Image.fromarray(grey.astype(np.float32)).resize((columns, rows), Image.Resampling.BOX)
    return _packed(np.asarray(image, dtype=np.float64), 0.0, high, source)


def _grey(path: Path) -> Array:
    """Brightness from 0 to 1 as (H, W), with all of a 16-bit picture's steps."""
    probe(path)  # Says what is wrong with a file that is no picture.
    try:
        with Image.open(path) as image:
            if image.mode.startswith("I"):
                return np.asarray(image, dtype=np.float64) / 65535.0
            if image.mode == "F":
                return np.clip(np.asarray(image, dtype=np.float64), 0.0, 1.0)
    except (OSError, ValueError, Image.DecompressionBombError):
        pass  # Not a kind that Pillow reads: EXR and SVG are.
    pixels = read_picture(path, limit=4 * SIDE)[..., :3].astype(np.float64) / 255.0
    return np.asarray(pixels @ np.array([0.2126, 0.7152, 0.0722]))


def _fitted(rows: int, columns: int) -> tuple[int, int]:
    longer = max(rows, columns)
    share = min(1.0, SIDE / longer)
    return max(2, round(rows * share)), max(2, round(columns * share))


def _packed(share: Array, low: float, high: float, source: str) -> HeightMap:
    steps = np.round(np.clip(share, 0.0, 1.0) * 65535.0).astype("<u2")
    return HeightMap(share.shape[1], share.shape[0], steps.tobytes(), low, high, source)


def heights_of_model(node: Model, base: Path | None) -> tuple[HeightMap, float, float, Array]:
    """A model seen from above, in its own space: the map, its width and depth in units, and its middle (x, z).

    Where there is nothing, the map is as low as the model. FileError where its file cannot be read.
    """
    if isinstance(node.shape, ModelFile):
        contents = read_model(resolve(base, node.shape.source))
        poses = contents.poses()
        pieces = [
            (part.mesh.positions @ poses[part.node, :3, :3].T + poses[part.node, :3, 3])[part.mesh.faces]
            for part in contents.parts
            if len(part.mesh.faces)
        ]
        source = node.shape.source
    else:
        mesh = solid(node.shape)
        pieces, source = [mesh.positions[mesh.faces].astype(np.float64)], ""
    if not pieces:
        raise FileError(resolve(base, source), "has no surface.", "Choose another model.")
    corners = np.concatenate(pieces).astype(np.float64)
    low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    width, depth = float(max(high[0] - low[0], 1e-3)), float(max(high[2] - low[2], 1e-3))
    rows, columns = _fitted(round(1000 * depth), round(1000 * width))
    # A hair inside the edge, where a line would miss what ends there.
    inset = 1e-6
    x, z = np.meshgrid(
        np.linspace(low[0] + inset * width, high[0] - inset * width, columns),
        np.linspace(low[2] + inset * depth, high[2] - inset * depth, rows),
    )
    origin = np.stack([x.ravel(), np.full(x.size, high[1] + 1.0), z.ravel()], axis=1)
    down = np.tile([0.0, -1.0, 0.0], (x.size, 1))
    hit = meet_mesh(corners, origin, down)
    height = np.where(np.isfinite(hit.distance), origin[:, 1] - hit.distance, low[1]).reshape(rows, columns)
    tall = float(max(high[1] - low[1], 1e-6))
    packed = _packed((height - low[1]) / tall, float(low[1]), float(low[1] + tall), source)
    return packed, width, depth, 0.5 * (low + high)[[0, 2]]
