"""Rows of the inspector for what the set is made of: choices, colours, switches, menus."""

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QColorDialog, QLineEdit, QToolButton

import wild_heron as wh
from tests.files.layered_files import write_movie

from .test_fields import pick


def choose(field, value) -> None:
    """Pick an entry of a drop-down as a click on it does."""
    index = next(k for k in range(field.count()) if field.itemData(k) == value)
    field.setCurrentIndex(index)
    field.activated.emit(index)


def button(window, tip: str) -> QToolButton:
    return next(each for each in window.desk.inspector.findChildren(QToolButton) if tip in each.toolTip())


def test_a_light_is_turned_into_a_lamp_with_a_reach(window, qtbot):
    document = window.desk.document
    window.desk.actions_["set.directional"].trigger()
    assert document.selection.active.shadow
    properties = window.desk.inspector.properties
    assert "light.reach" not in window.desk.inspector.fields
    choose(properties["How it shines"], "point")
    assert document.selection.active.light == "point"
    assert "light.reach" in window.desk.inspector.fields
    choose(window.desk.inspector.properties["How it fades up to its reach"], "even")
    qtbot.mouseClick(window.desk.inspector.properties["casts"], Qt.MouseButton.LeftButton)
    window.desk.inspector.properties["softness"].edited.emit(0.7, False)
    light = document.selection.active
    assert (light.falloff, light.shadow, light.softness) == ("even", False, 0.7)
    # The second light casts no shadow of its own accord: one of a scene does.
    document.undo(), document.undo()
    window.desk.actions_["set.point"].trigger()
    assert not document.selection.active.shadow
    for _ in range(3):
        document.undo()
    assert document.scene.node("key-light").light == "directional"


def test_the_clip_planes_of_a_camera_hide_what_is_nearer_and_farther(window, qtbot):
    document = window.desk.document
    document.selection.choose(["cam"])
    far = window.desk.inspector.fields["lens.far"]
    qtbot.keyClick(far, Qt.Key.Key_Return)
    qtbot.keyClicks(far.findChild(QLineEdit), "4.5")
    qtbot.keyClick(far.findChild(QLineEdit), Qt.Key.Key_Return)
    assert document.evaluations.value("cam", "lens.far") == 4.5
    qtbot.waitUntil(lambda: not window.desk.link.is_busy and window.desk.lens.view.image is not None, timeout=60_000)
    image = window.desk.lens.view.image
    assert image.pixelColor(image.rect().center()) == QColor(document.settings.background)


def test_a_colour_is_seen_while_it_is_chosen_and_is_one_step(window, qtbot):
    document = window.desk.document
    window.desk.actions_["set.solid"].trigger()
    before = document.selection.active.artwork.colour
    tone = window.desk.inspector.properties["Colour of the card"]
    for last, kept in (("rejected", before), ("accepted", "#336699")):
        qtbot.mouseClick(tone, Qt.MouseButton.LeftButton)
        dialog = next(each for each in tone.findChildren(QColorDialog) if each.isVisible())
        dialog.setCurrentColor(QColor("#336699"))
        assert document.selection.active.artwork.colour == "#336699"
        (dialog.reject if last == "rejected" else dialog.accept)()
        qtbot.waitUntil(lambda: not document.gesture.running)
        assert document.selection.active.artwork.colour == kept
    document.undo()
    assert document.selection.active.artwork.colour == before


def test_a_gradients_ends_form_and_size(window):
    document = window.desk.document
    window.desk.actions_["set.gradient"].trigger()
    properties = window.desk.inspector.properties
    choose(properties["How the colours run"], "around")
    properties["angle"].edited.emit(45.0, False)
    properties["card width"].edited.emit(333.4, False)
    node = document.selection.active
    assert (node.artwork.form, node.artwork.angle, node.width) == ("around", 45.0, 333)


def test_receivers_are_chosen_from_the_models(window, qtbot, monkeypatch):
    document = window.desk.document
    window.desk.actions_["set.plane"].trigger()
    photo = wh.Projection(id="photo", name="Photo", source="card.png", width=200, height=100)
    document.edit("Add", lambda scene: wh.edits.add_node(scene, photo))
    document.selection.choose(["photo"])
    pick(monkeypatch, "Plane")
    qtbot.mouseClick(button(window, "nothing yet"), Qt.MouseButton.LeftButton)
    assert document.selection.active.receivers == ("plane",)
    assert document.history.undo_name == "Photo: project it on Plane"
    document.undo()
    assert document.selection.active.receivers == ()


def test_the_anchor_goes_to_an_edge_and_nothing_moves(window, qtbot, monkeypatch):
    document = window.desk.document
    document.selection.choose(["card"])
    before = document.evaluations.here.content("card")[0].copy()
    pick(monkeypatch, "Anchor at the top left")
    qtbot.mouseClick(button(window, "Put the anchor"), Qt.MouseButton.LeftButton)
    assert document.evaluations.value("card", "anchor.x") == -1.0
    assert document.evaluations.value("card", "anchor.y") == 0.5
    assert document.evaluations.here.content("card")[0] == pytest.approx(before)


def test_a_movie_is_timed_and_its_size_sets_the_scale(window, qtbot, tmp_path, mouse):
    document = window.desk.document
    write_movie(tmp_path / "m.mp4", [(0, 0, 0)] * 6)
    window.desk.bring_in([tmp_path / "m.mp4"])
    qtbot.waitUntil(lambda: not window.desk.bringer.is_busy, timeout=60_000)
    properties = window.desk.inspector.properties
    properties["start frame"].edited.emit(12.0, False)
    properties["speed"].edited.emit(-0.5, False)
    choose(properties["What happens at its end, and before its start"], "swing")
    assert document.selection.active.artwork.timing == wh.Timing(12.0, -0.5, "swing")
    width = properties["width"]
    assert width.value == 64.0
    width.edited.emit(128.0, False)
    assert document.evaluations.value(document.selection.active.id, "scale.y") == 2.0
    mouse.drag(properties["height"], QPointF(30, 10), (8, 0), (40, 0))
    assert document.evaluations.value(document.selection.active.id, "scale.x") == pytest.approx(
        (96 + 10) / 48, abs=0.05
    )
    assert document.history.undo_name.endswith("height")


def test_letters_have_a_thickness_and_a_weight(window):
    document = window.desk.document
    window.desk.actions_["set.letters"].trigger()
    properties = window.desk.inspector.properties
    start = document.selection.active.width
    choose(properties["Weight"], 400)
    assert document.selection.active.outlines.weight == 400
    assert document.selection.active.width != start
    properties["depth"].edited.emit(80.0, False)
    properties["bevel"].edited.emit(9.0, False)
    assert (document.selection.active.depth, document.selection.active.bevel) == (80.0, 9.0)
    assert window.desk.inspector.properties["depth"] is properties["depth"]


def test_solids_and_lights_are_picked_in_the_overview(window, mouse):
    document = window.desk.document
    window.desk.actions_["set.sphere"].trigger()
    window.desk.actions_["set.directional"].trigger()
    document.recorder.set_values("x", {("sphere", "position.x"): 3.0, ("key-light", "position.x"): -3.0})
    document.selection.choose([])
    window.desk.actions_["view.front"].trigger()
    view = window.desk.overview.view
    view.frame_all()
    for node in ("sphere", "key-light"):
        pixel = view.eye.project(document.evaluations.here.position(node), view.width(), view.height())[0][0]
        mouse.drag(view, QPointF(*pixel))
        assert document.selection.nodes == (node,)
    assert not view.grab().isNull()
