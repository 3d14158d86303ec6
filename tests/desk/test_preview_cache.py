"""Played frames are held, shown at once, and dropped exactly where an edit changes them."""

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

import wild_heron as wh
from wild_heron.desk.dialogs.preferences_dialog import PreferencesDialog
from wild_heron.desk.pictures.shown_pictures import HeldPicture


@pytest.fixture
def held(window, qtbot):
    """The rig scene with every frame of its first twelve held."""
    document = window.desk.document
    document.edit("Rest", lambda s: wh.edits.set_key(s, "turn", "rotation.y", 48.0, 90.0, wh.Hold()))
    document.playhead.set_play_range((0, 11))
    window.desk.previews.set_megabytes(200)
    window.desk.previews.shown.fill()
    qtbot.waitUntil(lambda: len(window.desk.previews.shown.held) == 12, timeout=60_000)
    return window


def test_frames_are_drawn_ahead_and_then_shown_without_asking(held, qtbot):
    view, document = held.desk.lens.view, held.desk.document
    qtbot.waitUntil(lambda: not held.desk.link.is_busy, timeout=10_000)
    asked = []
    want = held.desk.link.want
    held.desk.link.want = lambda stream, wish: (asked.append(stream), want(stream, wish))[1]
    pictures = []
    for frame in (3.0, 7.0):
        document.playhead.set_frame(frame)
        pictures.append(view.image.copy())
    assert "lens" not in asked
    assert pictures[0] != pictures[1]
    # It is the same picture as one that is drawn for it.
    held.desk.previews.shown.clear()
    document.playhead.set_frame(3.0)
    with qtbot.waitSignal(held.desk.link.completed, timeout=60_000):
        view.ask()
    assert view.image == pictures[0]


def test_an_edit_drops_the_frames_that_it_changes_and_keeps_the_others(held, qtbot):
    document, preview = held.desk.document, held.desk.previews.shown
    document.edit("Later", lambda s: wh.edits.set_key(s, "turn", "rotation.x", 5.0, 0.0, wh.Hold()))
    document.edit("Later", lambda s: wh.edits.set_key(s, "turn", "rotation.x", 8.0, 10.0, wh.Hold()))
    assert preview.held == []
    qtbot.waitUntil(preview.take_over, timeout=10_000)
    assert preview.held == [0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0]
    document.edit("Name", lambda s: wh.edits.rename(s, "card", "Sign"))
    qtbot.waitUntil(preview.take_over, timeout=10_000)
    assert 7.0 in preview.held


def test_what_is_held_keeps_to_the_budget_and_the_view(held):
    preview = held.desk.previews.shown
    one = next(iter(preview.frames.values())).image.sizeInBytes()
    preview.set_budget(5 * one)
    assert len(preview.held) == 5
    wish = held.desk.lens.view.wish
    for frame in (40.0, 41.0):
        preview.store(replace(wish, frame=frame), preview.frames[11.0])
    assert preview.bytes <= 5 * one
    assert preview.held[-2:] == [40.0, 41.0]
    held.desk.document.views.set_format("nothing of that name")
    held.desk.top_bar.quality.setCurrentIndex(1)
    assert preview.held == []


def test_a_coarser_preview_rate_shows_and_holds_fewer_frames_at_the_same_speed(held, qtbot, monkeypatch):
    document, playback = held.desk.document, held.desk.playback
    held.desk.actions_["play.every_3"].trigger()
    document.playhead.set_frame(3.0)
    held.desk.previews.shown.clear()
    held.desk.previews.shown.fill()
    qtbot.waitUntil(lambda: held.desk.previews.shown.held == [0.0, 3.0, 6.0, 9.0], timeout=60_000)
    shown = []
    document.playhead.moved.connect(lambda: shown.append(document.playhead.frame))
    now = [100.0]
    monkeypatch.setattr("wild_heron.desk.state.playback.time.perf_counter", lambda: now[0])
    document.playhead.set_frame(0.0)
    playback.play()
    for second in (0.05, 0.11, 0.14, 0.27, 0.4, 0.55):
        now[0] = 100.0 + second
        playback._tick()
    playback.stop()
    assert shown == [0.0, 3.0, 6.0, 9.0, 0.0]
    assert not held.desk.actions_["play.every_1"].isChecked()


def test_the_preview_is_written_as_it_is(held, qtbot, tmp_path):
    """Held frames go into the movie without being drawn again, the others are drawn at the same size."""
    import av

    held.desk.document.playhead.set_play_range((0, 15))
    held.desk.previews.set_megabytes(0)  # keeps nothing, draws nothing ahead
    held.desk.previews.set_megabytes(200)
    wish = held.desk.lens.view.wish
    green = held.desk.lens.view.image.copy()
    green.fill(0xFF00C000)
    held.desk.previews.shown.store(replace(wish, frame=2.0), HeldPicture(green, ()))
    held.desk.actions_["output.preview"].trigger()
    dialog = held.desk.open.export_dialog
    path = tmp_path / "look.mp4"
    dialog.path.setText(str(path))
    dialog.start()
    qtbot.waitUntil(lambda: not dialog.is_running, timeout=60_000)
    assert dialog.line.text().startswith("Written")
    with av.open(str(path)) as movie:
        frames = [frame.to_ndarray(format="rgb24") for frame in movie.decode(video=0)]
    assert len(frames) == 16
    assert frames[0].shape == (wish.height // 2 * 2, wish.width // 2 * 2, 3)
    middle = frames[2][frames[2].shape[0] // 2, frames[2].shape[1] // 2].astype(int)
    assert middle[1] > 150 > middle[0] + 60
    middle = frames[0][frames[0].shape[0] // 2, frames[0].shape[1] // 2].astype(int)
    assert middle[0] > 180 > middle[1] + 60
    dialog.close()


def test_the_memory_for_played_frames_is_asked_for_and_remembered(held, settings):
    held.desk.actions_["play.memory"].trigger()
    dialog = held.findChild(PreferencesDialog)
    dialog.memory.selectAll()
    QTest.keyClicks(dialog.memory, "1")
    QTest.keyClick(dialog.memory, Qt.Key.Key_Return)
    assert held.desk.previews.shown.budget == 1_000_000
    assert held.desk.previews.shown.bytes <= max(
        1_000_000, next(iter(held.desk.previews.shown.frames.values())).image.sizeInBytes()
    )
    assert int(settings.value("preview/megabytes")) == 1
