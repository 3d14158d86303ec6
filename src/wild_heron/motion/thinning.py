"""Few keys in place of many values: the longest cubic spans that stay within a tolerance."""

from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..scene import Bezier, Handles, Hold, Key, Linear, Span

SIDES = 8e-6
"""Moments no farther apart, in frames, are the two sides of one: what changes between them jumps."""
_THIRD = 1.0 / 3.0
_STEEPEST = 90.0
_UNSEEN = 0.02
"""Of the tolerance: what a jump may be for the curve to run on through it."""
_INSIDE = np.array([0.25, 0.5, 0.75])


def thinned(frames: Array, values: Array, tolerance: float) -> tuple[Key, ...]:
    """Keys through some of the values (N,) at frames (N,) in order, whose curve keeps to all of them, and to a smooth
    curve from one to the next, within a tolerance (in the values' unit).

    Spans are cubics with the values' own slopes at both ends, from inside, each as long as it goes. Where the values
    jump, a key on either side holds up to it.
    """
    if len(frames) == 1 or float(np.ptp(values)) <= tolerance:
        return (Key(float(frames[0]), float(values[0])),)
    near = np.diff(frames) <= SIDES
    jumps = near & (np.abs(np.diff(values)) > _UNSEEN * tolerance)
    # Of two sides that do not differ the later one is enough, unless it jumps right before them.
    kept = np.concatenate([~near | jumps, [True]])
    kept |= np.concatenate([[True], jumps])
    frames, values, jumps = frames[kept], values[kept], jumps[kept[:-1]]
    keys: list[Key] = []
    for piece in np.split(np.arange(len(frames)), np.flatnonzero(jumps) + 1):
        keys += _piece(_Samples.of(frames[piece], values[piece]), tolerance)
    return tuple(keys)


class _Samples(NamedTuple):
    """Frames and values (N,), slopes just after and just before each, and the least and most that may lie between them
    (N − 1, 3): what the parabolas through those before and those after come to."""

    frames: Array
    values: Array
    onward: Array
    arriving: Array
    least: Array
    most: Array

    @classmethod
    def of(cls, frames: Array, values: Array) -> "_Samples":
        onward, arriving = _one_sided(frames, values, 1), _one_sided(frames, values, -1)
        length, rest = np.diff(frames)[:, None], 1.0 - _INSIDE
        line = values[:-1, None] * rest + values[1:, None] * _INSIDE
        secant = (np.diff(values) / np.diff(frames))[:, None]
        bends = (onward[:-1, None] - secant, secant - arriving[1:, None])
        curves = [line + each * length * _INSIDE * rest for each in bends]
        return cls(frames, values, onward, arriving, np.minimum(*curves), np.maximum(*curves))


def _piece(samples: _Samples, tolerance: float) -> list[Key]:
    """Keys of what runs without a jump; the last one holds."""
    keys: list[Key] = []
    frames, values = samples.frames.tolist(), samples.values.tolist()
    start = 0
    while start < len(frames) - 1:
        end = _farthest(samples, start, tolerance)
        span = _span(samples, start, end, tolerance)
        assert span is not None
        keys.append(Key(frames[start], values[start], span))
        start = end
    return [*keys, Key(frames[-1], values[-1], Hold())]


def _one_sided(frames: Array, values: Array, side: int) -> Array:
    """The slope (N,) just after (``side`` 1) or before (−1) each value: of the parabola through it and the next two."""
    if side < 0:
        return -_one_sided(-frames[::-1], values[::-1], 1)[::-1]
    if len(frames) < 3:
        return np.gradient(values, frames) if len(frames) > 1 else np.zeros(1)
    first, second = frames[1:-1] - frames[:-2], frames[2:] - frames[:-2]
    rise, far = values[1:-1] - values[:-2], values[2:] - values[:-2]
    out = np.empty(len(frames))
    out[:-2] = (rise * second / first - far * first / second) / (second - first)
    out[-2] = (values[-1] - values[-2]) / (frames[-1] - frames[-2])
    out[-1] = out[-2]
    return out


def _farthest(samples: _Samples, start: int, tolerance: float) -> int:
    """The last index that one span from ``start`` reaches: steps that double, then a search between."""
    last = len(samples.frames) - 1
    good, step = start + 1, 1
    while good < last:
        trial = min(good + step, last)
        if _span(samples, start, trial, tolerance) is None:
            break
        good, step = trial, step * 2
    bad = min(good + step, last + 1)
    while bad - good > 1:
        middle = (good + bad) // 2
        if _span(samples, start, middle, tolerance) is None:
            bad = middle
        else:
            good = middle
    return good


def _span(samples: _Samples, start: int, end: int, tolerance: float) -> Span | None:
    """The span from one value to another that keeps to those between, or None."""
    frames, values = samples.frames[start : end + 1], samples.values[start : end + 1]
    low, high = float(values[0]), float(values[-1])
    length, change = float(frames[-1] - frames[0]), high - low
    share = (frames - frames[0]) / length
    if np.abs(low + change * share - values).max() <= tolerance * (0.5 if end - start > 1 else 1.0):
        return Linear() if abs(change) > 0.0 else Hold()
    onward, arriving = float(samples.onward[start]), float(samples.arriving[end])

    cubic = _cubic(low, high, onward, arriving, length, share)
    # Where the values lie close, they and the middles between them tell all that a cubic can do.
    some = slice(None) if end - start < 8 else slice(1, 2)
    between = _cubic(low, high, onward, arriving, length, share[:-1, None] + np.diff(share)[:, None] * _INSIDE[some])
    least, most = samples.least[start:end, some], samples.most[start:end, some]
    off = max(np.abs(cubic - values).max(), (between - most).max(), (least - between).max())
    if off > tolerance:
        return Linear() if end - start == 1 else None
    if abs(change) > 1e-3 * tolerance:
        first, second = onward * length / (3.0 * change), 1.0 - arriving * length / (3.0 * change)
        if max(abs(first), abs(second)) <= _STEEPEST:
            return Bezier(_THIRD, first, 2.0 * _THIRD, second)
    return Handles(onward, _THIRD, arriving, _THIRD)


def _cubic(low: float, high: float, out: float, into: float, length: float, share: Array) -> Array:
    """Values a share of the way along a cubic from ``low`` to ``high`` with slopes at its ends."""
    rest = 1.0 - share
    run = low + (high - low) * share * share * (3.0 - 2.0 * share)
    return np.asarray(run + length * share * rest * (out * rest - into * share))
