"""The line at the foot of the window, and the strip at its head that offers something."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QToolButton, QWidget

from ..state.document import Document
from ..widgets.panel_parts import label, set_role, set_surface
from ..widgets.theme import font


class StatusLine(QWidget):
    """What just happened at the left; progress of work, and whether the scene is saved, at the right."""

    cancelled = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        set_surface(self, "deep", "top")
        self.setFixedHeight(24)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 0)
        self.text = label("", "soft", 11)
        self.work = label("", "soft", 11)
        self.saved = label("", "soft", 11)
        self.text.setMinimumWidth(10)
        self.bar = QProgressBar()
        self.bar.setFixedSize(120, 10)
        self.bar.hide()
        self.stop = QToolButton()
        self.stop.setText("Cancel")
        self.stop.setFont(font(11))
        self.stop.setToolTip("Stop; nothing is changed")
        self.stop.clicked.connect(self.cancelled)
        self.stop.hide()
        self.written = QToolButton()
        self.written.setFont(font(11))
        self.written.setProperty("look", "recall")
        self.written.setToolTip("Remove just these keys; everything else stays  (Ctrl+Alt+Z)")
        self.written.clicked.connect(document.recorder.undo_last_keys)
        row.addWidget(self.text, 1)
        row.addWidget(self.written)
        row.addWidget(self.bar)
        row.addWidget(self.stop)
        row.addWidget(self.work)
        row.addSpacing(16)
        row.addWidget(self.saved)
        document.messages.said.connect(self.say)
        document.file.changed.connect(self.refresh)
        document.changed.connect(self._count)
        self.refresh()
        self._count()

    def show_progress(self, done: int, total: int, words: str = "Bringing in") -> None:
        """How far work has come; (0, 0) when it is over."""
        self.bar.setVisible(total > 0)
        self.stop.setVisible(total > 0)
        self.bar.setRange(0, total)
        self.bar.setValue(done)
        if total:
            self.say(f"{words} {done + 1} of {total}…", False)

    def show_work(self, text: str, warning: bool) -> None:
        """What the renderer is at; a warning goes where the news is."""
        if warning:
            self._document.messages.say(text, True)
        else:
            self.work.setText(text)

    def say(self, text: str, warning: bool) -> None:
        self.text.setText(text)
        self.text.setToolTip(text)
        set_role(self.text, "warning" if warning else "soft")

    def _count(self) -> None:
        """How many keys the last change wrote, as long as they are there."""
        count = self._document.recorder.keys_written
        self.written.setVisible(count > 0)
        if count:
            self.written.setText(f"{count} key{'' if count == 1 else 's'} written · take back")

    def refresh(self) -> None:
        modified = self._document.is_modified
        saved = "not saved yet" if self._document.file.path is None else "saved"
        self.saved.setText("changed" if modified else saved)
        set_role(self.saved, "warning" if modified else "good" if self._document.file.path else "soft")


class Banner(QWidget):
    """A strip that offers something and can be waved away."""

    def __init__(self) -> None:
        super().__init__()
        set_surface(self, "offer", "bottom")
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(16, 6, 14, 6)
        self.text = label("")
        self._row.addWidget(self.text, 1)
        self.buttons: list[QPushButton] = []
        self._waiting: list[tuple[str, dict[str, object]]] = []
        self.hide()

    def offer(self, text: str, choices: dict[str, object]) -> None:
        """Offer something, once what is offered already has been decided. The same again takes the place of the old."""
        self._waiting = [each for each in self._waiting if each[0] != text]
        if self.isHidden() or self.text.text() == text:
            self._show(text, choices)
        else:
            self._waiting.append((text, choices))

    def clear(self) -> None:
        """Take everything back that was offered: it was about another scene."""
        self._waiting.clear()
        self.hide()

    def _show(self, text: str, choices: dict[str, object]) -> None:
        for button in self.buttons:
            self._row.removeWidget(button)
            button.deleteLater()
        self.buttons = []
        self.text.setText(text)
        for name, slot in choices.items():
            button = QPushButton(name)
            button.setProperty("main", not self.buttons)
            button.clicked.connect(lambda checked, slot=slot: self._decided(slot))
            self._row.addWidget(button)
            self.buttons.append(button)
        self.show()

    def _decided(self, slot: object) -> None:
        self.hide()
        if callable(slot):
            slot()
        if self.isHidden() and self._waiting:
            self._show(*self._waiting.pop(0))
