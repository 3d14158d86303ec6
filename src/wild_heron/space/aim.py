"""Pointing a lens at something, with the horizon level, steadily through the poles.

A level camera's rotation is a heading (about world Y), an elevation, and a roll. Straight up or down there is no
heading, and a pass close to the pole spins it by up to half a turn at once. So within a narrow cone about the pole
the heading is not read off the direction: it eases, over the time spent in the cone, from the heading at which the
direction entered to the one at which it leaves. That makes aiming a function of the whole motion, yet the same
for every frame however frames are asked for: the moments at which the cone is crossed are found once, in the motion
itself, from a grid that is made finer wherever a crossing may hide between two of its frames.
"""

from collections.abc import Callable

import numpy as np

from ..arrays import Array
from .transform import cross, frame, length

POLE_CONE = np.radians(8.0)
_SIN_CONE = float(np.sin(POLE_CONE))
_WIDE_SINE = float(np.sin(np.radians(30.0)))
_SHORTEST = 1.0
"""A pass through the cone is eased over so many frames at the least, as long as it stays within 30° of the pole."""
_GRID_PER_FRAME = 4
_LONG_SCENE = 20_000
_BEYOND = 20_000
"""How many frames before and after everything that is keyed crossings are looked for, where it moves on."""
_PROBES = np.array([0.0, 0.37, 1.9, 7.3, 29.0, 113.0, 457.0, 1801.0, 7013.0])
_FINER, _ROUNDS, _MOST = 8, 5, 40_000


def unit_directions(offset: Array) -> Array:
    """Offsets (N, 3) from lens to aim → unit vectors; an aim in the lens itself gives −Z."""
    size = length(offset)
    gone = size < 1e-12
    safe = np.where(gone, 1.0, size)
    return np.where(gone[:, None], np.array([0.0, 0.0, -1.0]), offset / safe[:, None])


def _flatness(direction: Array) -> Array:
    """Sine of the angle to the nearer pole, (N,)."""
    return np.sqrt(direction[:, 0] * direction[:, 0] + direction[:, 2] * direction[:, 2])


def heading(direction: Array) -> Array:
    """Angle (N,) about world Y that turns −Z to the direction's flat part; 0 straight up or down."""
    x, z = direction[:, 0], direction[:, 2]
    upright = (x == 0.0) & (z == 0.0)
    return np.arctan2(-x, np.where(upright, 1.0, -z))


def level_frame(direction: Array, heading_angle: Array, roll: Array, origin: Array) -> Array:
    """World matrices (N, 4, 4) of a lens at ``origin`` that looks along ``direction`` with this heading and roll."""
    # The heading fixes the level right-hand axis; it is made square with the direction, which near the pole it may
    # not be, and turned by the roll.
    side = np.stack([np.cos(heading_angle), np.zeros_like(heading_angle), -np.sin(heading_angle)], axis=1)
    along = side[:, 0] * direction[:, 0] + side[:, 2] * direction[:, 2]
    side = side - direction * along[:, None]
    side = side / length(side)[:, None]
    up = cross(side, direction)
    c, s = np.cos(roll)[:, None], np.sin(roll)[:, None]
    return frame(side * c + up * s, up * c - side * s, -direction, origin)


Directions = Callable[[Array], Array]
"""Frames (N,) to unit directions (N, 3)."""


class AimCourse:
    """When a direction is in the cone about a pole, and the headings with which it comes and goes.

    ``first`` and ``last`` are the frames between which anything is keyed; the motion is looked at from a frame before
    to a frame after, and on either side as far as it goes on (up to 20,000 frames).
    """

    def __init__(self, directions: Directions, first: float, last: float) -> None:
        grid = _grid(directions, first, last)
        path = directions(grid)
        for _ in range(_ROUNDS):
            grid, path, found = _refined(directions, grid, path)
            if not found:
                break
        near = _flatness(path) < _SIN_CONE
        edges = np.flatnonzero(near[1:] != near[:-1])
        share = (_SIN_CONE - _flatness(path[edges])) / (_flatness(path[edges + 1]) - _flatness(path[edges]))
        times = grid[edges] + share * (grid[edges + 1] - grid[edges])
        headings = heading(path[edges] + share[:, None] * (path[edges + 1] - path[edges]))
        enters = near[edges + 1]
        crossings = np.stack([times, headings], axis=1)
        starts, ends = crossings[enters].tolist(), crossings[~enters].tolist()
        # In the cone at either end of all that is looked at, it keeps the heading of the only way in or out.
        if near[0]:
            only = ends[0][1] if ends else float(heading(path[:1])[0])
            starts.insert(0, [-np.inf, only])
            if not ends:
                ends.append([np.inf, only])
        if len(ends) < len(starts):
            ends.append([np.inf, starts[-1][1]])
        self._starts, self._ends = np.array(starts).reshape(-1, 2), np.array(ends).reshape(-1, 2)
        self._widen(directions)

    def _widen(self, directions: Directions) -> None:
        """Give quick passes more time, and make one of those that then overlap."""
        starts, ends = self._starts, self._ends
        quick = np.flatnonzero(ends[:, 0] - starts[:, 0] < _SHORTEST)
        if not len(quick):
            return
        more = 0.5 * (_SHORTEST - (ends[quick, 0] - starts[quick, 0]))
        steps = np.linspace(0.0, 1.0, 9)
        for side, sign in ((starts, -1.0), (ends, 1.0)):
            times = side[quick, 0, None] + sign * more[:, None] * steps
            path = directions(times.ravel())
            inside = (_flatness(path) < _WIDE_SINE).reshape(times.shape)
            far = np.where(inside.all(axis=1), len(steps), np.argmin(inside, axis=1)) - 1
            rows = np.arange(len(quick))
            side[quick, 0] = times[rows, far]
            side[quick, 1] = heading(path).reshape(times.shape)[rows, far]
        kept = np.concatenate([[True], starts[1:, 0] > ends[:-1, 0]])
        last = np.concatenate([kept[1:], [True]])
        self._starts, self._ends = starts[kept], ends[last]

    def headings(self, times: Array, angles: Array) -> Array:
        """The headings (N,) at moments (N,): eased over each stay in a cone, else the given ones of the direction."""
        if not len(self._starts):
            return angles
        at = np.maximum(np.searchsorted(self._starts[:, 0], times, side="right") - 1, 0)
        (start, onto), (end, into) = self._starts[at].T, self._ends[at].T
        inside = (times >= start) & (times <= end)
        open_ended = ~(np.isfinite(start) & np.isfinite(end))
        safe_start, safe_end = np.where(open_ended, 0.0, start), np.where(open_ended, 1.0, end)
        share = np.clip((times - safe_start) / np.maximum(safe_end - safe_start, 1e-12), 0.0, 1.0)
        turn = (into - onto + np.pi) % (2.0 * np.pi) - np.pi
        eased = onto + turn * share * share * (3.0 - 2.0 * share)
        return np.where(inside, np.where(open_ended, onto, eased), angles)


def _grid(directions: Directions, first: float, last: float) -> Array:
    """Quarter frames (whole ones in a very long scene), and whole ones beyond, on the sides on which it moves on."""
    per_frame = _GRID_PER_FRAME if last - first <= _LONG_SCENE else 1
    low, high = np.floor(first) - 1.0, np.ceil(last) + 1.0
    count = round((high - low) * per_frame) + 1
    parts = [low + np.arange(count) / per_frame]
    before, after = directions(low - _PROBES), directions(high + _PROBES)
    if np.abs(before - before[0]).max() > 1e-12:
        parts.insert(0, low - _BEYOND + np.arange(float(_BEYOND)))
    if np.abs(after - after[0]).max() > 1e-12:
        parts.append(high + 1.0 + np.arange(float(_BEYOND)))
    return np.concatenate(parts)


def _refined(directions: Directions, grid: Array, path: Array) -> tuple[Array, Array, bool]:
    """The grid and its directions with more frames wherever the rim may be crossed in between; and whether it was."""
    flat = _flatness(path)
    a, b = path[:-1], path[1:]
    arc = length(b - a)
    # How near the pole the great circle between two directions comes, and how far the motion may stray from it.
    ways = b - a
    flat_ways = ways[:, 0] ** 2 + ways[:, 2] ** 2
    at = -(a[:, 0] * ways[:, 0] + a[:, 2] * ways[:, 2]) / np.where(flat_ways > 0.0, flat_ways, 1.0)
    nearest = a + np.clip(at, 0.0, 1.0)[:, None] * ways
    low = np.minimum(_flatness(nearest), np.minimum(flat[:-1], flat[1:])) - arc * arc
    high = np.maximum(flat[:-1], flat[1:]) + arc * arc
    # Once it moves in steps far below a degree, the line between two directions tells the crossing.
    open_ = (low < _SIN_CONE) & (high > _SIN_CONE) & (arc > 1e-5) & (np.diff(grid) > 1e-4)
    chosen = np.flatnonzero(open_)
    if not len(chosen) or len(chosen) * _FINER > _MOST:
        return grid, path, False
    share = np.arange(1, _FINER) / _FINER
    times = (grid[chosen, None] + np.diff(grid)[chosen, None] * share).ravel()
    every, paths = np.concatenate([grid, times]), np.concatenate([path, directions(times)])
    order = np.argsort(every, kind="stable")
    return every[order], paths[order], True


def steady_headings(direction: Array, frames: Array, course: Callable[[], AimCourse]) -> Array:
    """Headings (N,) of directions (N, 3) at frames (N,), eased through the poles.

    ``course`` gives the whole motion; it is asked for only where a direction is close to a pole.
    """
    angles = heading(direction)
    close = np.flatnonzero(_flatness(direction) < _WIDE_SINE)
    if len(close):
        angles[close] = course().headings(frames[np.minimum(close, len(frames) - 1)], angles[close])
    return angles
