"""The meshes of models and logos: read or made, ready to be drawn."""

from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..scene import Box, ImageFile, Logo, Model, ModelFile, Plane
from ..space.extrude import extrude
from ..space.mesh import fewer_faces, joined, solid
from .artwork import resolve
from .errors import FileError
from .gltf import Material, ModelContents, Part, read_model
from .outlines import outlines_of, rgb

_SIDE_DARKER = 0.62
_MANY_FACES = 10_000
_MISSING = (0.88, 0.48, 0.31, 1.0)


class SolidData(NamedTuple):
    """Parts in the node's own space, and what is wrong (None for nothing). A logo is in artwork pixels, a model in
    units; ``contents`` poses the parts of a file. ``drafts`` are fewer faces of meshes of many, by the mesh's id."""

    parts: tuple[Part, ...]
    textures: tuple[NDArray[np.uint8], ...]
    contents: ModelContents | None
    problem: str | None = None
    drafts: dict[int, NDArray[np.uint32]] = {}  # noqa: RUF012

    def sphere(self) -> tuple[NDArray[np.float64], float]:
        """Middle (3,) and radius of a sphere around all of it, at rest."""
        if self.contents is not None:
            low, high = self.contents.bounds()
        else:
            bounds = np.array([part.mesh.bounds() for part in self.parts] or np.zeros((1, 2, 3)), dtype=np.float64)
            low, high = bounds[:, 0].min(axis=0), bounds[:, 1].max(axis=0)
        middle = 0.5 * (low + high)
        return middle, float(np.linalg.norm(high - middle))


def build(node: Model | Logo, base: Path | None) -> SolidData:
    """The parts of a model or logo; where its file cannot be read, a plain stand-in and the problem."""
    try:
        made = _logo(node, base) if isinstance(node, Logo) else _model(node, base)
        many = [part.mesh for part in made.parts if len(part.mesh.faces) > _MANY_FACES]
        return made._replace(drafts={id(mesh): fewer_faces(mesh) for mesh in many})
    except FileError as problem:
        return _stand_in(node, str(problem))
    except Exception as problem:  # Whatever a stranger's file makes a library do, the other nodes go on.
        return _stand_in(node, f"{node.name} could not be made: {problem!r}.")


def _stand_in(node: Model | Logo, problem: str) -> SolidData:
    if isinstance(node, Logo):
        mesh = solid(Plane(float(node.width), float(node.height)))
    else:
        mesh = solid(Box(1.0, 1.0, 1.0))
    return SolidData((Part(mesh, Material(_MISSING), 0),), (), None, problem)


def _model(node: Model, base: Path | None) -> SolidData:
    if isinstance(node.shape, ModelFile):
        contents = read_model(resolve(base, node.shape.source))
        return SolidData(contents.parts, contents.textures, contents)
    return SolidData((Part(solid(node.shape), Material((*rgb(node.surface), 1.0)), 0),), (), None)


def _logo(node: Logo, base: Path | None) -> SolidData:
    path = resolve(base, node.outlines.source) if isinstance(node.outlines, ImageFile) else None
    outlines = outlines_of(node.outlines, path)
    by_colour: dict[tuple[float, float, float], list[tuple[object, object]]] = {}
    for shape, colour in outlines.shapes:
        made = extrude(shape, node.depth, node.bevel)
        by_colour.setdefault(colour, []).append((made.face, made.side))
    parts = []
    for colour, pieces in by_colour.items():
        side = rgb(node.side) if node.side else (
            colour[0] * _SIDE_DARKER, colour[1] * _SIDE_DARKER, colour[2] * _SIDE_DARKER,
        )  # fmt: skip
        faces, walls = joined([face for face, _ in pieces]), joined([wall for _, wall in pieces])  # type: ignore[misc]
        parts.append(Part(faces, Material((*colour, 1.0)), 0))
        if len(walls.faces):
            parts.append(Part(walls, Material((*side, 1.0)), 0))
    return SolidData(tuple(parts), (), None)
