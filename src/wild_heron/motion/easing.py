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
        # t·count is a hair under a whole number where t was a quotient, so the stair is reached a rounding early.
        step = np.floor(t * count * (1.0 + 4e-16)) + (1.0 if early else 0.0)
        return np.clip(step, 0.0, jumps) / jumps

    return stair


def spring(span: Spring) -> UnitEase:
    """A damped oscillation about 1, x(t) = 1 − e^(−σt)·(cos ωt + σ/ω·sin ωt), made to end there: divided by x(1).

    ω = 2π·swings/2 and σ from the bounce: each half swing is that much as large as the one before.
    """
    omega = np.pi * (span.swings + 0.5)
    sigma = -np.log(max(span.bounce, 1e-3)) * omega / np.pi

    def swing(t: Array) -> Array:
        return np.asarray(1.0 - np.exp(-sigma * t) * (np.cos(omega * t) + sigma / omega * np.sin(omega * t)))

    end = float(swing(np.array(1.0)))
    return lambda t: np.where(t >= 1.0, 1.0, swing(t) / end)


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


def sample_ease(span: Span, count: int = 64) -> tuple[Array, Array]:
    """The curve at ``count`` even times, for drawing: two arrays (count,)."""
    t: Any = np.linspace(0.0, 1.0, count)
    return t, unit_ease(span)(t)
