"""The actions as Qt has them: with their shortcuts, in their menus, on buttons."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import cast

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from ..widgets.icons import icon
from .action_spec import ActionSpec


def give_letters(actions: Iterable[QAction]) -> None:
    """Underline a letter of each entry of a menu, another one in each, by which it is chosen while the menu is open.
    Entries that are in no menu yet take it at a fraction of the cost."""
    taken: set[str] = set()
    for action in actions:
        text = action.text()
        # Beginnings of words first.
        order = sorted(range(len(text)), key=lambda k: not (k == 0 or text[k - 1] == " "))
        at = next((k for k in order if text[k].isalpha() and text[k].lower() not in taken), None)
        if at is not None:
            taken.add(text[at].lower())
            action.setText(f"{text[:at]}&{text[at:]}")


class ActionTable:
    """The actions as Qt objects, and the menus made from them."""

    def __init__(self, parent: QWidget, specs: Sequence[ActionSpec], menus: Mapping[str, QMenu]) -> None:
        """``menus``: where they go, by the first word of an action's name."""
        self.specs = specs
        self.titles = {name: menu.title().replace("&", "") for name, menu in menus.items()}
        self._actions: dict[str, QAction] = {}
        for each in self.specs:
            action = QAction(each.text, parent)
            action.setCheckable(each.checkable)
            action.setToolTip(self._tip(each))
            action.setStatusTip(each.tip)
            chords = [QKeySequence(chord) for chord in (each.shortcut, each.also) if chord]
            if chords:
                action.setShortcuts(chords)
            if each.icon:
                action.setIcon(icon(each.icon))
                action.setIconVisibleInMenu(False)
            action.setObjectName(each.name)
            self._actions[each.name] = action
        self._fill(menus)
        parent.addActions(list(self._actions.values()))

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
        out.setAccessibleName(self._actions[name].text().replace("&", ""))
        return out

    def _fill(self, menus: Mapping[str, QMenu]) -> None:
        entries: dict[QMenu, list[QAction]] = {menu: [] for menu in menus.values()}
        subs: dict[tuple[str, str], QMenu] = {}
        for each in self.specs:
            key = each.name.partition(".")[0]
            menu = menus[key]
            place = entries[subs.get((key, each.sub), menu)]
            if each.gap:
                separator = QAction(menu)
                separator.setSeparator(True)
                place.append(separator)
            if each.sub and (key, each.sub) not in subs:
                sub = subs[key, each.sub] = QMenu(each.sub, menu)
                entries[sub] = []
                place.append(cast(QAction, sub.menuAction()))
            menu = subs.get((key, each.sub), menu)
            entries[menu].append(self._actions[each.name])
        for menu, inside in entries.items():
            give_letters(inside)
            menu.setToolTipsVisible(True)
            menu.addActions(inside)
