"""Played frames are held, shown at once, and dropped exactly where an edit changes them."""

import pytest
from msgspec.structs import replace

import wild_heron as wh


@pytest.fixture
def held(window, qtbot):
    """The rig scene with every frame of its first twelve held."""
    document = window.document
    document.edit("Rest", lambda s: wh.edits.set_key(s, "turn", "rotation.y", 48.0, 90.0, wh.Hold()))
    document.playhead.set_play_range((0, 11))
    window.set_preview_memory(200)
    window.preview._fill()
    qtbot.waitUntil(lambda: len(window.preview.held) == 12, timeout=60_000)
    return window


def test_frames_are_drawn_ahead_and_then_shown_without_asking(held, qtbot):
    view, document = held.lens.view, held.document
    qtbot.waitUntil(lambda: not held.link.is_busy, timeout=10_000)
    asked = []
    want = held.link.want
    held.link.want = lambda stream, wish: (asked.append(stream), want(stream, wish))[1]
    pictures = []
    for frame in (3.0, 7.0):
        document.playhead.set_frame(frame)
        pictures.append(view._image.copy())
    assert "lens" not in asked
    assert pictures[0] != pictures[1]
    # It is the same picture as one that is drawn for it.
    held.preview.clear()
    document.playhead.set_frame(3.0)
    with qtbot.waitSignal(held.link.completed, timeout=60_000):
        view.ask()
    assert view._image == pictures[0]


def test_an_edit_drops_the_frames_that_it_changes_and_keeps_the_others(held, qtbot):
    document, preview = held.document, held.preview
    document.edit("Later", lambda s: wh.edits.set_key(s, "turn", "rotation.x", 5.0, 0.0, wh.Hold()))
    document.edit("Later", lambda s: wh.edits.set_key(s, "turn", "rotation.x", 8.0, 10.0, wh.Hold()))
    assert preview.held == []
    qtbot.waitUntil(preview._take_over, timeout=10_000)
    assert preview.held == [0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0]
    document.edit("Name", lambda s: wh.edits.rename(s, "card", "Sign"))
    qtbot.waitUntil(preview._take_over, timeout=10_000)
    assert 7.0 in preview.held


def test_what_is_held_keeps_to_the_budget_and_the_view(held):
    preview = held.preview
    one = next(iter(preview._frames.values())).sizeInBytes()
    preview.set_budget(5 * one)
    assert len(preview.held) == 5
    wish = held.lens.view.wish
    for frame in (40.0, 41.0):
        preview.store(replace(wish, frame=frame), preview._frames[11.0].copy())
    assert preview.bytes <= 5 * one
    assert preview.held[-2:] == [40.0, 41.0]
    held.document.views.set_format("nothing of that name")
    held.top_bar.quality.setCurrentIndex(1)
    assert preview.held == []


def test_a_coarser_preview_rate_shows_and_holds_fewer_frames_at_the_same_speed(held, qtbot, monkeypatch):
    document, playback = held.document, held.playback
    held.actions_["play.every_3"].trigger()
    document.playhead.set_frame(3.0)
    held.preview.clear()
    held.preview._fill()
    qtbot.waitUntil(lambda: held.preview.held == [0.0, 3.0, 6.0, 9.0], timeout=60_000)
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
    assert not held.actions_["play.every_1"].isChecked()


def test_the_preview_is_written_as_it_is(held, qtbot, tmp_path):
    """Held frames go into the movie without being drawn again, the others are drawn at the same size."""
    import av

    held.document.playhead.set_play_range((0, 15))
    held.set_preview_memory(0)  # keeps nothing, draws nothing ahead
    held.set_preview_memory(200)
    wish = held.lens.view.wish
    green = held.lens.view._image.convertToFormat(held.lens.view._image.Format.Format_RGBA8888)
    green.fill(0xFF00C000)
    held.preview.store(replace(wish, frame=2.0), green)
    held.open.preview_movie()
    dialog = held.open.export_dialog
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


def test_the_memory_for_played_frames_is_asked_for_and_remembered(held, monkeypatch, settings):
    monkeypatch.setattr("wild_heron.desk.shell.opening.QInputDialog.getInt", lambda *a, **k: (1, True))
    held.actions_["play.memory"].trigger()
    assert held.preview.budget == 1_000_000
    assert held.preview.bytes <= max(1_000_000, next(iter(held.preview._frames.values())).sizeInBytes())
    assert int(settings.value("preview/megabytes")) == 1
