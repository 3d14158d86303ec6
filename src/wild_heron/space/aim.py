"""Pointing a lens at something, with the horizon level, steadily through the poles.

A level camera's rotation is a heading (about world Y), an elevation, and a roll. Straight up or down there is no
heading, and a pass close to the pole spins it by up to half a turn at once. So within a narrow cone about the pole
the heading is not read off the direction: it eases, over the time spent in the cone, from the heading at which the
direction entered to the one at which it leaves. That makes aiming a function of the whole motion, yet the same
for every frame however frames are asked for, because the motion is looked up on a fixed grid of frames.
"""

from collections.abc import Callable
from functools import cached_property

import numpy as np

from ..arrays import Array
from .transform import cross, frame, length

POLE_CONE = np.radians(8.0)
_SIN_CONE = float(np.sin(POLE_CONE))
_GRID_PER_FRAME = 4
_LONG_SCENE = 20_000


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


def course_grid(first: float, last: float) -> Array:
    """The frames (M,) on which an aim's motion is looked up, whatever is asked for: quarter frames (whole ones in a
    very long scene) over the scene and one frame more on either side."""
    per_frame = _GRID_PER_FRAME if last - first <= _LONG_SCENE else 1
    count = max(2, round((last - first + 2.0) * per_frame) + 1)
    return np.asarray(first - 1.0 + np.arange(count) / per_frame)


class Course:
    """Directions (M, 3) at the frames (M,) of a grid, and where they go into the cone about a pole and out of it."""

    def __init__(self, grid: Array, path: Array) -> None:
        self.grid, self.path = grid, path

    @cached_property
    def _crossings(self) -> tuple[Array, Array, Array, Array]:
        """Times and headings of the ways in, and of the ways out, each in order of time."""
        near = _flatness(self.path) < _SIN_CONE
        edges = np.flatnonzero(np.diff(near.astype(np.int8)))
        found = np.array([_crossing(int(edge), self.grid, self.path) for edge in edges]).reshape(-1, 2)
        out = near[edges]
        return found[~out, 0], found[~out, 1], found[out, 0], found[out, 1]

    def heading(self, time: float) -> float:
        """The heading at a moment inside a cone, eased over the time spent there."""
        time = float(min(max(time, self.grid[0]), self.grid[-1]))
        in_times, in_headings, out_times, out_headings = self._crossings
        before = int(np.searchsorted(in_times, time + 0.5, side="right")) - 1
        after = int(np.searchsorted(out_times, time - 0.5, side="left"))
        entry = (float(in_times[before]), float(in_headings[before])) if before >= 0 else None
        exit_ = (float(out_times[after]), float(out_headings[after])) if after < len(out_times) else None
        if entry is None or exit_ is None or exit_[0] <= entry[0]:
            # It is here from the start, or stays to the end: keep the heading of the only way in or out, if any.
            only = entry or exit_
            return only[1] if only else 0.0
        share = min(max((time - entry[0]) / (exit_[0] - entry[0]), 0.0), 1.0)
        turn = (exit_[1] - entry[1] + np.pi) % (2.0 * np.pi) - np.pi
        return float(entry[1] + turn * share * share * (3.0 - 2.0 * share))


def steady_headings(direction: Array, frames: Array, course: Callable[[], Course]) -> Array:
    """Headings (N,) of directions (N, 3) at frames (N,), eased through the poles.

    ``course`` gives the whole motion; it is asked for only where a direction is close to a pole.
    """
    angles = heading(direction)
    close = _flatness(direction) < _SIN_CONE
    if not close.any():
        return angles
    whole = course()
    for i in np.flatnonzero(close).tolist():
        angles[i] = whole.heading(float(frames[min(int(i), len(frames) - 1)]))
    return angles


def _crossing(edge: int, grid: Array, path: Array) -> tuple[float, float]:
    """Frame and heading at which the direction crosses the cone's rim between two frames of the grid."""
    pair = path[edge : edge + 2]
    low, high = _flatness(pair)
    share = (_SIN_CONE - low) / (high - low)
    at = pair[0] + share * (pair[1] - pair[0])
    frame_at = grid[edge] + share * (grid[edge + 1] - grid[edge])
    return float(frame_at), float(heading(at[None])[0])
