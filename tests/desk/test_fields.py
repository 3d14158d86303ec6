"""Number fields, menus, the top bar, and the small things of the panels."""

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QDropEvent, QKeyEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QMenu, QToolButton

import wild_heron as wh
from wild_heron.desk.dialogs.shortcuts_dialog import ActionsDialog
from wild_heron.desk.widgets.number_field import NumberField
from wild_heron.scene.channels import ChannelSpec

X = ChannelSpec("x", "test number", "units", 0.0, -10.0, 10.0, 0.1)


def wheel(widget, turns: float, keys=Qt.KeyboardModifier.NoModifier, at: QPointF | None = None) -> None:
    at = at or QPointF(widget.width() / 2, widget.height() / 2)
    event = QWheelEvent(
        at, widget.mapToGlobal(at), QPoint(), QPoint(0, round(120 * turns)), Qt.MouseButton.NoButton, keys,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def pick(monkeypatch, *path: str) -> None:
    """Choose an entry in the next menu that opens."""

    def choose(self, *_: object) -> None:
        next(action for action in self.actions() if action.text() in path).trigger()

    monkeypatch.setattr(QMenu, "exec", choose)


@pytest.fixture
def field(qtbot, window):
    out = NumberField(X, parent=window)
    out.resize(90, 23)
    out.show()
    out.setFocus()
    qtbot.waitUntil(out.hasFocus)
    return out


def test_drags_are_finer_with_shift_and_coarser_with_control_and_stay_in_range(field, mouse):
    got: list[float] = []
    field.dragged.connect(got.append)
    shift, control = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
    for keys, expected in ((Qt.KeyboardModifier.NoModifier, 1.0), (shift, 0.1), (control, 10.0)):
        mouse.drag(field, QPointF(10, 10), (10, 0), (40, 0), keys=keys)
        assert got[-1] == pytest.approx(expected)
    mouse.drag(field, QPointF(10, 10), (10, 0), (4000, 0))
    assert got[-1] == 10.0


def test_wheel_and_arrows_step(field, qtbot):
    got: list[tuple[float, bool]] = []
    field.edited.connect(lambda value, repeats: got.append((value, repeats)))
    wheel(field, 2)
    qtbot.keyClick(field, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    assert got == [(0.2, True), (-1.0, True)]


def test_typing_starts_with_the_key_and_escape_keeps_the_value(field, qtbot):
    got: list[float] = []
    field.edited.connect(lambda value, repeats: got.append(value))
    qtbot.keyClick(field, Qt.Key.Key_4)
    assert field.editor.text() == "4"
    qtbot.keyClicks(field.editor, "*2")
    qtbot.keyClick(field.editor, Qt.Key.Key_Return)
    assert got == [8.0]
    assert field.editor is None  # the same key does not open it again
    assert field.hasFocus()
    field.open_editor()
    qtbot.keyClicks(field.editor, "99")
    qtbot.keyClick(field.editor, Qt.Key.Key_Escape)
    assert got == [8.0]


def test_what_is_no_number_is_refused_with_a_word_about_it(field, qtbot):
    said: list[str] = []
    field.refused.connect(said.append)
    field.open_editor("wide")
    qtbot.keyClick(field.editor, Qt.Key.Key_Return)
    assert said == ["test number: “wide” is not a number or a sum."]


def test_digits_belong_to_the_field_even_where_they_are_a_shortcut(field):
    event = QKeyEvent(QEvent.Type.ShortcutOverride, Qt.Key.Key_1, Qt.KeyboardModifier.NoModifier, "1")
    event.ignore()
    QApplication.sendEvent(field, event)
    assert event.isAccepted()


def test_a_locked_field_does_nothing(field, mouse, qtbot):
    got: list[float] = []
    field.edited.connect(lambda value, repeats: got.append(value))
    field.dragged.connect(got.append)
    field.show_value(1.0, locked=True)
    mouse.drag(field, QPointF(10, 10), (10, 0), (40, 0))
    wheel(field, 1)
    field.open_editor()
    assert (got, field.editor) == ([], None)


@pytest.mark.parametrize(
    ("entry", "check"),
    [
        ("Reset to 1", lambda node: node.channel("scale.x") is None),
        ("Key now", lambda node: len(node.channel("scale.x").keys) == 1),
        ("Locked", lambda node: node.channel("scale.x").locked),
    ],
)
def test_the_fields_menu_resets_keys_and_locks(window, monkeypatch, entry, check):
    window.desk.document.edit("Scale", lambda scene: wh.edits.set_value(scene, "card", "scale.x", 2.0))
    window.desk.document.selection.choose(["card"])
    pick(monkeypatch, entry)
    window.desk.inspector.fields["scale.x"].menu_wanted.emit(QPoint(0, 0))
    assert check(window.desk.document.scene.node("card"))


def test_values_are_copied_and_pasted(window, monkeypatch):
    window.desk.document.selection.choose(["card"])
    pick(monkeypatch, "Copy value")
    window.desk.inspector.fields["scale.x"].menu_wanted.emit(QPoint(0, 0))
    assert QApplication.clipboard().text() == "1"
    QApplication.clipboard().setText("3 + 0.5")
    pick(monkeypatch, "Paste value")
    window.desk.inspector.fields["scale.x"].menu_wanted.emit(QPoint(0, 0))
    assert window.desk.document.evaluations.value("card", "scale.x") == 3.5


@pytest.mark.parametrize(
    ("button", "entry", "check"),
    [
        ("Lens, sensor", "85 mm", lambda d: d.evaluations.value("cam", "lens.focal") == 85.0),
        ("Lens, sensor", "Sensor 23.6 × 15.7", lambda d: d.scene.node("cam").sensor_width == 23.6),
        ("Lens, sensor", "Fit: contain", lambda d: d.scene.node("cam").fit == "contain"),
        ("looks at", "Card", lambda d: d.scene.node("cam").aim == wh.AimAt(("card",))),
        ("looks at", "A point, here", lambda d: d.scene.node("cam").aim == wh.AimAt()),
        ("looks at", "Nothing (keep the pose)", lambda d: d.scene.node("cam").aim is None),
        ("carries it", "Target", lambda d: d.scene.node("cam").carrier == "target"),
        ("carries it", "Nothing", lambda d: d.scene.node("cam").carrier is None),
    ],
)
def test_the_inspectors_menus(window, qtbot, monkeypatch, button, entry, check):
    window.desk.document.selection.choose(["cam"])
    pick(monkeypatch, entry)
    found = [each for each in window.desk.inspector.findChildren(QToolButton) if button in each.toolTip()]
    qtbot.mouseClick(found[0], Qt.MouseButton.LeftButton)
    assert check(window.desk.document)
    window.desk.document.undo()
    assert not window.desk.document.is_modified


def test_colours_come_from_the_palette(window, monkeypatch):
    window.desk.document.selection.choose(["card", "target"])
    pick(monkeypatch, "No colour")
    window.desk.document.change_nodes("Colour", ["card"], colour="#8fbf9f")
    window.desk.inspector._colour_menu(window.desk.top_bar, window.desk.document.scene.node("card"))
    assert window.desk.document.scene.node("card").colour == ""


def test_formats_and_quality_change_what_is_asked_for(window, qtbot):
    from msgspec.structs import replace

    tall = wh.Format("Tall", 360, 640)
    window.desk.document.edit("Formats", lambda scene: replace(scene, formats=(tall,)))
    assert [window.desk.top_bar.format.itemText(k) for k in range(2)] == ["Wide 16:9", "Tall"]
    wide = window.desk.lens.view.picture_rect
    window.desk.top_bar.format.setCurrentIndex(1)
    window.desk.top_bar.format.activated.emit(1)
    assert window.desk.document.views.format_or_none == tall
    rect = window.desk.lens.view.picture_rect
    assert rect.width() / rect.height() == pytest.approx(360 / 640, rel=0.01)
    assert rect.width() < wide.width()
    full = window.desk.link.first.wishes["lens"].height
    window.desk.top_bar.quality.setCurrentIndex(1)
    assert window.desk.link.first.wishes["lens"].height == pytest.approx(full / 2, abs=1)
    window.desk.document.undo()
    assert window.desk.document.views.format_or_none is None


def test_the_time_is_shown_as_seconds_or_timecode(window):
    window.desk.document.playhead.set_frame(36)
    field = window.desk.top_bar.frame
    assert field.time.text() == "1.50 s"
    field.time.clicked()
    assert field.time.text() == "00:00:01:12"


def test_the_lanes_zoom_slide_and_show_everything_again(window, mouse):
    lanes = window.desk.lanes.view
    whole = lanes.axis
    at = QPointF(whole.x(24), 60)
    wheel(lanes, 3, Qt.KeyboardModifier.ControlModifier, at)
    assert lanes.axis.pixels_per_frame > 1.5 * whole.pixels_per_frame
    assert lanes.axis.x(24) == pytest.approx(whole.x(24))
    before = lanes.axis.start
    wheel(lanes, -1, Qt.KeyboardModifier.ShiftModifier, at)
    assert lanes.axis.start > before
    mouse.drag(lanes, at, (30, 0), button=Qt.MouseButton.MiddleButton)
    mouse.send(lanes, "double", QPointF(whole.x(24), 10))
    assert lanes.axis == whole


def test_lanes_of_the_selection_only(window):
    window.desk.document.selection.choose(["card"])
    assert len(window.desk.lanes.view.lanes()) == 1
    window.desk.lanes.lanes.filter.click()
    assert window.desk.lanes.view.lanes() == []
    window.desk.document.selection.choose(["turn"])
    assert [lane.node for lane in window.desk.lanes.view.lanes()] == ["turn"]


def test_a_row_dropped_on_another_hangs_on_it(window):
    tree = window.desk.rig.tree
    window.desk.document.selection.choose(["card"])
    items = tree.items()
    spot = QPointF(tree.visualItemRect(items["target"]).center())
    mime = tree.mimeData([items["card"]])
    event = QDropEvent(spot, Qt.DropAction.MoveAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    tree.dropIndicatorPosition = lambda: tree.DropIndicatorPosition.OnItem
    tree.dropEvent(event)
    assert window.desk.document.scene.node("card").carrier == "target"
    assert event.dropAction() == Qt.DropAction.IgnoreAction  # the view must not take the row away itself


def test_the_eye_and_the_lock_in_the_rig(window, mouse):
    tree = window.desk.rig.tree
    row = tree.visualItemRect(tree.items()["card"]).center().y()
    width = tree.viewport().width()
    mouse.drag(tree.viewport(), QPointF(width - 36, row))
    assert window.desk.document.scene.node("card").hidden
    mouse.drag(tree.viewport(), QPointF(width - 18, row))
    assert window.desk.document.scene.node("card").locked


def test_the_overview_frames_the_selection_and_picks_pictures(window, mouse):
    window.desk.overview.choose("front")
    window.desk.document.edit("Aside", lambda scene: wh.edits.set_value(scene, "card", "position.x", 30.0))
    window.desk.document.selection.choose(["card"])
    window.desk.actions_["view.frame"].trigger()
    view = window.desk.overview.view
    assert view.eye.centre[0] == pytest.approx(30.0)
    window.desk.document.selection.choose([])
    mouse.drag(view, QPointF(view.width() / 2 + 20, view.height() / 2 + 5))
    assert window.desk.document.selection.nodes == ("card",)
    mouse.drag(view, QPointF(4, 4))
    assert window.desk.document.selection.nodes == ()


def test_shortcuts_are_listed_and_filtered(window, qtbot):
    dialog = ActionsDialog(window.desk.actions_, "Shortcuts", window)
    qtbot.addWidget(dialog)
    dialog.filter.setText("undo the last step")
    shown = [row for row in range(dialog.table.rowCount()) if not dialog.table.isRowHidden(row)]
    assert len(shown) == 1
    assert dialog.table.item(shown[0], 1).text() == "Ctrl+Z"
