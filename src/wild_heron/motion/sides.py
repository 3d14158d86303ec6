"""One-sided limits of key curves: value and slope just before and just after each key."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..scene import Bezier, Flow, Handles, Hold, Key, Linear, Span
from .curve import end_slopes
from .easing import steepness, towards, unit_ease

_NEXT = 2.0**-50
_JUMP = 1e-6
"""Of a span's change: an ease that is farther than this from its end right beside it jumps there."""
_MONOTONE = 3.0
"""Times the secant: the steepest end of a cubic that does not turn back (Fritsch and Carlson 1980)."""


class Sides(NamedTuple):
    """At each key (N,): value and slope (in values a frame, ±∞ where vertical) just before it, and just after it.

    What lies beyond an end is taken to be as on the side that there is.
    """

    before: Array
    into: Array
    after: Array
    out: Array


_Ends = tuple[tuple[float, float], tuple[float, float]]


@lru_cache(maxsize=2048)
def sides(keys: tuple[Key, ...]) -> Sides:
    """Of keys (at least one). A span that holds or steps up to a key has another value just before it."""
    values = np.array([key.value for key in keys])
    found = Sides(values.copy(), np.zeros(len(keys)), values.copy(), np.zeros(len(keys)))
    flows = end_slopes(keys) if any(type(key.span) is Flow for key in keys[:-1]) else {}
    for i in range(len(keys) - 1):
        left, right = keys[i], keys[i + 1]
        flow = flows.get(i)
        (found.after[i], found.out[i]), (found.before[i + 1], found.into[i + 1]) = (
            ((left.value, flow[0]), (right.value, flow[1])) if flow is not None else _of_span(left, right)
        )
    if len(keys) > 1:
        found.into[0], found.out[-1] = found.out[0], found.into[-1]
    return found


def _of_span(left: Key, right: Key) -> _Ends:
    """Value and slope just after one key and just before the next."""
    low, high, length = left.value, right.value, right.frame - left.frame
    if isinstance(left.span, Handles):
        return _of_handles(left.span, low, high, length)
    change = high - low
    (start, out), (end, into) = _of_ease(left.span, False), _of_ease(left.span, True)
    first = low if start == 0.0 else low + change * start
    last = high if end == 1.0 else low + change * end
    still = change == 0.0  # Even a vertical ease has nowhere to go then.
    return (first, 0.0 if still else out * change / length), (last, 0.0 if still else into * change / length)


def _of_handles(span: Handles, low: float, high: float, length: float) -> _Ends:
    first = low + span.out_slope * span.out_length * length
    last = high - span.in_slope * span.in_length * length
    out, into = span.out_slope, span.in_slope
    if span.out_length == 0.0:
        out = towards(last - low, (1.0 - span.in_length) * length)
    if span.in_length == 0.0:
        into = towards(high - first, (1.0 - span.out_length) * length)
    return (low, out), (high, into)


@lru_cache(maxsize=4096)
def _of_ease(span: Span, end: bool) -> tuple[float, float]:
    """The share of the change right beside the start or the end of an ease, and the slope there in shares of both."""
    home = 1.0 if end else 0.0
    if isinstance(span, Hold):
        return 0.0, 0.0
    if isinstance(span, Linear | Flow):
        return home, 1.0
    if isinstance(span, Bezier):
        return home, steepness(span, end)
    beside = float(unit_ease(span)(np.array([1.0 - _NEXT if end else _NEXT]))[0])
    return home if abs(beside - home) <= _JUMP else beside, steepness(span, end)


def slopes_at(keys: tuple[Key, ...], index: int) -> tuple[float, float]:
    """Slopes in values per frame just before and just after a key, for handles: at the ends that of the only side
    there is, and where a curve is vertical, as steep as a cubic may be that does not turn back."""
    near = sides(keys)
    left = _finite(keys, max(index - 1, 0), float(near.into[index]))
    right = _finite(keys, min(index, len(keys) - 2), float(near.out[index]))
    return left, right


def _finite(keys: tuple[Key, ...], span: int, slope: float) -> float:
    if np.isfinite(slope):
        return slope
    left, right = keys[span], keys[span + 1]
    return float(np.sign(slope)) * _MONOTONE * abs(right.value - left.value) / (right.frame - left.frame)
