"""Unit eases against the definitions and closed forms."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wild_heron.motion import Curve, unit_ease
from wild_heron.scene import Bezier, Family, Key, Steps
from wild_heron.scene.spans import CSS_EASE

T = np.linspace(0.0, 1.0, 401)
NAMES = ("sine", "quad", "cubic", "quart", "quint", "expo", "circ", "back", "elastic", "bounce")

CLOSED_FORMS = {
    "sine": lambda t: 1 - math.cos(math.pi * t / 2),
    "quad": lambda t: t**2,
    "cubic": lambda t: t**3,
    "quart": lambda t: t**4,
    "quint": lambda t: t**5,
    "expo": lambda t: 0.0 if t == 0 else 2 ** (10 * t - 10),
    "circ": lambda t: 1 - math.sqrt(1 - t**2),
    "back": lambda t: 2.70158 * t**3 - 1.70158 * t**2,
}


@pytest.mark.parametrize("name", CLOSED_FORMS)
def test_ease_in_is_its_closed_form(name):
    assert unit_ease(Family(name, "in"))(T) == pytest.approx([CLOSED_FORMS[name](t) for t in T], abs=1e-12)


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("direction", ["in", "out", "in-out"])
def test_families_start_at_0_and_end_at_1(name, direction):
    assert unit_ease(Family(name, direction))(np.array([0.0, 1.0])) == pytest.approx([0.0, 1.0], abs=1e-12)


@pytest.mark.parametrize("name", NAMES)
def test_out_is_in_turned_round_and_in_out_is_symmetric(name):
    ease_in, out = unit_ease(Family(name, "in")), unit_ease(Family(name, "out"))
    assert out(T) == pytest.approx(1.0 - ease_in(1.0 - T), abs=1e-12)
    both = unit_ease(Family(name, "in-out"))
    assert both(T) == pytest.approx(1.0 - both(1.0 - T), abs=1e-9)


def test_elastic_and_bounce_have_their_known_extremes():
    # The first bounce lands a quarter short of the floor, and elastic swings below zero before it leaves.
    assert unit_ease(Family("bounce", "out"))(np.array([1.5 / 2.75]))[0] == pytest.approx(0.75)
    assert unit_ease(Family("elastic", "in"))(T).min() == pytest.approx(-0.3716, abs=2e-3)


@pytest.mark.parametrize(
    ("jump", "expected"),
    [
        ("end", [0.0, 0.25, 0.5, 0.75, 1.0]),
        ("start", [0.25, 0.5, 0.75, 1.0, 1.0]),
        ("none", [0.0, 1 / 3, 2 / 3, 1.0, 1.0]),
        ("both", [0.2, 0.4, 0.6, 0.8, 1.0]),
    ],
)
def test_steps_follow_css(jump, expected):
    assert unit_ease(Steps(4, jump))(np.array([0.0, 0.25, 0.5, 0.75, 1.0])) == pytest.approx(expected)


def test_steps_without_jumps_need_two():
    with pytest.raises(ValueError, match="2 or more"):
        Steps(1, "none")


def bisected(bezier: Bezier, t: float) -> float:
    """The CSS definition, solved the slow way with plain floats."""

    def cubic(s: float, first: float, second: float) -> float:
        return 3 * (1 - s) ** 2 * s * first + 3 * (1 - s) * s * s * second + s**3

    low, high = 0.0, 1.0
    for _ in range(200):
        middle = (low + high) / 2
        low, high = (middle, high) if cubic(middle, bezier.x1, bezier.x2) < t else (low, middle)
    return cubic((low + high) / 2, bezier.y1, bezier.y2)


unit = st.floats(0.0, 1.0)


@given(unit, st.floats(-3, 3), unit, st.floats(-3, 3), st.lists(st.floats(1e-6, 1 - 1e-6), min_size=1, max_size=20))
def test_any_legal_cubic_bezier_solves_its_equation(x1, y1, x2, y2, times):
    bezier = Bezier(x1, y1, x2, y2)
    curve = Curve((Key(0.0, 0.0, bezier), Key(1.0, 1.0)))
    got = curve(np.array(times))
    for t, value in zip(times, got, strict=True):
        # Where time stands still the value may be any within rounding of t: compare with its neighbourhood.
        around = sorted([bisected(bezier, max(t - 1e-12, 0)), bisected(bezier, t), bisected(bezier, min(t + 1e-12, 1))])
        assert around[0] - 2e-7 <= value <= around[-1] + 2e-7


@pytest.mark.parametrize(
    "bezier", [Bezier(1, 0, 0, 1), Bezier(0, 0, 0, 0), Bezier(1, 1, 1, 1), Bezier(0, 1, 1, 0), Bezier(1, -2, 0, 3)]
)
def test_handles_at_their_limits(bezier):
    curve = Curve((Key(0.0, 10.0, bezier), Key(50.0, 20.0)))
    frames = np.linspace(0.0, 50.0, 997)
    got = curve(frames)
    assert np.isfinite(got).all()
    assert got[0] == 10.0
    assert got[-1] == 20.0
    inner = [i for i in range(1, 996) if abs(frames[i] / 50 - 0.5) > 0.01]
    assert got[inner] == pytest.approx([10 + 10 * bisected(bezier, frames[i] / 50) for i in inner], abs=1e-6)


def test_css_ease_has_its_published_middle():
    assert Curve((Key(0.0, 0.0, CSS_EASE), Key(1.0, 1.0)))(np.array([0.5]))[0] == pytest.approx(0.8024033877)
