"""What changes become: values, keys, or pending values."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

import wild_heron as wh
from wild_heron.desk.state.recording import State, discard_pending, key_now, key_pending, record
from wild_heron.desk.widgets.quantities import format_degrees, format_number, parse_number
from wild_heron.evaluate import evaluate


def value(scene: wh.Scene, node: str, channel: str, frame: float) -> float:
    return float(evaluate(scene, frame).value(node, channel)[0])


def test_auto_key_on_writes_keys_only_for_what_changed(rig):
    done = record(State(rig), {("card", "position.x"): 3.0}, 12.0, auto_key=True)
    assert [ref.channel for ref in done.keys] == ["position.x"]
    assert value(done.state.scene, "card", "position.x", 12.0) == 3.0
    assert done.state.scene.node("card").channel("position.y") is None


def test_auto_key_off_changes_values_and_holds_back_keyed_ones(rig):
    changes = {("card", "position.x"): 3.0, ("turn", "rotation.y"): 77.0}
    done = record(State(rig), changes, 12.0, auto_key=False)
    assert (len(done.keys), done.pending) == (0, 1)
    assert done.state.scene.node("turn") is rig.node("turn")
    assert value(done.state.shown(12.0), "turn", "rotation.y", 12.0) == 77.0
    assert value(done.state.shown(13.0), "turn", "rotation.y", 13.0) == pytest.approx(13 / 48 * 90)


def test_pending_values_are_keyed_at_their_own_frame_or_let_go(rig):
    state = record(State(rig), {("turn", "rotation.y"): 77.0}, 12.0, auto_key=False).state
    state = record(state, {("turn", "rotation.y"): 5.0}, 30.0, auto_key=False).state
    keyed = key_pending(state)
    assert {ref.frame for ref in keyed.keys} == {12.0, 30.0}
    assert keyed.state.pending == ()
    assert value(keyed.state.scene, "turn", "rotation.y", 12.0) == 77.0
    assert discard_pending(state) == State(rig)


def test_locked_nodes_and_channels_are_left_alone(rig):
    locked = wh.edits.change_node(rig, "card", locked=True)
    done = record(State(locked), {("card", "position.x"): 3.0}, 0.0, auto_key=True)
    assert done.locked == (("card", "position.x"),)
    assert done.state.scene is locked
    channel = wh.edits.lock_channel(rig, "card", "opacity", True)
    now = key_now(State(channel), [("card", "opacity"), ("card", "position.x")], 0.0)
    assert now.locked == (("card", "opacity"),)
    assert [ref.channel for ref in now.keys] == ["position.x"]


def test_what_is_pending_and_locked_meanwhile_goes_on_waiting(rig):
    state = record(State(rig), {("turn", "rotation.y"): 77.0}, 12.0, auto_key=False).state
    locked = State(wh.edits.lock_channel(state.scene, "turn", "rotation.y", True), state.pending)
    keyed = key_pending(locked)
    assert keyed.state == locked
    assert keyed.locked == (("turn", "rotation.y"),)


@pytest.mark.parametrize(
    ("text", "number"),
    [
        ("1920/2", 960.0), ("2 turns + 14°", 734.0), ("-1.5 turns", -540.0), ("35 mm", 35.0), ("f/2.8", 2.8),
        ("3,5", 3.5), ("2*(3+4)", 14.0), ("50%", 0.5), ("−4", -4.0), ("2**3", 8.0),
    ],
)  # fmt: skip
def test_fields_take_sums_and_units(text, number):
    assert parse_number(text) == pytest.approx(number)


@pytest.mark.parametrize(
    "text", ["", "x", "1/0", "9**9**9", "__import__('os')", "(1).__class__", "1e999", "[1]", "a" * 300]
)
def test_fields_refuse_what_is_no_sum(text):
    with pytest.raises(ValueError):
        parse_number(text)


@given(st.floats(-1e5, 1e5))
def test_degrees_show_whole_turns_and_are_read_back(angle):
    assert parse_number(format_degrees(angle)) == pytest.approx(angle, abs=0.0501)


def test_degrees_are_shown_in_turns():
    assert format_degrees(734.0) == "2 turns + 14°"
    assert format_degrees(-734.0) == "-2 turns - 14°"
    assert format_degrees(360.0) == "1 turn + 0°"
    assert format_number(0.25, "share") == "25 %"
    assert format_number(0.001, "units") == "0.001"
    assert format_number(1e6, "units") == "∞"
