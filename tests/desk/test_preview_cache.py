"""Played frames are held, shown at once, and dropped exactly where an edit changes them."""

import pytest
from msgspec.structs import replace

import wild_heron as wh


@pytest.fixture
def held(window, qtbot):
    """The rig scene with every frame of its first twelve held."""
    document = window.document
    document.edit("Rest", lambda s: wh.edits.set_key(s, "turn", "rotation.y", 48.0, 90.0, wh.Hold()))
    document.set_play_range((0, 11))
    window.preview.budget = 200_000_000
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
        document.set_frame(frame)
        pictures.append(view._image.copy())
    assert "lens" not in asked
    assert pictures[0] != pictures[1]
    # It is the same picture as one that is drawn for it.
    held.preview.clear()
    document.set_frame(3.0)
    with qtbot.waitSignal(held.link.completed, timeout=20_000):
        view.ask()
    assert view._image == pictures[0]


def test_an_edit_drops_the_frames_that_it_changes_and_keeps_the_others(held, qtbot):
    document, preview = held.document, held.preview
    document.edit("Later", lambda s: wh.edits.set_key(s, "turn", "rotation.x", 5.0, 0.0, wh.Hold()))
    document.edit("Later", lambda s: wh.edits.set_key(s, "turn", "rotation.x", 8.0, 10.0, wh.Hold()))
    assert preview.held == []
    preview.budget = 200_000_000
    qtbot.waitUntil(preview._take_over, timeout=10_000)
    assert preview.held == [0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0]
    document.edit("Name", lambda s: wh.edits.rename(s, "card", "Sign"))
    qtbot.waitUntil(preview._take_over, timeout=10_000)
    assert 7.0 in preview.held


def test_what_is_held_keeps_to_the_budget_and_the_view(held):
    preview = held.preview
    one = next(iter(preview._frames.values())).sizeInBytes()
    preview.budget = 5 * one
    wish = held.lens.view._wish
    for frame in (40.0, 41.0):
        preview.store(replace(wish, frame=frame), preview._frames[11.0].copy())
    assert preview._size <= 5 * one
    assert preview.held[-2:] == [40.0, 41.0]
    held.document.set_format("nothing of that name")
    held.top_bar.quality.setCurrentIndex(1)
    assert preview.held == []
