"""Rigs, binds, dials, links, formulas and paths in the real window."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

import wild_heron as wh
from wild_heron.desk.channels.formula_dialog import FormulaDialog
from wild_heron.desk.channels.link_dialog import LinkDialog
from wild_heron.desk.channels.linking import MIME, Wires
from wild_heron.desk.rigs.recipes import RECIPES
from wild_heron.desk.shell.action_list import ACTIONS
from wild_heron.evaluate import evaluate

from .conftest import Mouse


def trigger(window, name):
    window.desk.actions_[name].trigger()


def drag(widget, start, end):
    step = end - start
    Mouse.drag(widget, start, (step.x() / 2, step.y() / 2), (step.x(), step.y()))


def undo_count(document):
    return document.history.position


@pytest.mark.parametrize("name", list(RECIPES))
def test_every_rig_command_shows_what_it_makes_and_is_one_step(window, name):
    document = window.desk.document
    document.edit("Ground", lambda s: wh.edits.add_node(s, wh.Ground(id="hills", name="Hills")))
    document.edit("Cart", lambda s: wh.edits.add_node(s, wh.Null(id="cart", name="Cart")))
    document.edit("Key", lambda s: wh.edits.set_key(s, "cart", "position.x", 0.0, -4.0))
    document.edit("Key", lambda s: wh.edits.set_key(s, "cart", "position.x", 40.0, 4.0))
    if name == "hold":
        document.edit("Key", lambda s: wh.edits.set_key(s, "cam", "lens.focal", 0.0, 24.0))
        document.edit("Key", lambda s: wh.edits.set_key(s, "cam", "lens.focal", 40.0, 70.0))
    document.selection.choose(["cam" if name == "dissolve" else "card"])
    before, steps = document.scene, undo_count(document)
    trigger(window, f"rig.{name}")
    builder = window.desk.builder
    assert window.desk.areas.numbers.currentWidget() is builder
    assert builder.build_button.isEnabled(), builder.line.text()
    # The views show it, the scene is as it was.
    assert document.views.shown is not before
    assert document.scene is before
    shown = evaluate(document.views.shown, [0.0, 20.0])
    QTest.keyClick(builder, Qt.Key.Key_Return)
    assert undo_count(document) == steps + 1
    assert evaluate(document.scene, [0.0, 20.0]).world("cam").tobytes() == shown.world("cam").tobytes()
    assert window.desk.areas.numbers.currentWidget() is window.desk.inspector
    document.undo()
    assert document.scene == before


def test_a_rig_that_cannot_be_says_why_and_escape_leaves_everything(window):
    document = window.desk.document
    before = document.scene
    trigger(window, "rig.ground")
    builder = window.desk.builder
    assert not builder.build_button.isEnabled()
    assert "Choose a ground" in builder.line.text()
    trigger(window, "rig.orbit")
    builder.answer("last", -5.0)
    assert "must end after it starts" in builder.line.text()
    builder.answer("last", 40.0)
    assert builder.build_button.isEnabled()
    QTest.keyClick(builder, Qt.Key.Key_Escape)
    assert document.scene is before
    assert document.views.shown is before


def test_an_answer_is_typed_and_the_views_follow(window):
    document = window.desk.document
    document.selection.choose(["card"])
    trigger(window, "rig.orbit")
    field = window.desk.builder.fields["turns"]
    QTest.mouseClick(field, Qt.MouseButton.LeftButton)
    field.editor.selectAll()
    QTest.keyClicks(field.editor, "2")
    QTest.keyClick(field.editor, Qt.Key.Key_Return)
    there = evaluate(document.views.shown, np.arange(0.0, 240.0)).position("cam")
    assert np.ptp(np.linalg.norm(there - evaluate(document.views.shown, 0.0).position("card")[0], axis=1)) < 1e-6
    assert np.ptp(there[:, 0]) > 1.0
    # An edit elsewhere meanwhile is not lost.
    document.edit("Rename", lambda scene: wh.edits.rename(scene, "card", "Sign"))
    window.desk.builder.build()
    assert document.scene.node("card").name == "Sign"


def test_binds_are_made_from_the_selection_and_changed_in_the_inspector(window):
    document = window.desk.document
    document.edit("Post", lambda s: wh.edits.add_node(s, wh.Null(id="post", name="Post")))
    document.edit("Place", lambda s: wh.edits.set_value(s, "post", "position.x", 3.0))
    document.selection.choose(["card", "post"])
    before = document.evaluations.here.position("card")[0]
    trigger(window, "rig.bind_place")
    assert document.scene.node("card").binds == (wh.Match("post"),)
    assert document.evaluations.here.position("card")[0] == pytest.approx(before)
    document.edit("Move", lambda s: wh.edits.set_value(s, "post", "position.x", 5.0))
    assert document.evaluations.here.position("card")[0] - before == pytest.approx([2.0, 0.0, 0.0])
    inspector = window.desk.inspector
    field = inspector.fields["match.strength"]
    drag(field, QPointF(40, 25), QPointF(-160, 25))
    assert document.evaluations.value("card", "match.strength") < 0.7
    QTest.mouseClick(inspector.properties["match on"], Qt.MouseButton.LeftButton)
    assert not document.scene.node("card").binds[0].on
    assert "match.move.x" not in inspector.fields
    trigger(window, "rig.limit_height")
    assert [bind.id for bind in document.scene.node("card").binds] == ["match", "limit"]
    document.edit("Remove", lambda s: wh.edits.remove_bind(s, "card", "match"))
    assert "match.strength" not in inspector.fields
    assert "limit.low" in inspector.fields


@pytest.mark.parametrize(
    ("action", "chosen", "says"),
    [
        ("rig.bind_follow", ["card"], "Select what to bind, then the node to follow last"),
        ("rig.bind_path", ["card", "turn"], "then a path last"),
        ("rig.bind_opposite", ["card", "turn"], "then the centre last"),
        ("rig.lift", [], "Select the camera or node"),
        ("rig.lower", ["card"], "rides no path"),
        ("rig.surface", ["card"], "Select a model first"),
        ("rig.drop", [], "Select what falls first"),
        ("rig.dial", [], "Select the node that the dial belongs to"),
    ],
)
def test_what_a_command_needs_is_said(window, action, chosen, says):
    window.desk.document.selection.choose(chosen)
    said = []
    window.desk.document.messages.said.connect(lambda text, warning: said.append(text))
    before = window.desk.document.scene
    trigger(window, action)
    assert window.desk.document.scene is before
    assert any(says in each for each in said)


def test_a_follow_that_would_loop_is_refused_with_the_names(window):
    document = window.desk.document
    said = []
    document.messages.said.connect(lambda text, warning: said.append(text))
    document.selection.choose(["turn", "cam"])
    trigger(window, "rig.bind_follow")
    assert document.scene.node("turn").binds == ()
    assert any("Turn" in each and "Cam" in each and "loop" in each for each in said)


def test_a_dial_is_made_dragged_keyed_and_linked_by_its_plug(window, qapp):
    document = window.desk.document
    document.selection.choose(["turn"])
    trigger(window, "rig.dial")
    (dial,) = document.scene.node("turn").dials
    assert not window.desk.board.isHidden()
    place = ("turn", dial.channel)
    slider, plug = window.desk.board.sliders[place], window.desk.board.fields[place]
    drag(slider, QPointF(10, 11), QPointF(slider.width() / 2, 11))
    assert document.evaluations.value(*place) == pytest.approx(5.0, abs=0.4)
    trigger(window, "keys.auto")
    QTest.keyClick(slider, Qt.Key.Key_Right)
    assert len(document.scene.node("turn").channel(dial.channel).keys) == 1
    document.recorder.set_auto_key(False)
    # Its plug, dropped on another channel, drives it.
    document.selection.choose(["card"])
    field = window.desk.inspector.fields["rotation.y"]
    data = plug_data(place)
    event = QDropEvent(
        QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    field.dropEvent(event)
    (link,) = document.scene.node("card").channel("rotation.y").links
    assert (link.node, link.channel) == place
    assert field.driven == "link"
    assert document.evaluations.value("card", "rotation.y") == pytest.approx(10.0 * document.evaluations.value(*place))
    # Hovering shows the wire.
    window.desk.wires.show_for(place)
    assert window.desk.wires.isVisible()
    assert window.desk.wires.pairs(place) == [(place, ("card", "rotation.y"))]
    # A value typed into a driven channel is what it comes to.
    field._set(90.0)
    assert document.evaluations.value("card", "rotation.y") == pytest.approx(90.0)
    assert plug.place == place


def plug_data(place):
    from PyQt6.QtCore import QMimeData

    data = QMimeData()
    data.setData(MIME, "\n".join(place).encode())
    return data


def test_a_links_ranges_are_changed_while_the_scene_follows(window):
    document = window.desk.document
    document.edit("Dial", lambda s: wh.edits.add_dial(s, "turn", wh.Dial("lift", "Lift", "units", 0.0, 10.0, 5.0))[0])
    document.edit("Link", lambda s: wh.edits.set_links(s, "card", "rotation.y", (wh.Link("turn", "dial.lift", 0, 10),)))
    dialog = LinkDialog(document, ("card", "rotation.y"), 0, window)
    dialog.show()
    dialog.fields["out_high"].edited.emit(60.0, False)
    assert document.evaluations.value("card", "rotation.y") == pytest.approx(30.0)
    dialog.ease.setCurrentIndex(1)
    dialog.ease.activated.emit(1)
    assert document.evaluations.value("card", "rotation.y") == pytest.approx(60.0 * (1 - np.cos(np.pi / 4)))
    dialog.clamp.click()
    assert document.scene.node("card").channel("rotation.y").links[0].clamp is False
    dialog.fields["high"].edited.emit(0.0, False)  # No range: refused, and shown as it was.
    assert dialog.fields["high"].value == 10.0
    document.undo()
    assert document.scene.node("card").channel("rotation.y").links[0].clamp is True
    dialog._remove()
    assert document.scene.node("card").channel("rotation.y") is None


def test_a_formula_is_checked_while_it_is_typed(window):
    document = window.desk.document
    document.selection.choose(["card"])
    before = document.scene
    window.desk.inspector.fields["position.x"].edit_formula()
    dialog = next(each for each in QApplication.topLevelWidgets() if isinstance(each, FormulaDialog))
    dialog.edit.clear()
    QTest.keyClicks(dialog.edit, "frame * 2 + sp")
    assert "nothing called “sp”" in dialog.line.text()
    assert "▸sp" in dialog.line.text()
    assert not dialog.use_button.isEnabled()
    dialog.edit.setText('frame * 2 + of("Turn", "position.y")')
    assert dialog.use_button.isEnabled()
    document.playhead.set_frame(10.0)
    assert float(document.evaluations.here.value("card", "position.x")[0]) == pytest.approx(
        20.0 + document.evaluations.value("turn", "position.y")
    )
    assert document.scene is before
    QTest.keyClick(dialog.edit, Qt.Key.Key_Return)
    assert document.scene.node("card").channel("position.x").formula.startswith("frame * 2 + of(")
    assert document.history.undo_name == "Formula of Card · position x"
    assert window.desk.inspector.fields["position.x"].driven == "formula"
    document.edit("Break", lambda s: wh.edits.remove_nodes(s, ["card"]))


def test_a_path_is_reshaped_by_its_grips_and_takes_points(window):
    document, view = window.desk.document, window.desk.overview.view
    trigger(window, "rig.bezier")
    path = document.selection.active
    view.frame_all(document.selection.nodes)
    QApplication.processEvents()
    view.at_rest.stop()
    grips = view.path_editor.grips(view.project)
    point = next(each for each in grips if each.grip.name == "point" and each.grip.number == 1)
    count = undo_count(document)
    at = QPointF(*point.pixel)
    drag(view, at, at + QPointF(20, -14))
    changed = document.scene.node(path.id).curve
    assert changed.points[1].at != path.curve.points[1].at
    assert changed.points[0] == path.curve.points[0]
    assert undo_count(document) == count + 1
    # The point that was taken hold of goes with Delete, and a double click puts one in.
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert len(document.scene.node(path.id).curve.points) == 2
    assert document.selection.active is not None
    from wild_heron.desk.overview.path_editing import samples

    pixels = view.project(samples(document.scene.node(path.id), document.evaluations.world(path.id)))
    assert view.path_editor.add_at(pixels[len(pixels) // 2], view.project)
    assert len(document.scene.node(path.id).curve.points) == 3


def test_a_point_of_a_path_is_typed(window):
    document = window.desk.document
    trigger(window, "rig.through")
    path = document.selection.active
    window.desk.inspector.properties["point"].edited.emit(3.0, False)
    field = window.desk.inspector.properties["point y"]
    assert field.value == path.curve.points[2][1]
    field.edited.emit(4.5, False)
    assert document.scene.node(path.id).curve.points[2][1] == 4.5
    assert document.scene.node(path.id).curve.points[1] == path.curve.points[1]


def test_a_camera_aims_at_several_and_a_light_at_one(window):
    document = window.desk.document
    document.edit("Post", lambda s: wh.edits.add_node(s, wh.Null(id="post", name="Post")))
    document.edit("Lamp", lambda s: wh.edits.add_node(s, wh.Light(id="lamp", name="Lamp")))
    document.selection.choose(["cam", "card", "post"])
    trigger(window, "rig.aim_node")
    assert document.scene.node("cam").aim.targets == ("card", "post")
    document.selection.choose(["lamp", "post"])
    trigger(window, "rig.bind_aim")
    assert document.scene.node("lamp").aim.targets == ("post",)


def test_paths_grounds_and_motion_come_from_the_menus(window, tmp_path):
    document = window.desk.document
    for action in ("circle", "ellipse", "line", "through", "bezier", "waves"):
        trigger(window, f"rig.{action}")
    kinds = [type(node.curve).__name__ for node in document.scene.nodes if isinstance(node, wh.Path)]
    assert kinds == ["CirclePath", "EllipsePath", "LinePath", "ThroughPath", "BezierPath"]
    document.selection.choose(["card", "ground"])
    trigger(window, "rig.bind_ground")
    assert isinstance(document.scene.node("card").binds[0], wh.RideGround)
    table = tmp_path / "walk.csv"
    table.write_text("frame,x,y,z\n" + "".join(f"{k},{k * 0.1},0,2\n" for k in range(25)))
    document.selection.choose(["turn"])
    window.desk.rig_commands.motion_from_table(table)
    assert evaluate(document.scene, 12.0).position("turn")[0] == pytest.approx([1.2, 0.0, 2.0])
    assert len(document.scene.node("turn").channel("position.x").keys) == 2
    trigger(window, "rig.lift")
    assert isinstance(document.scene.node("turn").binds[0], wh.RidePath)


def test_a_path_becomes_another_kind_and_a_ground_takes_waves(window):
    from wild_heron.desk.inspector.ground_rows import converted

    circle = wh.CirclePath(4.0)
    bezier = converted(circle, wh.BezierPath)
    assert bezier.closed
    assert len(bezier.points) == 4
    assert converted(bezier, wh.CirclePath).radius == pytest.approx(4.0)
    assert len(converted(bezier, wh.ThroughPath).points) == 4
    document = window.desk.document
    trigger(window, "rig.waves")
    add = window.desk.inspector.properties["add wave"]
    QTest.mouseClick(add, Qt.MouseButton.LeftButton)
    assert len(document.selection.active.surface.waves) == 3
    window.desk.inspector.properties["wave 3 height"]._property.set(2.0)
    assert document.selection.active.surface.waves[2].height == 2.0


def test_no_two_actions_share_a_shortcut_and_none_hides_a_chord():
    keys = [each.shortcut for each in ACTIONS if each.shortcut]
    assert len(keys) == len(set(keys))
    chords = {key.partition(", ")[0] for key in keys if ", " in key}
    assert not chords & set(keys)


def test_the_board_floats_and_docks_and_lies_flat_along_the_lower_edge(window):
    document = window.desk.document
    document.edit("Dial", lambda s: wh.edits.add_dial(s, "turn", wh.Dial("lift", "Lift"))[0])
    trigger(window, "view.board")
    assert window.desk.board.isFloating()
    window.desk.board.setFloating(False)
    window.addDockWidget(Qt.DockWidgetArea.BottomDockWidgetArea, window.desk.board)
    assert window.desk.board.is_flat
    assert ("turn", "dial.lift") in window.desk.board.fields
    trigger(window, "view.board")
    assert window.desk.board.isHidden()
    # Hidden, it knows nothing of what goes on; shown again, it knows it all.
    document.edit("No dial", lambda s: wh.edits.remove_nodes(s, ["turn"]))
    document.playhead.set_frame(7.0)
    document.turns.finish()
    document.edit("Dial", lambda s: wh.edits.add_dial(s, "target", wh.Dial("reach", "Reach"))[0])
    trigger(window, "view.board")
    assert list(window.desk.board.fields) == [("target", "dial.reach")]
    assert isinstance(window.desk.wires, Wires)
