"""Artwork and meshes for export: pixels with straight alpha, and quads."""

import io
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ...arrays import Pixels
from ...evaluate import evaluate
from ...scene import Ground, Logo, Model, ModelFile, Movie, Picture, Scene
from ...scene.channels import RELIEF
from ...space.ground import Field, ground_mesh
from ..artwork_files import first_file
from ..contents import Material, SolidData
from ..errors import FileError
from ..pixels import file_of, is_drawn
from ..reader import Reader
from ..simple_solids import simple
from ..stand_in import placeholder

_SIDE = 4096

Shown = Picture | Model | Logo | Ground


class FlatMesh(NamedTuple):
    """Corners (K, 3), normals (K, 3), texture coordinates (K, 2; v down) and faces (M, 3), in one material; whether its
    texture ``repeats`` beyond its edges."""

    positions: NDArray[Any]
    normals: NDArray[Any]
    uv: NDArray[Any]
    faces: NDArray[Any]
    material: Material
    texture: Pixels | None
    repeats: bool = False


def straight(pixels: Pixels) -> Pixels:
    """Premultiplied pixels (H, W, 4) with their colours as they are."""
    alpha = pixels[..., 3:].astype(np.float32)
    out = pixels.copy()
    out[..., :3] = np.minimum(pixels[..., :3] * (255.0 / np.maximum(alpha, 1.0)) + 0.5, 255.0)
    return out


def png(pixels: Pixels) -> bytes:
    """Pixels (H, W, 4) as a PNG."""
    out = io.BytesIO()
    image = Image.fromarray(pixels)
    (image.convert("RGB") if (pixels[..., 3] == 255).all() else image).save(out, "PNG", compress_level=4)
    return out.getvalue()


def pixels_of(node: Picture, base: Path | None, reader: Reader) -> Pixels:
    """What a picture shows (H, W, 4), with straight alpha; a labelled stand-in where its file cannot be read."""
    path = file_of(node, base, 0)
    try:
        if isinstance(node.artwork, Movie):
            assert path is not None
            return straight(reader.movie_frame(path, 0, _SIDE))
        scale = min(2.0, _SIDE / max(node.width, node.height)) if is_drawn(node) else 1.0
        return straight(reader.pixels(node, path, scale, _SIDE).pixels)
    except FileError:
        return straight(placeholder(node.name, node.width, node.height, "cannot be read"))


def card(node: Picture, scene: Scene, pixels: Pixels) -> FlatMesh:
    """A picture of pixels (H, W, 4) as four corners about its middle."""
    unit = scene.settings.pixels_per_unit
    w, h = 0.5 * node.width / unit, 0.5 * node.height / unit
    positions = np.array([[-w, -h, 0], [w, -h, 0], [w, h, 0], [-w, h, 0.0]])
    uv = np.array([[0, 1], [1, 1], [1, 0], [0, 0.0]])
    faces = np.array([[0, 1, 2], [0, 2, 3]])
    clear = bool((pixels[..., 3] < 255).any())
    material = Material((1.0, 1.0, 1.0, 1.0), 0, clear, double_sided=True, unlit=not node.takes_light)
    return FlatMesh(positions, np.tile([0.0, 0.0, 1.0], (4, 1)), uv, faces, material, pixels)


def meshes_of(node: Shown, scene: Scene, base: Path | None, reader: Reader, frame: float) -> list[FlatMesh]:
    """What is seen of a node, in units in its own space; a surface that moves as it is at a frame."""
    if isinstance(node, Picture):
        return [card(node, scene, pixels_of(node, base, reader))]
    return solid_meshes(node, scene, base, reader, frame)


def solid_meshes(
    node: Model | Logo | Ground, scene: Scene, base: Path | None, reader: Reader, frame: float
) -> list[FlatMesh]:
    """A solid's meshes at rest, a ground's at a frame, in units in its own space."""
    if isinstance(node, Ground):
        field = Field(node.surface, node.width, node.depth)
        factor = float(evaluate(scene, [frame], [node.id]).value(node.id, RELIEF)[0])
        positions, normals, faces = ground_mesh(field, frame / scene.settings.rate.fps, factor, node.fineness)
        tone = tuple(int(node.tone[k : k + 2], 16) / 255.0 for k in (1, 3, 5))
        material = Material((tone[0], tone[1], tone[2], 1.0), unlit=not node.takes_light)
        return [FlatMesh(positions, normals, np.zeros((len(positions), 2)), faces, material, None)]
    try:
        data = simple(node) if isinstance(node, Model) and not isinstance(node.shape, ModelFile) else (
            reader.solid(node, first_file(node, base))
        )  # fmt: skip
    except FileError:
        return []
    size = 1.0 / scene.settings.pixels_per_unit if isinstance(node, Logo) else 1.0
    return _meshes(data, size, not node.takes_light)


def _meshes(data: SolidData, size: float, unlit: bool) -> list[FlatMesh]:
    poses = np.eye(4)[None] if data.contents is None else data.contents.poses()
    out = []
    for mesh, material, number, _ in data.parts:
        if not len(mesh.faces):
            continue
        pose = poses[number if number < len(poses) else 0]
        positions = (mesh.positions @ pose[:3, :3].T + pose[:3, 3]) * size
        normals = mesh.normals @ np.linalg.pinv(pose[:3, :3])
        length = np.linalg.norm(normals, axis=1, keepdims=True)
        normals = np.where(length > 1e-12, normals / np.maximum(length, 1e-12), [0.0, 0.0, 1.0]).astype(np.float64)
        material = material._replace(unlit=unlit or material.unlit)
        texture = None if material.texture is None else straight(data.textures[material.texture])
        out.append(
            FlatMesh(
                positions, normals, np.asarray(mesh.uv, np.float64), np.asarray(mesh.faces), material, texture, True
            )
        )
    return out
