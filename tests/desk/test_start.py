"""The start page: artwork that is begun with, recent scenes, examples; by mouse and by keyboard."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, QSettings, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

import wild_heron as wh
from wild_heron.demo import EXAMPLES

LEFT, NO_KEY = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def drop(widget, *paths: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    entering = QDragEnterEvent(widget.rect().center(), Qt.DropAction.CopyAction, data, LEFT, NO_KEY)
    QApplication.sendEvent(widget, entering)
    assert entering.isAccepted()
    at = QPointF(widget.rect().center())
    QApplication.sendEvent(widget, QDropEvent(at, Qt.DropAction.CopyAction, data, LEFT, NO_KEY))


def test_a_drop_makes_a_moving_picture_in_one_step(make_window, art, qtbot):
    window = make_window()
    desk = window.desk
    page = desk.start_page
    assert page.isVisible()
    assert not desk.lens.view.isVisible()
    drop(page.drop, art / "card.png", art / "glass.png")
    qtbot.waitUntil(lambda: desk.document.views.camera is not None, timeout=10_000)
    scene = desk.document.scene
    assert [node.name for node in scene.nodes] == ["Card", "Glass", "Camera"]
    assert len(scene.node("camera").channel("position.x").keys) == 2
    assert not page.isVisible()
    assert desk.lens.view.isVisible()
    assert desk.playback.is_playing
    desk.playback.stop()
    desk.actions_["edit.undo"].trigger()
    assert desk.document.scene.nodes == ()
    assert page.isVisible()


def test_what_is_no_picture_begins_nothing_and_says_so(make_window, tmp_path, qtbot):
    window = make_window()
    (tmp_path / "words.png").write_text("no picture at all")
    drop(window.desk.start_page.drop, tmp_path / "words.png")
    qtbot.waitUntil(lambda: not window.desk.bringer.is_busy, timeout=10_000)
    assert "words.png" in window.desk.status.text.text()
    assert window.desk.start_page.isVisible()


def test_artwork_is_chosen_for_a_new_scene(make_window, art, qtbot, monkeypatch):
    window = make_window()
    desk = window.desk
    desk.document.edit("Add", lambda scene: wh.edits.add_node(scene, wh.Null(id="n", name="N")))
    desk.files.may_leave = lambda: True
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *given: ([str(art / "card.png")], ""))
    QTest.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: desk.document.views.camera is not None, timeout=10_000)
    assert [node.name for node in desk.document.scene.nodes] == ["Card", "Camera"]


def test_recent_scenes_are_offered_and_those_that_are_gone_are_not(make_window, settings: QSettings, tmp_path, qtbot):
    there, gone = tmp_path / "there.heron", tmp_path / "gone.heron"
    wh.save(wh.Scene(name="There", nodes=(wh.Null(id="n", name="N"),)), there)
    settings.setValue("recent", [str(there), str(gone)])
    page = make_window().desk.start_page
    entries = page.recent.entries
    assert [entry.text() for entry in entries] == ["there", "gone"]
    assert [entry.isEnabled() for entry in entries] == [True, False]
    qtbot.mouseClick(entries[0], LEFT)
    assert page.window().desk.document.file.path == there.resolve()
    assert not page.isVisible()


@pytest.mark.parametrize("number", range(len(EXAMPLES)))
def test_an_example_opens_as_a_copy_from_the_keyboard(make_window, qtbot, number):
    window = make_window()
    page = window.desk.start_page
    entry = page.examples.entries[number]
    entry.setFocus()
    QTest.keyClick(entry, Qt.Key.Key_Space)
    assert window.desk.document.file.path is None
    assert window.desk.document.scene.name == wh.load(EXAMPLES[number].scene).name
    assert not page.isVisible()


def test_tab_goes_through_all_that_may_be_begun_with(make_window):
    window = make_window()
    page = window.desk.start_page
    page.drop.choose.setFocus()
    seen = [page.drop.choose]
    for _ in range(60):
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
        if QApplication.focusWidget() is page.drop.choose:
            break
        seen.append(QApplication.focusWidget())
    wanted = [page.drop.choose, page.drop.camera, page.drop.open, *page.examples.entries, *page.lessons.entries]
    assert [each for each in seen if each in wanted] == wanted


def test_lessons_are_chosen_from_the_menu_too(make_window, qtbot):
    window = make_window()
    QTest.keyClick(window, Qt.Key.Key_F3)
    dialog = next(each for each in QApplication.topLevelWidgets() if type(each).__name__ == "LessonsDialog")
    qtbot.mouseClick(dialog.entries[0], LEFT)
    assert window.desk.lesson_run.id == "1-first-move"
