"""Edits of keys on several channels."""

import numpy as np
import pytest

import wild_heron as wh
from wild_heron.edits import KeyRef, key_ranges
from wild_heron.edits.even_speed import even_speed
from wild_heron.edits.shifting import with_all_values
from wild_heron.evaluate import evaluate


@pytest.fixture
def scene() -> wh.Scene:
    scene = wh.Scene(nodes=(wh.Null(id="a", name="A"), wh.Null(id="b", name="B")))
    for node, name, pairs in (
        ("a", "position.x", ((0, 0.0), (10, 4.0), (30, -2.0), (40, 5.0))),
        ("a", "position.y", ((0, 1.0), (20, 3.0), (40, 0.0))),
        ("b", "rotation.y", ((5, 0.0), (25, 90.0))),
    ):
        for frame, value in pairs:
            scene = wh.edits.set_key(scene, node, name, float(frame), value, wh.Flow())
    return scene


def keys(scene, node, name):
    return scene.node(node).channel(name).keys


def refs(scene, *places):
    return [KeyRef(node, name, key.frame) for node, name in places for key in keys(scene, node, name)]


X, Y, R = ("a", "position.x"), ("a", "position.y"), ("b", "rotation.y")


def test_several_channels_are_stretched_about_a_frame_and_back(scene):
    chosen = refs(scene, X, R)
    wide, moved = key_ranges.stretch(scene, chosen, 20.0, 1.5)
    assert [key.frame for key in keys(wide, *X)] == [-10.0, 5.0, 35.0, 50.0]
    assert keys(wide, *Y) == keys(scene, *Y)
    assert len(moved) == len(chosen)
    back, _ = key_ranges.stretch(wide, moved, 20.0, 1 / 1.5)
    assert [key.frame for key in keys(back, *R)] == pytest.approx([5.0, 25.0])
    with pytest.raises(wh.SceneError, match="above 0"):
        key_ranges.stretch(scene, chosen, 0.0, 0.0)


def test_a_ripple_takes_later_keys_along_and_leaves_earlier_ones(scene):
    rippled, _ = key_ranges.ripple(scene, [KeyRef("a", "position.x", 10.0)], 5.0)
    assert [key.frame for key in keys(rippled, *X)] == [0.0, 15.0, 35.0, 45.0]


def test_keys_between_frames_are_put_on_frames(scene):
    loose, moved = key_ranges.stretch(scene, refs(scene, X), 0.0, 0.13)
    tidy, _ = key_ranges.put_on_frames(loose, moved)
    frames = [key.frame for key in keys(tidy, *X)]
    assert frames == [0.0, 1.0, 4.0, 5.0]


def test_hold_until_here_repeats_the_value_and_holds_it(scene):
    held = key_ranges.hold_until(scene, [X, Y], 17.0)
    assert evaluate(held, [12.0, 16.9, 17.0]).value(*X) == pytest.approx([4.0, 4.0, 4.0])
    assert keys(held, *X)[2].frame == 17.0
    assert evaluate(held, [10.0, 17.0]).value(*Y) == pytest.approx([1.0, 1.0])


def test_a_jump_changes_all_at_once_at_its_frame(scene):
    jumped = key_ranges.jump(scene, [X], 18.0)
    assert evaluate(jumped, [11.0, 17.0, 18.0, 29.0]).value(*X) == pytest.approx([4.0, 4.0, -2.0, -2.0])


def test_a_key_more_on_each_changes_no_curve(scene):
    denser, added = key_ranges.insert(scene, [X, Y, R], 13.0)
    assert added == (KeyRef(*X, 13.0), KeyRef(*Y, 13.0), KeyRef(*R, 13.0))
    frames = np.linspace(-5, 45, 301)
    for place in (X, Y, R):
        assert evaluate(denser, frames).value(*place) == pytest.approx(evaluate(scene, frames).value(*place), abs=1e-9)


def test_keys_are_pasted_onto_another_channel_of_the_same_unit_with_or_without_offset(scene):
    clip = wh.edits.copy_keys(scene, refs(scene, X))
    pasted, new = key_ranges.paste_onto(scene, clip, [("b", "position.z")], 100.0, offset=False)
    assert [(key.frame, key.value) for key in keys(pasted, "b", "position.z")] == [
        (100.0, 0.0), (110.0, 4.0), (130.0, -2.0), (140.0, 5.0)
    ]  # fmt: skip
    assert len(new) == 4
    lifted = wh.edits.set_value(scene, "b", "position.z", 7.0)
    offset, _ = key_ranges.paste_onto(lifted, clip, [("b", "position.z")], 0.0, offset=True)
    assert keys(offset, "b", "position.z")[1].value == 11.0
    with pytest.raises(wh.SceneError, match="another unit"):
        key_ranges.paste_onto(scene, clip, [R], 0.0, offset=False)


def test_run_backwards_over_the_same_stretch(scene):
    back, _ = key_ranges.reverse(scene, refs(scene, X))
    frames = np.linspace(0, 40, 81)
    assert evaluate(back, frames).value(*X) == pytest.approx(evaluate(scene, 40 - frames).value(*X), abs=1e-9)


def test_a_move_does_not_stumble_where_its_speeds_are_matched(scene):
    for node, name in (X,):
        rough = wh.edits.set_channel(
            scene,
            node,
            wh.Channel(name, keys=tuple(wh.Key(k.frame, k.value, wh.Linear()) for k in keys(scene, node, name))),
        )
    matched = key_ranges.match_speed(rough, [KeyRef(*X, 10.0)])
    near = evaluate(matched, [9.99, 10.0, 10.01]).value(*X)
    assert (near[1] - near[0]) == pytest.approx(near[2] - near[1], abs=1e-4)
    assert evaluate(matched, [0.0, 10.0, 30.0]).value(*X) == pytest.approx([0.0, 4.0, -2.0])


def test_the_end_is_run_through_at_full_speed_and_a_landing_is_soft(scene):
    through = key_ranges.run_through(scene, refs(scene, R))
    at = evaluate(through, [5.0, 15.0, 24.0, 25.0]).value(*R)
    assert at[3] - at[2] == pytest.approx(2 * 90 / 20, rel=0.06) or at[3] - at[2] >= 90 / 20
    assert (np.diff(evaluate(through, np.arange(5.0, 26.0)).value(*R)) > 0).all()
    soft = evaluate(key_ranges.soft_landing(scene, refs(scene, R)), [5.0, 10.0, 24.0, 25.0]).value(*R)
    assert soft[1] > 60.0
    assert soft[3] - soft[2] < 0.1


def off_polyline(points, place):
    start, way = points[:-1], np.diff(points, axis=0)
    square = np.maximum((way * way).sum(axis=1), 1e-30)
    share = np.clip(((place - start) * way).sum(axis=1) / square, 0.0, 1.0)
    return np.linalg.norm(start + way * share[:, None] - place, axis=1).min()


@pytest.mark.parametrize("flow", [wh.Flow(), wh.Flow("smooth"), wh.Linear(), wh.Family("cubic")])
def test_even_speed_is_even_and_keeps_the_way(flow):
    scene = wh.Scene(nodes=(wh.Null(id="a", name="A"),))
    for frame, point in ((0, (0, 0, 0)), (12, (5, 2, 0)), (60, (6, 2, -8)), (96, (-4, 0, -3))):
        for axis, value in zip("xyz", point, strict=True):
            scene = wh.edits.set_key(scene, "a", f"position.{axis}", float(frame), float(value), flow)
    even = even_speed(scene, "a", 0.0, 96.0)
    fine = np.linspace(0, 96, 96 * 512 + 1)
    before, after = evaluate(scene, fine).position("a"), evaluate(even, fine).position("a")
    steps = np.linalg.norm(np.diff(after, axis=0), axis=1).reshape(96, 512).sum(axis=1)
    assert np.abs(steps / steps.mean() - 1).max() < 5e-3
    assert max(off_polyline(before, point) for point in after[::389]) < 6e-3
    assert after[-1] == pytest.approx(before[-1])


def test_an_even_run_can_follow_one_ease():
    scene = wh.Scene(nodes=(wh.Null(id="a", name="A"),))
    for frame, value in ((0, 0.0), (10, 1.0), (80, 9.0), (100, 10.0)):
        scene = wh.edits.set_key(scene, "a", "position.x", float(frame), value, wh.Linear())
    eased = even_speed(scene, "a", 0.0, 100.0, wh.Family("sine", "in-out"))
    at = np.linspace(0, 100, 11)
    wanted = 10 * 0.5 * (1 - np.cos(np.pi * at / 100))
    assert evaluate(eased, at).position("a")[:, 0] == pytest.approx(wanted, abs=5e-3)


@pytest.mark.parametrize("ease", [None, wh.Family("sine", "in-out"), wh.Family("cubic", "out"), wh.Spring(2, 0.3)])
@pytest.mark.parametrize("seed", range(4))
def test_an_even_or_eased_run_stays_on_its_way(seed, ease):
    rng = np.random.default_rng(seed)
    scene = wh.Scene(nodes=(wh.Null(id="a", name="A"),))
    for frame in (0.0, *np.sort(rng.uniform(5, 91, 3)).tolist(), 96.0):
        for axis in "xyz":
            span = (wh.Flow("smooth"), wh.Family("cubic"), wh.Linear())[int(rng.integers(3))]
            scene = wh.edits.set_key(scene, "a", f"position.{axis}", frame, rng.uniform(-8, 8), span)
    fine = np.linspace(0, 96, 96 * 256 + 1)
    before = evaluate(scene, fine).position("a")
    after = evaluate(even_speed(scene, "a", 0.0, 96.0, ease), fine).position("a")
    assert max(off_polyline(before, point) for point in after[::131]) < 8e-3


def test_locked_channels_are_left_alone(scene):
    locked = wh.edits.lock_channel(scene, *X, True)
    for work in (
        lambda s: key_ranges.stretch(s, refs(s, X), 0.0, 2.0)[0],
        lambda s: key_ranges.hold_until(s, [X], 17.0),
        lambda s: key_ranges.jump(s, [X], 17.0),
        lambda s: key_ranges.insert(s, [X], 17.0)[0],
    ):
        assert keys(work(locked), *X) == keys(locked, *X)


@pytest.mark.parametrize(("factor", "plus"), [(2.0, 0.0), (1.0, 3.0), (0.5, -1.0)])
def test_all_values_changed_keep_the_shape_of_curves_set_by_hand(factor, plus):
    """Between the keys too: slopes by hand go with the values."""
    keys = (
        wh.Key(0.0, 1.0, wh.Handles(0.4, 0.5, -0.2, 0.3)), wh.Key(20.0, 3.0, wh.Flow("smooth")), wh.Key(50.0, 2.0),
    )  # fmt: skip
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N", channels=(wh.Channel("position.x", 1.0, keys),)),))
    frames = np.linspace(0.0, 50.0, 101)
    before = wh.evaluate(scene, frames).value("n", "position.x")
    changed = with_all_values(scene, "n", "position.x", lambda value: value * factor + plus)
    assert wh.evaluate(changed, frames).value("n", "position.x") == pytest.approx(before * factor + plus)
