"""Which frame of a moving picture shows when."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.motion.timing import source_frame, source_seconds


def movie(count: int = 10, rate: float = 12.0, **timing) -> wh.Movie:
    return wh.Movie("m.mp4", count, rate, wh.Timing(**timing))


@given(st.integers(0, 500), st.sampled_from([24.0, 25.0, 24000 / 1001, 60.0]))
def test_at_the_scenes_own_rate_every_frame_shows_once(frame, rate):
    assert source_frame(movie(1000, rate, start=3.0), frame + 3.0, rate) == frame


@pytest.mark.parametrize(
    ("timing", "frames", "shown"),
    [
        ({}, [-5, 0, 1, 2, 3, 18, 19, 20, 99], [0, 0, 0, 1, 1, 9, 9, 9, 9]),
        ({"speed": 2.0}, [0, 1, 2, 9, 10], [0, 1, 2, 9, 9]),
        ({"start": 4.0, "ends": "loop"}, [4, 6, 22, 24, 26, 2, 3], [0, 1, 9, 0, 1, 9, 9]),
        ({"ends": "swing"}, [16, 18, 20, 22, 36, 38], [8, 9, 8, 7, 0, 1]),
        ({"ends": "nothing"}, [-1, 0, 19, 20], [None, 0, 9, None]),
        ({"speed": -1.0, "ends": "loop"}, [0, 2, 4], [0, 9, 8]),
    ],
)
def test_what_happens_at_its_ends(timing, frames, shown):
    assert [source_frame(movie(**timing), float(frame), 24.0) for frame in frames] == shown


def test_one_frame_swings_on_the_spot():
    assert source_frame(movie(1, ends="swing"), 7.0, 24.0) == 0


@pytest.mark.parametrize(("ends", "at"), [("hold", 2.0), ("loop", 1.0), ("swing", 1.0), ("nothing", None)])
def test_an_animation_of_two_seconds_three_seconds_in(ends, at):
    assert source_seconds(wh.Timing(ends=ends), 2.0, 72.0, 24.0) == at
    assert source_seconds(wh.Timing(start=48.0, ends=ends), 2.0, 72.0, 24.0) == 1.0
