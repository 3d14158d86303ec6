"""Paths as numbers: where they go, how long they are, and a frame that turns along them without twisting."""

from functools import cached_property, lru_cache
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..scene.paths import BezierPath, CirclePath, Curve, EllipsePath, LinePath, ThroughPath
from .path_lengths import plain
from .transform import cross, length

_SAMPLES = 64
"""Samples to a piece, for length and frames; fewer where there are many pieces, down to"""
_FEWEST = 8
_MANY_SAMPLES = 8_192


def pieces(curve: Curve) -> Array:
    """The Bézier control points (P, 4, 3) of a curve's pieces; those of a circle or ellipse are close to it only."""
    match curve:
        case BezierPath(points, closed):
            at = np.array([each.at for each in points])
            before = at + np.array([each.before for each in points])
            after = at + np.array([each.after for each in points])
            out = np.stack([at[:-1], after[:-1], before[1:], at[1:]], axis=1)
            if closed:
                last = np.stack([at[-1], after[-1], before[0], at[0]])[None]
                out = np.concatenate([out, last])
            return out
        case ThroughPath(points, closed):
            return _through(np.array(points), closed)
        case LinePath(start, end):
            a, b = np.array(start), np.array(end)
            return np.stack([a, a + (b - a) / 3.0, a + (b - a) * 2.0 / 3.0, b])[None]
        case CirclePath(radius):
            return _ellipse_pieces(radius, radius)
        case EllipsePath(across, deep):
            return _ellipse_pieces(across, deep)


def _ellipse_pieces(across: float, deep: float) -> Array:
    angle = np.arange(5) * (np.pi / 2)
    at = np.stack([across * np.sin(angle), 0 * angle, deep * np.cos(angle)], axis=1)
    way = np.stack([across * np.cos(angle), 0 * angle, -deep * np.sin(angle)], axis=1) * (4.0 / 3.0 * (2**0.5 - 1.0))
    return np.stack([at[:-1], at[:-1] + way[:-1], at[1:] - way[1:], at[1:]], axis=1)


def _through(points: Array, closed: bool) -> Array:
    """Centripetal Catmull-Rom (Yuksel et al. 2011) as Bézier pieces: knots go with the root of the distance."""
    count = len(points)
    if closed and count > 2:
        ring = np.concatenate([points[-1:], points, points[:2]])
    else:
        # Beyond the ends it goes on as mirrored, so that the first and last piece are not straightened.
        ring = np.concatenate([2 * points[:1] - points[1:2], points, 2 * points[-1:] - points[-2:-1]])
    gaps = np.maximum(length(np.diff(ring, axis=0)) ** 0.5, 1e-9)
    p0, p1, p2, p3 = ring[:-3], ring[1:-2], ring[2:-1], ring[3:]
    a, b, c = (gaps[k : k + len(p0), None] for k in range(3))
    first = b * ((p1 - p0) / a - (p2 - p0) / (a + b)) + (p2 - p1)
    second = b * ((p3 - p2) / c - (p3 - p1) / (b + c)) + (p2 - p1)
    return np.stack([p1, p1 + first / 3.0, p2 - second / 3.0, p2], axis=1)


def is_closed(curve: Curve) -> bool:
    return isinstance(curve, CirclePath | EllipsePath) or getattr(curve, "closed", False)


class PathTrack:
    """A curve compiled for riding. Parameters run from 0 to 1 over all pieces alike, shares of length as well."""

    def __init__(self, curve: Curve) -> None:
        self.curve = curve
        self.closed = is_closed(curve)
        self._pieces = pieces(curve)
        self._round = curve if isinstance(curve, CirclePath | EllipsePath) else None
        count = len(self._pieces) * min(_SAMPLES, max(_FEWEST, _MANY_SAMPLES // len(self._pieces)))
        self.samples = np.linspace(0.0, 1.0, count + 1)
        """Parameters (S,) in even steps, between which it is told apart."""

    @cached_property
    def _ups(self) -> Array:
        return self._rotation_minimising()

    @property
    def length(self) -> float:
        """The whole length, in units of the path."""
        return float(plain(self).runs[0, -1])

    def _local(self, u: Array) -> tuple[Array, Array]:
        """The pieces' control points (…, 4, 3) at parameters (…), and where in them (…, 1)."""
        at = np.clip(u, 0.0, 1.0) * len(self._pieces)
        piece = np.minimum(at.astype(np.int64), len(self._pieces) - 1)
        return self._pieces[piece], (at - piece)[..., None]

    def point(self, u: Array) -> Array:
        """Points (…, 3) at parameters (…)."""
        if self._round is not None:
            across, deep = _half_axes(self._round)
            angle = np.clip(u, 0.0, 1.0) * (2.0 * np.pi)
            return np.stack([across * np.sin(angle), 0.0 * angle, deep * np.cos(angle)], axis=-1)
        p, t = self._local(u)
        rest = 1.0 - t
        return (
            rest * rest * rest * p[..., 0, :]
            + 3.0 * rest * rest * t * p[..., 1, :]
            + 3.0 * rest * t * t * p[..., 2, :]
            + t * t * t * p[..., 3, :]
        )

    def derivative(self, u: Array) -> Array:
        """Change of the point (…, 3) with the parameter."""
        if self._round is not None:
            across, deep = _half_axes(self._round)
            angle = np.clip(u, 0.0, 1.0) * (2.0 * np.pi)
            way = np.stack([across * np.cos(angle), 0.0 * angle, -deep * np.sin(angle)], axis=-1)
            return 2.0 * np.pi * way
        p, t = self._local(u)
        rest = 1.0 - t
        a, b, c = p[..., 1, :] - p[..., 0, :], p[..., 2, :] - p[..., 1, :], p[..., 3, :] - p[..., 2, :]
        return 3.0 * len(self._pieces) * (rest * rest * a + 2.0 * rest * t * b + t * t * c)

    def parameter(self, share: Array) -> Array:
        """The parameters (N,) at shares (N,) of the length."""
        return plain(self).parameter(share, np.zeros(len(share), dtype=np.intp))

    def tangent(self, u: Array) -> Array:
        """Unit directions (N, 3) along the path; where it stands still, those of its neighbourhood."""
        way = self.derivative(u)
        size = length(way)
        still = size < 1e-9
        if still.any():
            near = np.clip(u, 1e-4, 1.0 - 1e-4)
            way = np.where(still[:, None], self.point(near + 1e-4) - self.point(near - 1e-4), way)
            size = length(way)
        gone = size < 1e-12
        return np.where(gone[:, None], np.array([1.0, 0.0, 0.0]), way / np.where(gone, 1.0, size)[:, None])

    def up(self, u: Array) -> Array:
        """Unit vectors (N, 3) square to the path that turn about it as little as can be."""
        at = np.clip(u, 0.0, 1.0) * (len(self.samples) - 1)
        k = np.minimum(at.astype(np.int64), len(self.samples) - 2)
        share = (at - k)[:, None]
        up = self._ups[k] * (1.0 - share) + self._ups[k + 1] * share
        along = self.tangent(u)
        flat = up - along * _dot(up, along)[:, None]
        return flat / np.maximum(length(flat), 1e-12)[:, None]

    def _rotation_minimising(self) -> Array:
        """Up vectors at the samples by double reflection (Wang, Jüttler, Zheng and Liu 2008); on a closed path the
        turn that is left over at its end is shared out along it."""
        points, along = self.point(self.samples), self.tangent(self.samples)
        start = np.array([0.0, 1.0, 0.0]) if abs(along[0, 1]) < 0.99 else np.array([0.0, 0.0, 1.0])
        up = start - along[0] * float(start @ along[0])
        ups = np.empty_like(points)
        ups[0] = up / np.linalg.norm(up)
        for k in range(len(points) - 1):
            v1 = points[k + 1] - points[k]
            c1 = float(v1 @ v1)
            if c1 < 1e-24:
                ups[k + 1] = ups[k]
                continue
            r = ups[k] - v1 * (2.0 / c1 * float(v1 @ ups[k]))
            t = along[k] - v1 * (2.0 / c1 * float(v1 @ along[k]))
            v2 = along[k + 1] - t
            c2 = float(v2 @ v2)
            ups[k + 1] = r - v2 * (2.0 / c2 * float(v2 @ r)) if c2 > 1e-24 else r
        if self.closed:
            side = np.cross(along[0], ups[0])
            left = np.arctan2(float(ups[-1] @ side), float(ups[-1] @ ups[0]))
            turn = -left * self.samples
            c, s = np.cos(turn)[:, None], np.sin(turn)[:, None]
            ups = ups * c + cross(along, ups) * s
        return ups


def _half_axes(curve: CirclePath | EllipsePath) -> tuple[float, float]:
    return (curve.radius, curve.radius) if isinstance(curve, CirclePath) else (curve.across, curve.deep)


def _dot(a: Array, b: Array) -> Array:
    return a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1] + a[..., 2] * b[..., 2]


@lru_cache(maxsize=256)
def track(curve: Curve) -> PathTrack:
    """The compiled curve; one for each shape."""
    return PathTrack(curve)


def fitted(points: Array, tolerance: float) -> tuple[BezierPath, Array]:
    """A Bézier path along points (N, 3) that keeps within a tolerance in units of all of them, with few points; and the
    parameters (N,) at which it passes them.

    Pieces have the polyline's own directions at their ends, and handles fitted by least squares over chord length
    (Schneider 1990); one that strays is split where it strays most. It has a corner where the polyline has one.
    """
    from ..scene.paths import PathPoint

    keep = np.concatenate([[True], length(np.diff(points, axis=0)) > 1e-9])
    which = np.cumsum(keep) - 1
    points = points[keep]
    if len(points) < 2:
        raise ValueError("a path needs two points apart")
    run = np.concatenate([[0.0], np.cumsum(length(np.diff(points, axis=0)))])
    arriving, onward, corners = _ways(points, run)
    ends, parameters = [0], np.zeros(len(points))
    handles: list[tuple[float, float]] = []
    waiting = list(pairwise([0, *corners, len(points) - 1]))[::-1]
    while waiting:
        a, b = waiting.pop()
        piece = _fit_piece(points[a : b + 1], run[a : b + 1], onward[a], arriving[b])
        if piece.error > tolerance and b - a > 1:
            waiting += [(a + piece.worst, b), (a, a + piece.worst)]
            continue
        parameters[a : b + 1] = len(handles) + piece.t
        handles.append((piece.first, piece.second))
        ends.append(b)
    out = []
    for k, index in enumerate(ends):
        before = -arriving[index] * handles[k - 1][1] if k else np.zeros(3)
        after = onward[index] * handles[k][0] if k < len(handles) else np.zeros(3)
        at, into, onto = (tuple(np.round(each, 9).tolist()) for each in (points[index], before, after))
        out.append(PathPoint(at, into, onto))
    return BezierPath(tuple(out)), parameters[which] / len(handles)


_REFITS = 4
_CORNER = float(np.cos(np.radians(25.0)))


def _ways(points: Array, run: Array) -> tuple[Array, Array, list[int]]:
    """The polyline's unit directions (N, 3) arriving at each point and going on from it, and which points are corners:
    elsewhere both are one."""
    smooth = np.gradient(points, run, axis=0, edge_order=2 if len(points) > 2 else 1)
    smooth = smooth / np.maximum(length(smooth), 1e-12)[:, None]
    steps = np.diff(points, axis=0)
    steps = steps / np.maximum(length(steps), 1e-12)[:, None]
    corners = np.flatnonzero((steps[1:] * steps[:-1]).sum(axis=1) < _CORNER) + 1
    arriving, onward = smooth.copy(), smooth
    arriving[corners], onward[corners] = steps[corners - 1], steps[corners]
    return arriving, onward, corners.tolist()


class _Piece(NamedTuple):
    """Lengths of both handles, where on the piece each point belongs (N,), the index of the worst one, and how far the
    piece is from it."""

    first: float
    second: float
    t: Array
    worst: int
    error: float


def _fit_piece(points: Array, run: Array, start: Array, end: Array) -> _Piece:
    """One cubic along points with directions at its ends.

    Where on the piece each point belongs starts from its share of the way, and is bettered by Newton's method.
    """
    t = (run - run[0]) / (run[-1] - run[0])
    chord = float(run[-1] - run[0])
    best = _Piece(chord / 3, chord / 3, t, max(len(points) // 2, 1), np.inf)
    for _ in range(_REFITS):
        first, second = _handles(points, t, start, end, chord)
        p = np.stack([points[0], points[0] + start * first, points[-1] - end * second, points[-1]])
        rest = 1.0 - t
        curve = _bernstein(t, rest) @ p
        off = length(curve - points)
        worst = int(np.argmax(off))
        if off[worst] < best.error:
            best = _Piece(first, second, t, min(max(worst, 1), max(len(points) - 2, 1)), float(off[worst]))
        way = 3.0 * np.stack([rest * rest, 2.0 * rest * t, t * t], axis=1) @ np.diff(p, axis=0)
        speed = np.maximum((way * way).sum(axis=1), 1e-12)
        t = np.maximum.accumulate(np.clip(t + ((points - curve) * way).sum(axis=1) / speed, 0.0, 1.0))
        t[0], t[-1] = 0.0, 1.0
    return best


def _bernstein(t: Array, rest: Array) -> Array:
    return np.stack([rest**3, 3.0 * rest**2 * t, 3.0 * rest * t**2, t**3], axis=1)


def _handles(points: Array, t: Array, start: Array, end: Array, chord: float) -> tuple[float, float]:
    """The lengths of the handles along their directions that fit best; a third of the way where that is no use."""
    if len(points) < 4:
        return chord / 3, chord / 3
    b = _bernstein(t, 1.0 - t)
    bare = points - (b[:, 0] + b[:, 1])[:, None] * points[0] - (b[:, 2] + b[:, 3])[:, None] * points[-1]
    a1, a2 = b[:, 1:2] * start, -b[:, 2:3] * end
    system = np.array([[np.sum(a1 * a1), np.sum(a1 * a2)], [np.sum(a1 * a2), np.sum(a2 * a2)]])
    try:
        first, second = np.linalg.solve(system, [np.sum(a1 * bare), np.sum(a2 * bare)]).tolist()
    except np.linalg.LinAlgError:
        return chord / 3, chord / 3
    if not (1e-3 * chord < first < 3 * chord and 1e-3 * chord < second < 3 * chord):
        return chord / 3, chord / 3
    return first, second
