"""From one rotation to another while both turn."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation, Slerp

from wild_heron.space.rotation import (
    angle_between,
    euler_rates_to_spin,
    euler_to_quaternion,
    quaternion_to_vector,
    vector_to_quaternion,
)
from wild_heron.space.turning import Turning, frames_between, turning, turning_over

TIMES = np.linspace(0.0, 48.0, 97)
seeds = st.integers(0, 10_000)


def euler(*angles, order="YXZ"):
    return Rotation.from_euler(order, np.stack(np.broadcast_arrays(*angles), axis=-1), degrees=True).as_quat()


def degrees_apart(a, b):
    return np.degrees(angle_between(a, b))


@given(seeds)
@settings(max_examples=40, deadline=None)
def test_turns_as_vectors_are_scipys(seed):
    turns = Rotation.random(20, random_state=seed)
    assert quaternion_to_vector(turns.as_quat()) == pytest.approx(turns.as_rotvec(), abs=1e-9)
    assert degrees_apart(vector_to_quaternion(turns.as_rotvec()), turns.as_quat()) == pytest.approx(0.0, abs=1e-6)


@given(seeds, st.sampled_from(["xyz", "yxz", "zyx", "zxy"]))
@settings(max_examples=40, deadline=None)
def test_a_spin_is_how_fast_angles_turn(seed, order):
    chance = np.random.default_rng(seed)
    angles, rates, step = chance.uniform(-4.0, 4.0, (5, 3)), chance.normal(size=(5, 3)), 1e-5
    after, before = (Rotation.from_quat(euler_to_quaternion(angles + s * rates, order)) for s in (step, -step))
    assert euler_rates_to_spin(angles, rates, order) == pytest.approx(
        (after * before.inv()).as_rotvec() / (2.0 * step), abs=1e-7
    )


@given(seeds, st.floats(-0.3, 1.3))
@settings(max_examples=40, deadline=None)
def test_what_stands_still_goes_the_short_way_as_scipy_has_it(seed, share):
    a, b = Rotation.random(2, random_state=seed)
    way = Turning.short("arc").at(np.zeros(1), a.as_quat()[None], b.as_quat()[None], np.array([share]))
    if 0.0 <= share <= 1.0:
        true = Slerp([0.0, 1.0], Rotation.concatenate([a, b]))([share])
        assert degrees_apart(way, true.as_quat()) == pytest.approx(0.0, abs=1e-5)


@pytest.mark.parametrize("upright", [True, False])
def test_several_turns_are_followed_and_both_ends_met(upright):
    a, b = euler(TIMES * 25.0, 10.0, 0.0), euler(-TIMES * 5.0 + 30.0, -20.0, 0.0)
    way = turning(TIMES, a, b, upright, 48)
    fine = np.linspace(0.0, 48.0, 4801)
    a, b = euler(fine * 25.0, 10.0, 0.0), euler(-fine * 5.0 + 30.0, -20.0, 0.0)
    for share, end in ((0.0, a), (1.0, b)):
        assert degrees_apart(way.at(fine, a, b, np.full(4801, share)), end).max() < 1e-5
    made = way.at(fine, a, b, fine / 48.0)
    assert degrees_apart(made[1:], made[:-1]).max() < 1.0


@given(seeds, st.booleans())
@settings(max_examples=60, deadline=None)
def test_whatever_turns_it_never_leaps(seed, upright):
    """Two that tumble by up to four turns each about axes of their own."""
    chance = np.random.default_rng(seed)
    starts, axes = Rotation.random(4, random_state=seed)[:2], chance.normal(size=(2, 3))
    fast = chance.uniform(0.0, 8.0 * np.pi, 2) / 48.0

    def both(times):
        turns = [
            Rotation.from_rotvec(np.outer(times * f, n / np.linalg.norm(n))) for f, n in zip(fast, axes, strict=True)
        ]
        return tuple((turn * start).as_quat() for turn, start in zip(turns, starts, strict=True))

    way = turning_over(both, 0.0, 48.0, upright, 24.0)
    fine = np.linspace(0.0, 48.0, 4801)
    made = way.at(fine, *both(fine), 0.5 - 0.5 * np.cos(fine * np.pi / 48.0))
    own = np.degrees(fast.max()) * 0.01
    assert degrees_apart(made[1:], made[:-1]).max() < 4.0 * own + 0.6
    # Asked for alone it is the same.
    for k in (0, 1234, 4800):
        alone = way.at(fine[k : k + 1], *both(fine[k : k + 1]), np.array([0.5 - 0.5 * np.cos(fine[k] * np.pi / 48.0)]))
        assert (alone[0] == made[k]).all()


@given(st.floats(-170.0, 170.0), st.floats(-80.0, 80.0), st.floats(-80.0, 80.0), st.floats(0.0, 1.0))
@settings(max_examples=60, deadline=None)
def test_between_level_cameras_it_is_level(heading, low, high, share):
    a, b = euler(np.array([20.0]), low, 0.0), euler(np.array([20.0 + heading]), high, 0.0)
    made = Turning.short("level").at(np.zeros(1), a, b, np.array([share]))
    between = euler(np.array([20.0 + heading * share]), low + (high - low) * share, 0.0)
    assert degrees_apart(made, between).max() < 1e-5


def test_what_turns_fast_is_read_closely():
    def read(frames):
        return np.stack(
            [euler(frames * 3.0, 0.0, 0.0), euler(np.where(frames > 20.0, frames * 90.0, 1800.0), 0.0, 0.0)]
        )

    frames = frames_between(read, 0.0, 40.0, 20.0)
    assert 20.0 in frames
    assert np.diff(frames[frames < 19.0]).max() == pytest.approx(0.5)
    assert np.diff(frames[frames > 20.5]).max() <= 0.25
