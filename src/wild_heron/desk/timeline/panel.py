"""The bottom area: lanes, curves, and the ease panel that floats over them."""

from functools import cached_property

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QLineEdit, QStackedLayout, QToolButton, QVBoxLayout, QWidget

from ..commands.actions import ActionTable
from ..state.document import Document
from ..widgets.theme import AMBER, SOFT, font, heading_font
from .axis import LABELS, RULER
from .curves.panel import CurvesPanel
from .ease.panel import EasePanel
from .lanes.view import LanesView

_TABS = (
    ("lanes", "LANES", "Keys and spans, a row for each channel"),
    ("curves", "CURVES", "Values and speeds as curves"),
)


class LanesPanel(QWidget):
    """Keys over time. The lanes' heading sits beside the ruler, so that no height is lost."""

    def __init__(self, document: Document, actions: ActionTable) -> None:
        super().__init__()
        self._document, self._actions = document, actions
        self.view = LanesView(document)
        self._buttons: dict[str, list[QToolButton]] = {name: [] for name, _, _ in _TABS}
        self.curves = CurvesPanel(document, self._tabs())
        self._pages = QStackedLayout(self)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        for widget in (page, self.curves):
            self._pages.addWidget(widget)
        head = QWidget(self.view)
        head.setGeometry(0, 0, LABELS, RULER)
        row = QHBoxLayout(head)
        row.setContentsMargins(14, 0, 4, 0)
        row.setSpacing(2)
        row.addWidget(self._tabs())
        row.addStretch()
        self.search = QLineEdit()
        self.search.setPlaceholderText("find…")
        self.search.setToolTip("Show only lanes with these words in their names")
        self.search.setAccessibleName("Lanes named")
        self.search.setFont(font(11))
        self.search.setFixedSize(54, 22)
        self.search.setStyleSheet("QLineEdit { padding: 1px 4px; }")
        self.search.textChanged.connect(self._named)
        row.addWidget(self.search)
        self.filter = QToolButton()
        self.filter.setText("selected")
        self.filter.setFont(font(11))
        self.filter.setCheckable(True)
        self.filter.setToolTip("Show only the lanes of the selected nodes")
        self.filter.toggled.connect(self._filter)
        row.addWidget(self.filter)
        self.view.ease_wanted.connect(self.open_ease)
        actions.connect("ease.panel", self.open_ease)
        self.choose("lanes")

    @cached_property
    def ease(self) -> EasePanel:
        """The ease panel, made when it is first wanted."""
        return EasePanel(self._document)

    def _tabs(self) -> QWidget:
        """The words that choose between lanes and curves."""
        out = QWidget()
        row = QHBoxLayout(out)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        group = QButtonGroup(out)
        for name, text, tip in _TABS:
            button = QToolButton()
            button.setText(text)
            button.setCheckable(True)
            button.setFont(heading_font())
            button.setToolTip(tip)
            button.setStyleSheet(
                f"QToolButton {{ color: {SOFT}; background: transparent; padding: 2px 0px; }}"
                f"QToolButton:checked {{ color: {AMBER}; background: transparent; }}"
            )
            button.clicked.connect(lambda checked, name=name: self.choose(name))
            group.addButton(button)
            row.addWidget(button)
            self._buttons[name].append(button)
        return out

    @property
    def shown(self) -> str:
        return "curves" if self._pages.currentWidget() is self.curves else "lanes"

    def choose(self, name: str) -> None:
        """Show the lanes, or the curves."""
        self._pages.setCurrentIndex(0 if name == "lanes" else 1)
        for each, buttons in self._buttons.items():
            for button in buttons:
                button.setChecked(each == name)
        self._actions["view.curves"].setChecked(name == "curves")

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
        if not self.ease.was_moved:
            self.ease.move(corner.x() - self.ease.width() - 18, max(corner.y() - self.ease.height() - 6, 60))
        self.ease.open()
        self.ease.setFocus()
