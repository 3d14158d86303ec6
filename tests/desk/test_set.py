"""The Set menu in the real window: files in, cards and solids, places, the look of distance, files that change."""

import threading

import numpy as np
import pytest
from PIL import Image
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QToolButton

import wild_heron as wh
from tests.desk.conftest import chord
from tests.files.layered_files import glb, triangle, write_ora
from tests.files.test_bringing import PICTURES, STACK
from wild_heron.colour import to_display, to_light
from wild_heron.desk.dialogs.spread_dialog import SpreadDialog
from wild_heron.evaluate.extent import corners
from wild_heron.files.reader import Reader


def drop(window, *paths) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    button, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(400, 300), Qt.DropAction.CopyAction, data, button, keys))


def came_in(qtbot, window) -> None:
    qtbot.waitUntil(lambda: not window.desk.bringer.is_busy, timeout=60_000)


def depths(window, ids) -> list[float]:
    here = window.desk.document.evaluations.here
    return [float(here.camera("cam").pixels(here.position(i))[1][0]) for i in ids]


def test_layered_artwork_comes_in_by_one_drop_is_spread_and_taken_back(window, qtbot, tmp_path, mouse):
    document = window.desk.document
    before = document.scene
    drop(window, write_ora(tmp_path / "town.ora", STACK, (400, 200), PICTURES))
    came_in(qtbot, window)
    assert [node.name for node in document.scene.nodes[-6:]] == ["Town", "Sky", "Houses", "Wall", "Door", "Grass"]
    assert document.selection.nodes == ("town",)
    assert document.history.undo_name == "Bring in 6 nodes"
    window.desk.actions_["set.spread"].trigger()
    dialog = next(each for each in window.findChildren(SpreadDialog))
    ids = ["sky", "wall", "door", "grass"]
    # It shows what it will do while it is open.
    for field, number in ((dialog.nearest, "6"), (dialog.farthest, "24")):
        QTest.keyClicks(field, number[0])
        QTest.keyClicks(field.editor, number[1:])
        QTest.keyClick(field.editor, Qt.Key.Key_Return)
    assert depths(window, ids) == pytest.approx([24.0, 12.0, 8.0, 6.0])
    dialog.spacing.setCurrentIndex(0)
    assert depths(window, ids) == pytest.approx([24.0, 18.0, 12.0, 6.0])
    dialog.accept()
    assert document.history.undo_name == "Spread in depth"
    document.undo()
    document.undo()
    assert document.scene == before


def test_cancelling_the_spread_puts_everything_back(window, qtbot, tmp_path):
    document = window.desk.document
    drop(window, write_ora(tmp_path / "town.ora", STACK, (400, 200), PICTURES))
    came_in(qtbot, window)
    before = document.scene
    window.desk.actions_["set.spread"].trigger()
    dialog = next(each for each in window.findChildren(SpreadDialog))
    assert document.scene != before
    QTest.keyClick(dialog, Qt.Key.Key_Escape)
    assert document.scene == before
    assert document.history.undo_name == "Bring in 6 nodes"


def test_what_cannot_be_read_is_said_and_a_long_import_can_be_cancelled(window, qtbot, art, monkeypatch):
    (art / "odd.png").write_bytes(b"no picture")
    drop(window, art / "odd.png", art / "glass.png")
    came_in(qtbot, window)
    assert "odd.png" in window.desk.status.text.text()
    assert "glass" in window.desk.document.scene
    window.desk.document.undo()
    slow = Reader.probe
    given_up = threading.Event()
    monkeypatch.setattr(Reader, "probe", lambda *arguments: (given_up.wait(20), slow(*arguments))[1])
    drop(window, *[art / "card.png"] * 20)
    qtbot.waitUntil(lambda: window.desk.status.bar.isVisible())
    qtbot.mouseClick(window.desk.status.stop, Qt.MouseButton.LeftButton)
    given_up.set()
    came_in(qtbot, window)
    assert not window.desk.status.bar.isVisible()
    assert "Cancelled" in window.desk.status.text.text()
    assert [node.id for node in window.desk.document.scene.nodes] == ["turn", "target", "cam", "card"]


def test_words_are_typed_and_the_card_grows_with_them(window, qtbot):
    document = window.desk.document
    chord(window, "NT")
    assert document.selection.active.name == "Text"
    start = document.selection.active.width
    words = window.desk.inspector.properties["words"]
    words.selectAll()
    qtbot.keyClicks(words, "Ember night at the marsh")
    qtbot.waitUntil(lambda: document.selection.active.artwork.text == "Ember night at the marsh")
    assert document.selection.active.width > 1.5 * start
    size = window.desk.inspector.properties["letter size"]
    size.edited.emit(60.0, False)
    assert document.selection.active.artwork.size == 60.0
    assert document.selection.active.height == pytest.approx(0.5 * 181, abs=3)
    document.undo()
    document.undo()
    assert document.selection.active.artwork.text == "Lantern night"


@pytest.mark.parametrize(
    "kind", ["plane", "box", "sphere", "cylinder", "cone", "torus", "letters", "solid", "gradient"]
)
def test_every_new_thing_stands_before_the_camera_and_has_its_numbers(window, qtbot, kind):
    document = window.desk.document
    window.desk.actions_[f"set.{kind}"].trigger()
    node = document.selection.active
    assert depths(window, [node.id])[0] == pytest.approx(35 * 640 / 36 / 100, abs=1e-4)
    assert len(window.desk.inspector.properties) >= 3
    window.desk.document.undo()
    assert node.id not in document.scene


def test_measures_are_dragged_in_one_step(window, mouse):
    document = window.desk.document
    window.desk.actions_["set.box"].trigger()
    field = window.desk.inspector.properties["width"]
    mouse.drag(field, QPointF(30, 10), (8, 0), (40, 0))
    assert document.selection.active.shape.width == pytest.approx(2.0 + 1.0, abs=0.11)
    assert window.desk.inspector.properties["width"] is field  # It was not built anew under the pointer.
    document.undo()
    assert document.selection.active.shape.width == 2.0
    mouse.drag(field, QPointF(30, 10), (8, 0), (40, 0), release=False)
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert document.selection.active.shape.width == 2.0


def test_places(window):
    document = window.desk.document
    window.desk.actions_["set.box"].trigger()
    window.desk.actions_["set.ground"].trigger()
    assert corners(document.evaluations.here, "box")[:, 1].min() == pytest.approx(0.0, abs=1e-9)
    document.selection.choose(["box", "card"])
    window.desk.actions_["set.align_x"].trigger()
    assert document.evaluations.here.position("box")[0, 0] == pytest.approx(
        document.evaluations.here.position("card")[0, 0]
    )
    document.selection.choose(["card"])
    window.desk.actions_["set.fill"].trigger()
    here = document.evaluations.here
    pixels = [here.camera("cam").pixels(point[None])[0][0] for point in corners(here, "card")]
    assert np.min(pixels, axis=0) == pytest.approx([0.0, -1.0], abs=1e3)
    assert np.min(pixels, axis=0)[0] <= 1e-6
    assert np.max(pixels, axis=0)[1] >= 360 - 1e-6
    window.desk.actions_["set.face"].trigger()
    assert document.scene.node("card").binds == (wh.FaceCamera("cam"),)
    assert "rotation.x" not in window.desk.inspector.fields
    document.playhead.set_frame(24)
    toward = document.evaluations.here.position("cam")[0] - document.evaluations.here.position("card")[0]
    front = document.evaluations.world("card")[:3, 2]
    assert front / np.linalg.norm(front) == pytest.approx(toward / np.linalg.norm(toward), abs=1e-9)
    window.desk.actions_["set.face"].trigger()
    assert document.scene.node("card").binds == ()
    window.desk.actions_["set.anchor_bottom"].trigger()
    assert document.evaluations.value("card", "anchor.y") == -0.5
    document.selection.choose([])
    window.desk.actions_["set.align_x"].trigger()
    assert "Select 2 or more" in window.desk.status.text.text()


def test_several_move_in_depth_together_by_their_tags(window, qtbot, mouse, art):
    document = window.desk.document
    drop(window, art / "glass.png")
    came_in(qtbot, window)
    document.recorder.set_values("x", {("card", "position.z"): -10.0})
    start = depths(window, ["card", "glass"])
    document.selection.choose(["card", "glass"])
    rail = window.desk.depth_panel.rail
    tag = next(tag for tag in rail.tags()[0] if tag.node == "card")
    mouse.drag(rail, QPointF(90, tag.y), (0, 4), (0, 40))
    after = depths(window, ["card", "glass"])
    assert after[0] < 0.95 * start[0]
    assert after[0] / start[0] == pytest.approx(after[1] / start[1])
    assert document.selection.nodes == ("card", "glass")
    assert document.history.undo_name == "Move Card and 1 more in depth"
    tag = next(tag for tag in rail.tags()[0] if tag.node == "card")
    mouse.drag(rail, QPointF(90, tag.y))
    assert document.selection.nodes == ("card",)


def test_shown_alone_in_the_views_only(window):
    document = window.desk.document
    window.desk.actions_["set.sphere"].trigger()
    window.desk.actions_["set.solo"].trigger()
    assert document.views.shown.node("card").hidden
    assert not document.scene.node("card").hidden
    assert not document.views.shown.node("sphere").hidden
    assert not document.is_modified or not document.scene.node("card").hidden
    window.desk.actions_["set.solo"].trigger()
    assert document.views.shown is document.scene


def test_haze_is_a_matter_of_the_scene_and_shows_in_the_lens(window, qtbot):
    document = window.desk.document
    document.recorder.set_values("x", {("card", "scale.x"): 9.0, ("card", "scale.y"): 9.0})
    document.selection.choose([])
    switch = window.desk.inspector.properties["haze"]
    with qtbot.waitSignal(window.desk.link.completed, timeout=60_000, check_params_cb=lambda name: name == "lens"):
        qtbot.mouseClick(switch, Qt.MouseButton.LeftButton)
    assert document.settings.distance == wh.Distance()
    window.desk.inspector.properties["start"].edited.emit(2.0, False)
    window.desk.inspector.properties["end"].edited.emit(9.0, False)

    def hazed() -> None:
        # Ten units off, beyond the end: by its whole strength the colour of the haze.
        middle = window.desk.lens.view.image.pixelColor(window.desk.lens.view.image.rect().center())
        mixed = to_light(230 / 255) * 0.4 + to_light(0x7B / 255) * 0.6
        assert middle.red() == pytest.approx(255 * float(to_display(mixed)), abs=3)

    qtbot.waitUntil(hazed, timeout=60_000)
    window.desk.inspector.properties["start"].edited.emit(99.0, False)
    assert "haze must end" in window.desk.status.text.text()
    assert document.settings.distance.start == 2.0


def test_a_file_that_changes_is_read_again_and_one_that_goes_is_said(window, qtbot, art):
    with qtbot.waitSignal(window.desk.link.completed, timeout=60_000, check_params_cb=lambda name: name == "lens"):
        window.desk.lens.view.ask()
    Image.new("RGB", (200, 100), (0, 200, 0)).save(art / "new.png")
    (art / "new.png").replace(art / "card.png")
    qtbot.waitUntil(lambda: "Read again: card.png" in window.desk.status.text.text(), timeout=60_000)

    def green() -> bool:
        image = window.desk.lens.view.image
        return image.pixelColor(image.rect().center()).green() == 200

    qtbot.waitUntil(green, timeout=60_000)
    (art / "card.png").unlink()
    qtbot.waitUntil(lambda: "card.png is not there" in window.desk.status.text.text(), timeout=60_000)
    qtbot.waitUntil(lambda: "card" in window.desk.link.problems, timeout=60_000)
    Image.new("RGB", (200, 100), (0, 0, 200)).save(art / "card.png")
    qtbot.waitUntil(lambda: "Read again: card.png" in window.desk.status.text.text(), timeout=60_000)
    assert not window.desk.document.is_modified


def test_another_file_keeps_the_keys(window, monkeypatch, art):
    document = window.desk.document
    document.edit("Key", lambda scene: wh.edits.set_key(scene, "card", "position.x", 4.0, 2.0))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(art / "glass.png"), ""))
    document.selection.choose(["card"])
    window.desk.actions_["set.replace"].trigger()
    assert document.scene.node("card").artwork == wh.ImageFile("glass.png")
    assert document.scene.node("card").channel("position.x").keys
    document.selection.choose(["turn"])
    window.desk.actions_["set.replace"].trigger()
    assert "comes from a file" in window.desk.status.text.text()


def test_a_model_with_motion_is_brought_in_and_timed(window, qtbot, tmp_path):
    extra = {"animations": [{"name": "Roll", "channels": [], "samplers": []}]}
    (tmp_path / "cart.glb").write_bytes(glb(*triangle(extra)))
    drop(window, tmp_path / "cart.glb")
    came_in(qtbot, window)
    node = window.desk.document.selection.active
    assert node.shape.animation == "Roll"
    window.desk.inspector.properties["speed"].edited.emit(2.0, False)
    assert window.desk.document.selection.active.shape.timing.speed == 2.0


# Projected photographs


@pytest.fixture
def lane(window, art):
    """A box with a photograph projected on it."""
    document = window.desk.document
    window.desk.actions_["set.box"].trigger()
    document.recorder.set_values(
        "x", {("box", f"position.{a}"): v for a, v in zip("xyz", (0.4, 0.0, -6.0), strict=True)}
    )
    photo = wh.Projection(id="photo", name="Photo", source="card.png", width=200, height=100, receivers=("box",))
    document.edit("Add", lambda scene: wh.edits.add_node(scene, photo))
    return document


def test_corners_dragged_to_where_they_are_give_lens_and_place(window, lane, mouse):
    document = lane
    true = wh.edits.set_value(document.scene, "photo", "lens.focal", 40.0)
    for channel, value in {"position.x": 1.2, "position.y": 0.8, "position.z": 1.0, "rotation.y": 8.0}.items():
        true = wh.edits.set_value(true, "photo", channel, value)
    there = wh.evaluate(true, document.playhead.frame)
    document.selection.choose(["photo"])
    window.desk.actions_["set.match"].trigger()
    view = window.desk.lens.match.view
    assert view.isVisible()
    assert not window.desk.lens.view.isVisible()
    for key in list(view.photo.receiver_corners())[:6]:
        point = view.photo.receiver_corners()[key]
        wanted = there.camera("photo").pixels(point[None])[0][0]
        start = view.to_widget(view.photo.seen(point[None])[0])
        end = view.to_widget(wanted)
        mouse.drag(view, start, ((end - start).x() / 2, (end - start).y() / 2), ((end - start).x(), (end - start).y()))
    assert len(view.photo.pins) == 6
    assert window.desk.lens.name.text() == "matching Photo"
    assert len(view.photo.edges()) == 12
    assert view.photo.match.error < 0.3
    assert document.evaluations.value("photo", "lens.focal") == pytest.approx(40.0, rel=0.03)
    assert document.evaluations.value("photo", "position.x") == pytest.approx(1.2, abs=0.2)
    assert "6 corners placed" in window.desk.lens.match.text.text()
    assert document.history.undo_name == "Match Photo"
    # A right click lets one go; Done goes back to the Lens.
    at = view.to_widget(view.photo.pins[0].pixel)
    mouse.drag(view, at, button=Qt.MouseButton.RightButton)
    assert len(view.photo.pins) == 5
    QTest.keyClick(view, Qt.Key.Key_N)
    before = view.photo.pins
    QTest.keyClick(view, Qt.Key.Key_Right)
    QTest.keyClick(view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    moved = [pin for pin in view.photo.pins if pin not in before]
    assert len(moved) == 1
    assert document.playhead.frame == 0.0
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert moved[0] not in view.photo.pins
    assert "photo" in document.scene
    window.desk.lens.match.close_.click()
    assert window.desk.lens.view.isVisible()


def test_the_horizon_tilts_and_rolls_and_lines_turn(window, lane, mouse):
    document = lane
    document.selection.choose(["photo"])
    window.desk.actions_["set.match"].trigger()
    view = window.desk.lens.match.view
    left, right = view.photo.horizon()
    assert left[1] == right[1] == pytest.approx(50.0)
    middle = view.to_widget((80.0, 50.0))
    mouse.drag(view, middle, (0, 10), (0, 40))
    tilt = document.evaluations.value("photo", "rotation.x")
    assert tilt > 1.0
    assert view.photo.horizon()[0][1] == pytest.approx(50.0 + 40 * 200 / view.picture_rect.width(), abs=1.0)
    end = view.to_widget(view.photo.horizon()[1])
    mouse.drag(view, end - QPointF(20, 0), (0, 10), (0, 30))
    assert document.evaluations.value("photo", "rotation.z") > 1.0
    assert view.photo.horizon()[1][1] > view.photo.horizon()[0][1] + 5.0
    before = document.evaluations.value("photo", "position.x")
    window.desk.lens.match.findChildren(QToolButton)[0].click()
    assert len(view.photo.lines) == 4
    mouse.drag(view, view.to_widget(view.photo.lines[2].ends[0]), (0, 5), (3, 25))
    assert document.evaluations.value("photo", "position.x") == pytest.approx(before, abs=1e-6)
    assert view.photo.match is not None


def test_the_stretch_map_and_its_measure_over_the_move(window, lane, qtbot):
    document = lane
    window.desk.actions_["view.stretch"].trigger()
    qtbot.waitUntil(lambda: window.desk.lens.view.stretched is not None, timeout=60_000)
    qtbot.waitUntil(lambda: "stretch" in window.desk.lens.readings.texts["edges"][0], timeout=5_000)
    window.desk.actions_["view.stretch"].trigger()
    document.playhead.set_play_range((0, 6))
    window.desk.actions_["set.stretch"].trigger()
    from wild_heron.desk.dialogs.stretch_dialog import StretchDialog

    dialog = window.findChild(StretchDialog)
    qtbot.waitUntil(lambda: dialog.graph.stretch is not None, timeout=40_000)
    found = dialog.graph.stretch
    assert len(found.frames) == 7
    assert (found.beyond >= 0).all()
    assert (found.beyond + found.missing <= 1.0 + 1e-9).all()
    # The camera turns about the box, so what it sees of it more and more lies in the photograph's shadow.
    assert found.missing[-1] >= found.missing[0]
    dialog.go.click()
    assert document.playhead.frame == found.frames[found.worst]
    dialog.close()


def test_edges_that_pass_behind_the_lens_are_cut_there(window, lane):
    document = lane
    document.selection.choose(["photo"])
    window.desk.actions_["set.match"].trigger()
    photo = window.desk.lens.match.view.photo
    document.recorder.set_values("x", {("box", "scale.z"): 12.0})  # From 6 units behind the lens to 18 before it.
    edges = photo.edges()
    assert len(edges) == 8  # The four that lie behind as a whole are gone.
    assert all(np.isfinite(edge).all() for edge in edges)


def test_the_stretch_is_left_by_escape_while_it_is_measured(window, lane, qtbot):
    """What was measured then is told to nobody: the dialog is gone."""
    document = lane
    window.desk.actions_["set.stretch"].trigger()
    from wild_heron.desk.dialogs.stretch_dialog import StretchDialog

    dialog = window.findChild(StretchDialog)
    qtbot.waitUntil(lambda: "stretch" in document.background.running)
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: window.findChild(StretchDialog) is None)
    qtbot.waitUntil(lambda: "stretch" not in document.background.running, timeout=30_000)
    assert not [name for name in document.background.running if name == "stretch"]
