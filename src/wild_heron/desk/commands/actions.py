"""The actions as Qt has them: with their shortcuts, in their menus, on buttons."""

from collections.abc import Callable, Iterator, Mapping, Sequence

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from ..widgets.icons import icon
from .action_spec import ActionSpec


class ActionTable:
    """The actions as Qt objects, and the menus made from them."""

    def __init__(self, parent: QWidget, specs: Sequence[ActionSpec], menus: Mapping[str, QMenu]) -> None:
        """``menus``: where they go, by the first word of an action's name."""
        self.specs = specs
        self.titles = {name: menu.title() for name, menu in menus.items()}
        self._actions: dict[str, QAction] = {}
        for each in self.specs:
            action = QAction(each.text, parent)
            action.setCheckable(each.checkable)
            action.setToolTip(self._tip(each))
            action.setStatusTip(each.tip)
            if each.shortcut:
                action.setShortcut(QKeySequence(each.shortcut))
            if each.icon:
                action.setIcon(icon(each.icon))
                action.setIconVisibleInMenu(False)
            action.setObjectName(each.name)
            parent.addAction(action)
            self._actions[each.name] = action
        self._fill(menus)

    @staticmethod
    def _tip(each: ActionSpec) -> str:
        return each.tip + (f"  ({QKeySequence(each.shortcut).toString()})" if each.shortcut else "")

    def __getitem__(self, name: str) -> QAction:
        return self._actions[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._actions)

    def tip(self, name: str) -> str:
        return self._actions[name].toolTip()

    def connect(self, name: str, slot: Callable[..., object]) -> None:
        action = self._actions[name]
        if action.isCheckable():
            action.triggered.connect(slot)
        else:
            action.triggered.connect(lambda checked: slot())

    def button(self, name: str) -> QToolButton:
        """A tool button for an action."""
        out = QToolButton()
        out.setDefaultAction(self._actions[name])
        out.setFixedSize(28, 28)
        out.setAccessibleName(self._actions[name].text())
        return out

    def _fill(self, menus: Mapping[str, QMenu]) -> None:
        for menu in menus.values():
            menu.setToolTipsVisible(True)
        subs: dict[tuple[str, str], QMenu] = {}
        for each in self.specs:
            key = each.name.partition(".")[0]
            menu = menus[key]
            if each.gap:
                menu.addSeparator()
            if each.sub:
                if (key, each.sub) not in subs:
                    subs[key, each.sub] = QMenu(each.sub, menu)
                    subs[key, each.sub].setToolTipsVisible(True)
                    menu.addMenu(subs[key, each.sub])
                menu = subs[key, each.sub]
            menu.addAction(self._actions[each.name])
