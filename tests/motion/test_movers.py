"""What movers do to numbers, against SciPy and closed forms."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import lsim, lti

from wild_heron.motion.curve import Curve
from wild_heron.motion.movers.springs import (
    followed,
    followed_between,
    homogeneous,
    lagged,
    lagged_between,
    spring,
    swung_on,
)
from wild_heron.motion.movers.waves import bursts, eased_in, limited, treads, wave
from wild_heron.motion.noise import fractal_noise
from wild_heron.motion.sides import sides, slopes_at
from wild_heron.scene import Bezier, EasePart, Family, Flow, Handles, Hold, Key, Linear, Spring, Steps

bounces = st.floats(0.0, 0.9)
speeds = st.floats(0.2, 8.0)
rates = st.sampled_from([23.976, 24.0, 25.0, 30.0, 50.0, 60.0])


def followed_by_scipy(law, values, step):
    system = lti([law.omega**2], [1.0, 2.0 * law.damping * law.omega, law.omega**2])
    return lsim(system, values, np.arange(len(values)) * step)[1]


class TestSprings:
    @given(bounces, speeds, rates)
    @settings(max_examples=40, deadline=None)
    def test_they_are_what_scipy_integrates(self, bounce, speed, fps):
        law, step = spring(bounce, speed), 1.0 / (4.0 * fps)
        time = np.arange(0.0, 3.0, step)
        values = np.sin(3.0 * time) + np.maximum(time - 1.0, 0.0)
        made = followed(law, values[:, None], values[:, None], step)[:, 0, 0]
        assert np.abs(made - followed_by_scipy(law, values, step)).max() < 1e-9

    @given(st.floats(0.02, 0.9), speeds)
    @settings(max_examples=40, deadline=None)
    def test_a_step_overshoots_by_its_bounce(self, bounce, speed):
        law = spring(bounce, speed)
        assert np.exp(-np.pi * law.damping / np.sqrt(1.0 - law.damping**2)) == pytest.approx(bounce)
        top = np.pi / law.swing
        # The step at 0 is a jump: 0 just before, 1 just after.
        count = 400
        after, before = np.ones((count, 1)), np.ones((count, 1))
        after[0] = before[0] = 0.0
        start = followed(law, np.concatenate([[[0.0]], after]), np.concatenate([[[0.0]], before]), top / 200)
        jumped = np.concatenate([np.zeros((1, 1)), np.ones((count, 1))])
        made = followed(law, jumped, np.concatenate([[[0.0]], [[0.0]], np.ones((count - 1, 1))]), top / 200)
        assert len(start) == count + 1
        assert made[1 + 200, 0, 0] == pytest.approx(1.0 + bounce, abs=1e-9)
        assert made[:, 0, 0].max() == pytest.approx(1.0 + bounce, abs=1e-9)

    @given(bounces, speeds, st.integers(1, 7))
    @settings(max_examples=40, deadline=None)
    def test_a_finer_grid_gives_the_same_where_the_value_runs_straight(self, bounce, speed, parts):
        law, step = spring(bounce, speed), 1.0 / 24.0
        coarse = np.array([0.0, 0.0, 2.0, 1.0, 1.0, 4.0])[:, None]
        fine = np.interp(np.arange(5 * parts + 1) / parts, np.arange(6.0), coarse[:, 0])[:, None]
        one = followed(law, coarse, coarse, step)
        other = followed(law, fine, fine, step / parts)
        assert np.abs(one - other[::parts]).max() < 1e-9

    @given(bounces, speeds, st.floats(0.0, 1.0))
    @settings(max_examples=40, deadline=None)
    def test_between_points_it_is_as_on_a_grid_that_has_them(self, bounce, speed, share):
        law, step = spring(bounce, speed), 1.0 / 24.0
        values = np.array([[0.0], [1.0], [3.0]])
        states = followed(law, values, values, step)
        at = followed_between(law, states[1:2], values[1:2], values[2:3], step, np.array([share]))
        here = values[1] + (values[2] - values[1]) * share
        if share > 1e-6:
            two = np.array([values[1], here])
            slope = (two[1] - two[0]) / (share * step)
            rest = states[1, 0] - np.array([two[0, 0] - 2 * law.damping / law.omega * slope[0], slope[0]])
            expected = here - 2 * law.damping / law.omega * slope + (homogeneous(law, np.array(share * step)) @ rest)[0]
            assert at[0, 0] == pytest.approx(float(expected[0]), abs=1e-9)
        else:
            assert at[0, 0] == pytest.approx(states[1, 0, 0], abs=1e-4)

    @given(st.floats(0.05, 0.9), speeds)
    @settings(max_examples=30, deadline=None)
    def test_a_loop_is_its_steady_state(self, bounce, speed):
        law, count, step = spring(bounce, speed), 96, 1.0 / 48.0
        values = np.cos(np.arange(count + 1) * 2.0 * np.pi / count)[:, None]
        loop = followed(law, values, values, step, periodic=True)
        assert np.abs(loop[0] - loop[-1]).max() < 1e-9
        # The same as what it comes to when the motion has gone round long enough.
        rounds = int(np.ceil(30.0 / (law.decay * count * step))) + 1
        long = np.concatenate([values[:-1]] * rounds + [values[:1]])
        assert np.abs(followed(law, long, long, step)[-1] - loop[-1]).max() < 1e-8

    def test_what_stops_at_speed_swings_on_as_its_equation_says(self):
        law = spring(0.4, 1.3)
        seconds = np.linspace(0.0, 3.0, 200)
        made = swung_on(law, seconds, np.array([0.5]), np.array([0.0]), np.array([4.0]))
        late = np.maximum(seconds - 0.5, 0.0)
        free = 4.0 * np.exp(-law.decay * late) * np.sin(law.swing * late) / law.swing
        assert np.abs(made - free).max() < 1e-12
        assert (made[seconds <= 0.5] == 0.0).all()

    def test_a_swing_that_repeats_closes(self):
        law = spring(0.6, 0.7)
        seconds = np.linspace(0.0, 2.0, 101)
        loop = swung_on(law, seconds, np.array([0.5]), np.array([0.0]), np.array([4.0]), loop=2.0)
        assert loop[0] == pytest.approx(loop[-1], abs=1e-9)
        before = np.array([0.5 - 2.0 * k for k in range(40)])
        plain = swung_on(law, seconds, before, np.zeros(40), np.full(40, 4.0))
        assert np.abs(loop - plain).max() < 1e-9

    @given(st.floats(0.3, 40.0), rates)
    @settings(max_examples=30, deadline=None)
    def test_a_lag_is_what_scipy_integrates(self, rate, fps):
        step = 1.0 / (4.0 * fps)
        time = np.arange(0.0, 3.0, step)
        values = np.sin(3.0 * time) * 2.0
        made = lagged(rate, values[:, None], values[:, None], step)[:, 0]
        assert np.abs(made - lsim(lti([rate], [1.0, rate]), values, time)[1]).max() < 1e-9

    def test_a_lag_is_half_way_after_its_half_life(self):
        rate = np.log(2.0) / 0.25
        values = np.concatenate([[0.0], np.ones(200)])[:, None]
        before = np.concatenate([[0.0, 0.0], np.ones(199)])[:, None]
        made = lagged(rate, values, before, 0.01)
        between = lagged_between(rate, made[25:26], values[25:26], before[26:27], 0.01, np.array([1.0]))
        assert made[26, 0] == pytest.approx(0.5, abs=1e-9)
        assert between[0, 0] == pytest.approx(made[26, 0], abs=1e-12)


class TestWaves:
    @pytest.mark.parametrize("kind", ["sine", "triangle", "saw", "square", Family("cubic", "in-out")])
    def test_a_wave_stays_between_its_ends_and_repeats(self, kind):
        phase = np.linspace(-2.0, 2.0, 401)[:-1]
        made = wave(kind, phase)
        assert made.min() >= -1e-12
        assert made.max() <= 1.0 + 1e-12
        assert np.abs(made[:100] - made[100:200]).max() < 1e-9

    def test_a_saw_from_0_to_360_is_a_turn_a_period(self):
        assert np.allclose(360.0 * wave("saw", np.array([0.0, 0.25, 0.999])), [0.0, 90.0, 359.64])

    def test_an_ease_goes_there_and_back(self):
        made = wave(Family("quad", "in"), np.array([0.0, 0.25, 0.5, 0.75, 1.0]))
        assert np.allclose(made, [0.0, 0.25, 1.0, 0.75, 0.0])

    @given(st.floats(0.0, 5.0), st.floats(0.0, 10.0))
    def test_a_rate_that_eases_in_is_half_its_ease_behind(self, ease_in, time):
        gone = eased_in(np.array([time]), ease_in)[0]
        assert 0.0 <= gone <= time
        if time >= ease_in:
            assert gone == pytest.approx(time - 0.5 * ease_in, abs=1e-9)

    @given(st.lists(st.floats(-50.0, 50.0), min_size=2, max_size=30), st.floats(0.0, 3.0))
    def test_limits_hold_and_keep_the_order(self, values, soft):
        values = np.sort(values)
        made = limited(values, -2.0, 3.0, soft)
        assert made.min() >= -2.0
        assert made.max() <= 3.0
        assert (np.diff(made) >= 0.0).all()
        middle = (values > -2.0 + soft) & (values < 3.0 - soft)
        assert np.allclose(made[middle], values[middle])

    def test_a_soft_limit_bends_without_a_corner(self):
        edge = 3.0 - 0.5
        near = limited(np.array([edge - 1e-6, edge, edge + 1e-6]), -2.0, 3.0, 0.5)
        assert np.allclose(np.diff(near) / 1e-6, 1.0, atol=1e-3)

    def test_a_burst_halves_every_half_life(self):
        at = np.array([1.0])
        tops = np.array([1.0 + 1 / 24, 1.0 + 1 / 24 + 0.5])
        made = bursts(tops, at, np.ones(1), 0.5, 6.0, np.ones(1))
        assert made[1] == pytest.approx(0.5 * made[0])
        assert bursts(np.array([0.9]), at, np.ones(1), 0.5, 6.0, np.ones(1))[0] == 0.0

    def test_treads_have_no_mean_over_two_steps(self):
        seconds = np.arange(0.0, 1.0, 1e-3)
        bob, sway = treads(seconds, 0.5)
        assert abs(bob.mean()) < 1e-12
        assert abs(sway.mean()) < 1e-12
        assert np.abs(bob).max() == pytest.approx(1.0, abs=1e-4)


class TestNoise:
    @given(st.integers(0, 1000), st.integers(1, 8), st.floats(0.2, 3.0), st.floats(0.5, 9.0))
    @settings(max_examples=40, deadline=None)
    def test_a_loop_closes_with_its_slope(self, seed, octaves, period, loop):
        def noise(at):
            return fractal_noise(np.array([at]), seed, period, octaves, 0.6, loop)[0]

        assert noise(0.3) == pytest.approx(noise(0.3 + loop), abs=1e-9)
        assert noise(0.0) == pytest.approx(noise(loop), abs=1e-9)

    @given(st.integers(0, 1000), st.integers(1, 8), st.floats(0.0, 1.0))
    @settings(max_examples=30, deadline=None)
    def test_octaves_together_stay_within_one(self, seed, octaves, persistence):
        made = fractal_noise(np.linspace(0.0, 60.0, 2000), seed, 1.0, octaves, persistence)
        assert np.abs(made).max() <= 1.0
        assert np.ptp(made) > 0.3


KINDS = (
    Linear(), Family("cubic", "out"), Spring(), Hold(), Flow(), Flow("smooth"), Handles(1.0, 0.3, -2.0, 0.4), Steps(3),
    Steps(3, "start"), Steps(2, "both"), Family("expo", "out"), Family("expo", "in"), Family("elastic", "out"),
    EasePart(Family("bounce", "out"), 0.2, 1.0), Bezier(0.4, 0.0, 0.9, 0.1), Handles(1.0, 0.0, 2.0, 0.3),
)  # fmt: skip


class TestSides:
    @given(st.lists(st.sampled_from(KINDS), min_size=4, max_size=4), st.integers(0, 200))
    @settings(max_examples=80, deadline=None)
    def test_they_are_where_the_curve_tends_to(self, kinds, seed):
        chance = np.random.default_rng(seed)
        frames = np.cumsum(chance.uniform(5.0, 9.0, 5))
        spans = (*kinds, Linear())
        keys = tuple(Key(float(f), float(chance.normal()), span) for f, span in zip(frames, spans, strict=True))
        curve, near = Curve(keys), sides(keys)
        steps = 1e-5 * np.arange(1.0, 6.0)
        here, there = np.array([5.0, -10.0, 10.0, -5.0, 1.0]), np.array([-77.0, 214.0, -234.0, 122.0, -25.0]) / 12.0
        for k, frame in enumerate(frames.tolist()):
            for side, value, slope in ((-1.0, near.before, near.into), (1.0, near.after, near.out)):
                if k + min(side, 0.0) >= 0 and k + side < 5:
                    values = curve(frame + side * steps)
                    assert here @ values == pytest.approx(value[k], abs=1e-6)
                    assert side * (there @ values) / steps[0] == pytest.approx(slope[k], abs=5e-4)

    def test_what_is_vertical_is_told_so(self):
        for span in (Family("circ", "in"), Bezier(0.3, 0.0, 1.0, 0.5), EasePart(Family("circ", "in-out"), 0.2, 0.5)):
            near = sides((Key(0.0, 2.0, span), Key(10.0, -3.0)))
            assert near.into[1] == -np.inf
            assert near.before[1] == -3.0
            # A handle stays finite.
            assert slopes_at((Key(0.0, 2.0, span), Key(10.0, -3.0)), 1)[0] == pytest.approx(-1.5)
