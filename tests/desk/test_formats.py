"""Formats in the real window: side by side, with guides of their own, followed, and written in one go."""

import av
import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

import wild_heron as wh
from tests.checks.scenes import bare_right, card, film, keyed, leaving
from tests.checks.scenes import camera as lens_at
from tests.desk.conftest import chord
from tests.desk.test_checks import settled
from wild_heron.desk.dialogs.export_dialog import ExportDialog
from wild_heron.desk.dialogs.guides_dialog import GuidesDialog
from wild_heron.desk.dialogs.preview_movie import PreviewMovieDialog
from wild_heron.desk.dialogs.settings_dialog import SettingsDialog
from wild_heron.scene import Format, Guides

SHAPES = (Format("Tall", 540, 960), Format("Square", 600, 600))


@pytest.fixture
def shown(make_window, tmp_path):
    def opened(scene=None):
        scene = msgspec.structs.replace(bare_right() if scene is None else scene, formats=SHAPES)
        path = tmp_path / "film.heron"
        wh.save(scene, path)
        window = make_window()
        assert window.desk.files.open(path, ask=False)
        return window

    return opened


def click(widget, at: QPointF, double: bool = False) -> None:
    press = QTest.mouseDClick if double else QTest.mouseClick
    press(widget, Qt.MouseButton.LeftButton, pos=at.toPoint())


def test_all_formats_are_seen_at_once_and_one_is_chosen(shown, qtbot):
    window = shown()
    lens, document = window.desk.lens, window.desk.document
    chord(window, "VE")
    view = lens.formats
    assert view.isVisible()
    assert not lens.view.isVisible()
    qtbot.waitUntil(lambda: set(view.images) == {"Wide 16:9", "Tall", "Square"}, timeout=20_000)
    cells = view.cells()
    heights = {round(each.frame.height()) for each in cells}
    assert len(heights) == 1
    for cell in cells:
        assert view.rect().contains(cell.box.toAlignedRect())
        assert cell.frame.width() / cell.frame.height() == pytest.approx(cell.shape.width / cell.shape.height, rel=0.02)
    click(view, cells[1].frame.center())
    assert document.views.format.name == "Tall"
    QTest.keyClick(view, Qt.Key.Key_Down)
    assert document.views.format.name == "Square"
    # They follow the playhead: the right of the wide one becomes bare.
    before = view.images["Wide 16:9"].copy()
    document.playhead.set_frame(60)
    qtbot.waitUntil(lambda: view.images["Wide 16:9"] != before, timeout=20_000)
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert lens.view.isVisible()
    assert not view.isVisible()
    chord(window, "VE")
    click(view, view.cells()[0].frame.center(), double=True)
    assert document.views.format.name == "Wide 16:9"
    assert lens.view.isVisible()


def test_each_says_what_was_found_in_it(shown, qtbot):
    window = shown()
    document, view = window.desk.document, window.desk.lens.formats
    chord(window, "VN")
    settled(qtbot, window)
    chord(window, "VE")
    wide, tall, _ = view.cells()
    assert view._count(wide.shape)[0] == "1 finding"
    assert view._count(tall.shape)[0] == "nothing found"
    assert view.here(wide.shape) is None
    document.playhead.set_frame(50)
    assert view.here(wide.shape).title == "Bare at the right, frames 41–60"
    click(view, QPointF(wide.frame.center().x(), wide.frame.bottom() + 8))
    assert window.desk.check_commands.chosen is view.here(wide.shape)
    assert document.playhead.frame == 60.0


def test_guides_are_saved_with_their_format_and_nothing_is_checked_again(shown, qtbot, tmp_path, looked_at):
    window = shown()
    document = window.desk.document
    chord(window, "VN")
    settled(qtbot, window)
    document.views.set_format("Tall")
    measures = window.desk.checker.measures
    looked_at.clear()
    chord(window, "VT")
    chord(window, "VW")
    chord(window, "VD")
    assert document.scene.formats[0].guides == Guides(("thirds", "text"), mask="#11181c")
    assert document.scene.guides == document.scene.formats[1].guides == Guides()
    settled(qtbot, window)
    assert window.desk.checker.measures is measures
    assert window.desk.checker.dropped == (0, 0)
    assert looked_at == []
    document.views.set_format("Square")
    assert not window.desk.actions_["view.thirds"].isChecked()
    document.views.set_format("Wide 16:9")
    chord(window, "VI")
    assert document.scene.guides == Guides(("centre",))
    assert document.views.format_or_none is None
    wh.save(document.scene, tmp_path / "guided.heron")
    assert wh.load(tmp_path / "guided.heron") == document.scene
    document.undo()
    assert document.scene.guides == Guides()


def test_under_a_mask_more_is_seen_and_edges_are_the_frame_s(shown, qtbot):
    window = shown()
    document, view = window.desk.document, window.desk.lens.view
    document.playhead.set_frame(30)
    chord(window, "VD")
    assert view.wish.view.around == pytest.approx(1.24)
    assert view.drawn_rect.width() == pytest.approx(1.24 * view.picture_rect.width(), rel=0.01)
    assert view.rect().contains(view.drawn_rect.toAlignedRect())
    # At frame 30 the sky just covers the frame, and is bare beyond it.
    qtbot.waitUntil(lambda: view.bare == (), timeout=20_000)
    document.playhead.set_frame(60)
    qtbot.waitUntil(lambda: view.bare is not None and "right" in view.bare, timeout=20_000)


def test_the_dialog_sets_the_band_for_text_and_refuses_one_upside_down(shown):
    window = shown()
    document = window.desk.document
    document.views.set_format("Tall")
    dialog = GuidesDialog(document, window)
    dialog.show()
    dialog.switches["text"].click()
    dialog.low.edited.emit(0.12, False)
    assert document.scene.formats[0].guides.text == (0.12, 0.38)
    dialog.low.edited.emit(0.6, False)
    assert document.scene.formats[0].guides.text == (0.12, 0.38)
    assert "must end above" in window.desk.status.text.text()
    dialog.beyond.click()
    assert document.scene.formats[0].guides.mask is not None
    assert dialog.strength.isEnabled()
    dialog.close()


def test_a_new_tall_format_shows_the_band_for_text_and_others_keep_their_guides(shown):
    window = shown()
    document = window.desk.document
    document.edit("Thirds", lambda scene: wh.edits.show_guide(scene, "Square", "thirds", True))
    dialog = SettingsDialog(document, window)
    dialog.formats.setText("Tall 540x960; Square 500x500; Story 1080x1920; Portrait 1080x1350")
    dialog.accept()
    guides = {each.name: each.guides.shown for each in document.scene.formats}
    assert guides == {"Tall": (), "Square": ("thirds",), "Story": ("text",), "Portrait": ()}


def test_several_formats_are_written_in_one_go(shown, qtbot, tmp_path):
    window = shown()
    dialog = ExportDialog(window.desk.document, window.desk.preferences, window.desk.queue, window)
    dialog.path.setText(str(tmp_path / "kite.mp4"))
    dialog.first.setText("0")
    dialog.last.setText("2")
    dialog.scale.setCurrentIndex(2)
    dialog.formats.choose(("Tall", "Wide 16:9"))
    assert dialog.formats.text() == "Wide 16:9 and 1 more ▾"
    dialog.show()
    (tmp_path / "kite_Tall.mp4").write_text("mine")
    dialog.start()
    assert "kite_Tall.mp4 is there already" in dialog.line.text()
    dialog.start()
    qtbot.waitUntil(lambda: not dialog.is_running, timeout=60_000)
    assert dialog.line.text().startswith("Written: kite_Wide-16x9.mp4, kite_Tall.mp4 in ")
    sizes = {}
    for path in tmp_path.glob("*.mp4"):
        with av.open(str(path)) as movie:
            video = movie.streams.video[0]
            sizes[path.name] = (video.width, video.height, sum(1 for _ in movie.decode(video=0)))
    assert sizes == {"kite_Wide-16x9.mp4": (800, 450, 3), "kite_Tall.mp4": (270, 480, 3)}
    dialog.close()


def test_the_preview_is_saved_with_its_mask(shown, qtbot, tmp_path):
    window = shown()
    document, view = window.desk.document, window.desk.lens.view
    document.edit("Mask", lambda scene: wh.edits.set_guides(scene, "Wide 16:9", mask="#ff0000", strength=1.0))
    document.playhead.set_play_range((0, 2))
    qtbot.waitUntil(lambda: view.image is not None and view.wish.view.around > 1.0, timeout=20_000)
    dialog = PreviewMovieDialog(document, window.desk.previews.shown, view.wish, window.desk.preferences, window)
    dialog.path.setText(str(tmp_path / "seen.mp4"))
    dialog.start()
    qtbot.waitUntil(lambda: not dialog.is_running, timeout=60_000)
    with av.open(str(tmp_path / "seen.mp4")) as movie:
        picture = next(movie.decode(video=0)).to_ndarray(format="rgb24").astype(int)
    high, wide = picture.shape[:2]
    assert np.abs(picture[4, wide // 2] - (255, 0, 0)).max() < 40
    assert picture[high // 2, wide // 2, 2] > 120
    dialog.close()


def test_where_it_cannot_be_followed_checks_offer_what_the_camera_can_do(shown, qtbot):
    window = shown(keyed(leaving(), "kite", "position.y", (30.0, 9.0)))
    document = window.desk.document
    chord(window, "VN")
    settled(qtbot, window)
    document.views.set_format("Tall")
    chord(window, "XV")
    qtbot.waitUntil(lambda: not window.desk.format_commands.is_working, timeout=20_000)
    assert "as far as it can: at frame" in window.desk.status.text.text()
    commands = window.desk.check_commands
    qtbot.waitUntil(lambda: commands.chosen is not None, timeout=60_000)
    assert (commands.chosen.kind, commands.chosen.format) == ("out", "Tall")
    qtbot.waitUntil(lambda: bool(commands.fixes.get(commands.chosen.key)), timeout=60_000)


def test_locks_and_weights_are_in_the_inspector(shown):
    scene = keyed(film(card("sky", 20.0, 12.0), lens_at(), last=20), "cam", "position.x", (0.0, 0.0), (20.0, 1.0))
    window = shown(scene)
    document = window.desk.document
    document.views.set_format("Tall")
    chord(window, "XW")
    node = document.selection.active.id
    fields = window.desk.inspector.properties
    fields["height"].click()
    assert document.scene.formats[0].fit == "height"
    assert document.scene.node(node).channel("window.size").locked
    fields["across"].click()
    assert wh.edits.window_locks(document.scene, node) == {"height", "across"}
    fields["across"].click()
    fields["height"].click()
    assert not wh.edits.window_locks(document.scene, node)
    fields["smooth"].edited.emit(400.0, False)
    assert document.scene.node(node).smooth == 400.0


def test_the_frame_of_a_format_is_dragged_in_the_picture(shown, mouse):
    window = shown()
    document, view = window.desk.document, window.desk.lens.view
    document.views.set_format("Tall")
    chord(window, "XW")
    node = document.selection.active.id
    document.views.set_format("Wide 16:9")
    rect = view.picture_rect
    right = next(iter(view.outlines.corners(rect).values()))[1]
    edge = QPointF(right.x(), rect.center().y())
    before = document.evaluations.value("cam", "position.x")
    # A twentieth of the picture to the right, as a step of its own.
    mouse.drag(view, edge, (round(0.05 * rect.width()), 0))
    assert document.evaluations.value(node, "window.across") == pytest.approx(0.05, abs=0.003)
    assert document.evaluations.value(node, "window.up") == pytest.approx(0.0, abs=0.003)
    assert document.evaluations.value("cam", "position.x") == before
    assert document.history.step.name == "Move Tall"
    document.undo()
    assert document.evaluations.value(node, "window.across") == 0.0
    # By a corner: half as far from its middle it shows half as much.
    corner, middle = view.outlines.corners(rect)["Tall"][2], rect.center()
    half = (middle - corner) * 0.5
    mouse.drag(view, corner, (round(half.x()), round(half.y())))
    assert document.evaluations.value(node, "window.size") == pytest.approx(0.5, abs=0.01)
    # Elsewhere in the picture the camera is moved, as ever.
    mouse.drag(view, QPointF(rect.left() + 30, rect.center().y()), (40, 0))
    assert document.evaluations.value(node, "window.across") == 0.0


def test_working_a_way_out_can_be_cancelled_and_heeds_what_changed_meanwhile(shown, qtbot):
    window = shown(keyed(leaving(), "kite", "position.x", (0.0, -4.0), (30.0, 4.0)))
    document, commands = window.desk.document, window.desk.format_commands
    document.views.set_format("Tall")
    scene = document.scene
    commands.follow()
    assert commands.is_working
    commands.follow()
    assert "already" in window.desk.status.text.text()
    document.edit("Rename", lambda scene: wh.edits.change_node(scene, "kite", name="Paper kite"))
    qtbot.waitUntil(lambda: not commands.is_working, timeout=20_000)
    assert "changed meanwhile" in window.desk.status.text.text()
    document.undo()
    assert document.scene is scene
    commands.follow()
    commands.cancel()
    qtbot.waitUntil(lambda: not commands.is_working, timeout=20_000)
    assert document.scene is scene
    assert "Cancelled" in window.desk.status.text.text()
    assert not window.desk.status.bar.isVisible()
