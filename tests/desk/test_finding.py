"""Finding things: what actions are called and looked for by, the menus' sizes, and shortcuts that everybody knows."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

import wild_heron as wh
from wild_heron.desk.dialogs.shortcuts_dialog import ActionsDialog
from wild_heron.desk.shell.action_list import ACTIONS
from wild_heron.desk.shell.action_words import WORDS
from wild_heron.desk.widgets.quantities import parse_number

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LOWEST_SCREEN = 768


def test_no_two_actions_have_one_name():
    names = [each.text.rstrip("…") for each in ACTIONS]
    assert sorted({name for name in names if names.count(name) > 1}) == []


def test_no_chord_is_one_that_desktops_or_input_methods_keep():
    chords = [chord for each in ACTIONS for chord in (each.shortcut, each.also)]
    kept = [chord for chord in chords if "Ctrl+Alt" in chord or "Ctrl+F" in chord or chord == "Ctrl+Space"]
    assert [chord for chord in kept if chord not in ("Ctrl+F",)] == []


def test_words_are_those_of_actions_that_there_are():
    assert set(WORDS) <= {each.name for each in ACTIONS}


@pytest.mark.parametrize(
    ("typed", "finds"),
    [
        ("import", "set.bring"), ("keyframe", "keys.auto"), ("easing", "ease.panel"), ("graph", "view.curves"),
        ("frame rate", "scene.settings"), ("full screen", "view.full"), ("audio", "play.sound"),
        ("dark", "scene.preferences"), ("dolly zoom", "rig.hold"), ("mask", "view.beyond"),
        ("tutorial", "help.lessons"), ("parent", "rig.null"), ("wiggle", "life.shake"), 
        ("render", "output.export"), ("colour", "scene.preferences"),
    ],
)  # fmt: skip
def test_words_of_the_trade_find_what_it_is_called_here(make_window, typed, finds):
    """Among the first that are called so or known so."""
    window = make_window()
    QTest.keyClick(window, Qt.Key.Key_P, CTRL | SHIFT)
    dialog = window.findChild(ActionsDialog)
    QTest.keyClicks(dialog.filter, typed)
    shown = [row for row in range(dialog.table.rowCount()) if not dialog.table.isRowHidden(row)]
    names = [dialog.table.item(row, 0).data(Qt.ItemDataRole.UserRole) for row in shown]
    assert finds in names
    assert dialog.table.currentRow() in shown


def test_it_says_why_one_cannot_be_done_now(make_window):
    window = make_window()
    QTest.keyClick(window, Qt.Key.Key_P, CTRL | SHIFT)
    dialog = window.findChild(ActionsDialog)
    QTest.keyClicks(dialog.filter, "redo")
    assert dialog.table.item(dialog.table.currentRow(), 3).text().endswith("Not now: nothing was undone.")


def test_every_menu_fits_a_low_screen(make_window):
    window = make_window()
    heights = {name: menu.sizeHint().height() for name, menu in window.menus.items()}
    assert {name: height for name, height in heights.items() if height > LOWEST_SCREEN - 60} == {}


def test_nodes_are_cut_with_what_they_carry_and_pasted(make_window, qtbot):
    window = make_window()
    document = window.desk.document
    scene = wh.Scene(
        nodes=(wh.Null(id="a", name="A"), wh.Null(id="b", name="B", carrier="a"), wh.Null(id="c", name="C"))
    )
    document.reset(scene, None)
    document.selection.choose(["a"])
    QTest.keyClick(window, Qt.Key.Key_X, CTRL)
    assert [node.name for node in document.scene.nodes] == ["C"]
    assert document.history.undo_name == "Cut A …"
    QTest.keyClick(window, Qt.Key.Key_V, CTRL)
    assert sorted(node.name for node in document.scene.nodes) == ["A", "B", "C"]


def test_the_whole_screen_is_given_and_taken_back(make_window, qtbot):
    window = make_window()
    QTest.keyClick(window, Qt.Key.Key_F11)
    assert window.isFullScreen()
    QTest.keyClick(window, Qt.Key.Key_F11)
    assert not window.isFullScreen()


def test_a_scene_without_a_name_takes_its_files(make_window, tmp_path, monkeypatch):
    window = make_window()
    document = window.desk.document
    document.edit("Add", lambda scene: wh.edits.add_node(scene, wh.Null(id="n", name="N")))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *given: (str(tmp_path / "night_market.heron"), ""))
    assert window.desk.files.save()
    assert document.scene.name == "Night market"
    assert wh.load(tmp_path / "night_market.heron").name == "Night market"
    assert not document.is_modified
    # One that has a name keeps it.
    assert window.desk.files.save_to(tmp_path / "other.heron")
    assert document.scene.name == "Night market"


@pytest.mark.parametrize(("typed", "value"), [("1", 0.01), ("100", 1.0), ("0.5", 0.005), ("50 %", 0.5), ("25+25", 0.5)])
def test_a_number_in_a_percent_field_is_percent(typed, value):
    assert parse_number(typed, "share") == pytest.approx(value)
