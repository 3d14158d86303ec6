"""Pointing a lens at something, with the horizon level, steadily through the poles.

A level camera's rotation is a heading (about world Y), an elevation, and a roll. Straight up or down there is no
heading, and a pass close to the pole spins it by up to half a turn at once. So within a narrow cone about the pole
the heading is not read off the direction: it eases, over the time spent in the cone, from the heading at which the
direction entered to the one at which it leaves. That makes aiming a function of the whole motion, yet the same
for every frame however frames are asked for, because the motion is looked up on a fixed grid of frames.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from .transform import cross, frame, length

Array = NDArray[np.float64]
Directions = Callable[[Array], Array]

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


def steady_headings(direction: Array, frames: Array, directions_at: Directions, first: float, last: float) -> Array:
    """Headings (N,) of directions (N, 3) at frames (N,), eased through the poles.

    ``directions_at`` gives the direction at any frames; ``first`` and ``last`` bound the grid on which the motion
    is looked up.
    """
    angles = heading(direction)
    close = _flatness(direction) < _SIN_CONE
    if not close.any():
        return angles
    # The grid sits on quarter frames (on whole ones in a very long scene) whatever is asked for, and covers the scene
    # and one frame more on either side.
    per_frame = _GRID_PER_FRAME if last - first <= _LONG_SCENE else 1
    count = max(2, round((last - first + 2.0) * per_frame) + 1)
    grid = first - 1.0 + np.arange(count) / per_frame
    path = directions_at(grid)
    near = _flatness(path) < _SIN_CONE
    edges = np.flatnonzero(np.diff(near.astype(np.int8)))
    for i in np.flatnonzero(close).tolist():
        time = float(min(max(frames[min(int(i), len(frames) - 1)], grid[0]), grid[-1]))
        angles[i] = _eased_heading(time, grid, path, near, edges)
    return angles


def _eased_heading(time: float, grid: Array, path: Array, near: NDArray[np.bool_], edges: NDArray[np.intp]) -> float:
    crossings = [_crossing(int(e), grid, path) for e in edges]
    before = [(t, angle) for (t, angle), e in zip(crossings, edges, strict=True) if not near[e] and t <= time + 0.5]
    after = [(t, angle) for (t, angle), e in zip(crossings, edges, strict=True) if near[e] and t >= time - 0.5]
    entry = before[-1] if before else None
    exit_ = after[0] if after else None
    if entry is None or exit_ is None or exit_[0] <= entry[0]:
        # It is here from the start, or stays to the end: keep the heading of the only way in or out, if any.
        only = entry or exit_
        return only[1] if only else 0.0
    share = min(max((time - entry[0]) / (exit_[0] - entry[0]), 0.0), 1.0)
    turn = (exit_[1] - entry[1] + np.pi) % (2.0 * np.pi) - np.pi
    return float(entry[1] + turn * share * share * (3.0 - 2.0 * share))


def _crossing(edge: int, grid: Array, path: Array) -> tuple[float, float]:
    """Frame and heading at which the direction crosses the cone's rim between two frames of the grid."""
    pair = path[edge : edge + 2]
    low, high = _flatness(pair)
    share = (_SIN_CONE - low) / (high - low)
    at = pair[0] + share * (pair[1] - pair[0])
    frame_at = grid[edge] + share * (grid[edge + 1] - grid[edge])
    return float(frame_at), float(heading(at[None])[0])
