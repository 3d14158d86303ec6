"""The ease panel: one curve drawn for many spans, choices that are looked at before they are kept."""

import pytest
from PyQt6.QtCore import Qt

import wild_heron as wh
from wild_heron.edits import KeyRef

Keys = Qt.KeyboardModifier


@pytest.fixture
def panel(window, qtbot):
    """The panel on two spans of different eases."""
    document = window.desk.document
    document.edit(
        "Lift",
        lambda s: wh.edits.set_key(
            wh.edits.set_key(s, "turn", "position.y", 6.0, 0.0, wh.Family("sine")), "turn", "position.y", 30.0, 2.0
        ),
    )
    document.selection.choose_keys([KeyRef("turn", "rotation.y", 0.0), KeyRef("turn", "position.y", 6.0)])
    window.desk.actions_["ease.panel"].trigger()
    return window.desk.lanes.ease


def spans(window) -> set[object]:
    node = window.desk.document.scene.node("turn")
    return {node.channel(name).keys[0].span for name in ("rotation.y", "position.y")}


def test_one_curve_is_drawn_for_all_the_selected_spans_as_one_step(window, panel, mouse):
    editor = panel.editor
    assert panel.current() is None
    assert len(editor.ghosts) == 2  # what each looks like now
    steps = window.desk.document.history.position
    to = editor.place(0.7, 0.0) - editor.bead(0)
    mouse.drag(editor, editor.bead(0), (10, 5), (to.x(), to.y()))
    assert spans(window) == {wh.Bezier(0.7, 0.0, 0.67, 0.67)}
    assert window.desk.document.history.position == steps + 1
    # The second bead, kept at its moment, overshoots.
    to = editor.place(0.2, 1.3) - editor.bead(1)
    mouse.drag(editor, editor.bead(1), (to.x(), to.y()), keys=Keys.ControlModifier)
    (span,) = spans(window)
    assert (span.x2, span.y2) == pytest.approx((0.67, 1.3), abs=0.02)
    assert len(editor.ghosts) == 1


def test_escape_takes_a_drag_of_a_bead_back(window, panel, mouse, qtbot):
    before = spans(window)
    mouse.drag(panel.editor, panel.editor.bead(1), (-40, 30), release=False)
    assert spans(window) != before
    qtbot.keyClick(panel.editor, Qt.Key.Key_Escape)
    assert spans(window) == before
    assert panel.isVisible()


def test_looking_first_changes_every_view_but_not_the_scene(window, panel, mouse, qtbot):
    document, before = window.desk.document, window.desk.document.state
    panel.look.click()
    document.playhead.set_frame(12.0)
    value = document.evaluations.value("turn", "rotation.y")
    tile = next(tile for tile in panel.tiles if tile.name == "quint")
    tile.click()
    assert document.state == before
    assert not document.is_modified or document.scene == before.scene
    assert document.evaluations.value("turn", "rotation.y") != value
    shown = next(lane for lane in window.desk.lanes.view.lanes() if lane.channel == "rotation.y")
    assert shown.data.keys[0].span == wh.Family("quint")
    assert next(c for c in window.desk.lanes.curves.view.curves() if c.channel == "rotation.y").data is shown.data
    assert tile.isChecked()
    # A drag tries out too; taken back, the try before it is there again.
    mouse.drag(panel.editor, panel.editor.bead(0), (30, 30), release=False)
    assert isinstance(panel.trial.span, wh.Bezier)
    qtbot.keyClick(panel.editor, Qt.Key.Key_Escape)
    assert panel.trial.span == wh.Family("quint")
    panel.back.click()
    assert document.evaluations.value("turn", "rotation.y") == value
    assert document.state == before


def test_what_was_looked_at_is_kept_as_one_step(window, panel, qtbot):
    panel.look.click()
    for name in ("quint", "circ"):
        next(tile for tile in panel.tiles if tile.name == name).click()
    steps = window.desk.document.history.position
    qtbot.keyClick(panel, Qt.Key.Key_Return)
    assert spans(window) == {wh.Family("circ")}
    assert window.desk.document.history.position == steps + 1
    assert panel.trial.span is None


def test_what_is_tried_out_goes_when_the_scene_or_the_selection_changes(window, panel):
    document = window.desk.document
    panel.look.click()
    tile = next(tile for tile in panel.tiles if tile.name == "quint")
    tile.click()
    document.edit("Name", lambda scene: wh.edits.rename(scene, "card", "Sign"))
    assert panel.trial.span is None
    assert document.views.keyed is document.views.shown is document.scene
    tile.click()
    document.selection.choose_keys([KeyRef("turn", "rotation.y", 0.0)])
    assert panel.trial.span is None
    assert document.views.shown is document.scene
    tile.click()
    document.views.propose(wh.edits.rename(document.scene, "card", "Sign"))  # as a dialog does
    assert panel.trial.span is None
    assert document.views.keyed is document.scene
    document.views.propose(None)
    tile.click()
    panel.leave()
    assert document.views.shown is document.scene


def test_a_spring_is_shaped_by_its_numbers(window, panel):
    panel.spring[0].edited.emit(3.5, False)
    panel.spring[1].edited.emit(0.6, False)
    assert spans(window) == {wh.Spring(3.5, 0.6)}
    panel.steps.edited.emit(4.0, False)
    assert spans(window) == {wh.Steps(4)}


def test_the_panel_is_moved_out_of_the_way_and_stays_there(window, panel, mouse):
    from PyQt6.QtCore import QPointF

    old = panel.pos()
    mouse.drag(panel, QPointF(4, 4), (-60, -40))
    assert panel.pos() == old + QPointF(-60, -40).toPoint()
    panel.leave()
    window.desk.actions_["ease.panel"].trigger()
    assert panel.pos() == old + QPointF(-60, -40).toPoint()
    assert window.desk.document.selection.keys
