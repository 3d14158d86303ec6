"""What is locked is never changed by an edit of keys; the rest is."""

import inspect

import numpy as np
import pytest
from msgspec.structs import replace

import wild_heron as wh
from wild_heron.edits import KeyRef, key_ranges, keys, left_alone
from wild_heron.edits.even_speed import even_speed
from wild_heron.edits.motion_path import move_path_key, shape_path

LOCKED, FREE = ("a", "position.x"), ("b", "position.x")
PLACES = [LOCKED, FREE]


def refs(scene: wh.Scene) -> list[KeyRef]:
    return [KeyRef(*ref, key.frame) for ref in PLACES for key in scene.node(ref[0]).channel(ref[1]).keys]


def moving() -> wh.Scene:
    scene = wh.Scene()
    for node in ("a", "b"):
        scene = wh.edits.add_node(scene, wh.Null(id=node, name=node.upper()))
        for frame, value in ((0.0, 0.0), (10.5, 4.0), (20.0, 1.0)):
            for axis in "xyz":
                scene = wh.edits.set_key(scene, node, f"position.{axis}", frame, value, wh.Family("sine"))
    return scene


EDITS = {
    "remove_keys": lambda s: keys.remove_keys(s, refs(s)[1::3]),
    "move_keys": lambda s: keys.move_keys(s, refs(s), 3.0, dict.fromkeys(PLACES, 1.0))[0],
    "set_spans": lambda s: keys.set_spans(s, refs(s), wh.Hold()),
    "paste_keys": lambda s: keys.paste_keys(s, keys.copy_keys(s, refs(s)), 40.0)[0],
    "set_beyond": lambda s: keys.set_beyond(s, PLACES, "repeat"),
    "change_channels": lambda s: keys.change_channels(s, PLACES, lambda n, c: replace(c, value=3.0)),
    "change_keys": lambda s: keys.change_keys(s, refs(s), lambda n, c, picked: replace(c, keys=c.keys[1:]))[0],
    "reshape": lambda s: key_ranges.reshape(s, refs(s), lambda k, picked: k[:-1])[0],
    "reverse": lambda s: key_ranges.reverse(s, refs(s))[0],
    "stretch": lambda s: key_ranges.stretch(s, refs(s), 0.0, 2.0)[0],
    "ripple": lambda s: key_ranges.ripple(s, refs(s)[:1] + refs(s)[3:4], 2.0)[0],
    "put_on_frames": lambda s: key_ranges.put_on_frames(s, refs(s))[0],
    "hold_until": lambda s: key_ranges.hold_until(s, PLACES, 15.0),
    "jump": lambda s: key_ranges.jump(s, PLACES, 15.0),
    "insert": lambda s: key_ranges.insert(s, PLACES, 15.0)[0],
    "paste_onto": lambda s: key_ranges.paste_onto(s, keys.copy_keys(s, refs(s)[:3]), PLACES, 50.0, True)[0],
    "paste_spans": lambda s: key_ranges.paste_spans(s, refs(s), [wh.Hold(), wh.Linear()]),
    "match_speed": lambda s: key_ranges.match_speed(s, refs(s)),
    "run_through": lambda s: key_ranges.run_through(s, refs(s)),
    "soft_landing": lambda s: key_ranges.soft_landing(s, refs(s)),
    "change_speeds": lambda s: key_ranges.change_speeds(s, refs(s), 0.3),
    "set_style": lambda s: key_ranges.set_style(s, refs(s), "flat"),
}
OF_ONE_CHANNEL = {
    "set_value": lambda s, node: keys.set_value(wh.edits.remove_keys(s, refs(s)), node, "position.x", 7.0),
    "set_key": lambda s, node: keys.set_key(s, node, "position.x", 5.0, 7.0),
    "even_speed": lambda s, node: even_speed(s, node, 0.0, 20.0),
}
OF_A_PATH = {
    "move_path_key": lambda s, node: move_path_key(s, node, 10.5, np.array([5.0, 6.0, 7.0])),
    "shape_path": lambda s, node: shape_path(s, node, 10.5, "out", np.array([1.0, 2.0, 3.0])),
}
LOCKS = {
    "the channel": lambda s: wh.edits.lock_channel(s, *LOCKED, True),
    "the node": lambda s: wh.edits.change_node(s, LOCKED[0], locked=True),
}
CHANGE_NO_KEYS = {
    "with_channel", "set_channel", "with_keys", "moved_keys", "merge_keys", "by_channel", "picked_keys", "copy_keys",
    "shifted_keys", "lock_channel", "neighbouring_key_frames", "extent",
}  # fmt: skip


@pytest.mark.parametrize("lock", LOCKS)
@pytest.mark.parametrize("edit", EDITS)
def test_an_edit_leaves_what_is_locked_alone_and_goes_on_with_the_rest(edit, lock):
    scene = LOCKS[lock](moving())
    after = EDITS[edit](scene)
    assert after.node("a") is scene.node("a")
    assert after.node("b").channel("position.x") != scene.node("b").channel("position.x")
    assert EDITS[edit](moving()).node("a") != moving().node("a")


@pytest.mark.parametrize("lock", LOCKS)
@pytest.mark.parametrize("edit", OF_ONE_CHANNEL)
def test_an_edit_of_one_channel_is_refused_by_name(edit, lock):
    with pytest.raises(wh.SceneError, match=r"^A.* is locked"):
        OF_ONE_CHANNEL[edit](LOCKS[lock](moving()), "a")
    assert OF_ONE_CHANNEL[edit](moving(), "a") != moving()


@pytest.mark.parametrize("lock", LOCKS)
@pytest.mark.parametrize("edit", OF_A_PATH)
def test_a_locked_axis_stays_while_the_others_are_dragged(edit, lock):
    scene = LOCKS[lock](moving())
    after = OF_A_PATH[edit](scene, "a")
    assert after.node("a").channel("position.x") == scene.node("a").channel("position.x")
    others = [after.node("a").channel(f"position.{axis}") for axis in "yz"]
    changed = [channel != scene.node("a").channel(channel.name) for channel in others]
    assert changed == [lock == "the channel"] * 2


def test_every_edit_of_keys_is_tried():
    known = {
        name
        for module in (keys, key_ranges)
        for name, found in inspect.getmembers(module, inspect.isfunction)
        if found.__module__ == module.__name__ and not name.startswith("_")
    }
    tried = EDITS.keys() | OF_ONE_CHANNEL.keys() | CHANGE_NO_KEYS
    assert known - tried == set()


def test_what_was_left_alone_is_named():
    scene = moving()
    assert left_alone(scene, PLACES) == ""
    locked = wh.edits.lock_channel(scene, *LOCKED, True)
    assert left_alone(locked, PLACES) == "A · position x is locked and was left alone."
    both = wh.edits.change_node(locked, "b", locked=True)
    assert left_alone(both, PLACES) == "A · position x and 1 more are locked and were left alone."
