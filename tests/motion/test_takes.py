"""Takes: reading them between samples, mending, steadying and thinning them, against a made hand without flaws."""

from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation, Slerp

from wild_heron.motion.takes.arranging import join, reverse, start_here, stretch, trim
from wild_heron.motion.takes.fewest import Closeness, Thinning, every_nth, fewest
from wild_heron.motion.takes.mending import find_marks, mark, mend
from wild_heron.motion.takes.sampling import at_times, between, onto_frames, unrolled
from wild_heron.motion.takes.smoothing import smoothed
from wild_heron.motion.takes.steadying import GRADES, shake_of, steady
from wild_heron.scene import TURN, SceneError, Take, packed
from wild_heron.scene.channels import POSITION
from wild_heron.scene.takes import check_take
from wild_heron.tracker.hand import CLEAN, GESTURES, Flaws, made_hand, tracked

COLUMNS = (*POSITION, *TURN)


def take_of(times, position, quaternion, name="Take"):
    made = Take("take-1", name, "cam", COLUMNS, packed(times, np.column_stack([position, quaternion])))
    check_take(made)
    return made


def recorded(gesture="walk", seconds=8.0, seed=1, flaws=None, rate=90.0):
    sent = tracked(gesture, seconds, rate, seed, flaws)
    return take_of(sent.times, sent.hand.position, sent.hand.quaternion)


@dataclass
class Off:
    """How far a take is from what the hand meant: root mean squares, in units and degrees."""

    units: float
    degrees: float


def off(take, gesture="walk", seed=1, inside=0.0):
    times = take.times
    kept = (times >= times[0] + inside) & (times <= times[-1] - inside)
    meant = made_hand(gesture, times, seed)
    away = np.linalg.norm(take.column(*POSITION) - meant.position, axis=1)[kept]
    turn = Rotation.from_quat(take.column(*TURN)) * Rotation.from_quat(meant.quaternion).inv()
    return Off(np.sqrt((away**2).mean()), np.degrees(np.sqrt((turn.magnitude()[kept] ** 2).mean())))


class TestBetween:
    def test_rotations_are_slerped_and_places_run_straight(self):
        take = recorded(flaws=CLEAN)
        at = np.linspace(take.times[0], take.times[-1], 777)
        by_scipy = Slerp(take.times, Rotation.from_quat(take.column(*TURN)))(at)
        turned = Rotation.from_quat(between(take, TURN, at)) * by_scipy.inv()
        assert turned.magnitude().max() < 1e-7
        straight = np.stack([np.interp(at, take.times, take.column(name)[:, 0]) for name in POSITION], axis=1)
        assert np.abs(between(take, POSITION, at) - straight).max() < 1e-12

    def test_onto_frames_is_the_exact_motion(self):
        take = recorded("look", flaws=CLEAN)
        framed = onto_frames(take, 24.0)
        assert np.allclose(np.diff(framed.times), 1.0 / 24.0)
        error = off(framed, "look")
        assert error.units < 2e-4
        assert error.degrees < 5e-3

    @given(st.integers(0, 50), st.sampled_from(["xyz", "xzy", "yxz", "yzx", "zxy", "zyx"]))
    @settings(max_examples=30, deadline=None)
    def test_angles_run_on_without_jumps(self, seed, order):
        chance = np.random.default_rng(seed)
        spins = np.cumsum(chance.normal(0.0, 0.08, (400, 3)), axis=0)
        turns = Rotation.from_rotvec(spins).as_quat()
        angles = unrolled(turns, order)
        # Written as the application has it, "yxz" is R = Ry·Rx·Rz: SciPy's intrinsic order.
        again = Rotation.from_euler(order.upper(), angles[:, ["xyz".index(axis) for axis in order]], degrees=True)
        assert (again * Rotation.from_quat(turns).inv()).magnitude().max() < 1e-6
        middle = angles[:, "xyz".index(order[1])]
        # Away from the poles of the order angles go as quickly as the rotation does.
        tame = np.abs(np.cos(np.radians(middle))) > 0.3
        steps = np.abs(np.diff(angles, axis=0)).max(axis=1)
        assert steps[tame[1:] & tame[:-1]].max(initial=0.0) < 60.0

    def test_a_turn_of_several_rounds_is_counted_on(self):
        times = np.arange(0.0, 4.0, 1 / 60)
        take = take_of(
            times, np.zeros((240, 3)), Rotation.from_euler("y", 200.0 * times[:, None], degrees=True).as_quat()
        )
        assert unrolled(take.column(*TURN), "yxz")[-1, 1] == pytest.approx(200.0 * times[-1])


class TestMending:
    @pytest.mark.parametrize("gesture", GESTURES)
    def test_gaps_and_jumps_are_marked_and_nothing_else(self, gesture):
        assert find_marks(recorded(gesture, flaws=CLEAN)) == ()
        assert find_marks(recorded(gesture, flaws=Flaws(lost=0.0, late=0.0, jumps=0.0))) == ()
        sent = tracked(gesture, 8.0, 90.0, 2, Flaws(jumps=0.0, lost=0.0))
        position = sent.hand.position.copy()
        position[300:330] += [0.2, 0.0, 0.1]
        keep = np.ones(len(position), dtype=bool)
        keep[500:520] = False
        take = take_of(sent.times[keep], position[keep], sent.hand.quaternion[keep])
        marks = {mark.kind: mark for mark in find_marks(take)}
        assert set(marks) == {"gap", "jump"}
        assert marks["jump"].start == pytest.approx(sent.times[299])
        assert marks["jump"].end == pytest.approx(sent.times[330])
        assert marks["gap"].start == pytest.approx(sent.times[499])
        assert marks["gap"].end == pytest.approx(sent.times[520])

    def test_what_is_filled_is_near_what_the_hand_meant(self):
        sent = tracked("walk", 8.0, 90.0, 2, CLEAN)
        position = sent.hand.position.copy()
        position[300:320] += [0.4, 0.0, 0.1]
        keep = np.ones(len(position), dtype=bool)
        keep[500:515] = False
        take = mark(take_of(sent.times[keep], position[keep], sent.hand.quaternion[keep]))
        mended = mend(take)
        assert len(mended.times) == pytest.approx(720, abs=2)
        assert mended.marks == ()
        error = off(mended, seed=2)
        assert error.units < 0.004
        worst = np.abs(mended.column(*POSITION) - made_hand("walk", mended.times, 2).position).max()
        assert worst < 0.03
        assert take.samples == mark(take).samples

    def test_cut_out_leaves_out_and_makes_up_nothing(self):
        take = mark(recorded(seed=5, flaws=Flaws(jumps=20.0)))
        jumps = [each for each in take.marks if each.kind == "jump"]
        assert jumps
        cut = mend(take, "cut")
        assert set(cut.times) < set(take.times)
        for each in jumps:
            assert not ((cut.times > each.start) & (cut.times < each.end)).any()

    def test_a_tracking_that_jumped_for_good_goes_on_from_where_it_was(self):
        sent = tracked("push", 8.0, 90.0, 4, Flaws(jumps=0.0, lost=0.0, late=0.0))
        position = sent.hand.position.copy()
        position[400:] += [0.5, 0.2, 0.0]
        take = mark(take_of(sent.times, position, sent.hand.quaternion))
        assert [each.kind for each in take.marks] == ["step"]
        assert off(mend(take), "push", 4).units < 0.03


class TestSteadying:
    def moving_average(self, take, grade):
        """The plain moving average that lets as much of plain noise through: ½ / (0.873 · cutoff) seconds wide."""
        step = take.seconds / (take.count - 1)
        width = max(round(0.573 / GRADES[grade] / step) | 1, 3)
        padded = np.pad(take.column(*COLUMNS), ((width // 2, width // 2), (0, 0)), mode="edge")
        columns = np.stack([np.convolve(padded[:, k], np.ones(width) / width, "valid") for k in range(7)], axis=1)
        columns[:, 3:] /= np.linalg.norm(columns[:, 3:], axis=1, keepdims=True)
        return take_of(take.times, columns[:, :3], columns[:, 3:])

    @pytest.mark.parametrize("grade", GRADES)
    def test_it_is_nearer_to_what_the_hand_meant_than_a_moving_average(self, grade):
        ratios = []
        for gesture in GESTURES:
            for seed in range(1, 6):
                take = mark(recorded(gesture, 12.0, seed))
                mended = mend(take)
                made, plain = (
                    off(steady(mended, grade), gesture, seed),
                    off(self.moving_average(mended, grade), gesture, seed),
                )
                ratios.append((made.units / plain.units, made.degrees / plain.degrees))
                # Of the recording itself, whose jumps it spreads out, all the more.
                raw = off(self.moving_average(take, grade), gesture, seed)
                assert made.units < max(raw.units, 0.0035)
        assert (np.mean(ratios, axis=0) < 0.96).all()

    @pytest.mark.parametrize(("grade", "units", "degrees"), [("light", 0.0045, 0.25), ("firm", 0.016, 0.65)])
    def test_what_the_hand_meant_is_recovered(self, grade, units, degrees):
        for gesture in GESTURES:
            error = off(steady(mend(mark(recorded(gesture, 12.0, 3))), grade), gesture, 3)
            assert error.units < units, gesture
            assert error.degrees < degrees, gesture

    @pytest.mark.parametrize("grade", GRADES)
    def test_it_does_not_delay(self, grade):
        times = np.arange(0.0, 20.0, 1 / 90)
        move = np.sin(2.0 * np.pi * 0.2 * times) + 0.3 * np.sin(2.0 * np.pi * 0.07 * times)
        noisy = move + np.random.default_rng(1).normal(0.0, 0.01, len(times))
        take = take_of(times, np.stack([noisy, 0 * times, 0 * times], axis=1), np.tile([0, 0, 0, 1.0], (len(times), 1)))
        made = steady(take, grade).column("position.x")[:, 0]
        centred, other = move - move.mean(), made - made.mean()
        correlation = np.correlate(other, centred, "full")
        assert int(np.argmax(correlation)) - (len(times) - 1) == 0

    def test_what_is_smooth_passes_unchanged(self):
        times = np.arange(0.0, 6.0, 1 / 60)
        parabola = np.stack([3.0 * times - 0.4 * times**2, times, 0.0 * times], axis=1)
        for cutoff in GRADES.values():
            assert np.abs(smoothed(parabola, 1 / 60, cutoff) - parabola).max() < 1e-4

    def test_half_a_wave_of_its_cutoff_comes_through(self):
        step = 1 / 90
        times = np.arange(0.0, 30.0, step)
        for cutoff in (0.5, 1.2, 3.0):
            wave = np.sin(2.0 * np.pi * cutoff * times)[:, None]
            middle = slice(len(times) // 3, 2 * len(times) // 3)
            assert np.abs(smoothed(wave, step, cutoff))[middle].max() == pytest.approx(0.5, abs=0.01)

    def test_human_touch_keeps_the_sway_and_lets_the_jitter_go(self):
        take = mark(recorded("walk", 12.0, 6, Flaws(jumps=0.0, lost=0.0)))
        strong = steady(take, "strong")
        touched = steady(take, "strong", sway=1.0)
        assert off(touched, seed=6).units < 0.3 * off(strong, seed=6).units
        assert shake_of(touched) < 0.75 * shake_of(take)
        everything = steady(take, "strong", sway=1.0, jitter=1.0)
        assert shake_of(everything) > 0.9 * shake_of(take)

    def test_less_shake_is_left_the_stronger_it_is(self):
        take = mark(recorded("walk", 12.0, 6))
        left = [shake_of(steady(take, grade)) for grade in ("light", "firm", "strong")]
        assert shake_of(mend(take)) > left[0] > left[1] > left[2]


class TestFewest:
    def test_it_keeps_to_the_take(self):
        take = steady(mark(recorded("look", 10.0, 2)), "firm")
        thin = fewest(take, Closeness(0.005, 0.05))
        back = at_times(thin, take.times)
        assert np.linalg.norm(back[:, :3] - take.column(*POSITION), axis=1).max() < 0.0051
        turn = Rotation.from_quat(back[:, 3:]) * Rotation.from_quat(take.column(*TURN)).inv()
        assert np.degrees(turn.magnitude().max()) < 0.051
        assert thin.count < take.count / 12

    def test_pixels_count_too(self):
        take = steady(mark(recorded("push", 10.0, 2)), "firm")
        wide = fewest(take, Closeness(1.0, 10.0))
        near = fewest(take, Closeness(1.0, 10.0, 0.5), lambda a, b: 800.0 * np.linalg.norm(a[:, :3] - b[:, :3], axis=1))
        assert near.count > wide.count

    @pytest.mark.parametrize("seed", range(12))
    def test_it_is_near_the_best_there_is(self, seed):
        chance = np.random.default_rng(seed)
        times = np.arange(70) / 24.0
        columns = np.zeros((70, 7))
        columns[:, 6] = 1.0
        for k in range(3):
            amount, phase = chance.uniform(0.2, 1.5, 4), chance.uniform(0, 6, 4)
            columns[:, k] = sum(
                a * np.sin(w * times + p) for a, w, p in zip(amount, (0.7, 1.9, 3.1, 6.0), phase, strict=True)
            )
        take = take_of(times, columns[:, :3], columns[:, 3:])
        allowed = Closeness(0.05, 1.0)
        assert fewest(take, allowed).count <= 1.3 * self.exhaustive(Thinning(take, allowed))

    @pytest.mark.parametrize("noise", [0.01, 0.02, 0.04, 0.08])
    def test_of_a_noisy_take_it_is_within_a_tenth_of_the_best(self, noise):
        chance = np.random.default_rng(7)
        times = np.arange(240) / 60.0
        columns = np.zeros((240, 7))
        columns[:, 6] = 1.0
        for k in range(3):
            columns[:, k] = np.sin((k + 1.0) * times) + chance.normal(size=240) * noise
        take = take_of(times, columns[:, :3], columns[:, 3:])
        allowed = Closeness(0.06, 1.0)
        made = fewest(take, allowed)
        assert made.count <= 1.1 * self.exhaustive(Thinning(take, allowed))
        # And it keeps to every sample.
        assert np.linalg.norm(at_times(made, times)[:, :3] - columns[:, :3], axis=1).max() <= 0.06 + 1e-9

    def exhaustive(self, thinning):
        """The fewest samples of all ways through those stretches that fit, with any slopes that there are."""
        count, kinds = len(thinning.times), len(thinning.slopes)
        best = np.full((count, kinds), count + 1)
        best[0] = 1
        fit = {
            (length, a, b): thinning.all_fit(length, a, b)
            for length in range(1, count) for a in range(kinds) for b in range(kinds)
        }  # fmt: skip
        for end in range(1, count):
            for start in range(end):
                for a in range(kinds):
                    for b in range(kinds):
                        if best[start, a] + 1 < best[end, b] and fit[end - start, a, b][start]:
                            best[end, b] = best[start, a] + 1
        return int(best[-1].min())

    def test_every_nth_runs_smoothly_through_those_it_keeps(self):
        take = recorded("look", flaws=CLEAN)
        thin = every_nth(take, 8)
        assert thin.times[0] == take.times[0]
        assert thin.times[-1] == take.times[-1]
        assert np.abs(at_times(thin, take.times) - take.table()[:, 1:]).max() < 2e-3


class TestArranging:
    def test_stretch_trim_and_reverse_are_where_the_take_is(self):
        take = recorded("walk", flaws=CLEAN)
        start = take.times[0]
        at = np.linspace(0.5, 3.0, 50)
        slow = stretch(take, 2.0)
        assert np.allclose(at_times(slow, start + 2.0 * at), at_times(take, start + at))
        part = trim(take, start + 0.5, start + 3.0)
        assert part.times[0] == pytest.approx(start + 0.5)
        assert np.allclose(at_times(part, start + at), at_times(take, start + at))
        back = reverse(take)
        assert np.allclose(at_times(back, take.times[-1] - at), at_times(take, start + at))
        assert np.allclose(reverse(back).table(), take.table())
        with pytest.raises(SceneError):
            trim(take, 100.0, 200.0)

    def test_thinned_takes_are_stretched_and_reversed_with_their_slopes(self):
        take = fewest(steady(recorded("walk"), "firm"))
        at = np.linspace(take.times[0], take.times[-1], 200)
        assert np.allclose(at_times(stretch(take, 3.0), take.times[0] + 3.0 * (at - take.times[0])), at_times(take, at))
        assert np.allclose(at_times(reverse(take), take.times[0] + take.times[-1] - at), at_times(take, at))

    def test_start_here_faces_this_way_and_keeps_the_horizon(self):
        take = recorded("walk", flaws=CLEAN)
        put = start_here(take, np.array([5.0, 2.0, -1.0]), np.array([1.0, 0.7, 0.0]))
        assert np.allclose(put.column(*POSITION)[0], [5.0, 2.0, -1.0])
        ahead = -Rotation.from_quat(put.column(*TURN)[0]).as_matrix()[:, 2]
        assert np.arctan2(ahead[2], ahead[0]) == pytest.approx(0.0, abs=1e-9)
        before, after = (Rotation.from_quat(each.column(*TURN)).as_matrix()[:, 1, 1] for each in (take, put))
        assert np.allclose(before, after)
        steps = [np.linalg.norm(np.diff(each.column(*POSITION), axis=0), axis=1) for each in (take, put)]
        assert np.allclose(*steps)

    def test_joined_takes_run_into_each_other(self):
        first, second = recorded("walk", flaws=CLEAN), recorded("look", seed=2, flaws=CLEAN)
        both = join(first, second, 1.0)
        assert both.seconds == pytest.approx(first.seconds + second.seconds - 1.0)
        assert np.allclose(at_times(both, np.array([2.0])), at_times(first, np.array([2.0])), atol=1e-4)
        speed = np.linalg.norm(np.diff(both.column(*POSITION), axis=0), axis=1)
        assert speed.max() < 1.5 * np.linalg.norm(np.diff(first.column(*POSITION), axis=0), axis=1).max()
        with pytest.raises(SceneError, match="same channels"):
            join(first, Take("x", "X", "cam", ("dial.turn",), packed(first.times, first.times[:, None])), 1.0)


class TestWhatATakeMayHold:
    @pytest.mark.parametrize(
        ("columns", "samples", "why"),
        [
            (COLUMNS, b"12345", "no table"),
            (("position.x",), packed(np.array([0.0, 0.0]), np.zeros((2, 1))), "not in order"),
            (("position.x",), packed(np.array([0.0, 1.0]), np.array([[0.0], [np.nan]])), "finite"),
            (COLUMNS, packed(np.array([0.0, 1.0]), np.zeros((2, 7))), "unit quaternions"),
            (("turn.x",), packed(np.array([0.0, 1.0]), np.zeros((2, 1))), "needs all of"),
            (("position.x", "position.x"), packed(np.array([0.0]), np.zeros((1, 2))), "twice"),
        ],
    )
    def test_what_is_none_is_refused_by_name(self, columns, samples, why):
        with pytest.raises(SceneError, match=f"Odd.*{why}"):
            check_take(Take("odd", "Odd", "cam", columns, samples))
