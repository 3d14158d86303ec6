"""Rasterises triangles from above to a grid of heights."""

import numpy as np

from ..arrays import Array

_AT_ONCE = 2_000_000
"""Pairs of a triangle and a point that are looked at together."""
_EDGE = 1e-9
"""In shares of a triangle: so that nothing falls between two that share an edge."""


def highest(corners: Array, x: Array, z: Array) -> Array:
    """Heights (R, C) of triangles (M, 3, 3) over points of a grid with rising x (C,) and z (R,); −∞ where there are
    none. Each point is where a plumb line meets the plane of a triangle, by its shares in the corners."""
    out = np.full(len(z) * len(x), -np.inf)
    low, high = corners.min(axis=1), corners.max(axis=1)
    left, right = np.searchsorted(x, low[:, 0]), np.searchsorted(x, high[:, 0], side="right")
    near, far = np.searchsorted(z, low[:, 2]), np.searchsorted(z, high[:, 2], side="right")
    wide, deep = right - left, far - near
    count = wide * deep
    some = np.flatnonzero(count > 0)
    # Groups of about so many pairs; a single triangle may be over the whole grid.
    group = np.cumsum(count[some]) // _AT_ONCE
    for number in np.unique(group):
        _over(out, corners, x, z, some[group == number], (left, near, wide, count))
    return out.reshape(len(z), len(x))


def _over(
    out: Array, corners: Array, x: Array, z: Array, some: Array, boxes: tuple[Array, Array, Array, Array]
) -> None:
    left, near, wide, count = boxes
    which = np.repeat(some, count[some])
    starts = np.repeat(np.cumsum(count[some]) - count[some], count[some])
    place = np.arange(len(which)) - starts
    column, row = left[which] + place % wide[which], near[which] + place // wide[which]
    a, b, c = (corners[which, k] for k in range(3))
    px, pz = x[column], z[row]
    area = (b[:, 0] - a[:, 0]) * (c[:, 2] - a[:, 2]) - (c[:, 0] - a[:, 0]) * (b[:, 2] - a[:, 2])
    with np.errstate(all="ignore"):
        second = ((px - a[:, 0]) * (c[:, 2] - a[:, 2]) - (c[:, 0] - a[:, 0]) * (pz - a[:, 2])) / area
        third = ((b[:, 0] - a[:, 0]) * (pz - a[:, 2]) - (px - a[:, 0]) * (b[:, 2] - a[:, 2])) / area
        # Upright ones have no shares, and are seen as the edges of others.
        inside = (second >= -_EDGE) & (third >= -_EDGE) & (second + third <= 1.0 + _EDGE)
        height = a[:, 1] + (b[:, 1] - a[:, 1]) * second + (c[:, 1] - a[:, 1]) * third
    np.maximum.at(out, (row * len(x) + column)[inside], height[inside])
