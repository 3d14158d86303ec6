"""The window and its file: two windows on one, changes on disk, crashes, being ended from outside."""

import os
import signal

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMessageBox

import wild_heron as wh
from wild_heron.desk.shell.system_signals import Signals
from wild_heron.files.autosave import autosave_path, write_autosave


def press(qtbot, window, words: str) -> None:
    """Choose on the banner."""
    button = next(each for each in window.desk.banner.buttons if each.text() == words)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


def answer(monkeypatch, words: str) -> list[str]:
    """Choose in the next message, whose text is noted."""
    asked: list[str] = []

    def chosen(box: QMessageBox) -> int:
        asked.append(box.text())
        next(each for each in box.buttons() if each.text() == words).click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", chosen)
    return asked


def rename(window, name: str) -> None:
    window.desk.document.edit("Rename", lambda scene: wh.edits.rename(scene, "card", name))


def crash(window) -> None:
    """As a crash leaves it: its autosave is there, and its session does not live any more."""
    window.desk.files.autosaver.write()
    window.desk.files.autosaver.wait()
    window.desk.files.autosaver.session.close()
    window.desk.files._let_go()


def test_a_second_window_looks_only_and_saves_as_a_copy(make_window, window, art, qtbot):
    other = make_window()
    assert other.desk.files.open(art / "rig.heron", ask=False)
    assert "open in another window" in other.desk.banner.text.text()
    assert "(look only)" in other.windowTitle()
    rename(window, "Mine")
    rename(other, "Yours")
    for each in (window, other):
        each.desk.files.autosaver.write()
        each.desk.files.autosaver.wait()
    # Each has its own autosave; neither is offered to the other.
    assert len(list(art.glob(".rig.autosave.*"))) == 2
    press(qtbot, other, "Open a copy")
    assert other.desk.document.file.path is None
    assert other.desk.document.scene.node("card").name == "Yours"
    assert window.desk.files.save()
    assert wh.load(art / "rig.heron").node("card").name == "Mine"
    assert not other.desk.files.save_to(art / "rig.heron")
    assert other.desk.files.save_to(art / "other.heron")
    assert wh.load(art / "rig.heron").node("card").name == "Mine"
    assert not list(art.glob(".rig.autosave.*"))


def test_the_lock_goes_to_whoever_has_the_file_now(make_window, window, art):
    assert window.desk.files.save_to(art / "elsewhere.heron")
    other = make_window()
    assert other.desk.files.open(art / "rig.heron", ask=False)
    assert not other.desk.files.look_only
    assert other.desk.files.open(art / "elsewhere.heron", ask=False)
    assert other.desk.files.look_only


@pytest.mark.parametrize("choice", ["Save over it", "Reload", "Do nothing"])
def test_a_file_that_another_program_wrote_is_not_saved_over_unasked(window, art, monkeypatch, choice):
    rename(window, "Mine")
    theirs = wh.edits.rename(wh.load(art / "rig.heron"), "card", "Theirs")
    wh.save(theirs, art / "rig.heron")
    asked = answer(monkeypatch, choice)
    saved = window.desk.files.save()
    assert "changed on disk" in asked[0]
    name = wh.load(art / "rig.heron").node("card").name
    here = window.desk.document.scene.node("card").name
    assert (saved, name, here) == {
        "Save over it": (True, "Mine", "Mine"),
        "Reload": (False, "Theirs", "Theirs"),
        "Do nothing": (False, "Theirs", "Mine"),
    }[choice]
    if choice == "Reload":
        assert not window.desk.document.is_modified
        window.desk.document.undo()
        assert window.desk.document.scene.node("card").name == "Mine"


def test_a_change_and_a_loss_on_disk_are_noticed_while_the_scene_is_open(window, art, qtbot):
    theirs = wh.edits.rename(wh.load(art / "rig.heron"), "card", "Theirs")
    wh.save(theirs, art / "rig.heron")
    qtbot.waitUntil(lambda: "changed on disk" in window.desk.banner.text.text(), timeout=5000)
    press(qtbot, window, "Reload")
    assert window.desk.document.scene.node("card").name == "Theirs"
    # Our own save is no change.
    rename(window, "Mine")
    assert window.desk.files.save()
    window.desk.files.look_at_disk()
    assert not window.desk.banner.isVisible()
    (art / "rig.heron").unlink()
    qtbot.waitUntil(lambda: "is not there any more" in window.desk.status.text.text(), timeout=5000)
    assert window.desk.files.save()
    assert wh.load(art / "rig.heron").node("card").name == "Mine"


def test_what_a_crash_left_is_offered_and_recovered(make_window, window, art, qtbot):
    rename(window, "Plate")
    crash(window)
    other = make_window()
    other.desk.files.open(art / "rig.heron", ask=False)
    assert "autosave" in other.desk.banner.text.text()
    press(qtbot, other, "Recover")
    assert other.desk.document.scene.node("card").name == "Plate"
    assert other.desk.document.is_modified
    assert other.desk.files.save()
    assert not list(art.glob(".rig.autosave.*"))


def test_an_offer_that_is_ignored_stays_through_going_on_and_saving(make_window, window, art, qtbot):
    rename(window, "Lost")
    crash(window)
    other = make_window()
    other.desk.files.open(art / "rig.heron", ask=False)
    press(qtbot, other, "Not now")
    rename(other, "Went on")
    other.desk.files.autosaver.write()
    other.desk.files.autosaver.wait()
    assert other.desk.files.save()
    other.desk.files.open(art / "rig.heron", ask=False)
    assert "older than the file" in other.desk.banner.text.text()
    press(qtbot, other, "Discard")
    assert not list(art.glob(".rig.autosave.*"))


def test_an_unsaved_scene_of_a_dead_program_is_offered(make_window, qtbot):
    window = make_window()
    lost = autosave_path(None, "dead")
    write_autosave(wh.Scene(name="Lost"), lost)
    window.desk.files.offer_unsaved()
    assert "never saved" in window.desk.banner.text.text()
    press(qtbot, window, "Recover")
    assert window.desk.document.scene.name == "Lost"
    assert not lost.exists()


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_a_signal_autosaves_and_ends(window, art, qtbot, number):
    before = {each: signal.getsignal(each) for each in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)}
    rename(window, "Kept")
    signals = Signals(window)
    try:
        os.kill(os.getpid(), number)
        qtbot.waitUntil(lambda: not window.isVisible(), timeout=5000)
    finally:
        signal.set_wakeup_fd(-1)
        for each, handler in before.items():
            signal.signal(each, handler)
    assert signals.status == 128 + number
    (spare,) = art.glob(".rig.autosave.*")
    assert wh.load(spare).node("card").name == "Kept"
    assert wh.load(art / "rig.heron").node("card").name == "Card"


def test_files_outside_the_scenes_folder_are_read_when_they_are_allowed(make_window, rig, art, tmp_path, qtbot):
    (tmp_path / "scenes").mkdir()
    scene = wh.edits.change_node(rig, "card", artwork=wh.ImageFile("../card.png"))
    wh.save(scene, tmp_path / "scenes" / "s.heron")
    window = make_window()
    assert window.desk.files.open(tmp_path / "scenes" / "s.heron", ask=False)
    assert str(tmp_path) in window.desk.banner.text.text()
    qtbot.waitUntil(
        lambda: "outside the scene's folder" in window.desk.document.evaluations.problems.get("card", ""),
        timeout=60_000,
    )
    press(qtbot, window, "Allow")
    qtbot.waitUntil(
        lambda: not window.desk.document.evaluations.problems and not window.desk.link.is_busy, timeout=60_000
    )
    again = make_window()
    assert again.desk.files.open(tmp_path / "scenes" / "s.heron", ask=False)
    assert "reads" not in again.desk.banner.text.text()


def test_one_offer_waits_for_the_other(window, qtbot):
    banner, done = window.desk.banner, []
    banner.offer("First", {"Do": lambda: done.append(1), "Not now": None})
    banner.offer("Second", {"Do": lambda: done.append(2)})
    banner.offer("Second", {"Do": lambda: done.append(3)})
    assert banner.text.text() == "First"
    press(qtbot, window, "Do")
    assert banner.text.text() == "Second"
    press(qtbot, window, "Do")
    assert done == [1, 3]
    assert not banner.isVisible()
    banner.offer("About this scene", {"Do": None})
    window.desk.document.mark_loaded()
    window.desk.files.new()
    assert not banner.isVisible()


def test_an_export_that_is_too_long_or_lacks_artwork_says_so_first(window, art, qtbot):
    window.desk.actions_["output.export"].trigger()
    dialog = window.desk.open.export_dialog
    dialog.path.setText(str(art / "x.mp4"))
    dialog.last.setText("1e9")
    dialog.start()
    assert "Up to 100000 frames" in dialog.line.text()
    dialog.last.setText("3")
    (art / "card.png").unlink()
    dialog.start()
    assert "card.png cannot be read" in dialog.line.text()
    assert not dialog.is_running
    dialog.start()
    assert dialog.is_running
    qtbot.waitUntil(lambda: not dialog.is_running, timeout=60_000)
    assert "card.png cannot be read" in dialog.line.text()
    assert (art / "x.mp4").exists()
