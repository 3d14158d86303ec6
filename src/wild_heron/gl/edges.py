"""The pixels of a frame with edges that need more samples."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from .aov import Numbers
from .request import Tile
from .view_transform import NEAR

_TIMES, _CUT_TIMES = 2, 3
"""How many times larger edges are drawn: solids have four samples to a pixel as well, lines along which pictures cut
each other have one."""
_SIDE = 1152
"""How large it is drawn at once at the most."""
_STEP = 32
"""Boxes are a multiple of it, so that not every frame has sizes of its own."""
_REACH = 1
"""How many pixels around one in which an edge was found it may be seen in."""
_BEND = 0.15
"""A turn, as a tangent, from which on two faces that meet may look unlike each other."""
_LEAP = 2.0
_RIM = 3
"""Pixels beyond a true edge in which something may be seen."""


class EdgeBox(NamedTuple):
    """A part of a frame that is drawn at once, the pixels in it (H, W) that are wanted, and how many times larger they
    are drawn."""

    box: Tile
    pixels: NDArray[np.bool_]
    times: int


def corners_in_frame(corners: Array, size: tuple[int, int]) -> Tile:
    """The part of a frame around clip corners (K, 4); all of it where one is not ahead of the lens."""
    w = corners[:, 3]
    if (w <= NEAR).any():
        return 0, 0, *size
    places = (corners[:, :2] / w[:, None] + 1.0) * 0.5 * np.array(size)
    low = np.clip(np.floor(places.min(axis=0)) - _RIM, 0, size).astype(int)
    high = np.clip(np.ceil(places.max(axis=0)) + _RIM, 0, size).astype(int)
    return int(low[0]), int(low[1]), int(high[0] - low[0]), int(high[1] - low[1])


def edge_boxes(
    numbers: Numbers, solids: set[float], creased: set[float], cut: set[float], focal: float
) -> list[EdgeBox]:
    """The pixels of a frame with edges in them, in boxes, from what lies in each pixel (H, W, 4): depth, motion and
    number. By number: ``solids``, those of them that have creases, and what others ``cut`` through. ``focal``: in
    pixels."""
    found = numbers[..., 3]
    lines, solid, folded = (np.isin(found, list(group)) for group in (cut, solids, creased))
    nearness = np.where(found > 0.0, 1.0 / np.maximum(numbers[..., 0], 1e-6), 0.0)
    edge = np.zeros(found.shape, dtype=bool)
    least = _BEND / focal
    for axis in (0, 1):
        number, near = (np.moveaxis(each, axis, 0) for each in (found, nearness))
        rough, solid_, folded_, marked = (np.moveaxis(each, axis, 0) for each in (lines | solid, solid, folded, edge))
        apart = (number[1:] != number[:-1]) & (rough[1:] | rough[:-1])
        marked[1:] |= apart
        marked[:-1] |= apart
        # One over the distance changes evenly over a flat face; where a surface hides a part of itself, it leaps.
        slope = np.diff(near, axis=0)
        marked[1:-1] |= folded_[1:-1] & (np.abs(np.diff(slope, axis=0)) > least * near[1:-1])
        steep = np.abs(slope)
        leaps = steep[1:-1] > _LEAP * np.maximum(steep[:-2], steep[2:]) + least * near[1:-2]
        leaps &= solid_[1:-2] & solid_[2:-1]
        marked[1:-2] |= leaps
        marked[2:-1] |= leaps
    return _boxes(edge, lines)


def _boxes(edge: NDArray[np.bool_], lines: NDArray[np.bool_]) -> list[EdgeBox]:
    """All pixels (H, W) that are set, and those that an edge there may reach into. ``lines``: where pictures are that
    others cut through."""
    from scipy.ndimage import binary_dilation  # takes longer to load than the rest of the process

    reach = np.ones((2 * _REACH + 1,) * 2)
    edge, cut = (binary_dilation(found, reach) if found.any() else found for found in (edge, edge & lines))
    height, width = edge.shape
    out = []
    for wanted, times in ((edge & ~cut, _TIMES), (cut, _CUT_TIMES)):
        side = _SIDE // times
        for top in range(0, height, side):
            for left in range(0, width, side):
                part = wanted[top : top + side, left : left + side]
                if part.any():
                    rows, columns = (_around(np.asarray(part.any(axis=axis))) for axis in (1, 0))
                    pixels = part[rows, columns]
                    box = (left + columns.start, top + rows.start, pixels.shape[1], pixels.shape[0])
                    out.append(EdgeBox(box, pixels, times))
    return out


def _around(wanted: NDArray[np.bool_]) -> slice:
    """What lies around all that is set of a row (N,), in whole steps."""
    first, last = np.flatnonzero(wanted)[[0, -1]] // _STEP
    return slice(int(first) * _STEP, min((int(last) + 1) * _STEP, len(wanted)))
