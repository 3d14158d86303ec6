"""Names and paths come from strangers' files: they are shown as they are written, and never read as markup.

Qt takes a text that looks like HTML for HTML, and would fetch the pictures that it names.
"""

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QMessageBox, QToolTip, QWidget


def _reads_markup(text: str) -> bool:
    return bool(Qt.mightBeRichText(text))  # type: ignore[attr-defined]


def as_plain(text: str) -> str:
    """A text for what reads markup and cannot be told not to (tooltips): escaped where it would be taken for some."""
    if not _reads_markup(text):
        return text
    from html import escape

    return f"<span>{escape(text)}</span>"


def message_box(parent: QWidget, title: str, text: str) -> QMessageBox:
    """A message that reads no markup."""
    box = QMessageBox(parent)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setWindowTitle(title)
    box.setText(text)
    return box


class PlainToolTips(QObject):
    """Shows every widget's tooltip as plain text; installed on the application."""

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if (
            event is not None
            and event.type() == QEvent.Type.ToolTip
            and isinstance(watched, QWidget)
            and isinstance(event, QHelpEvent)
            and _reads_markup(watched.toolTip())
        ):
            QToolTip.showText(event.globalPos(), as_plain(watched.toolTip()), watched)
            return True
        return False
