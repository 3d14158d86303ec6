"""The named families of eases (Penner 2001), each told here once: its name in files and on screen, and its curve.

A curve is the family's ease in, with f(0) = 0 and f(1) = 1, written for a module of numbers such as NumPy, which this
package does without. In-out is built of the same curve, or of one of its own, where back and elastic differ.
"""

from collections.abc import Callable
from typing import Any, NamedTuple

Curve = Callable[[Any, Any], Any]
"""Of shares of time t, and the module to reckon with."""


class EaseFamily(NamedTuple):
    """A family's ease in, and the one that in-out is made of."""

    ease_in: Curve
    half: Curve


def _same(curve: Curve) -> EaseFamily:
    return EaseFamily(curve, curve)


def _power(exponent: int) -> EaseFamily:
    def ease_in(t: Any, m: Any) -> Any:
        result = t
        for _ in range(exponent - 1):
            result = result * t
        return result

    return _same(ease_in)


def _sine(t: Any, m: Any) -> Any:
    return 1.0 - m.cos(t * (m.pi / 2))


def _expo(t: Any, m: Any) -> Any:
    return m.where(t <= 0.0, 0.0, m.exp2(10.0 * t - 10.0))


def _circ(t: Any, m: Any) -> Any:
    return 1.0 - m.sqrt(m.maximum(1.0 - t * t, 0.0))


_BACK = 1.70158


def _back(strength: float) -> Curve:
    return lambda t, m: t * t * ((strength + 1.0) * t - strength)


def _elastic(tenths: float, shift: float) -> Curve:
    """A sine under a growing exponential, that takes so many tenths of the span to swing once."""

    def ease_in(t: Any, m: Any) -> Any:
        wave = -m.exp2(10.0 * t - 10.0) * m.sin((10.0 * t - shift) * (2 * m.pi / tenths))
        return m.where(t <= 0.0, 0.0, m.where(t >= 1.0, 1.0, wave))

    return ease_in


def _bounce(t: Any, m: Any) -> Any:
    """Four parabolas, the ball dropping towards t = 0."""
    u = 1.0 - t
    n, d = 7.5625, 2.75
    first = n * u * u
    second = n * (u - 1.5 / d) * (u - 1.5 / d) + 0.75
    third = n * (u - 2.25 / d) * (u - 2.25 / d) + 0.9375
    fourth = n * (u - 2.625 / d) * (u - 2.625 / d) + 0.984375
    return 1.0 - m.where(u < 1 / d, first, m.where(u < 2 / d, second, m.where(u < 2.5 / d, third, fourth)))


FAMILIES: dict[str, EaseFamily] = {
    "sine": _same(_sine),
    "quad": _power(2),
    "cubic": _power(3),
    "quart": _power(4),
    "quint": _power(5),
    "expo": _same(_expo),
    "circ": _same(_circ),
    "back": EaseFamily(_back(_BACK), _back(_BACK * 1.525)),
    "elastic": EaseFamily(_elastic(3.0, 10.75), _elastic(4.5, 11.125)),
    "bounce": _same(_bounce),
}
"""In the order in which they are offered."""
