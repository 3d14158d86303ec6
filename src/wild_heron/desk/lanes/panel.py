"""The bottom area: the lanes, their heading, and the ease panel that floats over them."""

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QToolButton, QVBoxLayout, QWidget

from ..actions import ActionTable
from ..document import Document
from ..theme import SOFT, font, heading_font
from .axis import LABELS, RULER
from .ease_panel import EasePanel
from .view import LanesView


class LanesPanel(QWidget):
    """Keys over time. The heading sits beside the ruler, so that no height is lost."""

    def __init__(self, document: Document, actions: ActionTable) -> None:
        super().__init__()
        self.view = LanesView(document)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        head = QWidget(self.view)
        head.setGeometry(0, 0, LABELS, RULER)
        row = QHBoxLayout(head)
        row.setContentsMargins(14, 0, 8, 0)
        row.setSpacing(2)
        title = QLabel("LANES")
        title.setFont(heading_font())
        title.setStyleSheet(f"color: {SOFT};")
        row.addWidget(title)
        row.addStretch()
        self.search = QLineEdit()
        self.search.setPlaceholderText("named…")
        self.search.setToolTip("Show only lanes with these words in their names")
        self.search.setAccessibleName("Lanes named")
        self.search.setFont(font(11))
        self.search.setFixedSize(62, 22)
        self.search.setStyleSheet("QLineEdit { padding: 1px 5px; }")
        self.search.textChanged.connect(self._named)
        row.addWidget(self.search)
        self.filter = QToolButton()
        self.filter.setText("selected")
        self.filter.setFont(font(11))
        self.filter.setCheckable(True)
        self.filter.setToolTip("Show only the lanes of the selected nodes")
        self.filter.toggled.connect(self._filter)
        row.addWidget(self.filter)
        for name, text in (("ease.panel", "ease"), ("keys.now", "key")):
            button = QToolButton()
            button.setDefaultAction(actions[name])
            button.setText(text)
            button.setFont(font(11))
            row.addWidget(button)
        self.ease = EasePanel(document)
        self.view.ease_wanted.connect(self.open_ease)
        actions.connect("ease.panel", self.open_ease)

    def _filter(self, on: bool) -> None:
        self.view.only_selected = on
        self.view.refresh()

    def _named(self, text: str) -> None:
        self.view.named = text
        self.view.refresh()

    def open_ease(self) -> None:
        """Open the ease panel over the lower part of the window, clear of the lanes' labels."""
        window = self.window()
        self.ease.setParent(window)
        self.ease.adjustSize()
        corner = self.mapTo(window, self.rect().topRight())
        x = corner.x() - self.ease.width() - 18
        y = max(corner.y() - self.ease.height() - 6, 60)
        self.ease.move(x, y)
        self.ease.open()
        self.ease.setFocus()
