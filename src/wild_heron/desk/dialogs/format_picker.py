"""Choosing one or several of a scene's formats."""

from collections.abc import Iterable
from functools import partial

from PyQt6.QtCore import QPoint, pyqtSignal
from PyQt6.QtWidgets import QSizePolicy, QToolButton

from ...scene import Format
from ..widgets.panel import popup_menu
from ..widgets.theme import font


class FormatPicker(QToolButton):
    """A button that says which are chosen, and opens a list of all."""

    changed = pyqtSignal()

    def __init__(self, shapes: tuple[Format, ...], chosen: str) -> None:
        super().__init__()
        self._shapes, self._names = shapes, {chosen}
        self.setFont(font(12))
        self.setProperty("look", "word")
        self.setAccessibleName("Formats")
        self.setToolTip("Which formats are written: each to a file of its own")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.clicked.connect(self._open)
        self._say()

    @property
    def chosen(self) -> tuple[Format, ...]:
        """At least one, in the scene's order."""
        return tuple(each for each in self._shapes if each.name in self._names)

    def choose(self, names: Iterable[str]) -> None:
        """Choose formats by name; none of the scene's leaves it as it is."""
        names = {each.name for each in self._shapes}.intersection(names)
        if names and names != self._names:
            self._names = names
            self._say()
            self.changed.emit()

    def _say(self) -> None:
        first, *others = self.chosen
        words = f"{first.name}   {first.width} × {first.height}"
        if others:
            words = "all formats" if len(others) + 1 == len(self._shapes) else f"{first.name} and {len(others)} more"
        self.setText(f"{words} ▾")

    def _open(self) -> None:
        menu = popup_menu(self)
        for shape in self._shapes:
            entry = menu.addAction(f"{shape.name}   {shape.width} × {shape.height}")
            assert entry is not None
            entry.setCheckable(True)
            entry.setChecked(shape.name in self._names)
            entry.triggered.connect(partial(self._toggle, shape.name))
        if len(self._shapes) > 1:
            menu.addSeparator()
            every = menu.addAction(f"All {len(self._shapes)} formats")
            assert every is not None
            every.triggered.connect(lambda: self.choose(each.name for each in self._shapes))
        menu.exec(self.mapToGlobal(QPoint(0, self.height())))

    def _toggle(self, name: str, on: bool) -> None:
        self.choose(self._names | {name} if on else self._names - {name})
