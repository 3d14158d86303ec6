"""The lessons, to choose one from."""

from collections.abc import Callable

from PyQt6.QtWidgets import QWidget

from ..start import Told
from ..start.entries import Entry
from ..widgets.dialog import Dialog
from ..widgets.panel_parts import label


class LessonsDialog(Dialog):
    """Each with a line about it, and a tick where it was done."""

    def __init__(self, lessons: list[Told], begin: Callable[[str], None], parent: QWidget | None = None) -> None:
        super().__init__("Lessons", parent, 420)
        self.column.setContentsMargins(14, 14, 14, 14)
        self.column.setSpacing(2)
        words = label("A few minutes each, in a scene of its own. They are in the order of a job.", "soft")
        words.setContentsMargins(6, 0, 6, 8)
        self.column.addWidget(words)
        self.entries = []
        for number, (name, title, about, minutes, done) in enumerate(lessons, 1):
            entry = Entry(title, about, mark=str(number), done=done, aside=f"{about} · {minutes} min")
            entry.clicked.connect(lambda checked, name=name: self._begin(name, begin))
            self.column.addWidget(entry)
            self.entries.append(entry)

    def _begin(self, name: str, begin: Callable[[str], None]) -> None:
        self.accept()
        begin(name)
