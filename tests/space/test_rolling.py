"""Drop and roll: energy never grows, and simple cases match closed forms."""

from unittest.mock import patch

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.evaluate import evaluate
from wild_heron.space import rolling
from wild_heron.space.ground import Field, relief, relief_at
from wild_heron.space.rolling import Ball, Wall, drop_and_roll

HILLS = Field(wh.Waves((wh.Wave(15.0, 8.0, 1.5), wh.Wave(80.0, 5.0, 0.7))), 40.0, 40.0)
BOX = Wall((2.0, 1.0, 0.0), ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)), (0.5, 2.0, 3.0))


def on(field):
    def slope(frame, x, y, z):
        height, along_x, along_z = relief_at(field, x, z, 0.0, 1.0)
        size = np.sqrt(1.0 + along_x**2 + along_z**2)
        return (x, height, z), (-along_x / size, 1.0 / size, -along_z / size)

    return slope


FLAT = on(Field(wh.Waves(()), 10.0, 10.0))


@settings(max_examples=25, deadline=None)
@given(
    st.tuples(*[st.floats(-6, 6)] * 2), st.floats(1, 8), st.tuples(*[st.floats(-5, 5)] * 3),
    st.floats(0, 1), st.floats(0, 1), st.floats(0.1, 1.0),
)  # fmt: skip
def test_energy_never_grows(at, height, push, bounce, friction, radius):
    ball = Ball(radius, 9.81, bounce, friction)
    start = (at[0], height + 2.0, at[1])
    motion = drop_and_roll(ball, start, push, 120, 24.0, on(HILLS), lambda frame: [BOX])
    energy = motion.energy(ball)
    assert np.diff(energy).max() <= 1e-9 * max(1.0, abs(energy[0]))
    assert np.isfinite(motion.positions).all()


def test_free_fall_is_exact_and_a_full_bounce_comes_back_up():
    motion = drop_and_roll(Ball(0.5, 9.81, 1.0, 0.0), (0.0, 5.0, 0.0), (0.0, 0.0, 0.0), 60, 24.0, FLAT, lambda f: [])
    fall = np.arange(20) / 24
    assert motion.positions[:20, 1] == pytest.approx(5.0 - 0.5 * 9.81 * fall**2, abs=1e-9)
    assert motion.positions[30:50, 1].max() == pytest.approx(5.0, rel=0.03)
    assert motion.positions[:, 1].min() > 0.45


def test_a_ball_rolls_down_a_slope_without_slipping_as_fast_as_it_should():
    tilt = np.radians(10.0)
    normal = np.array([np.sin(tilt), np.cos(tilt), 0.0])

    def slope(frame, x, y, z):
        at = np.array([x, y, z])
        return tuple(at - normal * float(at @ normal)), tuple(normal)

    start = tuple((normal * 0.5).tolist())
    motion = drop_and_roll(Ball(0.5, 9.81, 0.0, 0.6), start, (0.0, 0.0, 0.0), 49, 24.0, slope, lambda f: [])
    down = np.linalg.norm(motion.positions[48] - motion.positions[0])
    # 5/7 of g·sin, less the little that rolling costs, over two seconds.
    assert down == pytest.approx(0.5 * 5 / 7 * 9.81 * np.sin(tilt) * 4.0, rel=0.2)
    assert np.linalg.norm(motion.spins[48]) * 0.5 == pytest.approx(np.linalg.norm(motion.velocities[48]), rel=0.02)


def test_a_wall_stops_it_and_a_frictionless_ball_comes_to_no_harm():
    motion = drop_and_roll(
        Ball(0.4, 9.81, 0.3, 0.0), (-4.0, 0.4, 0.0), (6.0, 0.0, 0.0), 90, 24.0, FLAT, lambda f: [BOX]
    )
    assert motion.positions[:, 0].max() < 1.5 - 0.4 + 0.02
    assert motion.velocities[-1, 0] < 0


@settings(max_examples=6, deadline=None)
@given(st.integers(0, 2**32 - 1), st.tuples(*[st.floats(-9, 9)] * 3), st.floats(0, 1))
def test_walls_far_away_make_no_difference(seed, push, friction):
    places = np.random.default_rng(seed).uniform((-9, 0, -9), (9, 4, 9), (40, 3))
    crowd = [Wall(tuple(each), BOX.axes, (0.5, 1.0, 0.7)) for each in places.tolist()]
    ball = Ball(0.4, 9.81, 0.7, friction)

    def roll():
        return drop_and_roll(ball, (0.0, 5.0, 0.0), push, 60, 12.0, FLAT, lambda frame: crowd).positions

    motion = roll()
    with patch.object(rolling, "_within", lambda walls, at, distance: walls):
        assert np.array_equal(roll(), motion)


def test_a_stand_in_falls_when_it_is_told_to_and_lands_on_the_ground():
    ground = wh.Ground(id="hills", name="Hills", surface=HILLS.surface)
    ball = wh.Model(id="ball", name="Ball", shape=wh.Sphere(0.5))
    scene = wh.edits.add_node(wh.edits.add_node(wh.Scene(), ground), ball)
    scene = wh.edits.set_value(scene, "ball", "position.y", 6.0)
    scene, _ = wh.edits.add_bind(scene, "ball", wh.DropAndRoll("hills"))
    scene = wh.edits.set_value(scene, "ball", "roll.start", 24)
    at = evaluate(scene, np.arange(0.0, 200.0)).position("ball")
    assert (at[:25] == [0.0, 6.0, 0.0]).all()
    floor = relief(HILLS, at[:, 0], at[:, 2], np.zeros(1)).height
    assert (at[:, 1] - floor).min() > 0.3
    assert at[-1, 1] - floor[-1] < 0.8


@given(st.floats(-30, 30), st.floats(-30, 30), st.floats(-5, 5))
def test_one_place_is_the_same_as_many(x, z, seconds):
    many = relief(HILLS, np.array([x]), np.array([z]), np.array([seconds]), 1.5)
    assert relief_at(HILLS, x, z, seconds, 1.5) == pytest.approx([float(each[0]) for each in many], abs=1e-12)


def test_a_ball_at_rest_stays_and_one_on_moving_ground_may_not():
    rest = drop_and_roll(Ball(0.5, 9.81, 0.2, 0.8), (0.0, 1.0, 0.0), (0.0, 0.0, 0.0), 400, 24.0, FLAT, lambda f: [])
    assert (rest.positions[-1] == rest.positions[200]).all()
    assert rest.positions[-1, 1] == pytest.approx(0.5, abs=0.02)


def bounces(height, gravity, bounce, seconds):
    """Times, and speeds before them, at which a point that falls from a height hits the ground again and again."""
    speed, at = np.sqrt(2.0 * gravity * height), np.sqrt(2.0 * height / gravity)
    while at < seconds and speed * bounce > 0.02 * gravity:
        yield at, speed
        speed *= bounce
        at += 2.0 * speed / gravity


@pytest.mark.parametrize("fps", [12.0, 24.0, 25.0, 60.0])
@pytest.mark.parametrize(("bounce", "friction"), [(0.8, 0.0), (0.8, 0.7), (0.5, 0.3)])
def test_hits_come_when_they_do_at_any_rate_and_bounce_by_just_that_much(fps, bounce, friction):
    gravity, radius, height = 9.81, 0.5, 3.7
    ball = Ball(radius, gravity, bounce, friction)
    count = int(5.0 * fps)
    motion = drop_and_roll(ball, (0.0, radius + height, 0.0), (0.0, 0.0, 0.0), count, fps, FLAT, lambda f: [])
    true = list(bounces(height, gravity, bounce, (count - 1) / fps))
    assert motion.hits.moments[: len(true)] / fps == pytest.approx([each[0] for each in true], abs=1e-6)
    assert -motion.hits.before[: len(true), 1] == pytest.approx([each[1] for each in true], rel=1e-6)
    assert motion.hits.after[: len(true), 1] == pytest.approx([bounce * each[1] for each in true], rel=1e-6)
    # Between frames, too, it is on its parabolas.
    fine = np.linspace(0.0, min(true[3][0] * fps if len(true) > 3 else count - 1.0, count - 1.0), 999)
    made = motion.between(fine, fps)[:, 1] - radius
    times = np.array([0.0, *(each[0] for each in true)])
    speeds = np.array([0.0, *(bounce * each[1] for each in true)])
    last = np.searchsorted(times, fine / fps, side="right") - 1
    since = fine / fps - times[last]
    assert np.where(last == 0, height, 0.0) + speeds[last] * since - 0.5 * gravity * since**2 == pytest.approx(
        made, abs=1e-6
    )


def test_a_wall_is_hit_between_frames_where_it_stands():
    wall = Wall((5.0, 0.0, 0.0), ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)), (1.0, 50.0, 50.0))
    ball = Ball(0.5, 0.0, 0.6, 0.0)
    motion = drop_and_roll(ball, (0.0, 0.0, 0.0), (2.3, 0.0, 0.0), 72, 24.0, None, lambda f: [wall])
    assert motion.hits.moments / 24.0 == pytest.approx([3.5 / 2.3])
    assert motion.hits.after[0] == pytest.approx([-0.6 * 2.3, 0.0, 0.0])
    late = motion.between(np.array([60.3]), 24.0)[0, 0]
    assert late == pytest.approx(3.5 - 0.6 * 2.3 * (60.3 / 24.0 - 3.5 / 2.3))
