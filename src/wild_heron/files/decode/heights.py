"""Heights: read from a grey picture, or taken from a model seen from above."""

import numpy as np
from PIL import Image

from ...arrays import Array
from ...scene import Model, ModelFile
from ...space.from_above import highest
from ...space.mesh import solid
from ..contents import SeenFromAbove
from ..errors import FileError
from ..formats import is_vector
from .bitmaps import opened
from .gltf import read_model
from .images import read_picture
from .source import Source

SIDE = 129
"""Points along the longer side of a map."""


def heights_of_picture(file: Source) -> Array:
    """A picture's brightness from 0 to 1 (rows, columns), on a coarse grid. FileError where it is no picture."""
    grey = _grey(file)
    rows, columns = _fitted(*grey.shape)
    image = Image.fromarray(grey.astype(np.float32)).resize((columns, rows), Image.Resampling.BOX)
    return np.clip(np.nan_to_num(np.asarray(image, dtype=np.float64)), 0.0, 1.0)


def _grey(file: Source) -> Array:
    """Brightness from 0 to 1 as (H, W), with all of a 16-bit picture's steps."""
    if not is_vector(file.path) and file.suffix != ".exr":
        with opened(file, file.open()) as image:
            if image.mode.startswith("I"):
                return np.asarray(image, dtype=np.float64) / 65535.0
            if image.mode == "F":
                return np.clip(np.asarray(image, dtype=np.float64), 0.0, 1.0)
    pixels = read_picture(file, limit=4 * SIDE)[..., :3].astype(np.float64) / 255.0
    return np.asarray(pixels @ np.array([0.2126, 0.7152, 0.0722]))


def _fitted(rows: int, columns: int) -> tuple[int, int]:
    longer = max(rows, columns)
    share = min(1.0, SIDE / longer)
    return max(2, round(rows * share)), max(2, round(columns * share))


def heights_of_model(node: Model, file: Source | None) -> SeenFromAbove:
    """A model seen from above, in its own space. Where there is nothing, it is as low as the model."""
    if isinstance(node.shape, ModelFile):
        assert file is not None
        contents = read_model(file)
        poses = contents.poses()
        pieces = [
            (part.mesh.positions @ poses[part.node, :3, :3].T + poses[part.node, :3, 3])[part.mesh.faces]
            for part in contents.parts
            if len(part.mesh.faces)
        ]
    else:
        mesh = solid(node.shape)
        pieces = [mesh.positions[mesh.faces].astype(np.float64)]
    if not pieces:
        raise FileError(file.path if file else node.name, "has no surface.", "Choose another model.")
    corners = np.concatenate(pieces).astype(np.float64)
    low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    width, depth = float(max(high[0] - low[0], 1e-3)), float(max(high[2] - low[2], 1e-3))
    rows, columns = _fitted(round(1000 * depth), round(1000 * width))
    # A hair inside the edge, where a line would miss what ends there.
    inset = 1e-6
    x = np.linspace(low[0] + inset * width, high[0] - inset * width, columns)
    z = np.linspace(low[2] + inset * depth, high[2] - inset * depth, rows)
    seen = highest(corners, x, z)
    height = np.where(np.isfinite(seen), seen, low[1])
    tall = float(max(high[1] - low[1], 1e-6))
    middle = 0.5 * (low + high)
    share = np.clip((height - low[1]) / tall, 0.0, 1.0)
    return SeenFromAbove(share, float(low[1]), float(low[1] + tall), width, depth, (float(middle[0]), float(middle[2])))
