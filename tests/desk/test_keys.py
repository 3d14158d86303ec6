"""Many keys at once, in the real window."""

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

import wild_heron as wh
from wild_heron.desk.dialogs.stretch_keys_dialog import StretchKeysDialog
from wild_heron.desk.overview.overview_drags import NodeDrag, PathKeyDrag
from wild_heron.desk.timeline.axis import ROW, RULER
from wild_heron.edits import KeyRef
from wild_heron.evaluate import evaluate

from .conftest import Mouse


@pytest.fixture
def keyed(window):
    """The card with three keyed channels besides the turn's one."""
    scene = window.desk.document.scene
    for name, pairs in (
        ("position.x", ((0, 0.0), (10, 2.0), (30, -1.0))),
        ("position.y", ((0, 0.0), (20, 3.0))),
        ("opacity", ((5, 1.0), (25, 0.2))),
    ):
        for frame, value in pairs:
            scene = wh.edits.set_key(scene, "card", name, float(frame), value)
    window.desk.document.edit("Keys", lambda old: scene)
    return window


def frames(window, name, node="card"):
    channel = window.desk.document.scene.node(node).channel(name)
    return [key.frame for key in channel.keys]


def trigger(window, name):
    window.desk.actions_[name].trigger()


def row_of(view, node, channel):
    return next(k for k, lane in enumerate(view.lanes()) if (lane.node, lane.channel) == (node, channel))


def test_a_node_of_several_lanes_has_a_row_that_sums_them_up_and_folds(keyed):
    view, document = keyed.desk.lanes.view, keyed.desk.document
    names = [(lane.node, lane.channel) for lane in view.lanes()]
    assert names == [
        ("turn", "rotation.y"), ("card", ""), ("card", "position.x"), ("card", "position.y"), ("card", "opacity")
    ]  # fmt: skip
    row = row_of(view, "card", "")
    at = view.row_top(row) + ROW / 2
    # A square pin is every key of the node at that frame.
    x = view.axis.x(0.0)
    Mouse.drag(view, QPointF(x, at))
    assert document.selection.keys == {KeyRef("card", "position.x", 0.0), KeyRef("card", "position.y", 0.0)}
    Mouse.drag(view, QPointF(x, at), (view.axis.pixels_per_frame * 4, 0))
    assert frames(keyed, "position.x") == [4.0, 10.0, 30.0]
    assert frames(keyed, "position.y") == [4.0, 20.0]
    assert frames(keyed, "opacity") == [5.0, 25.0]
    Mouse.drag(view, QPointF(13, at))
    assert [lane.channel for lane in view.lanes()] == ["rotation.y", ""]
    assert view.grab().toImage().pixelColor(13, int(at)).isValid()
    keyed.desk.lanes.lanes.search.setText("opac")
    assert [lane.channel for lane in view.lanes()] == ["opacity"]
    keyed.desk.lanes.lanes.search.setText("")
    view.fold("card")
    assert len(view.lanes()) == 5


def test_ctrl_dragging_selected_keys_leaves_them_and_takes_copies(keyed):
    view, document = keyed.desk.lanes.view, keyed.desk.document
    row = row_of(view, "card", "opacity")
    y = view.row_top(row) + ROW / 2
    start = QPointF(view.axis.x(5.0), y)
    Mouse.drag(view, start)
    Mouse.drag(view, start, (view.axis.pixels_per_frame * 10, 0), keys=Qt.KeyboardModifier.ControlModifier)
    assert frames(keyed, "opacity") == [5.0, 15.0, 25.0]
    assert document.history.undo_name == "Duplicate keys"
    assert document.selection.keys == {KeyRef("card", "opacity", 15.0)}
    # Without a drag, Ctrl takes it out of the selection.
    Mouse.drag(view, QPointF(view.axis.x(15.0), y), keys=Qt.KeyboardModifier.ControlModifier)
    assert not document.selection.keys
    assert view.row_top(0) == RULER


@pytest.mark.parametrize(
    ("action", "wanted"),
    [
        ("keys.ripple_later", {"position.x": [0.0, 11.0, 31.0]}),
        ("keys.hold_until", {"position.x": [0.0, 10.0, 18.0, 30.0]}),
        ("keys.jump", {"position.x": [0.0, 10.0, 18.0, 30.0]}),
        ("keys.insert", {"position.x": [0.0, 10.0, 18.0, 30.0]}),
        ("ease.match", {"position.x": [0.0, 10.0, 30.0]}),
        ("ease.through", {"position.x": [0.0, 10.0, 30.0]}),
        ("ease.landing", {"position.x": [0.0, 10.0, 30.0]}),
    ],
)
def test_each_command_is_one_step_on_what_is_selected(keyed, action, wanted):
    document = keyed.desk.document
    document.playhead.set_frame(18.0)
    before = document.scene
    document.selection.choose_keys([KeyRef("card", "position.x", 10.0)])
    trigger(keyed, action)
    assert document.scene is not before
    for name, expected in wanted.items():
        assert frames(keyed, name) == expected
    assert frames(keyed, "position.y") == [0.0, 20.0]
    document.undo()
    assert document.scene is before


def test_keys_run_backwards_over_the_same_stretch(keyed):
    document = keyed.desk.document
    document.selection.choose_keys([KeyRef("card", "position.x", frame) for frame in (0.0, 10.0, 30.0)])
    trigger(keyed, "keys.reverse")
    channel = document.scene.node("card").channel("position.x")
    assert [(key.frame, key.value) for key in channel.keys] == [(0.0, -1.0), (20.0, 2.0), (30.0, 0.0)]
    assert document.selection.keys == {KeyRef("card", "position.x", frame) for frame in (0.0, 20.0, 30.0)}


def test_even_speed_goes_by_the_way(keyed):
    document = keyed.desk.document
    document.selection.choose_keys([KeyRef("card", "position.x", 0.0), KeyRef("card", "position.x", 30.0)])
    trigger(keyed, "ease.even")
    assert document.history.undo_name == "Even speed"
    at = evaluate(document.scene, [0.0, 10.0, 20.0, 30.0]).position("card")
    assert at[0] == pytest.approx([0.0, 0.0, 0.0])
    assert at[3] == pytest.approx([-1.0, 3.0, 0.0])


def test_keys_are_stretched_by_a_number_while_the_views_follow(keyed):
    document = keyed.desk.document
    document.playhead.set_frame(0.0)
    document.selection.choose_keys([KeyRef("card", "position.x", frame) for frame in (0.0, 10.0, 30.0)])
    before = document.scene
    trigger(keyed, "keys.stretch")
    dialog = keyed.findChild(StretchKeysDialog)
    field = dialog.fields["frames"]
    QTest.mouseClick(field, Qt.MouseButton.LeftButton)
    field.editor.selectAll()
    QTest.keyClicks(field.editor, "60")
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    assert dialog.factor == pytest.approx(2.0)
    assert document.scene is before
    assert [key.frame for key in document.views.shown.node("card").channel("position.x").keys] == [0.0, 20.0, 60.0]
    dialog.about.buttons()[1].click()
    dialog.go.click()
    assert frames(keyed, "position.x") == [-15.0, 5.0, 45.0]
    document.undo()
    assert document.scene is before


def test_what_a_lane_does_beyond_its_keys_is_chosen_and_seen(keyed):
    document = keyed.desk.document
    document.selection.choose_keys([KeyRef("card", "position.x", 10.0)])
    trigger(keyed, "keys.beyond_offset")
    channel = document.scene.node("card").channel("position.x")
    assert (channel.before, channel.after) == ("offset", "offset")
    assert evaluate(document.scene, [40.0]).position("card")[0, 0] == pytest.approx(2.0 - 1.0)
    assert not keyed.desk.lanes.view.grab().isNull()
    trigger(keyed, "keys.beyond_hold")
    assert document.scene.node("card").channel("position.x").after == "hold"


def test_copied_keys_are_pasted_onto_another_node(keyed):
    document = keyed.desk.document
    document.selection.choose_keys([KeyRef("card", "position.x", frame) for frame in (0.0, 10.0)])
    trigger(keyed, "edit.copy")
    document.selection.choose_keys([])
    document.selection.choose(["target"])
    document.playhead.set_frame(6.0)
    trigger(keyed, "keys.paste_onto")
    assert frames(keyed, "position.x", "target") == [6.0, 16.0]
    said = []
    document.messages.said.connect(lambda text, warning: said.append(text))
    document.selection.choose_keys([KeyRef("turn", "rotation.y", 0.0)])
    trigger(keyed, "keys.paste_onto")
    assert any("another unit" in text for text in said)


def test_an_ease_is_softened_kept_by_a_name_and_used_for_new_keys(keyed, tmp_path, monkeypatch):
    from wild_heron.desk.timeline.ease import ease_panel as ease_panel
    from wild_heron.files.user_presets import load_presets
    from wild_heron.scene import NamedEase

    monkeypatch.setattr(ease_panel, "user_file", lambda name: tmp_path / "mine" / "eases.json")
    document, panel = keyed.desk.document, keyed.desk.lanes.ease
    document.selection.choose_keys([KeyRef("card", "position.y", 0.0), KeyRef("card", "opacity", 5.0)])
    trigger(keyed, "ease.panel")
    panel.soft[0].edited.emit(0.8, False)
    panel.soft[1].edited.emit(0.1, False)
    spans = {document.scene.node("card").channel(name).keys[0].span for name in ("position.y", "opacity")}
    assert spans == {wh.Bezier(0.8, 0.0, 0.9, 1.0)}
    panel.keep(wh.NamedEase("Lantern sway", spans.pop()))
    assert [each.name for each in document.scene.eases] == ["Lantern sway"]
    assert load_presets(tmp_path / "mine" / "eases.json", NamedEase)[0].name == "Lantern sway"
    # Another scene has it too.
    document.reset(wh.Scene(), None)
    panel._rebuild()
    assert panel.tiles[-1].name == "Lantern sway"
    (tmp_path / "mine" / "eases.json").write_text('[{"name": "x", "ease": {"type": "exec"}}]')
    panel._rebuild()
    assert panel.tiles[-1].name == "smooth"


def test_new_keys_take_the_scenes_ease(keyed):
    document, panel = keyed.desk.document, keyed.desk.lanes.ease
    document.selection.choose_keys([KeyRef("card", "position.y", 0.0)])
    trigger(keyed, "ease.panel")
    next(tile for tile in panel.tiles if tile.name == "spring").click()
    assert isinstance(document.scene.node("card").channel("position.y").keys[0].span, wh.Spring)
    panel._for_new()
    document.edit("Key", lambda scene: wh.edits.set_key(scene, "target", "position.x", 3.0, 1.0))
    assert document.scene.node("target").channel("position.x").keys[0].span == wh.Spring()


@pytest.mark.parametrize(("scope", "count"), [("changed", 1), ("pose", 6), ("lens", 10), ("everything", 10)])
def test_what_auto_key_writes_is_chosen_and_just_those_are_taken_back(keyed, scope, count):
    document = keyed.desk.document
    document.edit("Free", lambda scene: wh.edits.change_node(scene, "cam", binds=()))
    trigger(keyed, f"keys.scope_{scope}")
    trigger(keyed, "keys.auto")
    document.playhead.set_frame(9.0)
    before = document.scene
    document.recorder.set_values("Move", {("cam", "position.x"): 2.0})
    written = sum(len(channel.keys) for channel in document.scene.node("cam").channels)
    assert written == count if scope != "everything" else written >= count
    document.edit("Something else", lambda scene: wh.edits.rename(scene, "card", "Sign"))
    trigger(keyed, "keys.undo_last")
    assert document.scene.node("cam") == before.node("cam")
    assert document.scene.node("card").name == "Sign"


def test_a_key_is_dragged_on_its_way_in_the_overview(keyed):
    import numpy as np

    document, view = keyed.desk.document, keyed.desk.overview.view
    document.selection.choose(["card"])
    view.set_mode("front")
    view.frame_all(("card",))
    document.playhead.set_frame(30.0)
    before = evaluate(document.scene, [0.0, 10.0, 30.0]).position("card")
    spot = view.project(before[1:2])[0]
    found = view.path_key_editor.at(spot, view.project)
    assert (found.node, found.frame) == ("card", 10.0)
    drag = (18.0, -24.0)
    view.at_rest.stop()
    Mouse.send(view, "press", QPointF(*spot))
    if not isinstance(view.drag, PathKeyDrag):
        # A handle of the node lies over it here.
        view.path_key_editor.press(spot, view.project, False)
        view.drag = PathKeyDrag(view, QPointF(*spot))
    Mouse.send(view, "move", QPointF(spot[0] + drag[0], spot[1] + drag[1]))
    Mouse.send(view, "release", QPointF(spot[0] + drag[0], spot[1] + drag[1]))
    after = evaluate(document.scene, [0.0, 10.0, 30.0]).position("card")
    assert view.project(after[1:2])[0] == pytest.approx(spot + np.array(drag), abs=0.5)
    assert after[0] == pytest.approx(before[0])
    assert after[2] == pytest.approx(before[2])
    assert document.history.undo_name == "Move Card at frame 10"
    view.show_onion(True)
    assert not view.grab().isNull()


def test_a_pose_and_an_ease_are_copied_to_others(keyed):
    document = keyed.desk.document
    document.selection.choose(["card"])
    document.playhead.set_frame(10.0)
    wanted = document.evaluations.here.position("card")[0]
    trigger(keyed, "keys.copy_pose")
    document.selection.choose(["target"])
    trigger(keyed, "keys.paste_pose")
    assert evaluate(document.scene, 0.0).position("target")[0] == pytest.approx(wanted)
    assert not document.scene.node("target").channel("position.x").keys
    document.edit("Ease", lambda s: wh.edits.set_spans(s, [KeyRef("card", "position.x", 10.0)], wh.Spring()))
    document.selection.choose_keys(
        [KeyRef("card", "position.x", 0.0), KeyRef("card", "position.x", 10.0), KeyRef("card", "position.x", 30.0)]
    )
    trigger(keyed, "ease.copy")
    document.selection.choose_keys([KeyRef("card", "position.y", 0.0), KeyRef("card", "opacity", 5.0)])
    trigger(keyed, "ease.paste")
    node = document.scene.node("card")
    first = node.channel("position.x").keys[0].span
    assert [node.channel(name).keys[0].span for name in ("position.y", "opacity")] == [first, first]


def test_one_row_sums_up_all_keys_of_the_scene(keyed):
    document, view = keyed.desk.document, keyed.desk.lanes.view
    assert view.lanes()[0].node == "turn"
    document.edit("Key", lambda scene: wh.edits.set_key(scene, "target", "position.x", 10.0, 1.0))
    top = view.lanes()[0]
    assert (top.node, top.label) == ("", "All keys")
    refs = top.refs(document.scene, 10.0)
    assert refs == {KeyRef("target", "position.x", 10.0), KeyRef("card", "position.x", 10.0)}
    Mouse.drag(view, QPointF(13, view.row_top(0) + ROW / 2))
    assert view.folded == {"card"}
    Mouse.drag(view, QPointF(view.axis.x(10.0), view.row_top(0) + ROW / 2))
    assert document.selection.keys == refs
    assert not view.grab().isNull()


def test_a_drag_in_the_overview_keeps_to_the_axis_whose_key_is_held(keyed):
    document, view = keyed.desk.document, keyed.desk.overview.view
    document.selection.choose(["target"])
    view.set_mode("free")
    view.at_rest.stop()
    before = document.evaluations.here.position("target")[0].copy()
    at = QPointF(*view.project(before[None])[0])
    view.drag = NodeDrag(view, at, "target")
    QTest.keyPress(view, Qt.Key.Key_X)
    Mouse.send(view, "move", at + QPointF(40, -30))
    QTest.keyRelease(view, Qt.Key.Key_X)
    Mouse.send(view, "release", at + QPointF(40, -30))
    moved = document.evaluations.here.position("target")[0] - before
    assert abs(moved[0]) > 0.1
    assert moved[1:] == pytest.approx([0.0, 0.0], abs=1e-6)


def test_a_key_snaps_to_another_that_sits_between_frames(keyed):
    document, view = keyed.desk.document, keyed.desk.lanes.view
    document.edit("Between", lambda scene: wh.edits.set_key(scene, "card", "position.y", 12.4, 1.0))
    row = row_of(view, "card", "position.x")
    y = view.row_top(row) + ROW / 2
    start = QPointF(view.axis.x(10.0), y)
    Mouse.drag(view, start, (view.axis.pixels_per_frame * 2.3, 0))
    assert frames(keyed, "position.x") == [0.0, pytest.approx(12.4), 30.0]
