"""The window as others find it: keyboard, screen readers, themes, sizes, the clipboard, what was open before."""

import itertools

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, Qt, QUrl
from PyQt6.QtGui import QColor, QGuiApplication, QImage, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel, QMenu, QWidget

import wild_heron as wh
from tests.desk.conftest import chord
from wild_heron.desk.dialogs.about_dialog import AboutDialog
from wild_heron.desk.dialogs.guide_viewer import GuideDialog
from wild_heron.desk.dialogs.preferences_dialog import PreferencesDialog
from wild_heron.desk.dialogs.shortcuts_dialog import ActionsDialog
from wild_heron.desk.dialogs.spread_dialog import SpreadDialog
from wild_heron.desk.dialogs.steps_dialog import StepsDialog
from wild_heron.desk.pictures.preview_cache import STREAM
from wild_heron.desk.shell.recent import picture_of
from wild_heron.desk.widgets.number_field import NumberField
from wild_heron.desk.widgets.palettes import AMBER, DEEP, PANEL, RAISED, REED, RUST, SKY, SOFT, TEXT, THEMES
from wild_heron.desk.widgets.strip import Strip
from wild_heron.desk.widgets.theme import choose_theme, colour, theme_name

KEYS = Qt.KeyboardModifier


# Numbers


def focused() -> NumberField:
    widget = QApplication.focusWidget()
    assert isinstance(widget, NumberField), widget
    return widget


def test_tab_goes_from_number_to_number_as_they_are_read_and_typing_starts_one(window, qtbot):
    desk = window.desk
    desk.document.selection.choose(["cam"])
    fields = desk.inspector.fields
    tool = next(name for name in desk.actions_ if name.startswith("camera.") and desk.actions_[name].isChecked())
    fields["position.x"].setFocus()
    for name, value in (("position.x", "1"), ("position.y", "2.5"), ("position.z", "16/2")):
        assert focused().name == name
        qtbot.keyClick(focused(), value[0])
        QTest.keyClicks(focused_editor(), value[1:])
        QTest.keyClick(focused_editor(), Qt.Key.Key_Tab)
    assert [desk.document.evaluations.value("cam", f"position.{axis}") for axis in "xyz"] == [1.0, 2.5, 8.0]
    assert desk.actions_[tool].isChecked()  # The digits did not choose another tool.
    order = [focused().spec.label]
    for _ in range(60):
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
        if not isinstance(QApplication.focusWidget(), NumberField):
            break
        order.append(focused().spec.label)
    shown = [f for f in desk.inspector.findChildren(NumberField) if f.isVisibleTo(desk.inspector) and f.isEnabled()]
    assert len(order) == len(shown) - 3  # Every one was visited once.
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Backtab)


def focused_editor() -> QWidget:
    widget = QApplication.focusWidget()
    assert widget is not None
    return widget


def test_shift_tab_goes_back_and_what_is_typed_is_kept(window, qtbot):
    desk = window.desk
    desk.document.selection.choose(["card"])
    desk.inspector.fields["scale.x"].setFocus()
    qtbot.keyClick(focused(), "3")
    QTest.keyClick(focused_editor(), Qt.Key.Key_Backtab)
    assert focused().name == "rotation.z"
    assert desk.document.evaluations.value("card", "scale.x") == 3.0


# Chords and menus


def test_no_chord_is_another_ones_or_its_beginning(window):
    chords = {}
    for name in window.desk.actions_:
        for each in window.desk.actions_[name].shortcuts():
            assert each.toString() not in chords, (name, chords[each.toString()])
            chords[each.toString()] = name
    for a, b in itertools.permutations(chords, 2):
        assert QKeySequence(a).matches(QKeySequence(b)) != QKeySequence.SequenceMatch.PartialMatch, (a, b)


LEADING = {
    "O": "output", "S": "set", "C": "camera", "R": "rig", "K": "keys", "E": "ease", "F": "film", "L": "life",
    "P": "play", "V": "view", "X": "check",
}  # fmt: skip


def test_letters_without_control_begin_with_their_menus_own(window):
    for each in window.desk.actions_.specs:
        keys = QKeySequence(each.shortcut).toString()
        if ", " in keys and "+" not in keys.partition(", ")[0]:
            first = keys[0]
            assert first in "NB" or LEADING[first] == each.name.partition(".")[0], each.name
        else:
            assert not (len(keys) == 1 and keys.isalpha()), each.name


def test_every_menu_and_entry_has_a_letter_of_its_own(window):
    def letters(menu: QMenu) -> None:
        plain = [a.text().replace("&&", "  ") for a in menu.actions() if a.text()]
        taken = [text[text.index("&") + 1].lower() for text in plain if "&" in text]
        assert len(set(taken)) == len(taken), menu.title()
        assert len(taken) >= min(len(plain), 20) - 1, menu.title()
        for action in menu.actions():
            if action.menu() is not None and action.menu().objectName() != "recent":
                letters(action.menu())

    titles = [menu.title() for menu in window.desk.menus.values()]
    marks = [title[title.index("&") + 1].lower() for title in titles]
    assert len(set(marks)) == len(marks)
    for menu in window.desk.menus.values():
        letters(menu)


def test_f10_takes_the_keyboard_to_the_menu_bar_and_a_letter_opens_a_menu(window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_F10)
    assert window.menuBar().activeAction() is window.menuBar().actions()[0]
    QTest.keyClick(window.menuBar(), Qt.Key.Key_Escape)


def test_redo_has_both_chords(window, qtbot):
    document = window.desk.document
    document.edit("Rename", lambda scene: wh.edits.rename(scene, "card", "Other"))
    for keys in ((Qt.Key.Key_Y, KEYS.ControlModifier), (Qt.Key.Key_Z, KEYS.ControlModifier | KEYS.ShiftModifier)):
        qtbot.keyClick(window, Qt.Key.Key_Z, KEYS.ControlModifier)
        assert document.scene.node("card").name == "Card"
        qtbot.keyClick(window, *keys)
        assert document.scene.node("card").name == "Other"


def test_an_action_is_found_by_words_and_run_by_enter(window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_P, KEYS.ControlModifier | KEYS.ShiftModifier)
    dialog = window.findChild(ActionsDialog)
    QTest.keyClicks(dialog.filter, "middle null")
    QTest.keyClick(dialog.filter, Qt.Key.Key_Down)
    QTest.keyClick(dialog.filter, Qt.Key.Key_Up)
    window.desk.document.selection.choose(["card", "target"])
    before = len(window.desk.document.scene.nodes)
    QTest.keyClick(dialog.filter, Qt.Key.Key_Return)
    assert len(window.desk.document.scene.nodes) == before + 1
    assert not dialog.isVisible()


def test_a_step_in_the_list_is_gone_to(window, qtbot):
    document = window.desk.document
    for name in ("One", "Two", "Three"):
        document.edit(f"Rename to {name}", lambda scene, name=name: wh.edits.rename(scene, "card", name))
    window.desk.actions_["edit.history"].trigger()
    dialog = window.findChild(StepsDialog)
    assert [dialog.list.item(k).text() for k in range(dialog.list.count())][-3:] == [
        "Rename to One", "Rename to Two", "Rename to Three"
    ]  # fmt: skip
    row = dialog.list.count() - 3
    place = dialog.list.visualItemRect(dialog.list.item(row)).center()
    QTest.mouseClick(dialog.list.viewport(), Qt.MouseButton.LeftButton, pos=place)
    assert document.scene.node("card").name == "One"
    assert dialog.list.count() == row + 3  # Those after it are still there.
    dialog.list.setCurrentRow(row + 2)
    QTest.keyClick(dialog.list, Qt.Key.Key_Return)
    assert document.scene.node("card").name == "Three"


# Those who hear the screen


def unnamed(top: QWidget) -> list[QWidget]:
    """What takes the focus and has no words of its own."""
    return [
        each for each in (top, *top.findChildren(QWidget))
        if each.focusPolicy() & Qt.FocusPolicy.TabFocus and each.isVisibleTo(top)
        and not each.accessibleName() and not (isinstance(each, QAbstractButton) and each.text())
        and not each.objectName().startswith("qt_") and not isinstance(each, QLabel)
    ]  # fmt: skip


@pytest.mark.parametrize("selected", ["cam", "card", "turn", None])
def test_everything_that_takes_the_keyboard_has_a_name(window, selected):
    window.desk.document.selection.choose([selected] if selected else [])
    window.desk.areas.show_board(True)
    assert unnamed(window) == []


@pytest.mark.parametrize("action", [
    "scene.settings", "scene.preferences", "output.export", "help.about", "help.shortcuts", "help.guide",
    "edit.history", "set.missing", "keys.stretch", "set.spread",
])  # fmt: skip
def test_everything_in_a_dialog_has_a_name(window, action):
    document = window.desk.document
    if action == "keys.stretch":
        document.selection.choose_keys([wh.edits.KeyRef("turn", "rotation.y", 0.0)])
    if action == "set.spread":
        document.edit("Add", lambda scene: wh.edits.duplicate(scene, ["card"])[0])
        document.selection.choose([node.id for node in document.scene.nodes if isinstance(node, wh.Picture)])
    window.desk.actions_[action].trigger()
    dialogs = [each for each in QApplication.topLevelWidgets() if each.isVisible() and each is not window]
    assert dialogs
    for dialog in dialogs:
        assert unnamed(dialog) == []
        dialog.close()


# How it looks


def contrast(first: str, second: str) -> float:
    """The contrast ratio of two colours (WCAG 2.2)."""

    def light(name: str) -> float:
        parts = np.array(QColor(name).getRgbF()[:3])
        linear = np.where(parts <= 0.04045, parts / 12.92, ((parts + 0.055) / 1.055) ** 2.4)
        return float(linear @ [0.2126, 0.7152, 0.0722])

    high, low = sorted((light(first), light(second)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("theme", THEMES)
def test_text_is_legible_in_every_theme(theme):
    shown = THEMES[theme]
    least = 7.0 if theme == "contrast" else 4.5
    for surface in (DEEP, PANEL, RAISED):
        for tone in (TEXT, SOFT, AMBER, RUST, REED, SKY):
            ratio = contrast(shown.get(tone, tone), shown.get(surface, surface))
            assert ratio >= (least if tone != RUST or theme != "dusk" else 3.9), (tone, surface, ratio)


def test_a_theme_is_chosen_in_the_preferences_and_shown_at_once(window, settings, qtbot):
    window.desk.actions_["scene.preferences"].trigger()
    dialog = window.findChild(PreferencesDialog)
    try:
        dialog.theme.setCurrentIndex(dialog.theme.findData("morning"))
        assert theme_name() == "morning"
        assert settings.value("look/theme") == "morning"
        assert colour(PANEL).lightness() > 180

        def lightness(widget: QWidget, at: QPoint) -> int:
            seen = window.grab().toImage()
            return seen.pixelColor(widget.mapTo(window, at) * seen.devicePixelRatio()).lightness()

        qtbot.waitUntil(lambda: lightness(window.desk.rig, QPoint(150, 16)) > 180)
        # What is kept as a picture is painted anew too.
        qtbot.waitUntil(lambda: lightness(window.desk.lanes.view, QPoint(40, 90)) > 150)
    finally:
        choose_theme("dusk")


def test_preferences_are_used_at_once_and_kept(window, settings, tmp_path):
    window.desk.actions_["scene.preferences"].trigger()
    dialog = window.findChild(PreferencesDialog)
    dialog.autosave.setValue(30)
    dialog.scale.setCurrentIndex(dialog.scale.findData(150))
    assert dialog.later.isVisible()
    assert (int(settings.value("autosave/seconds")), int(settings.value("look/scale"))) == (30, 150)
    window.desk.document.edit("Rename", lambda scene: wh.edits.rename(scene, "card", "Other"))
    assert window.desk.files.autosaver._timer.interval() == 30_000
    settings.setValue("autosave/seconds", "soon")
    assert window.desk.preferences.autosave_seconds == 6


def test_the_window_goes_down_to_960_by_540(window, qtbot):
    window.resize(960, 540)
    qtbot.waitUntil(lambda: (window.width(), window.height()) == (960, 540))
    strip = window.desk.lens.findChild(Strip)
    qtbot.waitUntil(strip.more.isVisible)  # What there is no room for is an arrow away.
    assert window.desk.lens.view.picture_rect.width() > 200
    QTest.mouseClick(strip.more, Qt.MouseButton.LeftButton)
    assert strip.horizontalScrollBar().value() > 0
    window.resize(1280, 800)
    qtbot.waitUntil(lambda: not strip.more.isVisible())


def test_spreading_does_not_lie_over_the_lens(window, qtbot):
    document = window.desk.document
    document.edit("Add", lambda scene: wh.edits.duplicate(scene, ["card"])[0])
    document.selection.choose([node.id for node in document.scene.nodes if isinstance(node, wh.Picture)])
    window.desk.actions_["set.spread"].trigger()
    dialog = window.findChild(SpreadDialog)
    lens = window.desk.lens
    qtbot.waitUntil(
        lambda: not dialog.frameGeometry().intersects(lens.rect().translated(lens.mapToGlobal(QPoint(0, 0))))
    )


def test_about_tells_what_it_runs_on_to_be_copied(window, qtbot):
    qtbot.waitUntil(lambda: window.desk.link.renderer != "")
    window.desk.actions_["help.about"].trigger()
    dialog = window.findChild(AboutDialog)
    QTest.mouseClick(dialog.copy_button, Qt.MouseButton.LeftButton)
    text = QGuiApplication.clipboard().text()
    assert f"Wild Heron: {wh.__version__}" in text
    assert f"Renderer: {window.desk.link.renderer}" in text


def test_the_guide_opens_from_help(window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_F1)
    assert "Depth rail" in window.findChild(GuideDialog).text.toPlainText()


# What comes and goes


def test_nodes_are_copied_from_one_scene_into_another(window, make_window, rig, art, tmp_path):
    window.desk.document.selection.choose(["turn", "card"])
    window.desk.actions_["edit.copy"].trigger()
    other = make_window()
    place = tmp_path / "elsewhere" / "other.heron"
    place.parent.mkdir()
    wh.save(wh.Scene(nodes=(wh.Null(id="turn", name="Turn"),)), place)
    assert other.desk.files.open(place, ask=False)
    other.desk.actions_["edit.paste"].trigger()
    scene = other.desk.document.scene
    assert [node.name for node in scene.nodes] == ["Turn", "Turn 2", "Cam", "Card"]
    camera = scene.node("cam")
    assert camera.carrier == "turn-2"
    assert not camera.binds  # What it was aimed at was not copied.
    assert len(scene.node("turn-2").channel("rotation.y").keys) == 2
    picture = (place.parent / scene.node("card").artwork.source).resolve()
    assert picture == (art / "card.png").resolve()
    other.desk.actions_["edit.undo"].trigger()
    assert len(other.desk.document.scene.nodes) == 1


@pytest.mark.parametrize("content", [b"", b"{", b"[1, 2]", b'{"format": "wild-heron-scene", "version": 3, "scene": 5}'])
def test_what_is_no_scene_on_the_clipboard_changes_nothing(window, content):
    data = QMimeData()
    data.setData("application/x-wild-heron-nodes", content)
    QGuiApplication.clipboard().setMimeData(data)
    before = window.desk.document.scene
    window.desk.actions_["edit.paste"].trigger()
    assert window.desk.document.scene is before


def test_a_picture_on_the_clipboard_comes_in_and_is_kept_beside_the_scene(window, art, qtbot):
    image = QImage(30, 20, QImage.Format.Format_RGB32)
    image.fill(QColor("#3366cc"))
    QGuiApplication.clipboard().setImage(image)
    before = len(window.desk.document.scene.nodes)
    window.desk.actions_["edit.paste"].trigger()
    qtbot.waitUntil(lambda: len(window.desk.document.scene.nodes) == before + 1)
    assert window.desk.document.scene.nodes[-1].artwork.source == "pasted-1.png"
    assert (art / "pasted-1.png").is_file()


def test_a_folder_comes_in_as_what_is_in_it(window, art, tmp_path, qtbot):
    folder = tmp_path / "layers"
    (folder / "deeper").mkdir(parents=True)
    for name in ("far.png", "near.png", "notes.txt", ".hidden.png", "deeper/no.png"):
        (folder / name).write_bytes((art / "card.png").read_bytes())
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(folder))])
    before = len(window.desk.document.scene.nodes)
    window.desk.bring_in([folder])
    qtbot.waitUntil(lambda: len(window.desk.document.scene.nodes) == before + 2)
    assert [node.name for node in window.desk.document.scene.nodes[-2:]] == ["Far", "Near"]
    (tmp_path / "empty").mkdir()
    window.desk.bring_in([tmp_path / "empty"])
    assert window.desk.status.text.text() == "There is no artwork in empty."


def test_recent_scenes_show_their_folder_and_how_they_look(window, art, qtbot):
    qtbot.waitUntil(lambda: window.desk.lens.view.image is not None, timeout=8000)
    window.desk.actions_["scene.save"].trigger()
    kept = QImage(str(picture_of(art / "rig.heron")))
    assert (kept.width(), kept.height()) == (160, 90)
    menu = next(menu for menu in window.findChildren(QMenu) if menu.objectName() == "recent")
    menu.aboutToShow.emit()
    entry = menu.actions()[0]
    assert "rig" in entry.text()
    assert art.name in entry.text()
    assert not entry.icon().isNull()
    (art / "rig.heron").rename(art / "moved.heron")
    menu.aboutToShow.emit()
    assert not menu.actions()[0].isEnabled()


def test_dialogs_open_where_the_last_file_was(window, tmp_path, monkeypatch):
    asked = []
    place = tmp_path / "art here"
    place.mkdir()

    def choose(parent, title, start, *rest):
        asked.append(start)
        return [str(place / "a.png")], ""

    monkeypatch.setattr("wild_heron.desk.shell.opening.QFileDialog.getOpenFileNames", choose)
    monkeypatch.setattr(window.desk, "bring_in", lambda *a: None)
    window.desk.open.files("best", lambda *a: None)
    window.desk.open.files("best", lambda *a: None)
    assert asked == [str(window.desk.document.file.base), str(place)]


def test_after_new_nothing_is_said_of_a_camera_that_is_gone(window, qtbot):
    said: list[str] = []
    link = window.desk.link
    qtbot.waitUntil(lambda: window.desk.lens.view.image is not None, timeout=20_000)
    window.desk.document.messages.said.connect(lambda text, warning: said.append(text))
    wish = link.first.wishes["lens"]
    window.desk.actions_["scene.new"].trigger()
    # A frame that is drawn ahead of playing was still wished for.
    link.want(STREAM, wish)
    qtbot.waitUntil(lambda: not link.first._asked and STREAM not in link.first._waiting, timeout=20_000)
    assert not [text for text in said if "could not be drawn" in text]
    assert STREAM not in link.first.wishes


def test_what_is_unexpected_is_told_with_the_log_beside_it(window, monkeypatch):
    opened = []
    monkeypatch.setattr("wild_heron.desk.shell.opening.open_outside", lambda place: opened.append(place) or True)
    window.desk.actions_["help.log"].trigger()
    assert opened[0].name == "wild-heron"


def test_a_chord_of_two_letters_runs_its_action(window, qtbot):
    window.desk.document.selection.choose(["card"])
    chord(window, "SH")
    assert window.desk.document.scene.node("card").hidden
