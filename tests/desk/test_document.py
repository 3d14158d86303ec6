"""Undo, gestures and the selection, without a window."""

import pytest

import wild_heron as wh
from wild_heron.desk.state.document import Document
from wild_heron.desk.state.recording import record
from wild_heron.desk.widgets.theme import AMBER, DEEP, PANEL, RAISED, REED, RUST, SKY, SOFT, SURROUND, TEXT
from wild_heron.edits import KeyRef


@pytest.fixture
def document(qapp, rig):
    out = Document()
    out.reset(rig, None)
    return out


def rename(document: Document, name: str) -> bool:
    return document.edit(f"Rename to {name}", lambda scene: wh.edits.rename(scene, "card", name))


def test_steps_are_undone_redone_and_forgotten_after_a_new_one(document):
    for name in ("One", "Two", "Three"):
        rename(document, name)
    assert document.history.undo_name == "Rename to Three"
    document.undo()
    document.undo()
    assert (document.scene.node("card").name, document.history.redo_name) == ("One", "Rename to Two")
    rename(document, "Four")
    assert document.history.redo_name is None
    document.undo()
    document.undo()
    document.undo()
    assert document.scene.node("card").name == "Card"
    assert document.history.undo_name is None


def test_an_edit_that_changes_nothing_or_fails_is_no_step(document):
    said = []
    document.messages.said.connect(lambda text, warning: said.append((text, warning)))
    assert not rename(document, "Card")
    assert not document.edit("Bad", lambda scene: wh.edits.set_value(scene, "card", "nothing", 1.0))
    assert document.history.undo_name is None
    assert "no channel" in said[-1][0]
    assert said[-1][1]


def test_steps_that_follow_at_once_are_one_but_others_are_not(document):
    for value in (1.0, 2.0, 3.0):
        document.recorder.set_values("Position", {("card", "position.x"): value}, "card/x")
    document.recorder.set_values("Position", {("card", "position.y"): 9.0}, "card/y")
    document.undo()
    assert document.evaluations.value("card", "position.x") == 3.0
    document.undo()
    assert document.evaluations.value("card", "position.x") == 0.0


def test_a_gesture_is_one_step_and_can_be_taken_back(document):
    document.gesture.begin("Drag")
    for value in (1.0, 2.0, 3.0):
        document.recorder.set_values("Drag", {("card", "position.x"): value})
    document.gesture.commit()
    assert (document.history.undo_name, document.evaluations.value("card", "position.x")) == ("Drag", 3.0)
    document.undo()
    assert document.evaluations.value("card", "position.x") == 0.0
    document.gesture.begin("Drag")
    document.recorder.set_values("Drag", {("card", "position.x"): 5.0})
    document.undo()  # while dragging: the drag is taken back
    assert document.evaluations.value("card", "position.x") == 0.0
    assert not document.gesture.running
    document.gesture.begin("Nothing")
    document.gesture.commit()
    assert document.history.redo_name == "Drag"  # a drag that changed nothing is no step


def test_whether_there_is_something_to_save(document, tmp_path):
    assert not document.is_modified
    rename(document, "One")
    assert document.is_modified
    document.mark_saved(tmp_path / "a.heron", lambda scene: scene)
    assert not document.is_modified
    document.undo()
    assert document.is_modified
    document.redo()
    assert not document.is_modified


def test_selections_drop_what_is_gone(document):
    document.selection.choose(["card", "turn", "nothing", "card"])
    assert document.selection.nodes == ("card", "turn")
    document.selection.choose_keys([KeyRef("turn", "rotation.y", 0.0), KeyRef("turn", "rotation.y", 48.0)])
    document.edit("Delete", lambda scene: wh.edits.remove_keys(scene, [KeyRef("turn", "rotation.y", 0.0)]))
    assert document.selection.keys == {KeyRef("turn", "rotation.y", 48.0)}
    document.edit("Delete", lambda scene: wh.edits.remove_nodes(scene, ["turn"]))
    assert document.selection.nodes == ("card",)
    assert document.selection.keys == frozenset()


def test_the_playhead_stays_in_the_scene(document):
    document.playhead.set_frame(500)
    assert document.playhead.frame == 48.0
    from msgspec.structs import replace

    document.edit("Shorter", lambda scene: wh.edits.change_settings(scene, replace(scene.settings, last=10)))
    assert document.playhead.frame == 10.0
    document.playhead.set_play_range((4, 90))
    assert document.playhead.range == (4, 10)


def test_pending_values_show_only_at_their_frame_and_go_with_their_channel(document):
    document.playhead.set_frame(12)
    document.recorder.set_values("Turn", {("turn", "rotation.y"): 50.0})
    assert document.evaluations.value("turn", "rotation.y") == 50.0
    assert document.scene.node("turn").channel("rotation.y").key_at(12) is None
    document.playhead.set_frame(13)
    assert document.evaluations.value("turn", "rotation.y") != 50.0
    recorded = record(document.state, {("card", "position.x"): 1.0}, 13.0, auto_key=False)
    document.recorder.apply("Move", recorded)
    assert len(document.state.pending) == 1
    document.edit("Delete", lambda scene: wh.edits.remove_nodes(scene, ["turn"]))
    assert document.state.pending == ()


def luminance(colour: str) -> float:
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("text", [TEXT, SOFT, AMBER, RUST, REED, SKY])
@pytest.mark.parametrize("surface", [DEEP, PANEL, RAISED, SURROUND])
def test_text_can_be_read(text, surface):
    """WCAG 2.1 AA: at least 4.5 to 1 (3 to 1 for the signal colours, which are set in large or bold type on raised)."""
    low, high = sorted([luminance(text), luminance(surface)])
    least = 3.0 if text in (RUST, SKY, SOFT) and surface == RAISED else 4.5
    assert (high + 0.05) / (low + 0.05) >= least
