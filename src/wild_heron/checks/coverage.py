"""What is bare: read off low-resolution pictures of more than the frame, whose alpha says how far artwork covers the
background."""

from typing import NamedTuple

import numpy as np

from ..arrays import Array, Pixels
from ..evaluate.windows import Windows
from ..scene import Settings

LONGER_SIDE = 160
"""Pixels along the longer side of the scene's frame."""
BEYOND = 1.2
"""How much of the picture is looked at, in frames: the margin is known up to a tenth of the frame."""
SIDES = ("left", "top", "right", "bottom")
_WHOLE = 0.02
"""Less of a pixel than this that is bare is a matter of smooth edges."""


class Coverage(NamedTuple):
    """Of a frame in one format: shares of it that are bare and that are holes within, and by side (left, top, right,
    bottom) the margin that is covered beyond it in shares of its width or height; less than nothing is bare within."""

    bare: float
    hole: float
    margin: tuple[float, float, float, float]


def size_of_map(settings: Settings, times: float) -> tuple[int, int]:
    """Size in pixels of the picture that is looked at."""
    per = LONGER_SIDE / max(settings.width, settings.height)
    return max(8, round(settings.width * per * times)), max(8, round(settings.height * per * times))


def pixels_per_pixel(settings: Settings, times: float) -> float:
    """How many pixels of the map go to one of the scene's frame."""
    width, height = size_of_map(settings, times)
    return max(width / settings.width, height / settings.height) / times


def read_coverage(picture: Pixels, settings: Settings, windows: Windows, times: float, row: int = 0) -> Coverage:
    """What a picture (H, W, 4) of ``times`` the frame tells of a window at its frame. A frame's edge may lie within a
    pixel; a window that is rolled is looked at along its own sides."""
    high, wide = picture.shape[:2]
    per = pixels_per_pixel(settings, times)
    bare = 1.0 - picture[..., 3] / 255.0
    window = windows.size[row] * per
    middle = windows.middle[row] * per
    if abs(float(np.sin(windows.roll[row]))) > 1e-9:
        bare, middle = _along(bare, middle, window, float(windows.roll[row]))
        high, wide = bare.shape
    left, top = 0.5 * np.array([wide, high]) + middle - 0.5 * window
    bare[bare < _WHOLE] = 0.0
    edges = (float(left), float(top), float(left + window[0]), float(top + window[1]))
    across, down = _inside(edges[0], edges[2], wide), _inside(edges[1], edges[3], high)
    margins = _margins(bare, edges, across, down)
    if not bare.any():
        return Coverage(0.0, 0.0, margins)
    inner = bare * down[:, None] * across
    area = float(down.sum() * across.sum())
    total = float(inner.sum()) / area
    if total < 1e-6:
        return Coverage(0.0, 0.0, margins)
    return Coverage(total, _holes(inner, across, down) / area, margins)


def _along(bare: Array, middle: Array, window: Array, roll: float) -> tuple[Array, Array]:
    """A picture's bare shares along the sides of a window (2,) that is rolled, and a margin about it; the window is in
    the middle of that."""
    from scipy import ndimage

    wide, high = np.maximum(np.ceil(window * BEYOND), 4).astype(int)
    across = np.arange(wide) + 0.5 - 0.5 * wide
    down = np.arange(high)[:, None] + 0.5 - 0.5 * high
    x = across * np.cos(roll) - down * np.sin(roll) + middle[0] + 0.5 * bare.shape[1] - 0.5
    y = down * np.cos(roll) + across * np.sin(roll) + middle[1] + 0.5 * bare.shape[0] - 0.5
    return np.asarray(ndimage.map_coordinates(bare, [y, x], order=1, mode="nearest")), np.zeros(2)


def _inside(low: float, high: float, count: int) -> Array:
    """How much of each of so many pixels lies between two places, (count,)."""
    edges = np.arange(count, dtype=np.float64)
    return np.clip(np.minimum(edges + 1.0, high) - np.maximum(edges, low), 0.0, 1.0)


def _holes(inner: Array, across: Array, down: Array) -> float:
    """Bare pixels that no bare way leads to from the frame's edge."""
    # What takes long to load is loaded when it is first needed: not while the window opens.
    from scipy import ndimage

    rows, columns = np.flatnonzero(down > 0.0), np.flatnonzero(across > 0.0)
    part = inner[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    marked, count = ndimage.label(part > 0.1)
    if not count:
        return 0.0
    rim = np.unique(np.concatenate([marked[0], marked[-1], marked[:, 0], marked[:, -1]]))
    return float(part[(marked > 0) & ~np.isin(marked, rim)].sum())


def _margins(
    bare: Array, edges: tuple[float, float, float, float], across: Array, down: Array
) -> tuple[float, float, float, float]:
    """Of each side, how deep it is bare along some line from there inwards, or how far lines outwards are covered."""
    left, top, right, bottom = edges
    rows, columns = bare[down > 0.0], bare[:, across > 0.0].T
    wide, high = right - left, bottom - top
    found = (
        _margin(rows[:, ::-1], rows.shape[1] - left, wide),
        _margin(columns[:, ::-1], columns.shape[1] - top, high),
        _margin(rows, right, wide),
        _margin(columns, bottom, high),
    )
    return found[0] / wide, found[1] / high, found[2] / wide, found[3] / high


def _margin(lines: Array, edge: float, size: float) -> float:
    """Of lines (K, n) that leave a frame of a ``size`` at a place ``edge``: how far beyond it the nearest bare pixel
    is; or, less than nothing, how deep the deepest of those that are bare there is, other than all the way through."""
    inner, outer = _run(lines[:, ::-1], lines.shape[1] - edge, True), _run(lines, edge, False)
    through = inner >= 0.98 * size
    if through.all():
        return -size
    deepest = float(inner[~through].max())
    return -deepest if deepest > 0.0 else float(outer[~through].min())


def _run(lines: Array, start: float, is_bare: bool) -> Array:
    """How far lines (K, n) are bare, or covered, from a place within them on, (K,)."""
    first = int(start)
    share = lines[:, first:] if is_bare else 1.0 - lines[:, first:]
    # The part of the first pixel that lies before the place counts as the rest of it.
    whole = share > 1.0 - _WHOLE
    full = np.cumprod(whole, axis=1)
    count = full.sum(axis=1).astype(int)
    at = np.minimum(count, share.shape[1] - 1)
    partly = np.where(count < share.shape[1], share[np.arange(len(share)), at], 0.0)
    within = start - first
    # An edge inside the very first pixel: only what lies beyond the place is told.
    out = np.where(count == 0, np.maximum(partly - within, 0.0), count - within + partly)
    return np.where(share.shape[1] > 0, out, 0.0)
