"""Few keys in place of many values: the longest cubic spans that stay within a tolerance."""

import numpy as np

from ..arrays import Array
from ..scene import Bezier, Handles, Hold, Key, Linear, Span

_THIRD = 1.0 / 3.0
_STEEPEST = 90.0
_JUMP = 2e-3
"""A change over no more frames than this is a jump."""


def thinned(frames: Array, values: Array, tolerance: float) -> tuple[Key, ...]:
    """Keys through some of the values (N,) at frames (N,) in order, whose curve keeps to all of them within a
    tolerance (in the values' unit).

    Spans are cubics with the values' own slopes at both ends, from inside, each as long as it goes.
    """
    count = len(frames)
    if count == 1 or float(np.ptp(values)) <= tolerance:
        return (Key(float(frames[0]), float(values[0])),)
    slopes = _one_sided(frames, values, 1), _one_sided(frames, values, -1)
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


Slopes = tuple[Array, Array]
"""Just after, and just before each value."""


def _one_sided(frames: Array, values: Array, side: int) -> Array:
    """The slope (N,) just after (``side`` 1) or before (−1) each value: of the parabola through it and the next two."""
    if side < 0:
        return -_one_sided(-frames[::-1], values[::-1], 1)[::-1]
    if len(frames) < 3:
        return np.gradient(values, frames)
    first, second = frames[1:-1] - frames[:-2], frames[2:] - frames[:-2]
    rise, far = values[1:-1] - values[:-2], values[2:] - values[:-2]
    out = np.empty(len(frames))
    out[:-2] = (rise * second / first - far * first / second) / (second - first)
    out[-2] = (values[-1] - values[-2]) / (frames[-1] - frames[-2])
    out[-1] = out[-2]
    return out


def _farthest(frames: Array, values: Array, slopes: Slopes, start: int, tolerance: float) -> int:
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


def _span(frames: Array, values: Array, slopes: Slopes, start: int, end: int, tolerance: float) -> Span | None:
    """The span from one value to another that keeps to those between, or None."""
    inside = slice(start, end + 1)
    low, high = float(values[start]), float(values[end])
    length = float(frames[end] - frames[start])
    share = (frames[inside] - frames[start]) / length
    change = high - low
    if length <= _JUMP and abs(change) > tolerance:
        return Hold() if end - start == 1 else None
    if np.abs(low + change * share - values[inside]).max() <= tolerance * (0.5 if end - start > 1 else 1.0):
        return Linear() if abs(change) > 0.0 else Hold()
    if end - start == 1:
        return Linear()
    onward, arriving = float(slopes[0][start]), float(slopes[1][end])
    rest = 1.0 - share
    cubic = low + change * share * share * (3.0 - 2.0 * share)
    cubic = cubic + length * share * rest * (onward * rest - arriving * share)
    if np.abs(cubic - values[inside]).max() > tolerance:
        return None
    if abs(change) > 1e-3 * tolerance:
        first, second = onward * length / (3.0 * change), 1.0 - arriving * length / (3.0 * change)
        if max(abs(first), abs(second)) <= _STEEPEST:
            return Bezier(_THIRD, first, 2.0 * _THIRD, second)
    return Handles(onward, _THIRD, arriving, _THIRD)
