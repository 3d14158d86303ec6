"""Rotation paths between two rotations that both go on turning, chosen once and followed.

Between two rotations there are two ways round, and whole turns more of each; which of them is short changes as they
turn. So it is chosen at one moment, and followed from there over as many others as it takes.
"""

from collections.abc import Callable
from typing import Literal, NamedTuple

import numpy as np

from ..arrays import Array, ascending
from .rotation import (
    angle_between,
    conjugate,
    multiply,
    quaternion_to_vector,
    vector_to_quaternion,
)

Kind = Literal["arc", "level", "carried"]
_TURN = 2.0 * np.pi
_PER_FRAME = 2
_MOST_MOMENTS = 4_001
_TURNS = np.radians(20.0)
"""How far anything turns, at most, from one of the moments to the next over which it is followed."""
_HALVINGS = 4
_ROUGH = 2.5
"""How many times as fast as the faster of the two what lies half way may turn, to be smooth."""
_STILL = np.radians(0.5)
_NEARLY_WHOLE = -0.98
"""The cosine of half a turn's angle from which on it counts as nearly a whole one."""


class Turning(NamedTuple):
    """How rotations ``first`` go over into ``second`` (M, 4), known at times (M,) in order.

    ``arc``: about the axis of what turns the one into the other, by ``turns`` (M, 3), axis times angle (slerp,
    Shoemake 1985). ``level``: about the world's Y by ``turns`` (M,) and about a level axis by the rest, so that two
    level cameras stay so. ``carried``: as found at the ``middle``, and carried along by the two's own turning.
    """

    kind: Kind
    times: Array
    first: Array
    second: Array
    turns: Array
    middle: int

    @classmethod
    def short(cls, kind: Kind) -> "Turning":
        """The short way at every moment by itself."""
        none = np.zeros((1, 4))
        return cls(kind, np.zeros(1), none, none, np.zeros((1, 3) if kind == "arc" else 1), 0)

    def at(self, times: Array, first: Array, second: Array, share: Array) -> Array:
        """Rotations (N, 4) a share (N,) of the way, at times (N,) at which the two are ``first`` and ``second``."""
        if self.kind == "carried":
            return _carried(self, times, first, second, share)
        whole = multiply(second, conjugate(first))
        if self.kind == "arc":
            near = np.stack([np.interp(times, self.times, self.turns[:, k]) for k in range(3)], axis=1)
            part = vector_to_quaternion(_arc(whole, near) * share[:, None])
        else:
            turn = _level(whole, np.interp(times, self.times, self.turns))
            rest = quaternion_to_vector(multiply(_about_y(-turn), whole))
            part = multiply(_about_y(turn * share), vector_to_quaternion(rest * share[:, None]))
        return multiply(part, first)


def turning(times: Array, first: Array, second: Array, upright: bool, middle: int) -> Turning:
    """The way from rotations to others (M, 4), at times (M,) close enough that nothing turns by half a turn from one to
    the next: the short one at the ``middle``. ``upright``: level rather than along an arc.

    Each has places where it cannot be followed: an arc where the two have turned against each other by a whole turn,
    a level one where that is half a turn about a level axis. Who comes close to such a place takes the other; where
    both do, the way is carried along.
    """
    whole = multiply(second, conjugate(first))
    kinds: tuple[Kind, ...] = ("level", "arc") if upright else ("arc", "level")
    found = []
    for kind in kinds:
        made = Turning(kind, times, first, second, _followed(kind, whole, middle), middle)
        if len(times) == 1 or _is_smooth(made):
            return made
        found.append(made)
    return found[0]._replace(kind="carried")


Both = Callable[[Array], tuple[Array, Array]]
"""The two rotations (M, 4) at times (M,)."""


def turning_over(both: Both, begins: float, ends: float, upright: bool, middle: float) -> Turning:
    """The way from one rotation to another from one frame to another, told at a frame between."""
    frames = frames_between(lambda frames: np.stack(both(frames)), begins, ends, middle)
    first, second = both(frames)
    return turning(frames, first, second, upright, int(np.searchsorted(frames, middle)))


class Ways(NamedTuple):
    """How one rotation goes over into another wherever both count: a way for each stretch of time in which they do."""

    stretches: tuple[Turning, ...]

    def at(self, times: Array, first: Array, second: Array, share: Array) -> Array:
        """Rotations (N, 4) a share (N,) of the way, on the stretch that each of some times (N,) lies on or nearest."""
        if not self.stretches:
            return Turning.short("arc").at(times, first, second, share)
        begins, ends = (np.array([each.times[k] for each in self.stretches]) for k in (0, -1))
        off = np.maximum(begins[None] - times[:, None], times[:, None] - ends[None])
        nearest = off.argmin(axis=1)
        out = np.empty((len(times), 4))
        for k in ascending(nearest).tolist():
            rows = np.flatnonzero(nearest == k)
            out[rows] = self.stretches[k].at(times[rows], first[rows], second[rows], share[rows])
        return out


def ways_over(
    both: Both, share_at: Callable[[Array], Array], begins: float, ends: float, told: tuple[float, float] | None = None
) -> Ways:
    """The ways from one rotation to another from one frame to another, in which a share (M,) of each counts at frames
    (M,). Each is told at the middle of its stretch, or of what ``told`` has of it."""
    frames = even_frames(begins, ends)
    share = share_at(frames)
    some = np.concatenate([[False], (share > 0.0) & (share < 1.0), [False]])
    edges = np.flatnonzero(some[1:] != some[:-1])
    found = []
    for low, high in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        first, last = float(frames[max(low - 1, 0)]), float(frames[min(high, len(frames) - 1)])
        if first < last:
            near, far = first, last
            if told is not None and max(first, told[0]) < min(last, told[1]):
                near, far = max(first, told[0]), min(last, told[1])
            found.append(turning_over(both, first, last, False, 0.5 * (near + far)))
    return Ways(tuple(found))


def even_frames(begins: float, ends: float) -> Array:
    """Frames (M,) from one to another, every half of one, or farther apart where that were too many."""
    count = min(_PER_FRAME * int(np.ceil(ends - begins)) + 1, _MOST_MOMENTS)
    return np.linspace(begins, ends, max(count, 9))


def frames_between(read: Callable[[Array], Array], begins: float, ends: float, middle: float) -> Array:
    """Frames from one to another, and one between, close enough that rotations (K, M, 4) read at them can be followed:
    every half frame, and closer where they turn fast. What is read last is read at these."""
    frames = ascending(np.append(even_frames(begins, ends), middle))
    for halvings in range(_HALVINGS + 1):
        turned = read(frames)
        fast = angle_between(turned[:, 1:], turned[:, :-1]).max(axis=0) > _TURNS
        if halvings == _HALVINGS or not fast.any() or len(frames) > 2 * _MOST_MOMENTS:
            break
        frames = np.sort(np.append(frames, 0.5 * (frames[:-1] + frames[1:])[fast]))
    return frames


def _followed(kind: Kind, whole: Array, middle: int) -> Array:
    """What turns by quaternions (M, 4) over time, each turn near the one before it: from the middle, where it is short,
    outwards."""
    if kind == "level":
        twist = np.unwrap(_level(whole, np.zeros(len(whole))))
        return np.asarray(twist + _level(whole[middle : middle + 1], np.zeros(1)) - twist[middle])
    signs = np.where((whole[1:] * whole[:-1]).sum(axis=1) < 0.0, -1.0, 1.0)
    signs = np.concatenate([[1.0], np.cumprod(signs)])
    upright = whole * (signs * signs[middle] * (1.0 if whole[middle, 3] >= 0.0 else -1.0))[:, None]
    if upright[:, 3].min() > _NEARLY_WHOLE:
        sine = np.sqrt(_dot(upright, upright))
        angle = 2.0 * np.arctan2(sine, upright[:, 3])
        small = sine < 1e-9
        return np.asarray(upright[:, :3] * np.where(small, 2.0, angle / np.where(small, 1.0, sine))[:, None])
    # Whole turns: one after the other, each by as many of them as come near to the one before.
    out = np.empty((len(whole), 3))
    out[middle] = quaternion_to_vector(whole[middle])
    for way in (1, -1):
        for i in range(middle + way, len(whole) if way > 0 else -1, way):
            out[i] = _arc(whole[i : i + 1], out[i - way : i - way + 1])[0]
    return out


def _arc(whole: Array, near: Array) -> Array:
    """What turns by quaternions (N, 4), as axis times angle (N, 3): as many whole turns more as come near to others."""
    short = quaternion_to_vector(whole)
    angle = np.sqrt(_dot(short, short))
    size = np.sqrt(_dot(near, near))
    # What is no turn at all has the axis of what is near.
    still = (angle < 1e-9)[:, None]
    axis = np.where(still, near, short) / np.maximum(np.where(still[:, 0], size, angle), 1e-300)[:, None]
    more = np.round((_dot(near, axis) - angle) / _TURN) * _TURN
    return short + axis * more[:, None]


def _level(whole: Array, near: Array) -> Array:
    """How far quaternions (N, 4) turn about Y (N,), near other angles: the twist of a swing about a level axis."""
    twist = 2.0 * np.arctan2(np.array(whole[:, 1]), np.array(whole[:, 3]))
    return np.asarray(twist + np.round((near - twist) / _TURN) * _TURN)


def _is_smooth(way: Turning) -> bool:
    """Whether half of the way turns about as slowly as the two themselves."""
    half = way.at(way.times, way.first, way.second, np.full(len(way.times), 0.5))
    made, first, second = (angle_between(each[1:], each[:-1]) for each in (half, way.first, way.second))
    return bool((made <= _ROUGH * np.maximum(first, second) + _STILL).all())


def _carried(way: Turning, times: Array, first: Array, second: Array, share: Array) -> Array:
    """From the middle on, turned by a share of what each of the two turns: no choice is left that could change."""
    at = np.clip(np.searchsorted(way.times, times, side="right") - 1, 0, len(way.times) - 1)
    part = share[:, None]
    known = np.broadcast_to(way.first[way.middle], first.shape)
    whole = multiply(way.second[way.middle], conjugate(way.first[way.middle]))
    turn = _arc(whole[None], np.zeros((1, 3)))
    out = multiply(vector_to_quaternion(turn * part), known)

    def onward(after: tuple[Array, Array], before: tuple[Array, Array]) -> Array:
        turns = [quaternion_to_vector(multiply(a, conjugate(b))) for a, b in zip(after, before, strict=True)]
        return multiply(vector_to_quaternion(turns[0] * (1.0 - part) + turns[1] * part), out)

    def known_at(k: int) -> tuple[Array, Array]:
        return way.first[k : k + 1], way.second[k : k + 1]

    for k in range(way.middle, int(at.max(initial=way.middle))):
        out = np.where((at > k)[:, None], onward(known_at(k + 1), known_at(k)), out)
    for k in range(way.middle, int(at.min(initial=way.middle)), -1):
        out = np.where((at < k)[:, None], onward(known_at(k - 1), known_at(k)), out)
    return onward((first, second), (way.first[at], way.second[at]))


def _about_y(angle: Array) -> Array:
    zero = np.zeros_like(angle)
    return np.stack([zero, np.sin(0.5 * angle), zero, np.cos(0.5 * angle)], axis=1)


def _dot(a: Array, b: Array) -> Array:
    return np.asarray(a[:, 0] * b[:, 0] + a[:, 1] * b[:, 1] + a[:, 2] * b[:, 2])
