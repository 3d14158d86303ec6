"""Meshes that need no file: simple solids, and what stands in for a solid that cannot be made."""

from ..scene import Box, Logo, Model, Plane
from ..scene.artwork import rgb
from ..space.mesh import solid
from .contents import Material, Part, SolidData

_MISSING = (0.88, 0.48, 0.31, 1.0)


def simple(node: Model) -> SolidData:
    """A model of a simple shape."""
    return SolidData((Part(solid(node.shape), Material((*rgb(node.surface), 1.0)), 0),))


def stand_in_for(node: Model | Logo, problem: str) -> SolidData:
    """A plain solid in place of one that cannot be made, and why."""
    shape = Plane(float(node.width), float(node.height)) if isinstance(node, Logo) else Box(1.0, 1.0, 1.0)
    return SolidData((Part(solid(shape), Material(_MISSING), 0),), problem=problem)
