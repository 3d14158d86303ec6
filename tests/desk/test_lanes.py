"""Lanes: keys and spans under the mouse, pending values, eases."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt

import wild_heron as wh
from tests.desk.conftest import chord
from wild_heron.desk.timeline.axis import RULER, TimeAxis
from wild_heron.desk.timeline.lanes.shapes import outline
from wild_heron.edits import KeyRef

START, END = KeyRef("turn", "rotation.y", 0.0), KeyRef("turn", "rotation.y", 48.0)


@pytest.fixture
def lanes(window):
    return window.desk.lanes.view


def pin(lanes, index: int, row: int = 0) -> QPointF:
    return lanes.pin(lanes.lanes()[row], index, row)


def frames(window) -> list[float]:
    return [key.frame for key in window.desk.document.scene.node("turn").channel("rotation.y").keys]


def test_scrubbing_on_the_ruler(window, lanes, mouse):
    mouse.drag(lanes, QPointF(lanes.axis.x(10.2), RULER / 2), (0, 0), (lanes.axis.pixels_per_frame * 5, 0))
    assert window.desk.document.playhead.frame == 15.0


def test_keys_are_clicked_dragged_and_snap_to_frames(window, lanes, mouse):
    mouse.drag(lanes, pin(lanes, 1))
    assert window.desk.document.selection.keys == {END}
    pixels = lanes.axis.pixels_per_frame
    mouse.drag(lanes, pin(lanes, 1), (-pixels * 3, 0), (-pixels * 8.3, 0))
    assert frames(window) == [0.0, 40.0]
    assert window.desk.document.selection.keys == {END._replace(frame=40.0)}
    window.desk.document.undo()
    assert frames(window) == [0.0, 48.0]
    mouse.drag(lanes, pin(lanes, 1), (-pixels * 8.5, 0), keys=Qt.KeyboardModifier.AltModifier)
    assert frames(window)[1] == pytest.approx(39.5)


def test_escape_takes_a_key_drag_back(window, lanes, mouse, qtbot):
    mouse.drag(lanes, pin(lanes, 1), (-60, 0), release=False)
    assert frames(window) != [0.0, 48.0]
    qtbot.keyClick(lanes, Qt.Key.Key_Escape)
    assert frames(window) == [0.0, 48.0]


def test_a_drag_leaves_what_is_locked_alone_and_says_so(window, lanes, mouse):
    document = window.desk.document
    for axis in "xy":
        document.edit("Key", lambda s, axis=axis: wh.edits.set_key(s, "turn", f"position.{axis}", 48.0, 1.0))
    document.edit("Lock", lambda s: wh.edits.lock_channel(s, "turn", "position.x", True))
    places = [("turn", "position.x"), ("turn", "position.y"), ("turn", "rotation.y")]
    document.selection.choose_keys([KeyRef(*place, 48.0) for place in places])
    row = next(k for k, lane in enumerate(lanes.lanes()) if lane.channel == "rotation.y")
    mouse.drag(lanes, pin(lanes, 1, row), (-lanes.axis.pixels_per_frame * 8, 0))
    at = {channel.name: channel.keys[-1].frame for channel in document.scene.node("turn").channels}
    assert at == {"position.x": 48.0, "position.y": 40.0, "rotation.y": 40.0}
    assert "position x is locked" in window.desk.status.text.text().lower()
    before = document.scene
    document.edit("Lock", lambda s: wh.edits.change_node(s, "turn", locked=True))
    mouse.drag(lanes, pin(lanes, 1, row), (-lanes.axis.pixels_per_frame * 8, 0))
    assert document.scene.node("turn").channels == before.node("turn").channels
    assert "Turn is locked" in window.desk.status.text.text()


def test_box_selection(window, lanes, mouse):
    top = QPointF(lanes.axis.x(-0.6), lanes.row_top(0) + 2)
    mouse.drag(lanes, top, (100, 10), (lanes.axis.x(48.4) - top.x(), 25))
    assert window.desk.document.selection.keys == {START, END}


def test_copy_paste_duplicate_delete(window, lanes, mouse, qtbot):
    document = window.desk.document
    document.selection.choose_keys([START, END])
    control = Qt.KeyboardModifier.ControlModifier
    document.edit("Longer", lambda scene: wh.edits.move_keys(scene, [END], -40.0)[0])
    document.selection.choose_keys([START, END._replace(frame=8.0)])
    qtbot.keyClick(window, Qt.Key.Key_C, control)
    document.playhead.set_frame(20)
    qtbot.keyClick(window, Qt.Key.Key_V, control)
    assert frames(window) == [0.0, 8.0, 20.0, 28.0]
    qtbot.keyClick(window, Qt.Key.Key_D, control)
    assert frames(window) == [0.0, 8.0, 20.0, 28.0, 29.0, 37.0]
    qtbot.keyClick(window, Qt.Key.Key_Delete)
    assert frames(window) == [0.0, 8.0, 20.0, 28.0]
    document.selection.choose(["card"])
    qtbot.keyClick(window, Qt.Key.Key_Delete)  # the node was selected last
    assert "card" not in document.scene


def test_keys_are_nudged_by_frames(window, qtbot):
    window.desk.document.selection.choose_keys([END])
    for _ in range(3):
        qtbot.keyClick(window, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert frames(window) == [0.0, 45.0]
    window.desk.document.undo()
    assert frames(window) == [0.0, 48.0]


def test_a_span_gets_its_ease_from_the_panel(window, lanes, mouse, qtbot):
    middle = QPointF(lanes.axis.x(24), lanes.row_top(0) + 28)
    mouse.drag(lanes, middle)
    assert window.desk.document.selection.keys == {START, END}
    mouse.send(lanes, "double", middle)
    panel = window.desk.lanes.ease
    assert panel.isVisible()
    tile = next(tile for tile in panel.tiles if tile.name == "bounce")
    qtbot.mouseClick(tile, Qt.MouseButton.LeftButton)
    channel = window.desk.document.scene.node("turn").channel("rotation.y")
    assert channel.keys[0].span == wh.Family("bounce", "in-out")
    assert channel.keys[1].span != wh.Family("bounce", "in-out")
    assert tile.isChecked()
    qtbot.mouseClick(panel.directions.buttons()[1], Qt.MouseButton.LeftButton)
    qtbot.mouseClick(next(t for t in panel.tiles if t.name == "sine"), Qt.MouseButton.LeftButton)
    assert window.desk.document.scene.node("turn").channel("rotation.y").keys[0].span == wh.Family("sine", "out")
    panel.handles[1].edited.emit(1.5, False)
    assert window.desk.document.scene.node("turn").channel("rotation.y").keys[0].span.y1 == 1.5
    window.desk.actions_["ease.hold"].trigger()
    assert window.desk.document.scene.node("turn").channel("rotation.y").keys[0].span == wh.Hold()
    qtbot.keyClick(panel, Qt.Key.Key_Escape)
    assert not panel.isVisible()


def test_auto_key_off_leaves_a_pending_value_that_is_never_lost(window, qtbot):
    document = window.desk.document
    document.playhead.set_frame(24)
    document.selection.choose(["turn"])
    window.desk.inspector.fields["rotation.y"].edited.emit(10.0, False)
    bar = window.desk.lens.pending
    assert bar.isVisible()
    assert "Turn · rotation y" in bar.text.text()
    assert document.evaluations.value("turn", "rotation.y") == 10.0
    assert frames(window) == [0.0, 48.0]
    document.playhead.set_frame(30)
    assert bar.isVisible()
    assert document.evaluations.value("turn", "rotation.y") == pytest.approx(30 / 48 * 90)
    qtbot.mouseClick(bar.go, Qt.MouseButton.LeftButton)
    assert document.playhead.frame == 24
    qtbot.mouseClick(bar.discard, Qt.MouseButton.LeftButton)
    assert not bar.isVisible()
    assert document.evaluations.value("turn", "rotation.y") == pytest.approx(45.0)
    document.undo()
    assert bar.isVisible()
    qtbot.mouseClick(bar.key, Qt.MouseButton.LeftButton)
    assert frames(window) == [0.0, 24.0, 48.0]
    assert not bar.isVisible()


def test_auto_key_on_is_unmistakable_and_says_what_it_wrote(window, qtbot):
    qtbot.mouseClick(window.desk.top_bar.auto_key, Qt.MouseButton.LeftButton)
    assert window.desk.document.recorder.auto_key
    assert window.desk.actions_["keys.auto"].isChecked()
    window.desk.document.playhead.set_frame(24)
    window.desk.document.selection.choose(["turn"])
    window.desk.inspector.fields["rotation.y"].edited.emit(10.0, False)
    assert frames(window) == [0.0, 24.0, 48.0]
    assert "1 key written" in window.desk.status.text.text()


def test_the_dot_by_a_lane_keys_and_unkeys(window, lanes, mouse):
    window.desk.document.playhead.set_frame(24)
    spot = QPointF(232, lanes.row_top(0) + 16)
    mouse.drag(lanes, spot)
    assert frames(window) == [0.0, 24.0, 48.0]
    mouse.drag(lanes, spot)
    assert frames(window) == [0.0, 48.0]


def test_key_now_writes_the_pose_of_an_unkeyed_node(window, qtbot):
    window.desk.document.selection.choose(["card"])
    chord(window, "KK")
    keyed = {channel.name for channel in window.desk.document.scene.node("card").channels if channel.keys}
    assert keyed == {"position.x", "position.y", "position.z", "rotation.x", "rotation.y", "rotation.z", "opacity"}


def test_a_lane_is_drawn_in_the_shape_of_its_values(rig):
    channel = rig.node("turn").channel("rotation.y")
    xs, shares = outline(channel, TimeAxis(0.0, 480.0, 0.0, 48.0), 0.0, 90.0)
    assert shares == pytest.approx(np.asarray(xs) / 480.0, abs=1e-6)


def test_the_axis_zooms_about_a_frame_and_labels_do_not_touch():
    axis = TimeAxis(100.0, 900.0, 0.0, 240.0)
    closer = axis.zoomed(3.0, 60.0)
    assert closer.x(60.0) == pytest.approx(axis.x(60.0))
    assert closer.pixels_per_frame == pytest.approx(3 * axis.pixels_per_frame)
    for each in (axis, closer, axis.zoomed(0.01, 0.0)):
        assert each.tick_step() * each.pixels_per_frame >= 56.0
