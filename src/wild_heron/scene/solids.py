"""What a model is made of: a few simple solids, or a glTF file. Sizes are in units, middles at the node's origin."""

from typing import Annotated

import msgspec
from msgspec import Meta

from .artwork import Source, Timing

__all__ = [
    "Box",
    "Cone",
    "Cylinder",
    "ModelFile",
    "Plane",
    "Shape",
    "Sphere",
    "Torus",
]


Size = Annotated[float, Meta(gt=0.0, le=1e6)]

_Coordinate = Annotated[float, Meta(ge=-1e9, le=1e9)]
Corner = tuple[_Coordinate, _Coordinate, _Coordinate]


class Plane(msgspec.Struct, frozen=True, tag="plane", forbid_unknown_fields=True):
    """A flat rectangle that faces +Z."""

    width: Size = 4.0
    height: Size = 3.0


class Box(msgspec.Struct, frozen=True, tag="box", forbid_unknown_fields=True):
    """A box along the axes. Seen from inside it is a room."""

    width: Size = 2.0
    height: Size = 2.0
    depth: Size = 2.0


class Sphere(msgspec.Struct, frozen=True, tag="sphere", forbid_unknown_fields=True):
    radius: Size = 1.0


class Cylinder(msgspec.Struct, frozen=True, tag="cylinder", forbid_unknown_fields=True):
    """Upright, closed at both ends."""

    radius: Size = 0.8
    height: Size = 2.0


class Cone(msgspec.Struct, frozen=True, tag="cone", forbid_unknown_fields=True):
    """Upright, pointing up, closed below."""

    radius: Size = 0.9
    height: Size = 2.0


class Torus(msgspec.Struct, frozen=True, tag="torus", forbid_unknown_fields=True):
    """A ring around +Z: ``radius`` to the middle of a tube of radius ``tube``."""

    radius: Size = 1.0
    tube: Size = 0.3


class ModelFile(msgspec.Struct, frozen=True, tag="file", forbid_unknown_fields=True):
    """A glTF 2.0 file. ``animation`` is the name of the one that plays ("" for none); its length is in the file.
    ``low`` and ``high`` are the corners of its box at rest, when it was brought in."""

    source: Source
    low: Corner = (-0.5, -0.5, -0.5)
    high: Corner = (0.5, 0.5, 0.5)
    animation: Annotated[str, Meta(max_length=1024)] = ""
    timing: Timing = Timing()


Shape = Plane | Box | Sphere | Cylinder | Cone | Torus | ModelFile
