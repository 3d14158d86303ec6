"""Key operations on one channel that preserve the curve outside what is changed. Pure functions of the keys."""

from bisect import bisect_right
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from ..scene import Beyond, Bezier, EasePart, Family, Flow, Handles, Hold, Key, Linear, Span, Spring, Steps
from ..scene.channel import SAME_FRAME
from .curve import Curve, end_slopes
from .sides import slopes_at

_THIRD = 1.0 / 3.0
_LONGEST = 4.0 / 3.0
_AT_ONCE = Steps(1, "start")
"""Holds the value of the key it leads to."""


def split(span: Span, share: float, length: float, low: float, high: float) -> tuple[Span, float, Span]:
    """A span of ``length`` frames from ``low`` to ``high`` cut at a share of its time: the span before, the value
    there, and the span after, which together are the same curve. A flow alone is a line."""
    if isinstance(span, Hold):
        return span, low, span
    if span == _AT_ONCE:
        return span, high, span
    if isinstance(span, Linear | Flow):
        return span, low + (high - low) * share, span
    if isinstance(span, Bezier | Handles):
        return _split_cubic(as_handles(span, length, low, high), share, length, low, high)
    curve = Curve((Key(0.0, 0.0, span), Key(1.0, 1.0)))
    value = low + (high - low) * float(_at(curve, share))
    whole = span if isinstance(span, EasePart) else EasePart(span, 0.0, 1.0)
    middle = whole.start + (whole.end - whole.start) * share
    return EasePart(whole.of, whole.start, middle), value, EasePart(whole.of, middle, whole.end)


def _at(curve: Curve, frame: float) -> float:
    return float(curve(np.array([frame]))[0])


def as_handles(span: Bezier | Handles | Linear, length: float, low: float, high: float) -> Handles:
    """The same curve as handles with slopes. A handle of no length has the slope of what it points at."""
    if isinstance(span, Handles):
        return span
    change = high - low
    if isinstance(span, Linear):
        return Handles(change / length, _THIRD, change / length, _THIRD)
    x1, y1, x2, y2 = span.x1, span.y1, 1.0 - span.x2, 1.0 - span.y2
    return Handles(
        change * y1 / (x1 * length) if x1 > 1e-9 else 0.0, x1, change * y2 / (x2 * length) if x2 > 1e-9 else 0.0, x2
    )


def _split_cubic(span: Handles, share: float, length: float, low: float, high: float) -> tuple[Span, float, Span]:
    """De Casteljau's cut of a cubic at a share of the time."""
    points = [
        (0.0, low),
        (span.out_length * length, low + span.out_slope * span.out_length * length),
        (length - span.in_length * length, high - span.in_slope * span.in_length * length),
        (length, high),
    ]
    s = _parameter(points, share * length)
    first, second = [points[0]], [points[3]]
    while len(points) > 1:
        points = [(a[0] + (b[0] - a[0]) * s, a[1] + (b[1] - a[1]) * s) for a, b in pairwise(points)]
        first.append(points[0])
        second.append(points[-1])
    return _from_points(first), points[0][1], _from_points(second[::-1])


def _parameter(points: list[tuple[float, float]], time: float) -> float:
    x0, x1, x2, x3 = (x for x, _ in points)
    low, high = 0.0, 1.0
    for _ in range(80):
        s = 0.5 * (low + high)
        r = 1.0 - s
        if r * r * r * x0 + 3 * r * r * s * x1 + 3 * r * s * s * x2 + s * s * s * x3 < time:
            low = s
        else:
            high = s
    return 0.5 * (low + high)


def _from_points(points: list[tuple[float, float]]) -> Handles:
    (x0, y0), (x1, y1), (x2, y2), (x3, y3) = points
    length = max(x3 - x0, 1e-12)
    out, into = x1 - x0, x3 - x2
    return Handles(
        (y1 - y0) / out if out > 1e-12 else 0.0,
        min(max(out / length, 0.0), _LONGEST),
        (y3 - y2) / into if into > 1e-12 else 0.0,
        min(max(into / length, 0.0), _LONGEST),
    )


def fixed(keys: tuple[Key, ...], first: int = 0, last: int | None = None) -> tuple[Key, ...]:
    """The same curve with its flows from key ``first`` to ``last`` as handles: neighbours do not change those."""
    last = len(keys) - 1 if last is None else last
    slopes = end_slopes(keys)
    return tuple(
        replace(key, span=Handles(slopes[i][0], _THIRD, slopes[i][1], _THIRD))
        if i in slopes and first <= i < last
        else key
        for i, key in enumerate(keys)
    )


def with_key(keys: tuple[Key, ...], frame: float) -> tuple[Key, ...]:
    """The keys with one more at a frame, and the same curve. Beyond the ends, and where there is one, unchanged."""
    at = bisect_right([key.frame for key in keys], frame + SAME_FRAME) - 1
    if at < 0 or at >= len(keys) - 1 or abs(keys[at].frame - frame) <= SAME_FRAME:
        return keys
    keys = fixed(keys, at - 1, at + 2)
    if _is_stepped(keys[at].span):
        return with_key((*keys[:at], *stairs(keys[at], keys[at + 1]), *keys[at + 1 :]), frame)
    left, right = keys[at], keys[at + 1]
    length = right.frame - left.frame
    before, value, after = split(left.span, (frame - left.frame) / length, length, left.value, right.value)
    return (*keys[:at], replace(left, span=before), Key(frame, value, after), *keys[at + 1 :])


def _is_stepped(span: Span) -> bool:
    return (isinstance(span, Steps) and span != _AT_ONCE) or (isinstance(span, EasePart) and isinstance(span.of, Steps))


def stairs(left: Key, right: Key) -> tuple[Key, ...]:
    """A stepped span as keys that hold, one for each step; two for a first one that jumps, as the key before it must
    stay what the span before runs to."""
    whole = left.span if isinstance(left.span, EasePart) else EasePart(left.span, 0.0, 1.0)  # type: ignore[arg-type]
    assert isinstance(whole.of, Steps)
    count = whole.of.count
    inside = [k / count for k in range(count) if whole.start < k / count < whole.end]
    curve = Curve((Key(0.0, left.value, left.span), Key(1.0, right.value)))
    shares = [0.0, *((k - whole.start) / (whole.end - whole.start) for k in inside)]
    length = right.frame - left.frame
    # Read in the middle of each step, where rounding cannot take it for its neighbour.
    middles = [0.5 * (a + b) for a, b in pairwise([*shares, 1.0])]
    values = [_at(curve, middle) for middle in middles]
    first: tuple[Key, ...] = ()
    if values[0] != left.value:
        first, shares[0] = (replace(left, span=_AT_ONCE),), middles[0]
    return (*first, *(Key(left.frame + length * s, v, Hold()) for s, v in zip(shares, values, strict=True)))


def mirrored(span: Span) -> Span:
    """The span run backwards. A spring, which has no mirror image, stays."""
    match span:
        case Hold():
            return Steps(1, "start")
        case Steps(1, "start"):
            return Hold()
        case Steps(count, jump):
            return Steps(count, {"start": "end", "end": "start"}.get(jump, jump))  # type: ignore[arg-type]
        case Bezier(x1, y1, x2, y2):
            return Bezier(1.0 - x2, 1.0 - y2, 1.0 - x1, 1.0 - y1)
        case Family(name, direction):
            return Family(name, {"in": "out", "out": "in"}.get(direction, direction))  # type: ignore[arg-type]
        case Handles(out_slope, out_length, in_slope, in_length):
            return Handles(-in_slope, in_length, -out_slope, out_length)
        case EasePart(of, start, end) if not isinstance(of, Spring):
            back = mirrored(of)
            assert isinstance(back, Linear | Bezier | Steps | Family)
            return EasePart(back, 1.0 - end, 1.0 - start)
    return span


def reversed_keys(keys: tuple[Key, ...]) -> tuple[Key, ...]:
    """The keys run backwards over the same stretch of time."""
    total = keys[0].frame + keys[-1].frame
    out = []
    for i in range(len(keys) - 1, -1, -1):
        span = mirrored(keys[i - 1].span) if i else keys[-1].span
        out.append(Key(total - keys[i].frame, keys[i].value, span))
    return tuple(out)


def stretched(keys: tuple[Key, ...], about: float, factor: float) -> tuple[Key, ...]:
    """Times multiplied about a frame. Slopes set by hand go with them, so that the curve keeps its shape."""
    out = [Key(about + (key.frame - about) * factor, key.value, _slower(key.span, factor)) for key in keys]
    return tuple(out)


def _slower(span: Span, factor: float) -> Span:
    if isinstance(span, Handles):
        return replace(span, out_slope=span.out_slope / factor, in_slope=span.in_slope / factor)
    return span


def with_slopes(
    keys: tuple[Key, ...], index: int, into: float | None = None, out: float | None = None
) -> tuple[Key, ...]:
    """The keys with slopes of a key set by hand: of the span that arrives at it, and of the one that leaves it.

    The spans become handles; at their other ends, and in length, they stay as they are as nearly as handles can.
    """
    if into is not None and index > 0:
        keys = _taken_in_hand(keys, index - 1, in_slope=into)
    if out is not None and index < len(keys) - 1:
        keys = _taken_in_hand(keys, index, out_slope=out)
    return keys


def _taken_in_hand(keys: tuple[Key, ...], index: int, **changes: float) -> tuple[Key, ...]:
    """The keys with one span as handles, changed; every other span keeps its curve."""
    if not isinstance(keys[index].span, Flow | Handles):
        keys = fixed(keys, index - 1, index + 2)  # Flows heed what is beyond them only if that is a curve through keys.
    span = replace(by_hand(keys, index), **changes)
    return (*keys[:index], replace(keys[index], span=span), *keys[index + 1 :])


def lengths_at(keys: tuple[Key, ...], index: int) -> tuple[float, float]:
    """Lengths of the handles before and after a key, as shares of their spans (0 where there is no span)."""
    into = by_hand(keys, index - 1).in_length if index else 0.0
    return into, by_hand(keys, index).out_length if index < len(keys) - 1 else 0.0


def with_lengths(
    keys: tuple[Key, ...], index: int, into: float | None = None, out: float | None = None
) -> tuple[Key, ...]:
    """The keys with lengths of a key's handles set by hand, as shares of their spans: above 0, up to 1.

    A handle across from it that is longer than the span comes back to its length: side by side, they must not make
    time run back.
    """
    if into is not None and index > 0:
        across = min(by_hand(keys, index - 1).out_length, 1.0)
        keys = _taken_in_hand(keys, index - 1, in_length=_length(into), out_length=across)
    if out is not None and index < len(keys) - 1:
        across = min(by_hand(keys, index).in_length, 1.0)
        keys = _taken_in_hand(keys, index, out_length=_length(out), in_length=across)
    return keys


def _length(share: float) -> float:
    return min(max(share, 0.01), 1.0)


def by_hand(keys: tuple[Key, ...], index: int) -> Handles:
    """A span as handles: exactly, where it is a cubic; else with its slopes at both ends."""
    left, right = keys[index], keys[index + 1]
    length = right.frame - left.frame
    if isinstance(left.span, Bezier | Handles | Linear):
        return as_handles(left.span, length, left.value, right.value)
    if isinstance(left.span, Hold):
        return Handles(0.0, _THIRD, 0.0, _THIRD)
    return Handles(slopes_at(keys, index)[1], _THIRD, slopes_at(keys, index + 1)[0], _THIRD)


def strengths(ease_in: float, ease_out: float) -> Bezier:
    """The ease that starts and lands this soft: shares from 0 (at once) to 1 (as soft as can be)."""
    return Bezier(min(max(ease_in, 0.0), 1.0), 0.0, 1.0 - min(max(ease_out, 0.0), 1.0), 1.0)


def continued(before: Beyond) -> str:
    """What happens beyond an end, in words."""
    return {
        "hold": "holds", "go": "keeps going", "repeat": "repeats", "offset": "repeats with offset",
        "swing": "runs back and forth",
    }[before]  # fmt: skip


def affine(keys: tuple[Key, ...], factor: float, plus: float = 0.0) -> tuple[Key, ...]:
    """Values times a factor, and so much more. Slopes set by hand go with them: the curve is the same one, scaled."""

    def scaled(span: Span) -> Span:
        if not isinstance(span, Handles):
            return span
        return replace(span, out_slope=span.out_slope * factor, in_slope=span.in_slope * factor)

    return tuple(Key(key.frame, key.value * factor + plus, scaled(key.span)) for key in keys)
