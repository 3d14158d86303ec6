"""Export, the queue, the move and handing over, driven in the real window."""

from pathlib import Path

import av
import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

import wild_heron as wh
from wild_heron.desk.dialogs.export_dialog import ExportDialog
from wild_heron.desk.dialogs.move_dialog import MoveDialog
from wild_heron.desk.dialogs.queue_dialog import QueueDialog
from wild_heron.desk.dialogs.settings_dialog import SettingsDialog
from wild_heron.files.export_formats.writing import MoveJob, write_move
from wild_heron.output.kinds import KINDS
from wild_heron.output.queue import store
from wild_heron.output.queue.store import QueueStore


@pytest.fixture
def window(make_window, rig, art, tmp_path, monkeypatch):
    """A window on a scene on disk, with a queue of its own."""
    monkeypatch.setattr(store, "queue_folder", lambda: tmp_path / "queue")
    small = replace(rig, settings=replace(rig.settings, width=96, height=54, last=8))
    path = art / "rig.heron"
    wh.save(small, path)
    window = make_window()
    window.desk.files.open(path, ask=False)
    return window


@pytest.fixture
def out(tmp_path) -> Path:
    folder = tmp_path / "out"
    folder.mkdir()
    return folder


def export_dialog(window, qtbot) -> ExportDialog:
    window.desk.actions_["output.export"].trigger()
    dialog = window.desk.open.export_dialog
    qtbot.waitUntil(dialog.isVisible)
    return dialog


def choose_kind(dialog: ExportDialog, name: str, codec: str | None = None) -> None:
    for k in range(dialog.kind.count()):
        kind, own = dialog.kind.itemData(k)
        if kind.name == name and (codec is None or own.name == codec):
            dialog.kind.setCurrentIndex(k)
            return
    raise AssertionError(name)


def rows(dialog: ExportDialog) -> set[str]:
    """The words beside what is offered."""
    form = dialog._form
    shown = set()
    for row in range(form.rowCount()):
        item = form.itemAt(row, form.ItemRole.LabelRole)
        if item is not None and form.isRowVisible(row):
            shown.add(item.widget().text())
    return shown - {""}


def test_each_kind_offers_what_it_has_a_say_in(window, qtbot):
    dialog = export_dialog(window, qtbot)
    always = {"Write", "File", "Camera", "Frame", "Frames", "Samples", "Takes"}
    choose_kind(dialog, "mp4")
    assert rows(dialog) == always | {"Quality"}
    choose_kind(dialog, "webm", "vp9")
    assert rows(dialog) == always | {"Quality", "Background"}
    choose_kind(dialog, "exr")
    assert rows(dialog) == always | {"Numbers", "Background", "Passes"}
    assert dialog.background.currentData() is True
    choose_kind(dialog, "png")
    assert rows(dialog) == always | {"Numbers", "Background"}
    assert Path(dialog.path.text()).name == "rig_####.png"
    assert dialog.kind.count() == sum(max(1, len(kind.codecs)) for kind in KINDS)


def test_what_is_chosen_is_what_is_written(window, qtbot, out):
    dialog = export_dialog(window, qtbot)
    choose_kind(dialog, "tiff")
    dialog.path.setText(str(out / "still.tif"))
    window.desk.document.playhead.set_frame(3)
    dialog.this_frame()
    dialog.samples.setCurrentIndex(1)
    dialog.background.setCurrentIndex(1)
    job = dialog.job()
    assert (job.frames, job.samples, job.numbers, job.clear, job.fine) == ((3.0,), 8, "16", True, True)
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: (out / "still.tif").exists() and not dialog.is_running, timeout=60_000)
    dialog.path.setText(str(out / "film.mp4"))
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    assert "does not end in .tif" in dialog.line.text()


def test_the_size_is_estimated_and_grows_with_quality(window, qtbot, out):
    dialog = export_dialog(window, qtbot)
    dialog.path.setText(str(out / "film.mp4"))

    def estimate(value: float) -> str:
        dialog.quality._set(value)
        dialog.quality.settled.emit(value)
        qtbot.waitUntil(lambda: dialog.size_.text() not in ("", "about …"), timeout=60_000)
        return dialog.size_.text()

    low, high = estimate(0.1), estimate(1.0)
    assert low.startswith("about ")
    assert low != high
    qtbot.waitUntil(lambda: dialog.time.text() not in ("", "about …"), timeout=60_000)
    assert dialog.time.text().startswith("about ")
    assert dialog.time.text().endswith(" s")


def test_what_loses_nothing_tells_its_time_too(window, qtbot, out):
    dialog = export_dialog(window, qtbot)
    choose_kind(dialog, "png")
    dialog.path.setText(str(out / "f_##.png"))
    qtbot.waitUntil(lambda: dialog.time.text() not in ("", "about …"), timeout=60_000)
    dialog.first.setText("3")
    dialog.first.textEdited.emit("3")
    assert dialog.time.text() == ""
    qtbot.waitUntil(lambda: dialog.time.text() not in ("", "about …"), timeout=60_000)


def test_a_job_goes_through_the_queue_while_work_goes_on(window, qtbot, out):
    dialog = export_dialog(window, qtbot)
    choose_kind(dialog, "mkv")
    dialog.path.setText(str(out / "film.mkv"))
    dialog.fine.setCurrentIndex(1)
    QTest.mouseClick(dialog.later, Qt.MouseButton.LeftButton)
    assert "In the queue: film.mkv" in dialog.line.text()
    # What is changed now is not in it.
    document = window.desk.document
    document.edit("Other background", lambda s: replace(s, settings=replace(s.settings, background="#ffffff")))
    window.desk.actions_["output.queue"].trigger()
    queue = window.desk.open.queue_dialog
    assert isinstance(queue, QueueDialog)
    qtbot.waitUntil(lambda: window.desk.queue.shown.jobs[0].state == "done", timeout=60_000)
    with av.open(str(out / "film.mkv")) as movie:
        first = next(movie.decode(video=0)).to_ndarray(format="rgb24")
    assert np.abs(first[0, 0].astype(int) - 255).max() > 100
    (row,) = queue.rows.values()
    assert row.name.text() == "film.mkv"
    assert row.again.isEnabled()
    QTest.mouseClick(row.off, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not queue.rows)
    assert "Nothing is in the queue" in queue.line.text()


def test_jobs_are_steered_by_their_buttons_and_the_keyboard(window, qtbot, out):
    commands = window.desk.queue
    commands.store.pause(True)
    dialog = export_dialog(window, qtbot)
    choose_kind(dialog, "png")
    for name in ("a_##.png", "b_##.png", "c_##.png"):
        dialog.path.setText(str(out / name))
        commands.store.add(window.desk.document.scene, window.desk.document.file.base, dialog.jobs())
    commands._look()
    window.desk.actions_["output.queue"].trigger()
    queue = window.desk.open.queue_dialog
    qtbot.waitUntil(lambda: len(queue.rows) == 3)
    assert queue.pace.text() == "Go on"
    queue.activateWindow()
    qtbot.waitUntil(queue.isActiveWindow)
    last = queue.rows[commands.shown.jobs[2].id]
    last.up.setFocus()
    QTest.keyClick(last.up, Qt.Key.Key_Space)
    QTest.keyClick(last.up, Qt.Key.Key_Space)
    assert [job.path.name[0] for job in commands.shown.jobs] == ["c", "a", "b"]
    assert last.up.hasFocus() or not last.up.isEnabled()
    QTest.mouseClick(queue.rows[commands.shown.jobs[1].id].off, Qt.MouseButton.LeftButton)
    assert [job.state for job in commands.shown.jobs] == ["waiting", "cancelled", "waiting"]
    QTest.mouseClick(queue.pace, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not any(job.is_open for job in commands.shown.jobs), timeout=90_000)
    assert len(list(out.glob("c_*.png"))) == len(list(out.glob("b_*.png"))) == 9
    assert not list(out.glob("a_*.png"))


def test_a_queue_that_was_left_is_told_and_goes_on(make_window, window, qtbot, out, tmp_path):
    dialog = export_dialog(window, qtbot)
    choose_kind(dialog, "png")
    dialog.path.setText(str(out / "f_##.png"))
    store = QueueStore(tmp_path / "queue")
    store.add(window.desk.document.scene, window.desk.document.file.base, dialog.jobs())
    other = make_window()
    qtbot.waitUntil(lambda: other.desk.queue.holds)
    assert not list(out.glob("*.png"))
    other.desk.queue.go_on()
    qtbot.waitUntil(lambda: store.read().jobs[0].state == "done", timeout=90_000)
    assert len(list(out.glob("f_*.png"))) == 9


def test_the_move_goes_out_and_its_camera_comes_back(window, qtbot, out):
    window.desk.actions_["output.move"].trigger()
    dialog = window.findChild(MoveDialog)
    dialog.path.setText(str(out / "move.usda"))
    dialog.format.setCurrentIndex(1)
    assert dialog.path.text().endswith("move.usda")
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Written" in dialog.line.text(), timeout=60_000)
    assert "Binds are baked" in dialog.line.text()
    document = window.desk.document
    before = len(document.scene.nodes)
    window.desk.bringer.bring_motion(out / "move.usda")
    qtbot.waitUntil(lambda: not window.desk.bringer.is_busy, timeout=20_000)
    assert len(document.scene.nodes) == before + 1
    new = document.scene.node(document.selection.nodes[0])
    assert isinstance(new, wh.Camera)
    document.undo()
    assert len(document.scene.nodes) == before


def test_a_timelines_clips_show_what_was_made(window, qtbot, out):
    window.desk.actions_["output.move"].trigger()
    dialog = window.findChild(MoveDialog)
    assert not dialog.picture.isVisible()
    dialog.format.setCurrentIndex(dialog.format.findText("OpenTimelineIO", Qt.MatchFlag.MatchStartsWith))
    assert dialog.picture.isVisible()
    assert dialog.path.text().endswith(".otio")
    dialog.path.setText(str(out / "film.otio"))
    QTest.keyClicks(dialog.picture, str(out / "film.mp4"))
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Written" in dialog.line.text(), timeout=60_000)
    assert '"target_url": "film.mp4"' in (out / "film.otio").read_text()


def test_what_is_said_of_a_move_is_there_to_its_end_and_of_that_move(window, qtbot, out):
    window.desk.actions_["output.move"].trigger()
    dialog = window.findChild(MoveDialog)
    dialog.path.setText(str(out / "move.glb"))
    small = dialog.height()
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Written" in dialog.line.text(), timeout=60_000)
    line = dialog.line
    line.setText(line.text().replace("\n", " ") * 6)
    qtbot.waitUntil(lambda: line.height() >= line.heightForWidth(line.width()))
    assert dialog.height() > small
    assert dialog.rect().contains(dialog.go.geometry())
    dialog.format.setCurrentIndex(1)
    assert line.text() == ""
    qtbot.waitUntil(lambda: dialog.height() <= small)


@pytest.mark.parametrize(
    "leave", [lambda dialog: dialog.close(), lambda dialog: QTest.keyClick(dialog, Qt.Key.Key_Escape)]
)
def test_a_move_whose_dialog_is_closed_while_it_goes_out_is_given_up(window, qtbot, out, leave):
    said: list[str] = []
    window.desk.document.messages.said.connect(lambda text, _: said.append(text))
    window.desk.actions_["output.move"].trigger()
    dialog = window.findChild(MoveDialog)
    dialog.path.setText(str(out / "move.glb"))
    dialog.last.setText("20000")
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    leave(dialog)
    qtbot.waitUntil(lambda: window.findChild(MoveDialog) is None)
    qtbot.waitUntil(lambda: said[-1:] == ["Cancelled. Nothing was left behind."], timeout=60_000)
    assert list(out.iterdir()) == []


def test_a_camera_that_comes_in_late_meets_the_scene_as_it_is_then(window, qtbot, out):
    document = window.desk.document
    write_move(document.scene, None, MoveJob(out / "move.csv", tuple(map(float, range(200)))))
    window.desk.bringer.bring_motion(out / "move.csv")
    document.edit("Rename", lambda scene: replace(scene, name="Other"))
    qtbot.waitUntil(lambda: not window.desk.bringer.is_busy, timeout=20_000)
    assert document.scene.name == "Other"
    assert document.selection.nodes[0] in document.scene


def test_cuts_come_in_as_one_step(window, qtbot, out):
    document = window.desk.document
    scene = wh.edits.cut_to(document.scene, 4.0, "cam")
    write_move(scene, None, MoveJob(out / "film.otio", (0.0,)))
    window.desk.bringer.bring_motion(out / "film.otio")
    qtbot.waitUntil(lambda: not window.desk.bringer.is_busy, timeout=20_000)
    assert [shot.first for shot in document.scene.shots] == [shot.first for shot in scene.shots]
    document.undo()
    assert document.scene.shots == ()
    (out / "film.otio").write_text("{")
    said: list[str] = []
    document.messages.said.connect(lambda text, _: said.append(text))
    window.desk.bringer.bring_motion(out / "film.otio")
    qtbot.waitUntil(lambda: not window.desk.bringer.is_busy, timeout=20_000)
    assert "film.otio" in said[-1]
    assert document.scene.shots == ()


def test_gathering_and_bundling_write_what_they_say(window, qtbot, out, monkeypatch):
    dialog = window.desk.open.gather_into(out / "rig.zip")
    qtbot.waitUntil(lambda: "Written" in dialog.line.text(), timeout=60_000)
    assert (out / "rig.zip").is_file()
    export = export_dialog(window, qtbot)
    export.path.setText(str(out / "film.mp4"))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out / "job"), ""))
    QTest.mouseClick(export.many, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: (out / "job" / "template.json").is_file(), timeout=60_000)
    again = window.desk.open.gather_into(out / "rig.zip")
    qtbot.waitUntil(lambda: "there already" in again.line.text(), timeout=60_000)


def test_the_frame_is_shown_as_it_will_be_until_something_changes(window, qtbot, art):
    lens = window.desk.lens.view
    qtbot.waitUntil(lambda: lens.image is not None, timeout=30_000)
    asked = []
    want = window.desk.link.want
    lens._link.want = lambda stream, wish: (asked.append(wish) if stream == "lens" else None, want(stream, wish))[1]
    window.desk.actions_["view.blurred"].trigger()
    assert (asked[-1].samples, asked[-1].fine) == (16, True)
    window.desk.document.playhead.set_frame(2)
    lens.ask()
    assert not lens.is_blurred
    assert asked[-1].samples == 1


def test_settings_say_how_colours_mix(window, qtbot):
    window.desk.actions_["scene.settings"].trigger()
    dialog = window.findChild(SettingsDialog)
    dialog.light.setCurrentIndex(dialog.light.findData("display"))
    dialog.exposure.setCurrentIndex(dialog.exposure.findData("soft"))
    dialog.accept()
    settings = window.desk.document.settings
    assert (settings.light, settings.exposure) == ("display", "soft")
    window.desk.document.undo()
    assert window.desk.document.settings.light == "linear"


def test_a_still_is_what_the_lens_shows(window, qtbot, out):
    """The picture is written in the scene's own size and colours."""
    dialog = export_dialog(window, qtbot)
    choose_kind(dialog, "png")
    dialog.path.setText(str(out / "still.png"))
    dialog.this_frame()
    dialog.fine.setCurrentIndex(1)
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: (out / "still.png").exists(), timeout=60_000)
    with Image.open(out / "still.png") as image:
        assert image.size == (96, 54)
