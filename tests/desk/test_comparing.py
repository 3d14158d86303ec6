"""Looking at other moments and versions over the Lens's picture: ghosts of keys, a kept version wiped and flipped."""

import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage

import wild_heron as wh
from tests.desk.conftest import chord


@pytest.fixture
def lens(window, qtbot):
    view = window.desk.lens.view
    qtbot.waitUntil(lambda: view.image is not None and not window.desk.link.is_busy, timeout=30_000)
    return view


def seen(window, qtbot, frame: float) -> QImage:
    """The Lens's picture at a frame."""
    window.desk.document.playhead.set_frame(frame)
    window.desk.lens.view.ask()
    qtbot.waitUntil(lambda: not window.desk.link.is_busy, timeout=60_000)
    return window.desk.lens.view.image.copy()


def plain(image: QImage) -> QImage:
    return image.convertToFormat(QImage.Format.Format_RGBX8888).convertToFormat(QImage.Format.Format_RGB32)


def turn_more(window) -> None:
    window.desk.document.edit("Turn more", lambda s: wh.edits.set_key(s, "turn", "rotation.y", 0.0, 40.0))


def test_ghosts_show_the_keys_before_and_after_and_stay_while_the_playhead_moves(window, lens, qtbot):
    before, after = seen(window, qtbot, 0.0), seen(window, qtbot, 48.0)
    window.desk.document.playhead.set_frame(20.0)
    for side in ("before", "after"):
        window.desk.actions_[f"view.ghost_{side}"].trigger()
    ghosts = lens.ghosts
    qtbot.waitUntil(lambda: len(ghosts.images) == 2 and not window.desk.link.is_busy, timeout=60_000)
    assert plain(ghosts.images["before"]) == before
    assert plain(ghosts.images["after"]) == after
    asked = []
    want = window.desk.link.want
    window.desk.link.want = lambda stream, wish: (asked.append(stream), want(stream, wish))[1]
    window.desk.document.playhead.set_frame(30.0)
    assert [stream for stream in asked if "ghost" in stream] == []
    window.desk.document.playhead.set_frame(48.0)
    assert list(ghosts.images) == ["before"]  # there is no key after it
    window.desk.actions_["view.ghost_before"].trigger()
    assert ghosts.images == {}


def test_a_ghost_follows_an_edit(window, lens, qtbot):
    window.desk.document.playhead.set_frame(20.0)
    window.desk.actions_["view.ghost_before"].trigger()
    qtbot.waitUntil(lambda: "before" in lens.ghosts.images and not window.desk.link.is_busy, timeout=60_000)
    old = lens.ghosts.images["before"].copy()
    turn_more(window)
    qtbot.waitUntil(lambda: lens.ghosts.images["before"] != old, timeout=60_000)


def test_the_version_before_the_last_step_is_compared_with_by_a_wipe(window, lens, mouse, qtbot):
    document = window.desk.document
    window.desk.actions_["view.compare"].trigger()
    assert not lens.comparison.on  # nothing was done yet
    assert not window.desk.actions_["view.compare"].isChecked()
    old = seen(window, qtbot, 0.0)
    turn_more(window)
    new = seen(window, qtbot, 0.0)
    window.desk.actions_["view.compare"].trigger()
    qtbot.waitUntil(lambda: lens.comparison.image is not None and not window.desk.link.is_busy, timeout=60_000)
    assert lens.comparison.image == old
    assert lens.image == new
    state = document.state
    rect = lens.picture_rect
    line = QPointF(lens.comparison.line(rect), rect.center().y())
    mouse.drag(lens, line, (-20, 0), (-0.25 * rect.width(), 0))
    assert lens.comparison.share == pytest.approx(0.25, abs=0.01)
    assert document.state == state  # the camera stayed where it is
    window.desk.actions_["view.compare"].trigger()
    assert lens.comparison.image is None
    # The next time it is again the version before the last step.
    document.edit("Lift", lambda s: wh.edits.set_value(s, "turn", "position.y", 1.0))
    lifted = document.history.before.state.scene
    window.desk.actions_["view.compare"].trigger()
    assert document.versions.kept is lifted


def test_a_kept_version_is_flipped_to_and_goes_with_the_scene(window, lens, qtbot):
    document = window.desk.document
    window.desk.actions_["view.keep"].trigger()
    kept = document.scene
    for _ in range(3):
        turn_more(window)
        document.edit("Lift", lambda s: wh.edits.set_value(s, "turn", "position.y", 1.0))
    chord(window, "VX")
    assert lens.comparison.flipped
    assert document.versions.kept is kept
    qtbot.waitUntil(lambda: lens.comparison.image is not None, timeout=60_000)
    chord(window, "VX")
    assert lens.comparison.on
    assert not lens.comparison.flipped
    document.reset(wh.Scene(), None)
    assert not lens.comparison.on
    assert document.versions.kept is None


def test_frames_of_both_versions_are_held_while_they_are_compared(window, lens, qtbot):
    document = window.desk.document
    turn_more(window)
    document.playhead.set_play_range((0, 3))
    window.desk.previews.set_megabytes(200)
    window.desk.actions_["view.compare"].trigger()
    assert window.desk.previews.shown.budget == window.desk.previews.kept.budget == 100_000_000
    for frame in (1.0, 0.0):
        document.playhead.set_frame(frame)
    qtbot.waitUntil(
        lambda: len(window.desk.previews.kept.held) == len(window.desk.previews.shown.held) == 4, timeout=60_000
    )
    asked = []
    want = window.desk.link.want
    window.desk.link.want = lambda stream, wish: (asked.append(stream), want(stream, wish))[1]
    for frame in (1.0, 2.0, 3.0):
        document.playhead.set_frame(frame)
    assert not {"lens", "kept"} & set(asked)
    window.desk.actions_["view.compare"].trigger()
    assert window.desk.previews.kept.bytes == 0
    assert window.desk.previews.shown.budget == 200_000_000
