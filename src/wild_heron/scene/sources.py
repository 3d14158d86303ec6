"""Which file a node comes from, whatever kind it is."""

import msgspec

from .artwork import ImageFile, Layer, Movie, Sequence
from .model import AnyNode, Logo, Model, Picture, Projection
from .solids import ModelFile


def node_source(node: AnyNode) -> str | None:
    """The node's file, relative to the scene file (of a sequence, with its run of #); None where it has none."""
    if isinstance(node, Projection):
        return node.source
    part = _part(node)
    return part.source if isinstance(part, ImageFile | Layer | Sequence | Movie | ModelFile) else None


def with_source(node: AnyNode, source: str) -> AnyNode:
    """The node with another file in place of its own."""
    if isinstance(node, Projection):
        return msgspec.structs.replace(node, source=source)
    part = _part(node)
    assert isinstance(part, ImageFile | Layer | Sequence | Movie | ModelFile)
    field = {"picture": "artwork", "logo": "outlines", "model": "shape"}[node.kind]
    return msgspec.structs.replace(node, **{field: msgspec.structs.replace(part, source=source)})


def _part(node: AnyNode) -> object:
    if isinstance(node, Picture):
        return node.artwork
    if isinstance(node, Logo):
        return node.outlines
    return node.shape if isinstance(node, Model) else None
