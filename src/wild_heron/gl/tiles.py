"""Tiles of a frame: the parts with edges that need more samples."""

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from .aov import Numbers
from .request import Tile
from .view_transform import NEAR

_TIMES, _CUT_TIMES = 2, 3
"""How many times larger edges are drawn: solids have four samples to a pixel as well, lines along which pictures cut
each other have one."""
_FULL = 0.4
_LONGEST = 1280
_BEND = 0.15
"""A turn, as a tangent, from which on two faces that meet may look unlike each other."""
_RIM = 3
"""Pixels beyond a true edge in which something may be seen."""


class RoughBox(NamedTuple):
    """A part of a frame that is drawn at once, the runs of tiles in it that have edges in them, and how many times
    larger it is drawn."""

    box: Tile
    runs: list[Tile]
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


def rough_tiles(numbers: Numbers, side: int, bent: set[float], cut: set[float], focal: float) -> list[RoughBox]:
    """The tiles of a frame with edges in them, in boxes, from what lies in each pixel (H, W, 4): depth, motion and
    number. ``bent``: the numbers of what has edges of its own; ``cut``: of what others cut through. ``focal``: in
    pixels."""
    found = numbers[..., 3]
    lines = np.isin(found, list(cut))
    special = np.isin(found, list(bent | cut))
    solid = np.isin(found, list(bent))
    nearness = np.where(found > 0.0, 1.0 / np.maximum(numbers[..., 0], 1e-6), 0.0)
    edge = np.zeros(found.shape, dtype=bool)
    for axis in (0, 1):
        first, last = _pairs(found, axis)
        apart = first != last
        own, other = _pairs(special, axis)
        differs = apart & (own | other)
        for place in _pairs(edge, axis):
            place |= differs
        # One over the distance changes evenly over a flat face.
        bend = np.abs(np.diff(nearness, 2, axis=axis)) > _BEND / focal * np.take(
            nearness, range(1, found.shape[axis] - 1), axis
        )
        inner = np.take(solid, range(1, found.shape[axis] - 1), axis) & bend
        middle = edge[1:-1] if axis == 0 else edge[:, 1:-1]
        middle |= inner
    return _boxes(edge, lines, side)


def _boxes(edge: NDArray[np.bool_], lines: NDArray[np.bool_], side: int) -> list[RoughBox]:
    """Boxes around all pixels (H, W) that are set, with a rim into which an edge may reach: of tiles that touch each
    other, where the box is not much larger than they are; those tiles where it is. ``lines``: where pictures are that
    others cut through."""
    from scipy.ndimage import binary_dilation, find_objects, label  # takes longer to load than the rest of the process

    height, width = edge.shape
    rows, columns = -(-height // side), -(-width // side)

    def tiles_of(found: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """The tiles (rows, columns) that have any of some pixels in them, or right beside them."""
        wide = np.zeros((rows * side + 2, columns * side + 2), dtype=bool)
        wide[1 : height + 1, 1 : width + 1] = found
        wide = binary_dilation(wide, np.ones((3, 3)))[1:-1, 1:-1]
        return np.asarray(wide.reshape(rows, side, columns, side).any(axis=(1, 3)))

    def pixels(top: int, left: int, down: int, across: int) -> Tile:
        x, y = left * side, top * side
        return x, y, min(across * side, width - x), min(down * side, height - y)

    rough, cut = tiles_of(edge), tiles_of(lines)
    out = []
    # How a tile is drawn is told by what is in it, whatever box it comes to be in.
    for wanted, times in ((rough & ~cut, _TIMES), (rough & cut, _CUT_TIMES)):
        numbers, _ = label(wanted, np.ones((3, 3)))
        for number, box in enumerate(find_objects(numbers), 1):
            own = numbers[box] == number
            top, left = box[0].start, box[1].start
            # Row by row, tiles beside each other at once.
            found, _ = label(own, np.array([[0, 0, 0], [1, 1, 1], [0, 0, 0]]))
            most = _LONGEST // side
            runs = [
                pixels(top + run[0].start, left + first, 1, min(run[1].stop - first, most))
                for run in find_objects(found)
                for first in range(run[1].start, run[1].stop, most)
            ]
            if own.mean() >= _FULL and max(own.shape) * side <= _LONGEST:
                out.append(RoughBox(pixels(top, left, *own.shape), runs, times))
            else:
                out += [RoughBox(run, [run], times) for run in runs]
    return out


def _pairs(values: NDArray[Any], axis: int) -> tuple[NDArray[Any], NDArray[Any]]:
    """Each value but the last, and each but the first, along an axis; views."""
    return (values[:-1], values[1:]) if axis == 0 else (values[:, :-1], values[:, 1:])
