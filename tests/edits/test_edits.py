"""Pure edits of the scene."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron import edits
from wild_heron.edits import (
    KeyRef,
    change_rate,
    copy_keys,
    duplicate,
    lock_channel,
    merge_keys,
    move_keys,
    neighbouring_key_frames,
    paste_keys,
    remove_keys,
    set_key,
    set_spans,
    set_value,
)
from wild_heron.evaluate import evaluate


def frames_of(scene: wh.Scene, node: str = "turn", channel: str = "rotation.y") -> list[float]:
    found = scene.node(node).channel(channel)
    return [key.frame for key in found.keys] if found else []


def test_edits_share_what_did_not_change_and_leave_the_old_scene_alone(rig):
    changed = set_value(rig, "card", "opacity", 0.5)
    assert rig.node("card").channel("opacity") is None
    assert changed.node("cam") is rig.node("cam")
    assert set_value(changed, "card", "opacity", 1.0) == rig


def test_a_scene_cannot_be_changed_in_place(rig):
    with pytest.raises(AttributeError):
        rig.node("card").name = "Other"
    assert isinstance(hash(rig), int)


def test_a_new_key_takes_the_span_it_falls_into_and_an_old_one_keeps_its_own(rig):
    scene = set_key(rig, "turn", "rotation.y", 24.0, 10.0)
    assert scene.node("turn").channel("rotation.y").keys[1].span == wh.Linear()
    scene = set_spans(scene, [KeyRef("turn", "rotation.y", 24.0)], wh.Hold())
    scene = set_key(scene, "turn", "rotation.y", 24.0, 99.0)
    key = scene.node("turn").channel("rotation.y").keys[1]
    assert (key.value, key.span) == (99.0, wh.Hold())


def test_values_stay_inside_their_channel(rig):
    assert set_value(rig, "card", "opacity", 7.0).node("card").channel("opacity") is None  # 1 is the default
    assert set_value(rig, "cam", "lens.focal", -5.0).node("cam").channel("lens.focal").value == 1.0
    for bad in (float("nan"), float("inf")):
        with pytest.raises(wh.SceneError, match="finite"):
            set_value(rig, "card", "opacity", bad)
    with pytest.raises(wh.SceneError, match="no channel"):
        set_value(rig, "card", "lens.focal", 3.0)
    with pytest.raises(wh.SceneError, match="has keys"):
        set_value(rig, "turn", "rotation.y", 3.0)


def test_removing_the_last_key_keeps_its_value(rig):
    scene = remove_keys(rig, [KeyRef("turn", "rotation.y", 0.0), KeyRef("turn", "rotation.y", 48.0)])
    channel = scene.node("turn").channel("rotation.y")
    assert channel.keys == ()
    assert channel.value == 90.0


@given(st.integers(-100, 100))
def test_moving_keys_there_and_back_is_nothing(by):
    scene = wh.edits.add_node(wh.Scene(), wh.Null(id="n", name="N"))
    for frame in (0.0, 10.0, 17.0):
        scene = set_key(scene, "n", "position.x", frame, frame)
    refs = [KeyRef("n", "position.x", frame) for frame in (0.0, 10.0, 17.0)]
    there, moved = move_keys(scene, refs, by)
    assert set(moved) == {ref._replace(frame=ref.frame + by) for ref in refs}
    back, _ = move_keys(there, moved, -by)
    assert back == scene


def test_a_key_that_lands_on_another_replaces_it(rig):
    scene = set_key(rig, "turn", "rotation.y", 24.0, 10.0)
    moved, _ = move_keys(scene, [KeyRef("turn", "rotation.y", 24.0)], 24.0)
    assert frames_of(moved) == [0.0, 48.0]
    assert moved.node("turn").channel("rotation.y").keys[1].value == 10.0


@given(st.lists(st.integers(0, 30), unique=True), st.lists(st.integers(0, 30), unique=True))
def test_merging_keeps_order_and_one_key_a_frame(under, over):
    merged = merge_keys([wh.Key(f, 0.0) for f in sorted(under)], [wh.Key(f, 1.0) for f in over])
    assert [key.frame for key in merged] == sorted({*under, *over})
    assert {key.frame for key in merged if key.value == 1.0} == set(over)


def test_copied_keys_are_laid_down_from_the_playhead(rig):
    refs = [KeyRef("turn", "rotation.y", 0.0), KeyRef("turn", "rotation.y", 48.0)]
    clip = copy_keys(rig, refs)
    scene, pasted = paste_keys(rig, clip, 100.0)
    assert frames_of(scene) == [0.0, 48.0, 100.0, 148.0]
    assert pasted == (KeyRef("turn", "rotation.y", 100.0), KeyRef("turn", "rotation.y", 148.0))
    gone, pasted = paste_keys(wh.Scene(), clip, 0.0)
    assert (gone, pasted) == (wh.Scene(), ())


def test_duplicates_hang_and_aim_among_themselves(rig):
    scene, new = duplicate(rig, ["turn", "cam", "target"])
    assert new == ("turn-2", "target-2", "cam-2")
    copy = scene.node("cam-2")
    assert (copy.name, copy.carrier, copy.aim) == ("Cam 2", "turn-2", wh.AimAt(("target-2",)))
    _, alone = duplicate(rig, ["cam"])
    assert alone == ("cam-2",)


def test_names_get_numbers_and_ids_stay_when_names_change(rig):
    scene = wh.edits.rename(rig, "card", "Turn")
    assert scene.node("card").name == "Turn 2"
    with pytest.raises(wh.SceneError, match="name"):
        wh.edits.rename(rig, "card", "   ")


def test_neighbouring_keys_and_locks(rig):
    assert neighbouring_key_frames(rig, ["turn"], 20.0) == (0.0, 48.0)
    assert neighbouring_key_frames(rig, ["turn"], 48.0) == (0.0, None)
    assert lock_channel(rig, "card", "opacity", True).node("card").channel("opacity").locked


@pytest.mark.parametrize("rate", [wh.Rate(25), wh.Rate(30000, 1001), wh.Rate(48)])
def test_changing_the_rate_keeps_seconds_or_frames(rig, rate):
    kept = change_rate(rig, rate, "frames")
    assert frames_of(kept) == [0.0, 48.0]
    timed = change_rate(rig, rate, "seconds")
    assert frames_of(timed)[1] / rate.fps == pytest.approx(48 / 24)
    before = evaluate(rig, [12.0]).world("cam")
    after = evaluate(timed, [12.0 / 24 * rate.fps]).world("cam")
    assert after == pytest.approx(before, abs=1e-9)


def test_what_the_folder_offers_is_there():
    assert [name for name in edits.__all__ if not hasattr(edits, name)] == []
