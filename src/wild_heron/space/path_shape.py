"""Reshaping paths: their grips, and points put in and taken out. Everything is in the path's own space."""

from typing import Any, NamedTuple

import msgspec
import numpy as np

from ..arrays import Array
from ..scene import SceneError
from ..scene.paths import BezierPath, CirclePath, Curve, EllipsePath, LinePath, PathPoint, ThroughPath
from .path import pieces, track


class Grip(NamedTuple):
    """Something of a path that can be dragged: its name and number, where it is (3,), and the point it belongs to."""

    name: str
    number: int
    at: Array
    of: Array | None = None


def grips(curve: Curve) -> list[Grip]:
    """Points and handles of a path; for round ones the ends of their axes."""
    match curve:
        case BezierPath(points):
            found = []
            for k, point in enumerate(points):
                at = np.array(point.at)
                found.append(Grip("point", k, at))
                for name, step in (("before", point.before), ("after", point.after)):
                    if any(step):
                        found.append(Grip(name, k, at + np.array(step), at))
            return found
        case ThroughPath(points):
            return [Grip("point", k, np.array(point)) for k, point in enumerate(points)]
        case LinePath(start, end):
            return [Grip("point", 0, np.array(start)), Grip("point", 1, np.array(end))]
        case CirclePath(radius):
            return [Grip("axis", 0, np.array([radius, 0.0, 0.0]), np.zeros(3))]
        case EllipsePath(across, deep):
            ends = (np.array([across, 0.0, 0.0]), np.array([0.0, 0.0, deep]))
            return [Grip("axis", k, end, np.zeros(3)) for k, end in enumerate(ends)]


def _plain(at: Array) -> tuple[float, float, float]:
    x, y, z = np.round(at, 6).tolist()
    return x, y, z


def moved(curve: Curve, grip: Grip, to: Array, broken: bool = False) -> Curve:
    """The path with a grip put somewhere (3,). A handle takes the one across along, in line, unless ``broken``."""
    match curve:
        case BezierPath(points):
            point = points[grip.number]
            if grip.name == "point":
                changed = msgspec.structs.replace(point, at=_plain(to))
            else:
                step = to - np.array(point.at)
                other = "after" if grip.name == "before" else "before"
                fields = {grip.name: _plain(step)}
                across = np.array(getattr(point, other))
                if not broken and across.any() and step.any():
                    fields[other] = _plain(-step / np.linalg.norm(step) * np.linalg.norm(across))
                changed = msgspec.structs.replace(point, **fields)
            return msgspec.structs.replace(curve, points=_with(points, grip.number, changed))
        case ThroughPath(points):
            return msgspec.structs.replace(curve, points=_with(points, grip.number, _plain(to)))
        case LinePath(start, end):
            return LinePath(_plain(to), end) if grip.number == 0 else LinePath(start, _plain(to))
        case CirclePath():
            return CirclePath(max(float(np.linalg.norm(to)), 1e-3))
        case EllipsePath(across, deep):
            size = max(abs(float(to[0] if grip.number == 0 else to[2])), 1e-3)
            return EllipsePath(size, deep) if grip.number == 0 else EllipsePath(across, size)


def _with(points: tuple[Any, ...], number: int, point: Any) -> tuple[Any, ...]:
    return (*points[:number], point, *points[number + 1 :])


def nearest(curve: Curve, seen: Array, spot: Array) -> tuple[float, float]:
    """The parameter of a path nearest to a spot (2,), and how far it is, among its points as they are seen (N, 2) at
    even parameters."""
    off = np.linalg.norm(seen - spot, axis=1)
    off = np.where(np.isfinite(off), off, np.inf)
    k = int(np.argmin(off))
    return k / (len(seen) - 1), float(off[k])


def with_point(curve: Curve, u: float) -> tuple[Curve, int]:
    """The path with a point more at a parameter, and the point's number. One with handles keeps its shape exactly
    (de Casteljau), one through points nearly. SceneError where there is a point already, or none can be."""
    count = len(pieces(curve))
    k = min(int(u * count), count - 1)
    t = u * count - k
    if isinstance(curve, LinePath):
        at = _plain(track(curve).point(np.array([u]))[0])
        return ThroughPath((curve.start, at, curve.end)), 1
    if isinstance(curve, CirclePath | EllipsePath):
        raise SceneError("A round path has no points. In the inspector, give it handles first.")
    if not 0.02 < t < 0.98:
        raise SceneError("There is a point here already.")
    if isinstance(curve, ThroughPath):
        at = _plain(track(curve).point(np.array([u]))[0])
        return msgspec.structs.replace(curve, points=(*curve.points[: k + 1], at, *curve.points[k + 1 :])), k + 1
    a, b, c, d = pieces(curve)[k]
    ab, bc, cd = a + (b - a) * t, b + (c - b) * t, c + (d - c) * t
    abc, bcd = ab + (bc - ab) * t, bc + (cd - bc) * t
    at = abc + (bcd - abc) * t
    points = list(curve.points)
    after = (k + 1) % len(points)
    points[k] = msgspec.structs.replace(points[k], after=_exact(ab - a))
    points[after] = msgspec.structs.replace(points[after], before=_exact(cd - d))
    points.insert(k + 1, PathPoint(_exact(at), _exact(abc - at), _exact(bcd - at)))
    return msgspec.structs.replace(curve, points=tuple(points)), k + 1


def _exact(at: Array) -> tuple[float, float, float]:
    x, y, z = at.tolist()
    return x, y, z


def without_point(curve: Curve, number: int) -> Curve:
    """The path without a point. SceneError where it has only two."""
    if not isinstance(curve, BezierPath | ThroughPath):
        raise SceneError("This path has no points to remove.")
    if len(curve.points) <= 2:
        raise SceneError("A path needs two points. Delete the path itself in the Rig.")
    return msgspec.structs.replace(curve, points=(*curve.points[:number], *curve.points[number + 1 :]))
