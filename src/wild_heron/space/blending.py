"""From one camera's picture to another's: straight, round what is looked at, or up, across and down again.

Poses are rigid matrices (N, 4, 4), shares (N,) of the way; a share may lie beyond 0 and 1, where an ease swings over.
"""

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from .rotation import matrix_to_quaternion, multiply, quaternion_to_matrix, slerp, turn_onto
from .transform import length

RHO = np.sqrt(2.0)
"""How much zooming out is worth beside panning: the value that viewers preferred in van Wijk & Nuij (2003)."""
_POLE = np.radians(np.array([65.0, 82.0]))
"""Elevations between which going round level gives way to the great circle, since near a pole there is no heading."""
_NEAR = 1e-9


class Look(msgspec.Struct, frozen=True):
    """A camera at N moments: its rigid ``pose`` (N, 4, 4), ``focal_px`` (N,), and the point it is about (N, 3)."""

    pose: Array
    focal_px: Array
    subject: Array

    @property
    def position(self) -> Array:
        return self.pose[:, :3, 3]


def log_mix(a: Array, b: Array, share: Array) -> Array:
    """Between positive numbers (N,), evenly in their logarithm."""
    return np.asarray(np.exp(np.log(a) + (np.log(b) - np.log(a)) * share))


def straight(a: Look, b: Look, share: Array) -> tuple[Array, Array]:
    """Pose and focal length: positions in a line, rotations by slerp (Shoemake 1985), focal length in log space."""
    pose = _posed(_mix(a.position, b.position, share), _slerped(a.pose, b.pose, share))
    return pose, log_mix(a.focal_px, b.focal_px, share)


def around(a: Look, b: Look, share: Array, way: Array | None = None) -> tuple[Array, Array]:
    """The same round the subject, which moves in a line across the picture: its direction goes round on the sphere at
    the horizon's level, its distance in log space.

    ``way`` (N,) is a hint of how far the heading turns, in radians, where both ways round are nearly as far.
    """
    centre = _mix(a.subject, b.subject, share)
    distance = log_mix(_away(a), _away(b), share)
    return _framed(a, b, share, centre, distance, log_mix(a.focal_px, b.focal_px, share), way)


def over(a: Look, b: Look, share: Array, width: float, way: Array | None = None) -> tuple[Array, Array]:
    """The same by the optimal path of zooming and panning, for long trips: ``share`` is that of the path's length.

    van Wijk & Nuij, "Smooth and efficient zooming and panning", InfoVis 2003, equations 9 to 14, over how wide what
    is seen is at the subject of a picture ``width`` pixels wide.
    """
    focal = log_mix(a.focal_px, b.focal_px, share)
    wide_a, wide_b = (_away(look) * width / look.focal_px for look in (a, b))
    along, wide = zoom_and_pan(length(b.subject - a.subject), wide_a, wide_b, share)
    centre = _mix(a.subject, b.subject, along)
    return _framed(a, b, share, centre, wide * focal / width, focal, way)


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
    a: Look, b: Look, share: Array, centre: Array, distance: Array, focal: Array, way: Array | None
) -> tuple[Array, Array]:
    """The pose at a distance from a centre, which lies in the picture between where ``a`` and where ``b`` have it."""
    turn = _headings(a, b, way)
    out = _direction(a, b, share, turn)
    position = centre + out * distance[:, None]
    place = _mix(_place(a), _place(b), share)
    ray = np.stack([place[:, 0] / focal, place[:, 1] / focal, np.full(len(focal), -1.0)], axis=1)
    ray = ray / length(ray)[:, None]
    rough = _turned_about(a, b, share, turn)
    seen = np.stack([_dot(rough[:, k, :], ray) for k in range(3)], axis=1)
    q = multiply(turn_onto(seen, -out), matrix_to_quaternion(rough))
    return _posed(position, quaternion_to_matrix(q)), focal


def _place(look: Look) -> Array:
    """Where the subject is in the picture, (N, 2) in pixels from the middle, to the right and upwards."""
    off = look.subject - look.position
    across, up, back = (_dot(look.pose[:, :3, k], off) for k in range(3))
    depth = np.maximum(-back, 1e-6 * np.maximum(length(off), _NEAR))
    return np.stack([across, up], axis=1) * (look.focal_px / depth)[:, None]


def _away(look: Look) -> Array:
    return np.maximum(length(look.position - look.subject), _NEAR)


def _out(look: Look) -> Array:
    """The direction (N, 3) from the subject to the lens."""
    away = look.position - look.subject
    size = length(away)
    return np.where((size < _NEAR)[:, None], look.pose[:, :3, 2], away / np.maximum(size, _NEAR)[:, None])


def _headings(a: Look, b: Look, way: Array | None) -> Array:
    """How far it turns about the world's Y from one direction to the other, the short way, or near a given one."""
    out_a, out_b = _out(a), _out(b)
    turn = np.arctan2(out_b[:, 0], out_b[:, 2]) - np.arctan2(out_a[:, 0], out_a[:, 2])
    near = np.zeros_like(turn) if way is None else way
    return turn - 2.0 * np.pi * np.round((turn - near) / (2.0 * np.pi))


def heading_turn(a: Look, b: Look) -> Array:
    """How far ``around`` turns (N,), in radians, the short way round: a hint for moments close by."""
    return _headings(a, b, None)


def _level(a: Look, b: Look) -> Array:
    """How far going round level makes sense, (N,) from 0 to 1: not close to the poles."""
    lift = np.maximum(np.abs(_out(a)[:, 1]), np.abs(_out(b)[:, 1]))
    part = np.clip((_POLE[1] - np.arcsin(np.clip(lift, 0.0, 1.0))) / (_POLE[1] - _POLE[0]), 0.0, 1.0)
    return np.asarray(part * part * (3.0 - 2.0 * part))


def _direction(a: Look, b: Look, share: Array, turn: Array) -> Array:
    """Unit vectors (N, 3) from the subject to the lens on the way."""
    out_a, out_b = _out(a), _out(b)
    lift_a, lift_b = (np.arcsin(np.clip(each[:, 1], -1.0, 1.0)) for each in (out_a, out_b))
    heading = np.arctan2(out_a[:, 0], out_a[:, 2]) + turn * share
    lift = lift_a + (lift_b - lift_a) * share
    level = np.stack([np.sin(heading) * np.cos(lift), np.sin(lift), np.cos(heading) * np.cos(lift)], axis=1)
    arc = turn_onto(out_a, out_b)
    part = slerp(np.broadcast_to(np.array([0.0, 0.0, 0.0, 1.0]), arc.shape), arc, share)
    great = np.stack([_dot(quaternion_to_matrix(part)[:, k, :], out_a) for k in range(3)], axis=1)
    weight = _level(a, b)[:, None]
    mixed = level * weight + great * (1.0 - weight)
    return mixed / np.maximum(length(mixed), _NEAR)[:, None]


def _turned_about(a: Look, b: Look, share: Array, turn: Array) -> Array:
    """Rotations (N, 3, 3) between two poses that turn about the world's Y as the direction does, and slerp the rest."""
    plain = matrix_to_quaternion(_slerped(a.pose, b.pose, share))
    home = multiply(_about_y(-turn), matrix_to_quaternion(b.pose[:, :3, :3]))
    level = multiply(_about_y(turn * share), slerp(matrix_to_quaternion(a.pose[:, :3, :3]), home, share))
    return quaternion_to_matrix(slerp(plain, level, _level(a, b)))


def _about_y(angle: Array) -> Array:
    zero = np.zeros_like(angle)
    return np.stack([zero, np.sin(0.5 * angle), zero, np.cos(0.5 * angle)], axis=1)


def _slerped(a: Array, b: Array, share: Array) -> Array:
    q = slerp(matrix_to_quaternion(a[:, :3, :3]), matrix_to_quaternion(b[:, :3, :3]), share)
    return quaternion_to_matrix(q)


def _posed(position: Array, rotation: Array) -> Array:
    out = np.zeros((len(position), 4, 4))
    out[:, :3, :3], out[:, :3, 3], out[:, 3, 3] = rotation, position, 1.0
    return out


def _mix(a: Array, b: Array, share: Array) -> Array:
    return a + (b - a) * share[:, None]


def _dot(a: Array, b: Array) -> Array:
    return np.asarray(a[:, 0] * b[:, 0] + a[:, 1] * b[:, 1] + a[:, 2] * b[:, 2])
