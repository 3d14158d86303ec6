"""Paths between two camera poses: straight, round the subject, or up, across and down again.

Poses are rigid matrices (N, 4, 4), shares (N,) of the way; a share may lie beyond 0 and 1, where an ease swings over.
How the camera is turned on the way, (N, 4), is told beforehand: see ``turning``.
"""

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from .rotation import quaternion_to_matrix
from .transform import length

RHO = np.sqrt(2.0)
"""How much zooming out is worth beside panning: the value that viewers preferred in van Wijk & Nuij (2003)."""
_NEAR = 1e-9
_AHEAD = 0.1
"""The least cosine off the axis at which a subject's place in the picture is told; beyond, as if it lay there."""


class LookedAt(msgspec.Struct, frozen=True):
    """A camera at N moments: its rigid ``pose`` (N, 4, 4), ``focal_px`` (N,), and the point it is about (N, 3)."""

    pose: Array
    focal_px: Array
    subject: Array

    @property
    def position(self) -> Array:
        """Where it is (N, 3)."""
        return self.pose[:, :3, 3]

    @property
    def away(self) -> Array:
        """How far the lens is from its subject, (N,)."""
        return np.maximum(length(self.position - self.subject), _NEAR)

    def ray(self) -> Array:
        """The direction (N, 3) of its subject in the lens's own axes, as long as it takes to be 1 deep; straight ahead
        where it is right there."""
        off = self.subject - self.position
        own = np.stack([_dot(self.pose[:, :3, k], off) for k in range(3)], axis=1)
        size = length(own)
        own = np.where((size < _NEAR)[:, None], np.array([0.0, 0.0, -1.0]), own / np.maximum(size, _NEAR)[:, None])
        return own / np.maximum(-own[:, 2], _AHEAD)[:, None]


def log_mix(a: Array, b: Array, share: Array) -> Array:
    """Between positive numbers (N,), evenly in their logarithm."""
    return np.asarray(np.exp(np.log(a) + (np.log(b) - np.log(a)) * share))


def straight(a: LookedAt, b: LookedAt, share: Array, turned: Array) -> tuple[Array, Array]:
    """Poses (N, 4, 4) and focal lengths (N,): positions in a line, focal length in log space."""
    return _posed(_mix(a.position, b.position, share), turned), log_mix(a.focal_px, b.focal_px, share)


def around(a: LookedAt, b: LookedAt, share: Array, turned: Array) -> tuple[Array, Array]:
    """The same (N, 4, 4), (N,) round the subject, which moves in a line across the picture: the lens goes about it as
    it turns, its distance in log space."""
    centre = _mix(a.subject, b.subject, share)
    distance = log_mix(a.away, b.away, share)
    return _framed(a, b, share, turned, centre, distance, log_mix(a.focal_px, b.focal_px, share))


def over(a: LookedAt, b: LookedAt, share: Array, turned: Array, width: float) -> tuple[Array, Array]:
    """The same (N, 4, 4), (N,) by the optimal path of zooming and panning, for long trips: ``share`` is that of the
    path's length.

    van Wijk & Nuij, "Smooth and efficient zooming and panning", InfoVis 2003, equations 9 to 14, over how wide what is
    seen is at the subject of a picture ``width`` pixels wide.
    """
    focal = log_mix(a.focal_px, b.focal_px, share)
    wide_a, wide_b = (look.away * width / look.focal_px for look in (a, b))
    along, wide = zoom_and_pan(length(b.subject - a.subject), wide_a, wide_b, share)
    centre = _mix(a.subject, b.subject, along)
    return _framed(a, b, share, turned, centre, wide * focal / width, focal)


def zoom_and_pan(trip: Array, wide_a: Array, wide_b: Array, share: Array) -> tuple[Array, Array]:
    """How far along a trip (N,), as a share of it, and how wide is seen (N,), a share of the optimal path along."""
    turn = path_turn(trip, wide_a, wide_b)
    r0, r1, still = turn
    s = share * (r1 - r0) / RHO
    with np.errstate(all="ignore"):
        u = wide_a / RHO**2 * (np.cosh(r0) * np.tanh(RHO * s + r0) - np.sinh(r0))
        w = wide_a * np.cosh(r0) / np.cosh(RHO * s + r0)
        along = np.where(still, share, u / np.where(still, 1.0, trip))
    return along, np.where(still, log_mix(wide_a, wide_b, share), w)


def path_turn(trip: Array, wide_a: Array, wide_b: Array) -> tuple[Array, Array, NDArray[np.bool_]]:
    """r₀ and r₁ (N,) of van Wijk & Nuij, and where the trip is too short to be one; the path is (r₁ − r₀)/ρ long."""
    still = trip < 1e-6 * np.minimum(wide_a, wide_b)
    u = np.where(still, 1.0, trip)
    square = RHO**4 * u * u
    b0 = (wide_b**2 - wide_a**2 + square) / (2.0 * wide_a * RHO**2 * u)
    b1 = (wide_b**2 - wide_a**2 - square) / (2.0 * wide_b * RHO**2 * u)
    # ln(−b + √(b² + 1)) is −arsinh b, which keeps its digits where b is large.
    return -np.arcsinh(b0), -np.arcsinh(b1), still


def _framed(
    a: LookedAt, b: LookedAt, share: Array, turned: Array, centre: Array, distance: Array, focal: Array
) -> tuple[Array, Array]:
    """The pose at a distance from a centre, which lies in the picture between where ``a`` and where ``b`` have it."""
    ray = _mix(a.ray() * _in_pixels(a.focal_px), b.ray() * _in_pixels(b.focal_px), share) / _in_pixels(focal)
    ray = ray / np.maximum(length(ray), _NEAR)[:, None]
    axes = quaternion_to_matrix(turned)
    ahead = np.stack([_dot(axes[:, k, :], ray) for k in range(3)], axis=1)
    return _posed(centre - ahead * distance[:, None], turned), focal


def _in_pixels(focal: Array) -> Array:
    """What makes the first two of a direction's coordinates, 1 deep, pixels of the picture (N, 3)."""
    return np.stack([focal, focal, np.ones_like(focal)], axis=1)


def _posed(position: Array, turned: Array) -> Array:
    out = np.zeros((len(position), 4, 4))
    out[:, :3, :3], out[:, :3, 3], out[:, 3, 3] = quaternion_to_matrix(turned), position, 1.0
    return out


def _mix(a: Array, b: Array, share: Array) -> Array:
    return a + (b - a) * share[:, None]


def _dot(a: Array, b: Array) -> Array:
    return np.asarray(a[:, 0] * b[:, 0] + a[:, 1] * b[:, 1] + a[:, 2] * b[:, 2])
