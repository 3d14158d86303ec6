"""Keys of one channel: what an edit must not change, it does not."""

from itertools import pairwise

import msgspec
import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st

from wild_heron.motion import Curve, unit_ease
from wild_heron.motion.keys import (
    fixed,
    lengths_at,
    mirrored,
    reversed_keys,
    slopes_at,
    split,
    strengths,
    stretched,
    with_key,
    with_lengths,
    with_slopes,
)
from wild_heron.scene import Bezier, EasePart, Family, Flow, Handles, Hold, Key, Linear, Span, Spring, Steps

unit = st.floats(0.0, 1.0)
slopes = st.floats(-20.0, 20.0)
eases = st.one_of(
    st.just(Linear()),
    st.builds(Bezier, st.floats(0.01, 0.99), st.floats(-1, 2), st.floats(0.01, 0.99), st.floats(-1, 2)),
    st.builds(Family, st.sampled_from(["sine", "expo", "back", "bounce"]), st.sampled_from(["in", "out", "in-out"])),
    st.builds(Spring, st.floats(0.5, 6), st.floats(0.0, 0.9)),
)  # fmt: skip
spans = st.one_of(
    eases,
    st.just(Hold()),
    st.just(Flow()),
    st.just(Flow("smooth")),
    st.builds(Handles, slopes, st.floats(0.05, 1), slopes, st.floats(0.05, 1)),
    st.builds(Steps, st.integers(1, 9), st.sampled_from(["start", "end", "both"])),
)
smooth = st.one_of(
    eases.filter(lambda ease: getattr(ease, "name", "") != "expo"),
    st.just(Flow()),
    st.builds(Handles, slopes, unit, slopes, unit),
)


@st.composite
def runs(draw, kinds=spans, least=2):
    count = draw(st.integers(least, 6))
    frames = np.cumsum(draw(st.lists(st.floats(1.0, 30.0), min_size=count, max_size=count)))
    values = draw(st.lists(st.floats(-50, 50), min_size=count, max_size=count))
    return tuple(Key(float(f), v, draw(kinds)) for f, v in zip(frames, values, strict=True))


def curve_range(keys):
    frames = np.linspace(keys[0].frame, keys[-1].frame, 301)
    values = Curve(keys)(frames)
    return frames, values, max(float(np.ptp(values)), 1e-3)


@given(runs(), unit)
def test_a_key_put_in_changes_no_curve(keys, share):
    frame = keys[0].frame + share * (keys[-1].frame - keys[0].frame)
    assume(min(abs(frame - key.frame) for key in keys) > 1e-3)
    frames, _, size = curve_range(keys)
    denser = with_key(keys, frame)
    stepped = any(isinstance(key.span, Steps) for key in keys)
    assert len(denser) == len(keys) + 1 or (stepped and len(denser) > len(keys))
    # Not across what jumps: there the last bit of a frame decides.
    frames = frames[[min(abs(f - key.frame) for key in denser) > 1e-6 for f in frames]]
    curve = Curve(keys)
    off = np.abs(Curve(denser)(frames) - curve(frames))
    # Where a curve stands upright, as far off as the last bits of a frame make it.
    upright = np.abs(curve(frames + 1e-12) - curve(frames - 1e-12))
    assert np.sum(off > 1e-9 * size + upright) <= (9 * len(keys) if stepped else 0)


def test_a_key_put_into_a_step_that_jumps_leaves_the_span_before_alone():
    keys = (Key(0.0, 0.0), Key(4.0, 2.0, Steps(2, "start")), Key(8.0, 6.0))
    for frame in (5.0, 6.0, 7.0):
        denser = with_key(keys, frame)
        assert any(key.frame == frame for key in denser)
        frames = np.setdiff1d(np.linspace(0.0, 8.0, 65), [4.0, 6.0])
        assert Curve(denser)(frames) == pytest.approx(Curve(keys)(frames))


def test_a_key_put_where_handles_reach_far_past_it_keeps_the_curve():
    keys = (Key(0.0, 0.0, Handles(0.0, 1.0, 1.0, 1.0)), Key(3.0, 0.0))
    denser = with_key(keys, 2.5)
    assert denser[0].span.out_length > 1.0
    frames = np.linspace(0.0, 3.0, 400)
    assert Curve(denser)(frames) == pytest.approx(Curve(keys)(frames), abs=1e-7)
    spans = [key.span for key in denser]
    assert msgspec.json.decode(msgspec.json.encode(spans), type=list[Span]) == spans
    # Time would run back.
    with pytest.raises(ValueError, match="run back"):
        Handles(0.0, 1.2, 0.0, 1.2)


@given(runs(), st.floats(0.2, 5.0), st.floats(-50, 50))
def test_a_stretch_and_its_inverse_give_the_same_keys(keys, factor, about):
    back = stretched(stretched(keys, about, factor), about, 1.0 / factor)
    for old, new in zip(keys, back, strict=True):
        assert new.frame == pytest.approx(old.frame, abs=1e-9)
        assert new.value == old.value
        if isinstance(old.span, Handles):
            assert new.span.out_slope == pytest.approx(old.span.out_slope, abs=1e-9)
    frames, values, size = curve_range(keys)
    slow = Curve(stretched(keys, about, factor))(about + (frames[1:-1] - about) * factor)
    if not any(isinstance(key.span, Steps | Hold) for key in keys):
        assert np.abs(slow - values[1:-1]).max() < 1e-6 * size


@given(runs(smooth.filter(lambda span: not isinstance(span, Spring))))
def test_run_backwards_it_is_the_mirror_image_and_twice_itself(keys):
    back = reversed_keys(keys)
    frames, values, size = curve_range(keys)
    mirror = Curve(back)(keys[0].frame + keys[-1].frame - frames)
    assert np.abs(mirror - values).max() < 1e-5 * size
    again = reversed_keys(back)
    assert [key.span for key in again[:-1]] == [mirrored(mirrored(key.span)) for key in keys[:-1]]


@given(st.builds(Handles, slopes, unit, slopes, unit), st.floats(1, 50), st.floats(-20, 20), st.floats(-20, 20))
@example(Handles(3.0, 1.0, 0.0, 0.0), 7.0, 1e-307, 0.0)
def test_time_always_goes_forward_along_a_span_by_hand(span, length, low, high):
    curve = Curve((Key(0.0, low, span), Key(length, high)))
    frames = np.linspace(0.0, length, 400)
    values = curve(frames)
    assert np.isfinite(values).all()
    assert values[0] == pytest.approx(low)
    assert values[-1] == pytest.approx(high)
    # It lies in the box of its four points, as a Bézier does.
    reach = [low, high, low + span.out_slope * span.out_length * length, high - span.in_slope * span.in_length * length]
    assert min(reach) - 1e-6 <= values.min() + 1e-6 * max(map(abs, reach))
    assert values.max() - 1e-6 * max(map(abs, reach)) <= max(reach) + 1e-6


@given(runs(st.just(Flow())))
def test_a_monotone_flow_never_overshoots(keys):
    for left, right in pairwise(keys):
        values = Curve(keys)(np.linspace(left.frame, np.nextafter(right.frame, 0), 60))
        low, high = sorted((left.value, right.value))
        assert low - 1e-9 <= values.min()
        assert values.max() <= high + 1e-9


def test_a_smooth_flow_goes_through_its_keys_with_the_slope_of_the_parabola():
    keys = tuple(Key(f, f * f / 10, Flow("smooth")) for f in (0.0, 3.0, 10.0, 12.0))
    curve = Curve(keys)
    inside = np.linspace(3.0, 10.0, 20)
    assert curve(inside) == pytest.approx(inside**2 / 10, abs=1e-9)
    assert curve(np.array([0.0, 3.0, 10.0, 12.0])) == pytest.approx([0.0, 0.9, 10.0, 14.4])


@given(runs(smooth), st.integers(-3, 4))
def test_repeating_with_offset_is_continuous(keys, turn):
    curve = Curve(keys, "offset", "offset")
    length = keys[-1].frame - keys[0].frame
    seam = keys[0].frame + turn * length
    gap = keys[-1].value - keys[0].value
    assert curve(np.array([seam]))[0] == pytest.approx(keys[0].value + turn * gap, abs=1e-9 * max(abs(gap * turn), 1))
    inside = keys[0].frame + 0.37 * length
    assert curve(np.array([inside + turn * length]))[0] - curve(np.array([inside]))[0] == pytest.approx(
        turn * gap, abs=1e-6 * max(abs(gap), 1)
    )


def test_beyond_its_keys_a_channel_holds_goes_on_repeats_or_swings():
    keys = (Key(10.0, 0.0, Family("quad", "in")), Key(20.0, 5.0))
    at = np.array([0.0, 5.0, 25.0, 33.0])
    inside = lambda f: 5.0 * ((f - 10.0) / 10.0) ** 2  # noqa: E731
    assert Curve(keys)(at) == pytest.approx([0, 0, 5, 5])
    assert Curve(keys, "go", "go")(at) == pytest.approx([0, 0, 10, 18], abs=1e-5)
    assert Curve(keys, "repeat", "repeat")(at) == pytest.approx([inside(10), inside(15), inside(15), inside(13)])
    assert Curve(keys, "swing", "swing")(at) == pytest.approx([inside(20), inside(15), inside(15), inside(13)])
    assert Curve(keys, "offset", "offset")(at) == pytest.approx([-5, inside(15) - 5, inside(15) + 5, inside(13) + 10])


@given(eases, unit, unit)
def test_a_part_of_an_ease_is_that_part_of_it(ease, a, b):
    a, b = sorted((a, b))
    assume(b - a > 1e-3)
    whole = unit_ease(ease)
    low, high = whole(np.array([a, b]))
    assume(abs(high - low) > 1e-3)
    t = np.linspace(0.0, 1.0, 50)
    got = low + (high - low) * unit_ease(EasePart(ease, a, b))(t)
    assert got == pytest.approx(whole(a + t * (b - a)), abs=1e-9)


@given(runs(st.builds(Handles, slopes, st.floats(0.1, 1), slopes, st.floats(0.1, 1)), least=3), st.floats(-9, 9))
def test_slopes_set_by_hand_are_the_slopes_and_other_spans_stay(keys, slope):
    changed = with_slopes(keys, 1, slope, slope)
    assert slopes_at(changed, 1) == pytest.approx((slope, slope), abs=0.5 + 0.02 * abs(slope))
    assert changed[2:] == keys[2:]
    assert [key.value for key in changed] == [key.value for key in keys]


@given(
    runs(st.builds(Handles, slopes, st.floats(0.1, 1), slopes, st.floats(0.1, 1)), least=3),
    st.floats(0.01, 1.0),
    st.floats(0.01, 1.0),
)
def test_lengths_of_handles_set_by_hand_keep_slopes_and_keys(keys, into, out):
    changed = with_lengths(keys, 1, into, out)
    assert lengths_at(changed, 1) == (into, out)
    assert lengths_at(changed, 0) == lengths_at(keys, 0)
    assert (changed[0].span.in_slope, changed[1].span.out_slope) == (keys[0].span.in_slope, keys[1].span.out_slope)
    assert [(key.frame, key.value) for key in changed] == [(key.frame, key.value) for key in keys]


def test_a_length_beside_a_handle_longer_than_its_span_brings_that_one_back():
    keys = (Key(0.0, 0.0, Handles(1.0, 1.2, 1.0, 0.2)), Key(10.0, 5.0))
    assert with_lengths(keys, 1, 1.0)[0].span == Handles(1.0, 1.0, 1.0, 1.0)
    assert with_lengths(keys, 1, 7.0)[0].span.in_length == 1.0


@given(runs(spans, least=5), st.integers(0, 3), slopes)
def test_a_span_taken_in_hand_leaves_every_other_curve_as_it_is(keys, index, slope):
    """Whatever lies beside it: automatic slopes would notice."""
    changed = with_slopes(keys, index, out=slope)
    for k, (left, right) in enumerate(pairwise(keys)):
        frames = np.linspace(left.frame, np.nextafter(right.frame, -np.inf), 17)
        if k != index:
            spread = max(abs(key.value) for key in keys) + 1.0
            assert Curve(changed)(frames) == pytest.approx(Curve(keys)(frames), abs=1e-9 * spread)


def test_flows_that_are_fixed_keep_their_curve_when_a_neighbour_moves():
    keys = tuple(Key(f, v, Flow()) for f, v in ((0.0, 0.0), (10.0, 5.0), (20.0, 6.0), (30.0, 0.0)))
    made = fixed(keys)
    frames = np.linspace(0, 30, 100)
    assert Curve(made)(frames) == pytest.approx(Curve(keys)(frames), abs=1e-9)
    before, value, after = split(Hold(), 0.5, 10.0, 1.0, 9.0)
    assert (before, value, after) == (Hold(), 1.0, Hold())


def test_strengths_say_how_soft_both_ends_are():
    assert strengths(0.0, 0.0) == Bezier(0.0, 0.0, 1.0, 1.0)
    t = np.array([0.1, 0.9])
    soft, hard = unit_ease(strengths(0.8, 0.8))(t), unit_ease(strengths(0.1, 0.1))(t)
    assert soft[0] < hard[0]
    assert soft[1] > hard[1]


@given(runs(least=1), st.floats(-5.0, 190.0))
def test_one_frame_by_itself_is_the_same_bits_as_among_all(keys, frame):
    """What is compiled for a single frame is the span that it is in, and what that heeds."""
    whole = Curve(keys)(np.array([frame, frame + 1.0, frame]))[0]
    alone = Curve(keys)
    assert alone(np.array([frame]))[0] == whole
    assert alone(np.array([frame]))[0] == whole
    for key in keys:
        assert Curve(keys)(np.array([key.frame]))[0] == Curve(keys)(np.array([key.frame, key.frame]))[0]
