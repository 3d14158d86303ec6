"""What a right click, or the menu key, offers in the Rig, the Lens, the Overview, the Depth rail and Curves."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QPoint, QPointF, Qt
from PyQt6.QtWidgets import QWidget

from ..commands.actions import ActionTable
from ..widgets.panel_parts import popup_menu
from .desk import Desk

Names = tuple[str, ...]
"""Of actions; "" for a line between two of them."""

NODE: Names = (
    "set.rename", "set.hide", "set.lock", "set.solo", "", "rig.null", "rig.carry", "rig.free", "rig.aim_node", "",
    "camera.look", "keys.now", "", "edit.cut", "edit.copy", "edit.paste", "edit.duplicate", "edit.delete",
)  # fmt: skip
NOTHING: Names = ("set.bring", "camera.add", "rig.null", "", "edit.paste", "edit.select_all")
LENS: Names = (
    "view.thirds", "view.centre", "view.safe", "view.formats", "view.beyond", "", "view.compare", "view.flip",
    "view.keep", "", "camera.moves", "camera.reset", "film.keep", "film.show", "view.every", "view.full",
)  # fmt: skip
OVERVIEW: Names = ("view.free", "view.plan", "view.side", "view.front", "view.frame", "", "view.onion", "view.swap")
KEYS: Names = (
    "ease.panel", "ease.hold", "ease.linear", "ease.flow", "ease.both", "ease.smooth", "", "ease.copy", "ease.paste",
    "", "keys.insert", "keys.stretch", "keys.reverse", "", "edit.cut", "edit.copy", "edit.paste", "edit.delete",
)  # fmt: skip


def offer(actions: ActionTable, names: Names, widget: QWidget, at: QPoint) -> None:
    """Show some actions in a menu at a point of a widget."""
    menu = popup_menu(widget)
    menu.setObjectName("context")
    menu.setToolTipsVisible(True)
    for name in names:
        if name:
            menu.addAction(actions[name])
        else:
            menu.addSeparator()
    menu.popup(widget.mapToGlobal(at))


class ContextMenus(QObject):
    """Listens to the panels."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._desk = desk
        tree, rail, overview = desk.rig.tree, desk.depth_panel.rail, desk.overview.view
        self._listen(tree, self._in_rig)
        self._listen(rail, lambda at: self._on_node(rail, at, tag.node if (tag := rail.tag_at(QPointF(at))) else None))
        self._listen(desk.lens.view, lambda at: self._offer(LENS, desk.lens.view, at))
        # A right drag looks round there: the menu is for a click.
        overview.menu_wanted.connect(self._in_overview)
        desk.lanes.chosen.connect(self._tab)
        self._has_curves = False

    def _listen(self, widget: QWidget, slot: Callable[[QPoint], None]) -> None:
        widget.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        widget.customContextMenuRequested.connect(slot)

    def _offer(self, names: Names, widget: QWidget, at: QPoint) -> None:
        offer(self._desk.actions_, names, widget, at)

    def _in_rig(self, at: QPoint) -> None:
        tree = self._desk.rig.tree
        item = tree.itemAt(at)
        found = next((node for node, each in tree.items().items() if each is item), None) if item is not None else None
        self._on_node(tree.viewport() or tree, at, found)

    def _in_overview(self, at: QPoint) -> None:
        view = self._desk.overview.view
        node = view.node_at(QPointF(at))
        if node is None:
            self._offer(OVERVIEW, view, at)
        else:
            self._on_node(view, at, node)

    def _on_node(self, widget: QWidget, at: QPoint, node: str | None) -> None:
        """What is under the pointer is selected first, unless it is among what is."""
        selection = self._desk.document.selection
        if node is not None and node not in selection.nodes:
            selection.choose([node])
        self._offer(NODE if node is not None else NOTHING, widget, at)

    def _tab(self, name: str) -> None:
        """Curves are made when they are first shown."""
        if name == "curves" and not self._has_curves:
            self._has_curves = True
            view = self._desk.lanes.curves.view
            self._listen(view, lambda at: self._offer(KEYS, view, at))
