"""The lanes with their heading, which sits beside the ruler, so that no height is lost."""

from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from ...state.document import Document
from ...widgets.panel import icon_button
from ...widgets.theme import font
from ..axis import LABELS, RULER
from .view import LanesView


class LanesPanel(QWidget):
    """Keys over time, with a search by name."""

    def __init__(self, document: Document, tabs: QWidget) -> None:
        super().__init__()
        self.view = LanesView(document)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        head = QWidget(self.view)
        head.setGeometry(0, 0, LABELS, RULER)
        row = QHBoxLayout(head)
        row.setContentsMargins(12, 0, 2, 0)
        row.setSpacing(2)
        row.addWidget(tabs)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find…")
        self.search.setToolTip("Show only lanes with these words in their names")
        self.search.setAccessibleName("Lanes named")
        self.search.setFont(font(11))
        self.search.setMaximumWidth(54)
        self.search.setMinimumWidth(30)
        self.search.setFixedHeight(22)
        self.search.setProperty("look", "small")
        self.search.textChanged.connect(self._named)
        row.addWidget(self.search)
        self.filter = icon_button("only", "Show only the lanes of the selected nodes", checkable=True, size=22)
        self.filter.toggled.connect(self._filter)
        row.addWidget(self.filter)

    def _filter(self, on: bool) -> None:
        self.view.only_selected = on
        self.view.refresh()

    def _named(self, text: str) -> None:
        self.view.named = text
        self.view.refresh()
