"""Unit eases against the definitions and closed forms."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wild_heron.motion import Curve, unit_ease
from wild_heron.scene import Bezier, EasePart, Family, Flow, Handles, Hold, Key, Linear, Spring, Steps
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


@given(st.integers(2, 400), st.integers(1, 399), st.sampled_from(["start", "end", "both", "none"]))
def test_a_step_is_taken_at_its_very_moment_and_not_a_rounding_before(count, k, jump):
    k = min(k, count - 1)
    stair = unit_ease(Steps(count, jump))
    at = k / count
    before, on, after = stair(np.array([np.nextafter(at, 0.0), at, np.nextafter(at, 1.0)])).tolist()
    whole = {"start": count, "end": count, "both": count + 1, "none": count - 1}[jump]
    early = jump in ("start", "both")
    assert [before, on, after] == pytest.approx([(k - 1 + early) / whole, (k + early) / whole, (k + early) / whole])


@pytest.mark.parametrize("swings", [1.0, 2.0, 3.0, 3.5, 4.75, 5.999999, 6.0, 12.25])
@pytest.mark.parametrize("bounce", [0.1, 0.35, 0.7, 0.95])
def test_a_spring_goes_past_its_end_by_its_bounce_and_each_time_by_that_much_less(swings, bounce):
    t = np.linspace(0.0, 1.0, 200_001)
    x = unit_ease(Spring(swings, bounce))(t)
    assert (x[0], x[-1]) == (0.0, 1.0)
    assert np.abs(np.diff(x)).max() < 1e-3  # It does not jump, at its end neither.
    turns = np.flatnonzero(np.diff(np.sign(np.diff(x)))) + 1
    whole = [abs(float(x[k]) - 1.0) for k in turns][: int(swings)]
    assert whole == pytest.approx([bounce ** (k + 1) for k in range(int(swings))], abs=1e-6)
    assert x.max() == pytest.approx(1.0 + bounce, abs=1e-6)


def test_springs_of_nearly_the_same_swings_are_nearly_the_same():
    below, above = (unit_ease(Spring(3.0 + by, 0.7))(T) for by in (-1e-6, 1e-6))
    assert below[:-1] == pytest.approx(above[:-1], abs=1e-4)


LOG = 10 * math.log(2)
ELASTIC = 2 * math.pi / 3
SLOPES = {
    Family("sine", "in"): (0.0, math.pi / 2), Family("quint", "in"): (0.0, 5.0), Family("cubic", "out"): (3.0, 0.0),
    Family("expo", "in"): (LOG / 1024, LOG), Family("expo", "out"): (LOG, LOG / 1024),
    Family("expo", "in-out"): (LOG / 1024, LOG / 1024), Family("circ", "in"): (0.0, 0.0),
    Family("circ", "out"): (0.0, 0.0), Family("back", "in"): (0.0, 4.70158), Family("bounce", "out"): (0.0, 0.6875),
    Family("elastic", "out"): (
        LOG, -(LOG * math.sin(-10.75 * ELASTIC) + 10 * ELASTIC * math.cos(-10.75 * ELASTIC)) / 1024,
    ),
    Steps(4): (0.0, 0.0), Steps(5000, "both"): (0.0, 0.0), Linear(): (1.0, 1.0), Hold(): (0.0, 0.0),
    CSS_EASE: (0.4, 0.0), Bezier(0, 0, 0.5, 1): (2.0, 0.0), Bezier(0, 1, 1, 0): (0.0, 0.0),
    Bezier(1, 0, 0, 1): (0.0, 0.0), Bezier(0.5, -1, 1, 1): (-2.0, 4.0), Bezier(0.2, 0.5, 0.9, 0.0): (2.5, 10.0),
    Handles(3.0, 0.9, -2.0, 0.1): (3.0, -2.0), Handles(3.0, 0.2, -2.0, 0.3): (3.0, -2.0), Flow(): (1.0, 1.0),
    EasePart(Family("quad", "in"), 0.5, 1.0): (2 / 3, 4 / 3), Spring(3.5, 0.7): (0.0, None),
}  # fmt: skip


@pytest.mark.parametrize("span", SLOPES, ids=repr)
def test_beyond_its_keys_a_curve_keeps_going_at_the_slope_it_has_there(span):
    length, rise = 24.0, 10.0
    curve = Curve((Key(24.0, 5.0, span), Key(48.0, 15.0)), "go", "go")
    before, after = SLOPES[span]
    scale = 1.0 if isinstance(span, Handles) else rise / length
    (at_first, early) = curve(np.array([24.0, 14.0])).tolist()
    assert early - at_first == pytest.approx(-10.0 * before * scale, abs=1e-6)
    if after is not None:
        assert curve(np.array([72.0]))[0] == pytest.approx(15.0 + 24.0 * after * scale, abs=1e-6)


@given(
    st.sampled_from(NAMES), st.sampled_from(["in", "out", "in-out"]), st.sampled_from([-1.0, 1.0]),
    st.floats(0.5, 200.0), st.floats(0.0, 100.0),
)  # fmt: skip
def test_no_family_runs_away_beyond_its_keys(name, direction, side, length, away):
    curve = Curve((Key(0.0, 0.0, Family(name, direction)), Key(length, 1.0)), "go", "go")
    end = length if side > 0 else 0.0
    speed = abs(float(curve(np.array([end + side * away]))[0] - curve(np.array([end]))[0])) / max(away, 1e-9)
    assert speed <= 25.0 / length
