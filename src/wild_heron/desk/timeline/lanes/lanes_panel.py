"""The lanes under a strip: the tabs, a search by name, and what of the scene they show."""

from PyQt6.QtWidgets import QLineEdit, QToolButton, QVBoxLayout, QWidget

from ...state.document import Document
from ...widgets.theme import font
from ..heads import head
from .lanes_view import LanesView


class LanesPanel(QWidget):
    """Keys over time, with a search by name."""

    def __init__(self, document: Document, tabs: QWidget) -> None:
        super().__init__()
        self.view = LanesView(document)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        strip, row = head(tabs)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find a lane…")
        self.search.setToolTip("Show only lanes with these words in their names")
        self.search.setAccessibleName("Lanes named")
        self.search.setFont(font(11))
        self.search.setFixedWidth(150)
        self.search.setFixedHeight(22)
        self.search.setProperty("look", "small")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._named)
        row.addWidget(self.search)
        self.filter = QToolButton()
        self.filter.setText("selected only")
        self.filter.setFont(font(11))
        self.filter.setCheckable(True)
        self.filter.setToolTip("Show only the lanes of the selected nodes")
        self.filter.setAccessibleName("Show only the lanes of the selected nodes")
        self.filter.toggled.connect(self._filter)
        row.addWidget(self.filter)
        row.addStretch()
        column.addWidget(strip)
        column.addWidget(self.view, 1)

    def _filter(self, on: bool) -> None:
        self.view.only_selected = on
        self.view.refresh()

    def _named(self, text: str) -> None:
        self.view.named = text
        self.view.refresh()
