"""The window as a whole: areas, files, undo, the render process."""

import os
import signal

import pytest
from PyQt6.QtCore import QMimeData, QObject, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QMessageBox

import wild_heron as wh
from tests.desk.conftest import chord
from wild_heron.demo import DEMO_SCENE
from wild_heron.desk.dialogs.missing_dialog import MissingDialog
from wild_heron.desk.dialogs.settings_dialog import SettingsDialog
from wild_heron.desk.shell.action_list import ACTIONS
from wild_heron.desk.shell.proportions import MENUS

SECONDS = 60_000


def picture_arrives(qtbot, window, stream: str = "lens"):
    with qtbot.waitSignal(window.desk.link.completed, timeout=SECONDS, check_params_cb=lambda name: name == stream):
        window.desk.lens.view.ask()
        window.desk.overview.view.ask()


def test_the_demo_opens_and_both_views_are_drawn(make_window, qtbot):
    window = make_window()
    window.desk.files.open(DEMO_SCENE, as_copy=True, ask=False)
    picture_arrives(qtbot, window, "lens")
    picture_arrives(qtbot, window, "overview")
    assert window.desk.lens.view.bare == ()
    assert window.desk.document.file.path is None
    assert not window.desk.document.is_modified


def test_bare_edges_are_measured(window, qtbot):
    picture_arrives(qtbot, window)
    assert window.desk.lens.view.bare == ("left", "right", "top", "bottom")
    window.desk.document.turns.finish()
    assert window.desk.lens.readings.texts["edges"][1] == "bare all round"


def test_a_new_scene_leaves_no_complaint_about_the_old_ones_camera(window, qtbot):
    picture_arrives(qtbot, window)
    window.desk.lens.view.ask()
    window.desk.actions_["scene.new"].trigger()
    picture_arrives(qtbot, window, "overview")
    qtbot.waitUntil(lambda: not window.desk.link.is_busy, timeout=SECONDS)
    assert window.desk.status.text.text() == "A new scene."


def test_a_killed_render_process_comes_back_with_the_picture(window, qtbot):
    picture_arrives(qtbot, window)
    first = window.desk.link.pid
    os.kill(first, signal.SIGKILL)
    qtbot.waitUntil(lambda: window.desk.link.pid not in (first, None), timeout=SECONDS)
    with qtbot.waitSignal(window.desk.link.drawn, timeout=SECONDS):
        pass
    assert "started again" in window.desk.status.text.text()


def test_a_render_process_that_keeps_ending_is_given_up_with_a_remedy(window, qtbot):
    for _ in range(4):
        qtbot.waitUntil(lambda: window.desk.link.pid is not None, timeout=SECONDS)
        pid = window.desk.link.pid
        os.kill(pid, signal.SIGKILL)
        qtbot.waitUntil(lambda pid=pid: window.desk.link.pid != pid, timeout=SECONDS)
    assert "Restart the renderer" in window.desk.status.text.text()
    window.desk.actions_["view.renderer"].trigger()
    picture_arrives(qtbot, window)


def test_every_action_is_in_a_menu_has_a_tip_and_its_own_shortcut(window):
    assert all(each.shortcut for each in ACTIONS)
    assert len({each.shortcut for each in ACTIONS}) == len(ACTIONS)
    for each in ACTIONS:
        action = window.desk.actions_[each.name]
        menu = window.menus[each.name.partition(".")[0]]
        if each.sub:
            menu = next(
                below.menu() for below in menu.actions() if below.menu() and below.text().replace("&", "") == each.sub
            )
        assert action in menu.actions()
        assert each.tip in action.toolTip()
        assert action.receivers(action.triggered) > 0, f"{each.name} does nothing"
    assert set(window.menus) == set(MENUS)


def test_undo_and_redo_have_names_and_bring_everything_back(window, qtbot):
    document = window.desk.document
    start = document.scene
    document.selection.choose(["card"])
    chord(window, "SH")
    assert document.scene.node("card").hidden
    assert window.desk.actions_["edit.undo"].text() == "&Undo: Hide"
    qtbot.keyClick(window, Qt.Key.Key_Delete)
    assert "card" not in document.scene
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert document.scene == start
    assert not document.is_modified
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert document.scene.node("card").hidden


def test_pictures_are_dropped_into_the_window(window, art, qtbot):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(art / "glass.png")), QUrl.fromLocalFile(str(art / "rig.png"))])
    event = QDropEvent(
        QPointF(300, 300), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.dropEvent(event)
    qtbot.waitUntil(lambda: "glass" in window.desk.document.scene, timeout=10_000)
    scene = window.desk.document.scene
    assert scene.node("glass").artwork.source == "glass.png"
    assert window.desk.document.selection.nodes == ("glass",)
    assert "rig.png" in window.desk.status.text.text()  # what could not be read is named
    assert scene.node("glass").width == 200
    window.desk.document.undo()
    assert "glass" not in window.desk.document.scene


def test_saving_elsewhere_keeps_artwork_found_and_undo_whole(window, tmp_path):
    document = window.desk.document
    document.edit("Rename", lambda scene: wh.edits.rename(scene, "card", "Plate"))
    there = tmp_path / "other" / "copy.heron"
    there.parent.mkdir()
    assert window.desk.files.save_to(there)
    assert wh.load(there).node("card").artwork.source == "../card.png"
    assert not document.is_modified
    document.undo()
    assert document.scene.node("card").artwork.source == "../card.png"
    assert document.scene.node("card").name == "Card"
    assert there in window.desk.files.recent()


def test_a_save_that_fails_is_told_and_nothing_is_lost(window, monkeypatch, art):
    before = (art / "rig.heron").read_bytes()
    window.desk.document.edit("Rename", lambda scene: wh.edits.rename(scene, "card", "Plate"))

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    assert not window.desk.files.save_to(art / "rig.heron")
    assert "No space left" in window.desk.status.text.text()
    assert window.desk.document.is_modified
    assert (art / "rig.heron").read_bytes() == before
    for box in window.findChildren(QMessageBox):
        box.close()


def test_a_broken_file_is_told_and_leaves_the_open_scene(window, tmp_path):
    (tmp_path / "bad.heron").write_text("{")
    scene = window.desk.document.scene
    assert not window.desk.files.open(tmp_path / "bad.heron")
    assert window.desk.document.scene is scene
    assert "bad.heron" in window.desk.status.text.text()
    for box in window.findChildren(QMessageBox):
        box.close()


def test_missing_artwork_is_listed_and_found(window, art, qtbot):
    (art / "moved").mkdir()
    (art / "card.png").rename(art / "moved" / "card.png")
    window.desk.files.open(art / "rig.heron", ask=False)
    assert "missing" in window.desk.banner.text.text()
    dialog = MissingDialog(window.desk.document, window)
    qtbot.addWidget(dialog)
    assert dialog.list.count() == 1
    dialog.relink_to(art / "moved" / "card.png")
    assert dialog.list.count() == 0
    assert window.desk.document.scene.node("card").artwork.source == "moved/card.png"


def test_areas_hide_come_back_and_are_remembered(make_window, window, settings):
    window.desk.actions_["view.depth"].trigger()
    window.desk.actions_["view.lanes"].trigger()
    assert window.desk.depth_panel.isHidden()
    assert window.desk.lanes.isHidden()
    window.desk.actions_["view.rig"].trigger()
    assert window.desk.areas.left.isHidden()
    window.desk.actions_["view.rig"].trigger()
    assert window.desk.areas.left.isVisible()
    window.desk.remember()
    again = make_window()
    assert again.desk.depth_panel.isHidden()
    assert again.desk.lanes.isHidden()
    again.desk.actions_["view.lanes"].trigger()
    assert again.desk.lanes.isVisible()


def test_lens_and_overview_change_places(window, qtbot):
    small = window.desk.overview.width()
    window.desk.actions_["view.swap"].trigger()
    qtbot.waitUntil(lambda: window.desk.overview.width() > small)
    assert window.desk.lens.isVisible()
    picture_arrives(qtbot, window)
    window.desk.actions_["view.swap"].trigger()
    assert not window.desk.areas.is_swapped


def test_leaving_a_changed_scene_asks(window, qtbot, monkeypatch):
    window.desk.document.edit("Rename", lambda scene: wh.edits.rename(scene, "card", "Plate"))
    monkeypatch.setattr(QMessageBox, "exec", lambda self: None)
    monkeypatch.setattr(QMessageBox, "clickedButton", lambda self: None)  # Stay
    assert not window.close()
    assert window.isVisible()


def test_settings_change_the_scene_in_one_step(window, qtbot):
    dialog = SettingsDialog(window.desk.document, window)
    qtbot.addWidget(dialog)
    dialog.width_.setText("1920/2")
    dialog.rate.setCurrentIndex(4)  # 60 fps
    dialog.formats.setText("Portrait 4:5 1080x1350; Square 500x500")
    dialog.keep_seconds.setChecked(True)
    dialog.accept()
    scene = window.desk.document.scene
    assert (scene.settings.width, scene.settings.rate, len(scene.formats)) == (960, wh.Rate(60), 2)
    assert scene.node("turn").channel("rotation.y").keys[1].frame == pytest.approx(120.0)
    assert scene.settings.last == round(49 * 2.5) - 1
    window.desk.document.undo()
    assert window.desk.document.settings.rate == wh.Rate(24)


@pytest.mark.parametrize(
    ("field", "text"), [("width_", "zero"), ("last", "-5"), ("unit", "0"), ("formats", "Odd 5by5")]
)
def test_settings_refuse_what_cannot_be(window, qtbot, field, text):
    dialog = SettingsDialog(window.desk.document, window)
    qtbot.addWidget(dialog)
    getattr(dialog, field).setText(text)
    dialog.accept()
    assert dialog.problem.text()
    assert not window.desk.document.is_modified


def test_playing_moves_the_playhead_and_loops_inside_the_range(window, qtbot):
    document = window.desk.document
    document.playhead.set_play_range((10, 16))
    qtbot.keyClick(window, Qt.Key.Key_Space)
    assert window.desk.playback.is_playing
    seen = set()
    document.playhead.moved.connect(lambda: seen.add(document.playhead.frame))
    qtbot.waitUntil(lambda: 16.0 in seen and 10.0 in seen, timeout=SECONDS)
    qtbot.keyClick(window, Qt.Key.Key_Space)
    assert not window.desk.playback.is_playing
    assert seen <= {float(k) for k in range(10, 17)}
    window.desk.actions_["play.loop"].trigger()
    document.playhead.set_frame(12)
    window.desk.playback.play()
    qtbot.waitUntil(lambda: not window.desk.playback.is_playing, timeout=SECONDS)
    assert document.playhead.frame == 16.0


def test_stepping_and_jumping(window, qtbot):
    document = window.desk.document
    for key, frame in (
        (Qt.Key.Key_Right, 1), (Qt.Key.Key_Right, 2), (Qt.Key.Key_Left, 1), ("next", 48), ("before", 0),
        (Qt.Key.Key_End, 48), (Qt.Key.Key_Home, 0),
    ):  # fmt: skip
        if isinstance(key, str):
            arrow = Qt.Key.Key_Right if key == "next" else Qt.Key.Key_Left
            qtbot.keyClick(window, arrow, Qt.KeyboardModifier.ControlModifier)
        else:
            qtbot.keyClick(window, key)
        assert document.playhead.frame == frame
    window.desk.top_bar.frame.edit.setText("24/2")
    qtbot.keyClick(window.desk.top_bar.frame.edit, Qt.Key.Key_Return)
    assert document.playhead.frame == 12
    window.desk.top_bar.frame.edit.setText("1s")
    qtbot.keyClick(window.desk.top_bar.frame.edit, Qt.Key.Key_Return)
    assert document.playhead.frame == 24


def test_export_runs_with_progress_and_can_be_cancelled(window, qtbot, tmp_path):
    window.desk.open.export()
    dialog = window.desk.open.export_dialog
    dialog.path.setText(str(tmp_path / "film.mp4"))
    dialog.last.setText("5")
    qtbot.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    assert dialog.stop.text() == "Cancel"
    qtbot.waitUntil(lambda: not dialog.is_running, timeout=SECONDS)
    assert dialog.line.text().startswith("Written")
    assert (tmp_path / "film.mp4").stat().st_size > 500
    dialog.path.setText(str(tmp_path / "other.webm"))
    dialog.kind.setCurrentIndex(2)
    dialog.last.setText("48")
    dialog.samples.setCurrentIndex(3)
    qtbot.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(dialog.stop, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not dialog.is_running, timeout=SECONDS)
    assert "Nothing was left" in dialog.line.text()
    assert not [each for each in tmp_path.iterdir() if "other" in each.name or "partial" in each.name]
    dialog.kind.setCurrentIndex(0)
    dialog.path.setText(str(tmp_path / "film.mp4"))
    qtbot.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    assert "there already" in dialog.line.text()
    assert not dialog.is_running
    dialog.path.setText("/no/such/folder/x.mp4")
    qtbot.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    assert "not there" in dialog.line.text()


VIRTUAL = {
    "event", "eventFilter", "sizeHint", "minimumSizeHint", "focusNextPrevChild", "createEditor", "paint",
    "updateEditorGeometry", "drawBranches",
}  # fmt: skip


def test_nothing_of_ours_hides_a_method_of_qt(window):
    """An attribute of the same name would be found in its place."""
    hidden = []
    for each in [window, *window.findChildren(QObject)]:
        ours = [kind for kind in type(each).__mro__ if kind.__module__.startswith("wild_heron")]
        bases = [kind for kind in type(each).__mro__ if kind.__module__.startswith("PyQt6")]
        if not ours:
            continue
        names = set(vars(each)) | {
            name
            for kind in ours
            for name, member in vars(kind).items()
            if not name.startswith("__") and not name.endswith("Event") and name not in VIRTUAL
        }
        hidden += [f"{ours[0].__name__}.{name}" for name in names if any(hasattr(base, name) for base in bases)]
    assert sorted(set(hidden)) == []
