"""Meshes of models and logos, read or generated."""

from ...scene import Logo, Model, ModelFile
from ...scene.artwork import rgb
from ...space.extrude import extrude
from ...space.mesh import fewer_faces, joined
from ..contents import Material, Part, SolidData
from ..simple_solids import simple
from .gltf import read_model
from .outlines import outlines_of
from .source import Source

_SIDE_DARKER = 0.62
_MANY_FACES = 10_000


def build(node: Model | Logo, file: Source | None) -> SolidData:
    """The parts of a model or logo. FileError where its file cannot be read."""
    made = _logo(node, file) if isinstance(node, Logo) else _model(node, file)
    return made._replace(parts=tuple(_with_draft(part) for part in made.parts))


def _with_draft(part: Part) -> Part:
    return part._replace(draft=fewer_faces(part.mesh)) if len(part.mesh.faces) > _MANY_FACES else part


def _model(node: Model, file: Source | None) -> SolidData:
    if isinstance(node.shape, ModelFile):
        assert file is not None
        contents = read_model(file)
        return SolidData(contents.parts, contents.textures, contents._replace(parts=(), textures=()))
    return simple(node)


def _logo(node: Logo, file: Source | None) -> SolidData:
    outlines = outlines_of(node.outlines, file)
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
    return SolidData(tuple(parts))
