"""Right clicks: what is under the pointer is selected, and the menu's actions are the program's own."""

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from wild_heron.desk.shell.context_menus import KEYS, LENS, NODE, NOTHING, OVERVIEW

RIGHT = Qt.MouseButton.RightButton


def right_click(widget, at: QPoint) -> QMenu:
    """A press and release; the menu that comes, closed again at the end of the test."""
    QTest.mouseClick(widget, RIGHT, pos=at)
    if QApplication.activePopupWidget() is None:
        # A screen sends it with the press; a test does it by hand.
        widget.customContextMenuRequested.emit(at)
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    return menu


def names(menu: QMenu) -> list[str]:
    return [action.objectName() for action in menu.actions() if not action.isSeparator()]


@pytest.fixture(autouse=True)
def closed_menus():
    yield
    popup = QApplication.activePopupWidget()
    if popup is not None:
        popup.close()


def test_every_entry_is_an_action(window):
    for entries in (NODE, NOTHING, LENS, OVERVIEW, KEYS):
        for name in entries:
            assert not name or window.desk.actions_[name] is not None


def test_a_node_in_the_rig_is_selected_and_offered_what_is_done_to_nodes(window):
    tree = window.desk.rig.tree
    at = tree.visualItemRect(tree.items()["card"]).center()
    tree.customContextMenuRequested.emit(at)
    assert window.desk.document.selection.nodes == ("card",)
    menu = QApplication.activePopupWidget()
    assert names(menu) == [name for name in NODE if name]
    next(action for action in menu.actions() if action.objectName() == "edit.delete").trigger()
    assert "card" not in {node.id for node in window.desk.document.scene.nodes}


def test_several_that_are_selected_stay_so(window):
    tree = window.desk.rig.tree
    window.desk.document.selection.choose(["card", "target"])
    tree.customContextMenuRequested.emit(tree.visualItemRect(tree.items()["card"]).center())
    assert set(window.desk.document.selection.nodes) == {"card", "target"}


def test_the_empty_part_of_the_rig_offers_what_may_be_added(window):
    tree = window.desk.rig.tree
    tree.customContextMenuRequested.emit(QPoint(tree.width() - 4, tree.height() - 4))
    assert names(QApplication.activePopupWidget()) == [name for name in NOTHING if name]


def test_lens_rail_and_curves_have_theirs(window):
    desk = window.desk
    assert names(right_click(desk.lens.view, QPoint(20, 20))) == [name for name in LENS if name]
    QApplication.activePopupWidget().close()
    rail = desk.depth_panel.rail
    tag = rail.tags()[0][0]
    menu = right_click(rail, QPointF(80, tag.y).toPoint())
    assert names(menu) == [name for name in NODE if name]
    assert desk.document.selection.nodes == (tag.node,)
    menu.close()
    desk.lanes.choose("curves")
    assert names(right_click(desk.lanes.curves.view, QPoint(300, 60))) == [name for name in KEYS if name]


def test_a_right_click_in_the_overview_is_a_menu_and_a_drag_is_none(window, mouse):
    view = window.desk.overview.view
    mouse.drag(view, QPointF(40, 40), (30, 10), (60, 20), button=RIGHT)
    assert QApplication.activePopupWidget() is None
    QTest.mouseClick(view, RIGHT, pos=QPoint(6, view.height() - 6))
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    assert names(menu) in ([name for name in OVERVIEW if name], [name for name in NODE if name])
