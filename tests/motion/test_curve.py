"""Key curves over arrays of frames."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from wild_heron.motion import Curve
from wild_heron.scene import Bezier, Family, Flow, Hold, Key, Linear, Steps

SPANS = [Hold(), Linear(), Flow(), Bezier(0.42, 0, 0.58, 1), Bezier(1, 0, 0, 1), Steps(3), Family("elastic", "out")]

frames_list = st.lists(st.integers(-500, 500), min_size=1, max_size=8, unique=True).map(sorted)
values = st.floats(-1e4, 1e4)
keys_of_curves = frames_list.flatmap(
    lambda frames: st.tuples(*(st.builds(Key, st.just(float(f)), values, st.sampled_from(SPANS)) for f in frames))
)


@given(keys_of_curves)
def test_a_curve_passes_through_its_keys_and_holds_outside(keys):
    curve = Curve(keys)
    frames = np.array([key.frame for key in keys])
    assert curve(frames) == pytest.approx([key.value for key in keys], rel=1e-12, abs=1e-9)
    outside = curve(np.array([frames[0] - 1e6, frames[-1] + 1e6]))
    assert outside.tolist() == [keys[0].value, keys[-1].value]


@given(keys_of_curves, st.lists(st.floats(-600, 600), min_size=2, max_size=40))
def test_one_call_gives_the_bits_of_single_calls(keys, frames):
    curve = Curve(keys)
    together = curve(np.array(frames))
    alone = np.concatenate([curve(np.array([frame])) for frame in frames])
    assert together.tobytes() == alone.tobytes()


@given(keys_of_curves)
def test_the_path_for_many_sorted_frames_gives_the_same_bits(keys):
    curve = Curve(keys)
    frames = np.linspace(-520.0, 520.0, 20_011)
    shuffled = np.random.default_rng(1).permutation(len(frames))
    assert curve(frames)[shuffled].tobytes() == curve(frames[shuffled]).tobytes()


@given(
    st.lists(st.tuples(st.integers(1, 40), values), min_size=2, max_size=9),
)
def test_flow_is_the_monotone_cubic_of_scipy_and_never_overshoots(steps):
    frames = np.cumsum([gap for gap, _ in steps]).astype(float)
    heights = np.array([value for _, value in steps])
    curve = Curve(tuple(Key(f, v, Flow()) for f, v in zip(frames, heights, strict=True)))
    at = np.linspace(frames[0], frames[-1], 301)
    got = curve(at)
    assert got == pytest.approx(PchipInterpolator(frames, heights)(at), rel=1e-9, abs=1e-7)
    for left, right, low, high in zip(frames, frames[1:], heights, heights[1:], strict=False):
        inside = got[(at >= left) & (at <= right)]
        slack = 1e-9 * (1 + abs(low) + abs(high))
        assert (inside >= min(low, high) - slack).all()
        assert (inside <= max(low, high) + slack).all()


def test_spans_of_different_kinds_meet():
    keys = (
        Key(0, 0, Hold()),
        Key(10, 5, Linear()),
        Key(20, 15, Steps(2)),
        Key(30, 25, Family("quad", "in")),
        Key(40, 35),
    )
    got = Curve(keys)(np.array([0, 9.999, 10, 15, 20, 24.9, 25, 29.9, 30, 35, 40, 99]))
    assert got == pytest.approx([0, 0, 5, 10, 15, 15, 20, 20, 25, 27.5, 35, 35])


def test_a_single_key_is_a_constant():
    assert Curve((Key(3.0, 7.5),))(np.array([-1.0, 3.0, 9.0])).tolist() == [7.5, 7.5, 7.5]
