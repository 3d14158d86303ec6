"""Unit eases: functions that take the share of a span's time to the share of its change.

All take float64 arrays ``t`` in 0–1 and return arrays of the same shape, with f(0) = 0 and f(1) = 1.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

from ..arrays import Array
from ..scene.ease_families import FAMILIES
from ..scene.spans import Bezier, EasePart, Family, Flow, Handles, Hold, Linear, Span, Spring, Steps

UnitEase = Callable[[Array], Array]

_BISECTIONS = 60
_STEP = 1e-4
_ONE_SIDED = np.array([-77.0, 214.0, -234.0, 122.0, -25.0]) / 12.0
"""Weights of values at steps 1 to 5 for the slope at 0 (Fornberg 1988)."""


def family(span: Family) -> UnitEase:
    """The named family's curve in its direction."""
    ease_in, half = FAMILIES[span.name]
    if span.direction == "in":
        return lambda t: np.asarray(ease_in(t, np))
    if span.direction == "out":
        return lambda t: np.asarray(1.0 - ease_in(1.0 - t, np))

    def both(t: Array) -> Array:
        first = t < 0.5
        share = half(np.where(first, 2.0 * t, 2.0 - 2.0 * t), np)
        return np.where(first, 0.5 * share, 1.0 - 0.5 * share)

    return both


def steps(span: Steps) -> UnitEase:
    """CSS Easing Functions Level 1, ``steps()``."""
    count = span.count
    early = span.jump in ("start", "both")
    jumps = {"start": count, "end": count, "both": count + 1, "none": count - 1}[span.jump]

    def stair(t: Array) -> Array:
        # The product may round across a whole number, so it is held against the quotients that begin the steps: where
        # t is itself a quotient of that worth, it is the very same number.
        step = np.rint(t * count)
        step = step - (t < step / count) + (1.0 if early else 0.0)
        return np.clip(step, 0.0, jumps) / jumps

    return stair


def spring(span: Spring) -> UnitEase:
    """A damped oscillation about 1, x(t) = 1 − e^(−σt)·(cos ωt + σ/ω·sin ωt), that ends where it crosses 1.

    It arrives at ωt = π − atan(ω/σ) and crosses again every π; σ = −ln(bounce)·ω/π, so that each swing goes ``bounce``
    as far as the one before, the first past 1 by just that. What is left over of a swing is damped to end at 1.
    """
    damping = -np.log(max(span.bounce, 1e-3)) / np.pi
    arrival = np.pi - np.arctan(1.0 / damping)
    omega = arrival + np.pi * span.swings
    sigma = damping * omega
    left_over = span.swings % 1.0
    last = (arrival + np.pi * (span.swings - left_over)) / omega

    def swing(t: Array) -> Array:
        away = np.exp(-sigma * t) * (np.cos(omega * t) + damping * np.sin(omega * t))
        if left_over > 1e-9:
            # From the last crossing on; ever later and steeper the more of a swing is left, so that it grows whole.
            beyond = np.clip((t - last) / (1.0 - last), 0.0, 1.0)
            away = away * (1.0 - beyond ** (2.0 / (1.0 - left_over)))
        return np.asarray(np.where(t >= 1.0, 1.0, 1.0 - away))

    return swing


def ease_part(span: EasePart) -> UnitEase:
    """The part of an ease between two shares of its time, stretched to 0–1 both ways. Where the whole has the same
    value at both, there is nothing to stretch: it holds."""
    whole = unit_ease(span.of)
    low, high = whole(np.array([span.start, span.end])).tolist()
    if abs(high - low) < 1e-12:
        return lambda t: np.where(t >= 1.0, 1.0, 0.0)
    return lambda t: (whole(span.start + t * (span.end - span.start)) - low) / (high - low)


def bezier_exact(span: Bezier, heights: tuple[float, ...] | None = None) -> UnitEase:
    """CSS ``cubic-bezier`` by bisection: slow, and right for handles that make the curve vertical inside.

    ``heights`` are the four values of another cubic over the same time, in place of 0, y1, y2, 1.
    """
    low, first, second, high = heights or (0.0, span.y1, span.y2, 1.0)

    def ease(t: Array) -> Array:
        left, right = np.zeros_like(t), np.ones_like(t)
        for _ in range(_BISECTIONS):
            middle = 0.5 * (left + right)
            before = _bernstein(middle, span.x1, span.x2) < t
            left = np.where(before, middle, left)
            right = np.where(before, right, middle)
        s = 0.5 * (left + right)
        rest = 1.0 - s
        value = rest * rest * rest * low + s * s * s * high + 3.0 * rest * s * (rest * first + s * second)
        return np.where(t <= 0.0, low, np.where(t >= 1.0, high, value))

    return ease


def _bernstein(s: Array, first: float, second: float) -> Array:
    rest = 1.0 - s
    return 3.0 * rest * rest * s * first + 3.0 * rest * s * s * second + s * s * s


def unit_ease(span: Span) -> UnitEase:
    """Any span's normalised curve; a flow alone between two keys is linear."""
    match span:
        case Hold():
            return lambda t: np.where(t >= 1.0, 1.0, 0.0)
        case Linear() | Flow() | Handles():
            return lambda t: t
        case Spring():
            return spring(span)
        case EasePart():
            return ease_part(span)
        case Steps():
            return steps(span)
        case Family():
            return family(span)
        case Bezier():
            return bezier_exact(span)


def slope_at(span: Span, end: bool) -> float:
    """The change of share per share of time just after the start, or just before the ``end``: the limit from inside.

    0 where the curve is vertical there, as CSS has it for curves that are.
    """
    slope = steepness(span, end)
    return slope if np.isfinite(slope) else 0.0


def steepness(span: Span, end: bool) -> float:
    """The same, ±∞ where the curve is vertical."""
    if isinstance(span, Hold | Steps) or (isinstance(span, EasePart) and isinstance(span.of, Steps)):
        return 0.0
    if isinstance(span, EasePart) and ((end and span.end == 1.0) or (not end and span.start == 0.0)):
        low, high = unit_ease(span.of)(np.array([span.start, span.end])).tolist()
        rise = high - low
        return 0.0 if abs(rise) < 1e-12 else steepness(span.of, end) * (span.end - span.start) / rise
    if isinstance(span, Bezier):
        away, rise = (1.0 - span.x2, 1.0 - span.y2) if end else (span.x1, span.y1)
        if away == rise == 0.0:
            away, rise = (1.0 - span.x1, 1.0 - span.y1) if end else (span.x2, span.y2)
        return towards(rise, away)
    # The slope there of the polynomial through five places inside: some families jump at the very end.
    near = _STEP * np.arange(1.0, 6.0)
    coarse, fine = (
        float(_ONE_SIDED @ unit_ease(span)(1.0 - h if end else h)) / (h[0] * (-1.0 if end else 1.0))
        for h in (near, 0.1 * near)
    )
    return float(np.copysign(np.inf, fine)) if abs(fine) > 2.0 * abs(coarse) + 1.0 else coarse


def towards(rise: float, run: float) -> float:
    """The slope of a line, ±∞ where it is vertical; 0 of a point."""
    return rise / run if run > 0.0 else float(np.copysign(np.inf, rise)) if rise else 0.0


def sample_ease(span: Span, count: int = 64) -> tuple[Array, Array]:
    """The curve at ``count`` even times, for drawing: two arrays (count,)."""
    t: Any = np.linspace(0.0, 1.0, count)
    return t, unit_ease(span)(t)
