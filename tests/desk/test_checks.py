"""The Checks tab in the real window: it measures by itself, says what is wrong, and mends it."""

import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QInputDialog, QToolButton

import wild_heron as wh
from tests.checks.scenes import bare_right, card, keyed, leaving, two_shots, with_checks
from tests.checks.scenes import camera as lens_at
from tests.desk.conftest import chord
from wild_heron.desk.dialogs.subject_dialog import SubjectDialog
from wild_heron.scene import Format, Subject


@pytest.fixture
def checked(make_window, tmp_path, qtbot):
    """A window on a scene with a bare side and a subject that stays, its checks done."""

    def opened(scene):
        path = tmp_path / "film.heron"
        wh.save(scene, path)
        window = make_window()
        assert window.desk.files.open(path, ask=False)
        chord(window, "VN")
        settled(qtbot, window)
        return window

    return opened


def settled(qtbot, window):
    document = window.desk.document
    checked = document.checked
    qtbot.waitUntil(lambda: checked.scene is document.scene and checked.is_done, timeout=60_000)
    # The last pictures are judged too.
    qtbot.waitUntil(lambda: not window.desk.checker.stale, timeout=10_000)
    qtbot.waitUntil(lambda: window.desk.checker.errand is None, timeout=10_000)


def page(window):
    return window.desk.lanes.page("checks")


def pill(window, text: str) -> QToolButton:
    return next(each for each in page(window).list.pills if each.text().startswith(text))


def test_it_says_what_is_wrong_and_goes_there(checked):
    window = checked(bare_right())
    document, panel = window.desk.document, page(window)
    (card,) = panel.list.cards
    assert card.title.text() == "Bare at the right, frames 41–60"
    assert "61 frames · 1 finding" in panel.state.text()
    assert panel.buttons["Wide 16:9"].text() == "Wide 16:9 · 1"
    card.clicked.emit()
    assert document.playhead.frame == 60.0
    # The row at the playhead says it too, and a click on its band chooses the finding.
    window.desk.check_commands.choose(None)
    view = panel.view
    band = view.axis.x(50.0)
    Qt_click(view, QPoint(round(band), round(view.row_top(0) + 0.5 * view.row_height)))
    assert window.desk.check_commands.chosen.kind == "bare"
    assert document.playhead.frame == 50.0


def Qt_click(widget, at: QPoint) -> None:

    QTest.mouseClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)


def test_a_fix_is_shown_before_it_is_taken_and_is_one_step(checked, qtbot):
    window = checked(bare_right())
    document, commands = window.desk.document, window.desk.check_commands
    before = document.scene
    chord(window, "XN")
    qtbot.waitUntil(lambda: bool(commands.fixes.get(commands.chosen.key)), timeout=20_000)
    qtbot.mouseClick(pill(window, "scale Sky"), Qt.MouseButton.LeftButton)
    # The views show it; the scene is as it was.
    assert document.views.is_proposing
    assert document.views.shown.node("sky").channel("scale.x").value == pytest.approx(1.1, abs=0.015)
    assert document.scene is before
    chord(window, "XL")
    assert not document.views.is_proposing
    chord(window, "XF")
    qtbot.mouseClick(pill(window, "Take it"), Qt.MouseButton.LeftButton)
    assert document.scene.node("sky").channel("scale.x").value == pytest.approx(1.1, abs=0.015)
    settled(qtbot, window)
    assert not document.checked.judged[0].findings
    document.undo()
    assert document.scene is before


def test_what_is_edited_while_a_fix_is_shown_is_kept(checked, qtbot):
    window = checked(bare_right())
    document, commands = window.desk.document, window.desk.check_commands
    chord(window, "XN")
    qtbot.waitUntil(lambda: bool(commands.fixes.get(commands.chosen.key)), timeout=20_000)
    qtbot.mouseClick(pill(window, "scale Sky"), Qt.MouseButton.LeftButton)
    document.edit("Rename", lambda scene: wh.edits.change_node(scene, "sky", name="Evening"))
    # It is shown over the edit, and taken with it.
    assert document.views.shown.node("sky").name == "Evening"
    chord(window, "XT")
    sky = document.scene.node("sky")
    assert sky.name == "Evening"
    assert sky.channel("scale.x").value == pytest.approx(1.1, abs=0.015)
    document.undo()
    assert document.scene.node("sky").name == "Evening"
    # Where both change the same, the fix goes and says so.
    settled(qtbot, window)
    commands.step(1)
    qtbot.waitUntil(lambda: bool(commands.fixes.get(commands.chosen.key)), timeout=20_000)
    commands.try_fix(next(fix for fix in commands.fixes[commands.chosen.key] if fix.label.startswith("scale")))
    document.edit("Scale", lambda scene: wh.edits.set_value(scene, "sky", "scale.x", 0.9))
    assert commands.tried is None
    assert not document.views.is_proposing
    assert "changed meanwhile" in window.desk.status.text.text()
    assert document.scene.node("sky").channel("scale.x").value == 0.9


def test_an_accepted_finding_is_out_of_the_way_and_comes_back(checked, qtbot, monkeypatch):
    window = checked(bare_right())
    document = window.desk.document
    monkeypatch.setattr(QInputDialog, "getText", lambda *args, **more: ("the wall ends there", True))
    chord(window, "XN")
    chord(window, "XA")
    assert document.scene.checks.accepted[0].note == "the wall ends there"
    settled(qtbot, window)
    assert not document.checked.judged[0].open
    assert "accepted: the wall ends there" in page(window).list.cards[0].detail.text()
    # Nothing was measured anew for it.
    assert window.desk.checker.dropped == (0, 0)
    window.desk.check_commands.choose(document.checked.judged[0].findings[0])
    chord(window, "XA")
    settled(qtbot, window)
    assert document.checked.judged[0].open


def test_an_edit_drops_exactly_the_frames_that_it_changes(checked, qtbot, looked_at):
    scene = keyed(bare_right(), "sky", "opacity", (0.0, 1.0), (60.0, 1.0))
    window = checked(scene)
    document, checker = window.desk.document, window.desk.checker
    document.edit("Fade", lambda scene: wh.edits.set_key(scene, "sky", "opacity", 40.0, 1.0, wh.Linear()))
    settled(qtbot, window)
    looked_at.clear()
    document.edit("Fade", lambda scene: wh.edits.set_key(scene, "sky", "opacity", 50.0, 0.5, wh.Linear()))
    qtbot.waitUntil(lambda: checker.dropped != (0, 0), timeout=10_000)
    # Between the keys at 40 and 60 it is another opacity; speeds are measured from frame to frame.
    assert checker.dropped == (21, 19)
    settled(qtbot, window)
    assert sorted(looked_at) == list(np.arange(41.0, 60.0))
    bare = document.checked.judged[0].rows[0].values
    assert bare[50] > 40.0
    assert bare[39] == pytest.approx(0.0, abs=1e-9)
    # What changes no file drops nothing; files that are read again may look different.
    looked_at.clear()
    document.mark_loaded()
    settled(qtbot, window)
    assert looked_at == []
    window.desk.reload_artwork()
    qtbot.waitUntil(lambda: len(looked_at) == 61, timeout=60_000)


def test_a_subject_is_kept_in_frame_with_one_chord_and_its_own_area(checked, qtbot):
    scene = msgspec.structs.replace(leaving(), checks=wh.ChecksOfScene())
    window = checked(scene)
    document = window.desk.document
    assert not document.checked.judged[0].findings
    document.selection.choose(["kite"])
    chord(window, "XS")
    settled(qtbot, window)
    assert [each.kind for each in document.checked.judged[0].findings] == ["out"]
    window.desk.check_commands.set_area("kite", "frame")
    settled(qtbot, window)
    (found,) = document.checked.judged[0].findings
    assert found.first == 27.0
    chord(window, "XS")
    assert not document.scene.checks.subjects


def test_every_format_has_its_own_verdict(checked, qtbot):
    scene = msgspec.structs.replace(leaving(), formats=(Format("Tall", 900, 1600),))
    window = checked(scene)
    document, panel = window.desk.document, page(window)
    assert [each.format for each in document.checked.judged] == ["Wide 16:9", "Tall"]
    qtbot.mouseClick(panel.buttons["Tall"], Qt.MouseButton.LeftButton)
    assert document.views.format.name == "Tall"
    assert window.desk.check_commands.findings == document.checked.of("Tall").findings


def test_limits_are_of_this_scene_and_say_what_is_out_of_range(checked, qtbot):
    from wild_heron.desk.dialogs.limits_dialog import LimitsDialog

    window = checked(bare_right())
    document = window.desk.document
    dialog = LimitsDialog(document, window.desk.check_commands, window)
    dialog.show()
    field = dialog.fields["edges.bare"]
    field.selectAll()
    qtbot.keyClicks(field, "7")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert document.scene.checks.limits[0].value == pytest.approx(0.07)
    settled(qtbot, window)
    assert not document.checked.judged[0].findings
    field.selectAll()
    qtbot.keyClicks(field, "700")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert "Bare part of the frame: use 0 to 100 %." in dialog.problem.text()
    assert document.scene.checks.limits[0].value == pytest.approx(0.07)
    dialog.close()


def test_without_a_camera_it_says_what_to_do(make_window, qtbot):
    window = make_window()
    window.desk.document.edit("Null", lambda scene: wh.edits.add_node(scene, wh.Null(id="a", name="A")))
    chord(window, "VN")
    qtbot.waitUntil(lambda: "Add camera" in page(window).list._nothing(), timeout=5000)


def test_nothing_is_measured_while_a_drag_goes_on(checked, qtbot):
    window = checked(bare_right())
    document, checker = window.desk.document, window.desk.checker
    document.gesture.begin("Drag")
    for value in np.linspace(0.0, 1.0, 8):
        scene = wh.edits.set_value(document.gesture.base.scene, "sky", "position.y", float(value))
        document.gesture.preview(document.gesture.base.with_scene(scene))
        checker.step()
        assert checker.errand is None
    document.gesture.commit()
    settled(qtbot, window)


def test_export_says_what_was_found(checked, qtbot):
    from wild_heron.desk.dialogs.export_dialog import ExportDialog

    window = checked(bare_right())
    dialog = ExportDialog(window.desk.document, window.desk.preferences, window.desk.queue, window)
    assert dialog.warning.text().startswith("Bare at the right, frames 41–60")
    dialog.close()


def test_cards_are_reached_by_tab_and_chosen_by_return(checked, qtbot):
    window = checked(bare_right())
    card = page(window).list.cards[0]
    card.setFocus()
    qtbot.keyClick(card, Qt.Key.Key_Return)
    assert window.desk.document.playhead.frame == 60.0
    qtbot.waitUntil(lambda: len(page(window).list.pills) > 2, timeout=20_000)


def test_a_format_gets_a_window_that_is_keyed_and_follows_its_subjects(checked, qtbot):
    scene = msgspec.structs.replace(leaving(), formats=(Format("Tall", 900, 1600),))
    scene = keyed(scene, "kite", "position.x", (0.0, -5.0), (30.0, 5.0))
    scene = wh.edits.change_node(scene, "kite", channels=tuple(
        each for each in scene.node("kite").channels if each.name != "position.y"
    ))  # fmt: skip
    window = checked(scene)
    document = window.desk.document
    chord(window, "XV")
    qtbot.waitUntil(lambda: not window.desk.format_commands.is_working)
    assert "Choose another format" in window.desk.status.text.text()
    document.views.set_format("Tall")
    chord(window, "XW")
    shape = document.scene.formats[0]
    assert document.selection.nodes == (shape.window,)
    # Its numbers are in the inspector, without a place in space.
    assert "window.across" in window.desk.inspector.fields
    assert "position.x" not in window.desk.inspector.fields
    assert [each.kind for each in document.checked.of("Tall").findings if each.kind == "out"]
    chord(window, "XV")
    qtbot.waitUntil(lambda: not window.desk.format_commands.is_working)
    settled(qtbot, window)
    assert len(document.scene.node(shape.window).channel("window.across").keys) > 1
    assert not [each for each in document.checked.of("Tall").findings if each.kind in ("out", "bare")]
    document.undo()
    document.undo()
    assert document.scene.formats[0].window is None


def test_a_part_of_a_subject_its_size_and_its_shots_are_said_in_the_dialog(checked, qtbot):
    scene = two_shots(lens_at("one"), lens_at("two", x=3.0), card("kite", 1.0, 0.9))
    window = checked(with_checks(scene, subjects=(Subject("kite"),)))
    document = window.desk.document
    document.selection.choose(["sky"])
    window.desk.actions_["check.subject_more"].trigger()
    assert "kept in frame" in window.desk.status.text.text()
    document.selection.choose(["kite"])
    window.desk.actions_["check.subject_more"].trigger()
    dialog = window.findChild(SubjectDialog)
    dialog.least.edited.emit(0.2, False)
    dialog.part[0].edited.emit(0.5, False)
    dialog.shots.choose(["Two"])
    assert document.scene.checks.subjects == (Subject("kite", part=(0.5, 0.0, 1.0, 1.0), least=0.2, shots=("Two",)),)
    settled(qtbot, window)
    (small,) = [each for each in document.checked.of("Wide 16:9").findings if each.kind == "small"]
    assert small.first == 30.0
    dialog.part[0].edited.emit(1.0, False)
    assert "before its right" in window.desk.status.text.text()
    assert document.scene.checks.subjects[0].part[0] == 0.5
    chord(window, "XS")
    assert not dialog.isVisible()
    assert window.desk.status.text.text() == "Checks no longer look after Kite."
