"""Lanes without a mouse: keys are gone to, chosen, moved and eased; who clicks keeps the arrows for frames."""

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

import wild_heron as wh
from tests.desk.conftest import chord
from wild_heron.edits import KeyRef

KEYS = Qt.Key
SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier,
)  # fmt: skip


@pytest.fixture
def lanes(make_window):
    """Two lanes of one node, of four and of two keys, with the focus from the keyboard."""
    window = make_window()
    scene = wh.Scene(nodes=(wh.Null(id="n", name="N"),))
    for frame in (0.0, 10.0, 20.0, 40.0):
        scene = wh.edits.set_key(scene, "n", "position.x", frame, frame / 10.0, wh.Linear())
    for frame in (5.0, 35.0):
        scene = wh.edits.set_key(scene, "n", "rotation.y", frame, frame, wh.Linear())
    window.desk.document.reset(scene, None)
    view = window.desk.lanes.view
    view.setFocus(Qt.FocusReason.TabFocusReason)
    return view


def chosen(view) -> set[tuple[str, float]]:
    return {(ref.channel, ref.frame) for ref in view.document.selection.keys}


def go_to(view, channel: str) -> None:
    """Down to a channel's lane."""
    row = next(k for k, lane in enumerate(view.lanes()) if lane.channel == channel)
    for _ in range(row):
        QTest.keyClick(view, KEYS.Key_Down)
    assert view.cursor_.row == row


def test_arrows_go_from_key_to_key_and_from_lane_to_lane(lanes):
    go_to(lanes, "position.x")
    QTest.keyClick(lanes, KEYS.Key_Home)
    assert chosen(lanes) == {("position.x", 0.0)}
    QTest.keyClick(lanes, KEYS.Key_Right)
    assert chosen(lanes) == {("position.x", 10.0)}
    QTest.keyClick(lanes, KEYS.Key_End)
    assert chosen(lanes) == {("position.x", 40.0)}
    QTest.keyClick(lanes, KEYS.Key_Down)
    assert chosen(lanes) == {("rotation.y", 35.0)}
    # Nothing beyond the ends.
    for _ in range(4):
        QTest.keyClick(lanes, KEYS.Key_Down)
        QTest.keyClick(lanes, KEYS.Key_Right)
    assert chosen(lanes) == {("rotation.y", 35.0)}
    assert lanes.document.playhead.frame == 0.0


def test_shift_extends_and_what_is_chosen_is_eased_moved_and_deleted(lanes):
    document = lanes.document
    go_to(lanes, "position.x")
    QTest.keyClick(lanes, KEYS.Key_Home)
    QTest.keyClick(lanes, KEYS.Key_Right, SHIFT)
    QTest.keyClick(lanes, KEYS.Key_Right, SHIFT)
    assert chosen(lanes) == {("position.x", 0.0), ("position.x", 10.0), ("position.x", 20.0)}
    chord(lanes, "ES")
    spans = [key.span for key in document.scene.node("n").channel("position.x").keys]
    assert isinstance(spans[0], wh.Flow)
    assert isinstance(spans[1], wh.Flow)
    assert isinstance(spans[2], wh.Linear)
    QTest.keyClick(lanes, KEYS.Key_Right, ALT)
    assert [key.frame for key in document.scene.node("n").channel("position.x").keys] == [1.0, 11.0, 21.0, 40.0]
    QTest.keyClick(lanes, KEYS.Key_Delete)
    assert [key.frame for key in document.scene.node("n").channel("position.x").keys] == [40.0]


def test_all_keys_are_chosen_and_their_number_said(lanes):
    QTest.keyClick(lanes, KEYS.Key_A, CTRL)
    assert len(chosen(lanes)) == 6
    assert "6 keys selected" in lanes.window().desk.status.text.text()


def test_it_says_where_it_is(lanes):
    go_to(lanes, "position.x")
    QTest.keyClick(lanes, KEYS.Key_Home)
    said = lanes.window().desk.status.text.text()
    for word in ("key 1 of 4", "frame 0", "linear"):
        assert word in said
    assert lanes.accessibleDescription() in said


def test_return_opens_the_eases_for_what_is_chosen(lanes, qtbot):
    go_to(lanes, "position.x")
    QTest.keyClick(lanes, KEYS.Key_Right, SHIFT)
    with qtbot.waitSignal(lanes.ease_wanted):
        QTest.keyClick(lanes, KEYS.Key_Return)


def test_who_clicks_keeps_the_arrows_for_frames(lanes):
    QTest.mouseClick(lanes, Qt.MouseButton.LeftButton, pos=QPointF(lanes.axis.x(30.0), lanes.height() - 8.0).toPoint())
    QTest.keyClick(lanes, KEYS.Key_Right)
    assert lanes.document.playhead.frame == 1.0
    assert chosen(lanes) == set()


def test_a_lane_that_is_gone_is_not_gone_to(lanes):
    go_to(lanes, "rotation.y")
    document = lanes.document
    refs = [KeyRef("n", "rotation.y", frame) for frame in (5.0, 35.0)]
    document.edit("Away", lambda scene: wh.edits.remove_keys(scene, refs))
    QTest.keyClick(lanes, KEYS.Key_Down)
    QTest.keyClick(lanes, KEYS.Key_Right)
    assert chosen(lanes) <= {("position.x", frame) for frame in (0.0, 10.0, 20.0, 40.0)}
    lanes.grab()
