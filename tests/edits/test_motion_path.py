"""Ways in space: handles of position keys are those of a Bézier curve; keys and handles go where they are put."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.edits.motion_path import carrier_map, move_path_key, path_handles, path_key_frames, shape_path
from wild_heron.evaluate import evaluate

number = st.floats(-5.0, 5.0)
vector = st.tuples(number, number, number)
AXES = ("position.x", "position.y", "position.z")
UNEVEN = {"scale.x": 2.0, "scale.y": 0.5, "scale.z": 1.5}


def kite(places, span=None, carrier=False, frames=(0.0, 24.0, 60.0)) -> wh.Scene:
    """A null on its way through places at frames 0, 24 and 60."""
    scene = wh.Scene()
    if carrier:
        scene = wh.edits.add_node(scene, wh.Null(id="base", name="Base"))
        for name, value in {"rotation.y": 70.0, "rotation.x": 20.0, "position.z": 3.0, **UNEVEN}.items():
            scene = wh.edits.set_value(scene, "base", name, value)
    scene = wh.edits.add_node(scene, wh.Null(id="kite", name="Kite", carrier="base" if carrier else None))
    for frame, place in zip(frames, places, strict=True):
        for name, value in zip(AXES, place, strict=True):
            scene = wh.edits.set_key(scene, "kite", name, frame, value, span or wh.Flow())
    return scene


def bezier(a, b, c, d, t):
    t = t[:, None]
    return (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d


@given(st.lists(vector, min_size=3, max_size=3), vector, vector)
def test_the_way_between_two_keys_is_the_bezier_curve_of_their_handles(places, first, second):
    scene = kite(places, wh.Handles(0.0, 1 / 3, 0.0, 1 / 3))
    scene = shape_path(scene, "kite", 0.0, "out", np.array(first))
    scene = shape_path(scene, "kite", 24.0, "into", np.array(second), broken=True)
    out, into = path_handles(scene, "kite", 0.0)["out"], path_handles(scene, "kite", 24.0)["into"]
    assert out == pytest.approx(np.array(first), abs=1e-6)
    assert into == pytest.approx(np.array(second), abs=1e-6)
    t = np.linspace(0.0, 1.0, 25)
    ends = np.array(places[0]), np.array(places[1])
    wanted = bezier(ends[0], ends[0] + out, ends[1] + into, ends[1], t)
    # Handles of a third make time and the curve's own parameter one.
    assert evaluate(scene, 24.0 * t).position("kite") == pytest.approx(wanted, abs=1e-6)


@given(vector, vector)
def test_a_smooth_handle_turns_the_one_across_and_a_broken_one_does_not(place, handle):
    scene = kite([(0, 0, 0), place, (4, 1, -2)])
    before = path_handles(scene, "kite", 24.0)["into"]
    broken = path_handles(shape_path(scene, "kite", 24.0, "out", np.array(handle), broken=True), "kite", 24.0)
    assert broken["into"] == pytest.approx(before, abs=1e-6)
    smooth = path_handles(shape_path(scene, "kite", 24.0, "out", np.array(handle)), "kite", 24.0)
    # As long per frame: 24 frames before, 36 after.
    assert smooth["into"] / 24.0 == pytest.approx(-smooth["out"] / 36.0, abs=1e-6)


def test_a_key_goes_to_a_place_in_the_world_whatever_carries_it():
    scene = kite([(0, 0, 0), (1, 2, 3), (4, 1, -2)], carrier=True)
    wanted = np.array([3.0, -1.0, 2.5])
    moved = move_path_key(scene, "kite", 24.0, wanted)
    assert evaluate(moved, 24.0).position("kite")[0] == pytest.approx(wanted)
    for frame in (0.0, 60.0):
        there = [evaluate(each, frame).position("kite")[0] for each in (scene, moved)]
        assert there[0] == pytest.approx(there[1])
    step = carrier_map(scene, "kite", 24.0) @ np.array([1.0, 0.0, 0.0])
    direct = move_path_key(scene, "kite", 24.0, evaluate(scene, 24.0).position("kite")[0] + step)
    assert direct.node("kite").channel("position.x").keys[1].value == pytest.approx(2.0)
    assert direct.node("kite").channel("position.y").keys[1].value == pytest.approx(2.0)


def test_an_axis_that_stood_still_gets_keys_and_a_handle():
    scene = wh.edits.add_node(wh.Scene(), wh.Null(id="kite", name="Kite"))
    for frame, value in ((0.0, 0.0), (24.0, 5.0)):
        scene = wh.edits.set_key(scene, "kite", "position.x", frame, value)
    scene = wh.edits.set_value(scene, "kite", "position.y", 1.5)
    bowed = shape_path(scene, "kite", 0.0, "out", np.array([2.0, 3.0, 0.0]))
    assert path_key_frames(bowed.node("kite")) == [0.0, 24.0]
    assert bowed.node("kite").channel("position.z") is None
    ends = evaluate(bowed, [0.0, 12.0, 24.0]).position("kite")
    assert ends[[0, 2], 1] == pytest.approx([1.5, 1.5])
    assert ends[1, 1] > 2.0
    assert set(path_handles(bowed, "kite", 0.0)) == {"out"}


def test_a_locked_axis_stays_where_it_is():
    scene = wh.edits.lock_channel(kite([(0, 0, 0), (1, 2, 3), (4, 1, -2)]), "kite", "position.y", True)
    before = scene.node("kite").channel("position.y")
    for changed in (
        shape_path(scene, "kite", 24.0, "out", np.array([3.0, 9.0, 0.0])),
        move_path_key(scene, "kite", 24.0, np.array([3.0, 9.0, 0.0])),
    ):
        assert changed.node("kite").channel("position.y") is before
        assert changed.node("kite").channel("position.x") != scene.node("kite").channel("position.x")
    # Along the others it may go.
    out = path_handles(scene, "kite", 24.0)["out"] + np.array([1.0, 0.0, 0.0])
    assert path_handles(shape_path(scene, "kite", 24.0, "out", out), "kite", 24.0)["out"] == pytest.approx(out)
