"""The ruler over Lanes and Curves: markers set, named, dragged and snapped to; keys stretched by the bar over them."""

import pytest
from PyQt6.QtCore import QPointF, Qt

import wild_heron as wh
from tests.desk.conftest import chord
from wild_heron.desk.timeline.axis import RULER
from wild_heron.edits import KeyRef, set_marker

START, END = KeyRef("turn", "rotation.y", 0.0), KeyRef("turn", "rotation.y", 48.0)
Keys = Qt.KeyboardModifier


@pytest.fixture
def lanes(window):
    return window.desk.lanes.view


def frames(window) -> list[float]:
    return [key.frame for key in window.desk.document.scene.node("turn").channel("rotation.y").keys]


def grip(view, axis, frame: float) -> QPointF:
    """The grip of the bar at a frame."""
    return QPointF(axis.x(frame), RULER - 5)


def pennant(view, axis, frame: float) -> QPointF:
    return QPointF(axis.x(frame) + 3, RULER - 12)


def test_markers_are_set_and_found_from_the_keyboard(window, qtbot):
    document = window.desk.document
    for frame in (12.0, 30.0):
        document.playhead.set_frame(frame)
        chord(window, "PM")
    assert [(each.frame, each.name) for each in document.scene.markers] == [(12.0, "Marker 1"), (30.0, "Marker 2")]
    qtbot.keyClick(window, Qt.Key.Key_BracketLeft, Keys.ControlModifier)
    assert document.playhead.frame == 12.0
    qtbot.keyClick(window, Qt.Key.Key_BracketRight, Keys.ControlModifier)
    assert document.playhead.frame == 30.0
    window.desk.actions_["play.marker_remove"].trigger()
    assert len(document.scene.markers) == 1
    document.undo()
    assert len(document.scene.markers) == 2


def test_a_marker_is_named_by_a_double_click(window, lanes, mouse, monkeypatch):
    window.desk.document.edit("marker", lambda scene: set_marker(scene, 20.0))
    monkeypatch.setattr(
        "wild_heron.desk.commands.marker_commands.QInputDialog.getText", lambda *a, **k: ("the drum", True)
    )
    mouse.send(lanes, "double", pennant(lanes, lanes.axis, 20.0))
    assert window.desk.document.scene.markers[0].name == "the drum"


def test_a_marker_is_dragged_as_one_step_and_escape_takes_it_back(window, lanes, mouse, qtbot):
    document = window.desk.document
    document.edit("marker", lambda scene: set_marker(scene, 20.0, "beat"))
    step = lanes.axis.pixels_per_frame
    mouse.drag(lanes, pennant(lanes, lanes.axis, 20.0), (4 * step, 0), (10.2 * step, 0))
    assert document.scene.markers[0].frame == 30.0
    assert document.history.undo_name == "Move a marker"
    document.undo()
    assert document.scene.markers[0].frame == 20.0
    mouse.drag(lanes, pennant(lanes, lanes.axis, 20.0), (10 * step, 0), release=False)
    qtbot.keyClick(lanes, Qt.Key.Key_Escape)
    assert document.scene.markers[0].frame == 20.0


def test_dragged_keys_snap_to_a_marker_between_frames(window, lanes, mouse):
    window.desk.document.edit("marker", lambda scene: set_marker(scene, 40.5, "beat"))
    step = lanes.axis.pixels_per_frame
    at = lanes.pin(lanes.lanes()[0], 1, 0)
    mouse.drag(lanes, at, (-3 * step, 0), (-7.3 * step, 0))
    assert frames(window) == [0.0, 40.5]


@pytest.mark.parametrize("area", ["lanes", "curves"])
def test_an_end_of_the_bar_stretches_the_keys_about_the_other_end(window, mouse, area):
    window.desk.lanes.choose(area)
    view = window.desk.lanes.view if area == "lanes" else window.desk.lanes.curves.view
    axis = view.axis
    document = window.desk.document
    document.selection.choose_keys([START, END])
    mouse.drag(view, grip(view, axis, 48.0), (20.0, 0), (24.2 * axis.pixels_per_frame, 0))
    assert frames(window) == [0.0, 72.0]
    assert document.selection.keys == {START, END._replace(frame=72.0)}
    assert document.history.undo_name == "Stretch keys"
    mouse.drag(view, grip(view, axis, 72.0), (-20.0, 0), (-24.0 * axis.pixels_per_frame, 0))
    assert frames(window) == [0.0, 48.0]


@pytest.mark.parametrize(("keys", "after"), [(Keys.ShiftModifier, [-12.0, 60.0]), (Keys.ControlModifier, [-6.0, 60.0])])
def test_with_shift_about_the_middle_with_ctrl_about_the_playhead(window, lanes, mouse, keys, after):
    """So that a move runs past both ends of a shot."""
    window.desk.document.playhead.set_frame(16.0)
    window.desk.document.selection.choose_keys([START, END])
    mouse.drag(lanes, grip(lanes, lanes.axis, 48.0), (5.0, 0), (12.0 * lanes.axis.pixels_per_frame, 0), keys=keys)
    assert frames(window) == pytest.approx(after)


def test_the_bar_itself_moves_the_keys_and_escape_takes_it_back(window, lanes, mouse, qtbot):
    window.desk.document.selection.choose_keys([START, END])
    middle = QPointF(lanes.axis.x(20.0), RULER - 2)
    mouse.drag(lanes, middle, (5.0, 0), (7.0 * lanes.axis.pixels_per_frame, 0))
    assert frames(window) == [7.0, 55.0]
    mouse.drag(lanes, middle, (40.0, 0), release=False)
    qtbot.keyClick(lanes, Qt.Key.Key_Escape)
    assert frames(window) == [7.0, 55.0]
    assert window.desk.document.selection.keys == {START._replace(frame=7.0), END._replace(frame=55.0)}


def test_an_end_on_the_playhead_cannot_be_stretched_about_it(window, lanes, mouse):
    said = []
    window.desk.document.messages.said.connect(lambda text, warning: said.append(text))
    window.desk.document.playhead.set_frame(48.0)
    window.desk.document.selection.choose_keys([START, END])
    mouse.drag(lanes, grip(lanes, lanes.axis, 48.0), (5.0, 0), (30.0, 0), keys=Keys.ControlModifier)
    assert frames(window) == [0.0, 48.0]
    assert "Drag the other end" in said[-1]


def test_the_ruler_still_scrubs_under_a_selection(window, lanes, mouse):
    window.desk.document.selection.choose_keys([START, END])
    mouse.drag(lanes, QPointF(lanes.axis.x(30.0), 8))
    assert window.desk.document.playhead.frame == 30.0
    assert wh.edits.marker_at(window.desk.document.scene, 30.0) is None
