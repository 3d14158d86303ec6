"""Messages for the status line."""

from PyQt6.QtCore import QObject, pyqtSignal


class Messages(QObject):
    """Lines of text, the newest of which is shown."""

    said = pyqtSignal(str, bool)
    """A line, and whether it is a warning."""

    def say(self, text: str, warning: bool = False) -> None:
        self.said.emit(text, warning)
