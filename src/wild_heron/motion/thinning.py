"""Few keys in place of many values: the longest cubic spans that stay within a tolerance."""

import numpy as np

from ..arrays import Array
from ..scene import Bezier, Hold, Key, Linear, Span

_THIRD = 1.0 / 3.0
_STEEPEST = 90.0


def thinned(frames: Array, values: Array, tolerance: float) -> tuple[Key, ...]:
    """Keys through some of the values (N,) at frames (N,) in order, whose curve keeps to all of them within a
    tolerance (in the values' unit).

    Spans are cubics with the values' own slopes at both ends, each as long as it goes.
    """
    count = len(frames)
    if count == 1 or float(np.ptp(values)) <= tolerance:
        return (Key(float(frames[0]), float(values[0])),)
    slopes = _slopes(frames, values)
    keys: list[Key] = []
    start = 0
    while start < count - 1:
        end = _farthest(frames, values, slopes, start, tolerance)
        span = _span(frames, values, slopes, start, end, tolerance)
        assert span is not None
        keys.append(Key(float(frames[start]), float(values[start]), span))
        start = end
    keys.append(Key(float(frames[-1]), float(values[-1])))
    return tuple(keys)


def _slopes(frames: Array, values: Array) -> Array:
    if len(frames) < 3:
        return np.gradient(values, frames)
    return np.gradient(values, frames, edge_order=2)


def _farthest(frames: Array, values: Array, slopes: Array, start: int, tolerance: float) -> int:
    """The last index that one span from ``start`` reaches: steps that double, then a search between."""
    last = len(frames) - 1
    good, step = start + 1, 1
    while good < last:
        trial = min(good + step, last)
        if _span(frames, values, slopes, start, trial, tolerance) is None:
            break
        good, step = trial, step * 2
    bad = min(good + step, last + 1)
    while bad - good > 1:
        middle = (good + bad) // 2
        if _span(frames, values, slopes, start, middle, tolerance) is None:
            bad = middle
        else:
            good = middle
    return good


def _span(frames: Array, values: Array, slopes: Array, start: int, end: int, tolerance: float) -> Span | None:
    """The span from one value to another that keeps to those between, or None."""
    inside = slice(start, end + 1)
    low, high = float(values[start]), float(values[end])
    length = float(frames[end] - frames[start])
    share = (frames[inside] - frames[start]) / length
    change = high - low
    if np.abs(low + change * share - values[inside]).max() <= tolerance * (0.5 if end - start > 1 else 1.0):
        return Linear() if abs(change) > 0.0 else Hold()
    if end - start == 1:
        return Linear()
    if abs(change) < 1e-9 * max(1.0, abs(low), abs(high)) or abs(change) < 1e-3 * tolerance:
        return None
    first, second = float(slopes[start]) * length / (3.0 * change), 1.0 - float(slopes[end]) * length / (3.0 * change)
    if max(abs(first), abs(second)) > _STEEPEST:
        return None
    rest = 1.0 - share
    curve = 3.0 * rest * rest * share * first + 3.0 * rest * share * share * second + share * share * share
    if np.abs(low + change * curve - values[inside]).max() > tolerance:
        return None
    return Bezier(_THIRD, first, 2.0 * _THIRD, second)
