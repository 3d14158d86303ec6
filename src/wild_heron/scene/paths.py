"""The shapes of paths, in the path's own space and in units."""

from typing import Annotated

import msgspec
from msgspec import Meta

from .types import Size, Vector

__all__ = [
    "BezierPath",
    "CirclePath",
    "Curve",
    "EllipsePath",
    "LinePath",
    "PathPoint",
    "ThroughPath",
]


_NONE = (0.0, 0.0, 0.0)


class PathPoint(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A point of a Bézier path, and its two handles as steps from it."""

    at: Vector
    before: Vector = _NONE
    after: Vector = _NONE


class BezierPath(msgspec.Struct, frozen=True, tag="bezier", forbid_unknown_fields=True, cache_hash=True):
    """Cubic Bézier pieces between points with handles."""

    points: Annotated[tuple[PathPoint, ...], Meta(min_length=2, max_length=5000)]
    closed: bool = False


class ThroughPath(msgspec.Struct, frozen=True, tag="through", forbid_unknown_fields=True, cache_hash=True):
    """A smooth curve through points (centripetal Catmull-Rom)."""

    points: Annotated[tuple[Vector, ...], Meta(min_length=2, max_length=5000)]
    closed: bool = False


class CirclePath(msgspec.Struct, frozen=True, tag="circle", forbid_unknown_fields=True):
    """A level circle from +Z round by +X: anticlockwise seen from above."""

    radius: Size = 6.0


class EllipsePath(msgspec.Struct, frozen=True, tag="ellipse", forbid_unknown_fields=True):
    """A level ellipse with these half axes, from +Z round by +X."""

    across: Size = 8.0
    deep: Size = 5.0


class LinePath(msgspec.Struct, frozen=True, tag="line", forbid_unknown_fields=True):
    start: Vector = (-5.0, 0.0, 0.0)
    end: Vector = (5.0, 0.0, 0.0)


Curve = BezierPath | ThroughPath | CirclePath | EllipsePath | LinePath
