"""Beats found in made tracks, sounds mixed, and a clock that stays with what is heard."""

import numpy as np
import pytest

from tests.files.sounds import RATE, beat_times, chance_hits, clicks, drums, rock
from wild_heron.desk.sound.clock import SoundClock
from wild_heron.edits.events import with_half_the_beats, with_twice_the_beats
from wild_heron.motion.beats import find_beats
from wild_heron.motion.sound import Track, mixed, outline
from wild_heron.motion.tempo import beat_frames
from wild_heron.scene import Beats, Rate, Scene, SceneError, Sound


@pytest.mark.parametrize("make", [clicks, drums, rock])
@pytest.mark.parametrize("tempo", [70.0, 84.0, 96.0, 113.0, 128.0, 144.0, 163.0, 180.0])
@pytest.mark.parametrize(("drift", "noise"), [(0.0, 0.0), (0.04, 0.04)])
def test_beats_are_found_within_25_ms(make, tempo, drift, noise):
    found = find_beats(make(tempo, 30.0, drift, noise), RATE)
    times = beat_times(tempo, 30.0, drift)
    off = np.abs(times[:, None] - found.seconds[None, :]).min(axis=1)
    # On some beats of the syncopated one there is but a cymbal, which noise hides.
    assert (off < 0.025).mean() >= (0.85 if make is rock and noise else 0.95)
    assert len(found.seconds) == pytest.approx(len(times), abs=3), "neither half nor twice as many"
    assert found.tempo == pytest.approx(tempo, rel=0.05)
    assert found.sure > 0.3
    # Neither early nor late on the whole.
    near = found.seconds[:, None] - times
    late = near[np.arange(len(near)), np.abs(near).argmin(axis=1)]
    assert abs(float(np.median(late))) < (0.009 if noise else 0.005)


SECONDS = np.arange(20 * RATE) / RATE
STEADY = {
    "tone": 0.5 * np.sin(2.0 * np.pi * 440.0 * SECONDS),
    "another tone": 0.5 * np.sin(2.0 * np.pi * 333.3 * SECONDS),
    "chord": sum(0.2 * np.sin(2.0 * np.pi * each * SECONDS) for each in (220.0, 277.0, 330.0)),
    "swell": np.sin(2.0 * np.pi * 220.0 * SECONDS) * (0.5 + 0.5 * np.sin(2.0 * np.pi * SECONDS / 7.0)),
    "white noise": np.random.default_rng(3).normal(size=len(SECONDS)) * 0.2,
    "like speech": np.random.default_rng(4).normal(size=len(SECONDS))
    * np.interp(SECONDS, np.arange(0.0, 21.0, 0.11), np.random.default_rng(5).uniform(0.0, 1.0, 191) ** 2),
    **{f"hits by chance {seed}": chance_hits(20.0, 44, seed) for seed in range(4)},
}


@pytest.mark.parametrize("name", STEADY)
def test_no_beats_are_found_where_nothing_repeats(name):
    found = find_beats(STEADY[name], RATE)
    assert len(found.seconds) == 0
    assert found.sure < 0.1


def test_twice_and_half_the_beats_go_back_and_forth():
    even = Scene(beats=Beats(tempo=90.0, first=5.0, downbeat=2))
    at = tuple(5.0 + 16.0 * k + 0.1 * (k % 3) for k in range(33))
    single = Scene(beats=Beats(90.0, 5.0, 4, 2, at))
    for scene in (even, single):
        twice = with_twice_the_beats(scene)
        before, after = (beat_frames(each.beats, scene.settings.rate, 0.0, 400.0) for each in (scene, twice))
        assert set(before[0].round(6)) <= set(after[0].round(6))
        assert len(after[0]) == pytest.approx(2 * len(before[0]), abs=1)
        assert with_half_the_beats(twice).beats == scene.beats
    halved = with_half_the_beats(single)
    assert halved.beats.tempo == 45.0
    # A bar goes on beginning where one did.
    frames, bars = beat_frames(halved.beats, single.settings.rate, 0.0, 400.0)
    known, known_bars = beat_frames(single.beats, single.settings.rate, 0.0, 400.0)
    assert set(frames[bars]) <= set(known[known_bars])
    with pytest.raises(SceneError, match="no beats"):
        with_half_the_beats(Scene())
    with pytest.raises(SceneError, match="already"):
        with_twice_the_beats(Scene(beats=Beats(tempo=300.0)))


def test_no_beats_are_found_where_nothing_happens():
    assert len(find_beats(np.zeros(10 * RATE), RATE).seconds) == 0
    assert len(find_beats(np.zeros(100), RATE).seconds) == 0


def test_sounds_are_placed_faded_and_made_louder():
    samples = np.full((2 * RATE, 2), 16384, np.int16)
    sound = Sound("S", "s.wav", 2.0, start=24.0, skip=0.5, gain=-6.0206, fade_in=0.1, fade_out=0.2)
    heard = mixed([Track(sound, samples)], Rate(24), 0.0, 4 * RATE)
    at = np.flatnonzero(heard[:, 0])
    assert at[0] / RATE == pytest.approx(1.0, abs=1e-3)
    assert at[-1] / RATE == pytest.approx(2.5, abs=1e-3)
    assert heard[round(1.7 * RATE)] == pytest.approx([0.25, 0.25], abs=1e-4)
    assert heard[round(1.05 * RATE), 0] == pytest.approx(0.125, abs=1e-3)
    assert heard[round(2.4 * RATE), 0] == pytest.approx(0.125, abs=1e-3)
    pieces = [mixed([Track(sound, samples)], Rate(24), k / 7.0, round(RATE / 7.0)) for k in range(28)]
    assert np.concatenate(pieces)[: 3 * RATE] == pytest.approx(heard[: 3 * RATE], abs=1e-4)
    assert not mixed([Track(sound, samples)], Rate(24), -3.0, RATE).any()


def test_the_outline_is_the_loudest_of_each_hundredth():
    samples = np.zeros((RATE, 2), np.int16)
    samples[4800:4805, 1] = -32768
    found = outline(samples)
    assert len(found) == 100
    assert np.flatnonzero(found).tolist() == [10]
    assert found[10] == 1.0


@pytest.mark.parametrize("drift", [-2e-4, 0.0, 3e-4])
@pytest.mark.parametrize("step", [0.01, 0.0213, 0.042])
def test_picture_and_sound_stay_together_for_ten_minutes(drift, step):
    """A device that runs a little fast or slow, and tells where it is in steps that come late by chance."""
    chance = np.random.default_rng(4)
    now = [0.0]
    heard = lambda: now[0] * (1.0 + drift)  # noqa: E731
    told = [0.0]

    def device() -> float:
        if heard() - told[0] >= step:
            told[0] = heard()
        return told[0]

    clock = SoundClock(device, lambda: now[0])
    worst, before = 0.0, -1.0
    for _ in range(int(600.0 / 0.009)):
        now[0] += float(chance.uniform(0.002, 0.016))
        shown = clock()
        if now[0] > 1.0:
            worst = max(worst, abs(shown - heard()))
        assert shown > before - 0.005
        before = shown
    assert now[0] > 590.0
    assert worst < 0.020


def test_a_device_that_stalls_does_not_hold_the_picture_up():
    now = [0.0]
    clock = SoundClock(lambda: min(now[0], 2.0), lambda: now[0])
    for k in range(400):
        now[0] = k / 100.0
        shown = clock()
    assert shown == pytest.approx(now[0], abs=0.03)
    assert clock.is_stalled
