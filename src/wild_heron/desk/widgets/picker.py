"""Choosing some of several names."""

from collections.abc import Iterable, Sequence
from functools import partial

from PyQt6.QtCore import QPoint, pyqtSignal
from PyQt6.QtWidgets import QSizePolicy, QToolButton

from .panel_parts import popup_menu
from .theme import font


class Picker(QToolButton):
    """A button that says which are chosen, and opens a list of all.

    ``items`` are names and what is said of each. ``nothing`` is what it says where none is chosen; without it at least
    one always is.
    """

    changed = pyqtSignal()
    """By whoever uses it."""

    def __init__(
        self, items: Sequence[tuple[str, str]], chosen: Iterable[str], every: str, tip: str, nothing: str = ""
    ) -> None:
        super().__init__()
        self._items, self._every, self._nothing = items, every, nothing
        self._chosen = set(chosen)
        self.setFont(font(12))
        self.setProperty("look", "word")
        self.setAccessibleName(tip)
        self.setToolTip(tip)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.clicked.connect(self._open)
        self._say()

    @property
    def chosen(self) -> tuple[str, ...]:
        """In the order of the items."""
        return tuple(name for name, _ in self._items if name in self._chosen)

    def show_chosen(self, names: Iterable[str]) -> None:
        """Show that other ones are chosen, without telling anybody."""
        self._chosen = set(names)
        self._say()

    def choose(self, names: Iterable[str]) -> None:
        """Choose, and tell; where one must be chosen, none leaves it as it is."""
        names = {name for name, _ in self._items}.intersection(names)
        if (names or self._nothing) and names != self._chosen:
            self.show_chosen(names)
            self.changed.emit()

    def _say(self) -> None:
        chosen = self.chosen
        words = dict(self._items)
        if not chosen:
            said = self._nothing
        elif len(chosen) == 1:
            said = words[chosen[0]]
        else:
            said = self._every if len(chosen) == len(self._items) else f"{chosen[0]} and {len(chosen) - 1} more"
        self.setText(f"{said} ▾")

    def _open(self) -> None:
        menu = popup_menu(self)
        for name, words in self._items:
            entry = menu.addAction(words)
            assert entry is not None
            entry.setCheckable(True)
            entry.setChecked(name in self._chosen)
            entry.triggered.connect(partial(self._toggle, name))
        if len(self._items) > 1:
            menu.addSeparator()
            rest = () if self._nothing else tuple(name for name, _ in self._items)
            whole = menu.addAction(self._nothing or self._every)
            assert whole is not None
            whole.triggered.connect(lambda: self.choose(rest))
        menu.exec(self.mapToGlobal(QPoint(0, self.height())))

    def _toggle(self, name: str, on: bool) -> None:
        self.choose(self._chosen | {name} if on else self._chosen - {name})
