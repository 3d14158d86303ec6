"""The bottom area: the lanes, their heading, and the ease panel that floats over them."""

from PyQt6.QtWidgets import QToolButton

from ..actions import ActionTable
from ..document import Document
from ..panel import Panel
from ..theme import font
from .ease_panel import EasePanel
from .view import LanesView


class LanesPanel(Panel):
    """Keys over time."""

    def __init__(self, document: Document, actions: ActionTable) -> None:
        super().__init__("Lanes")
        self.view = LanesView(document)
        self.strip.addStretch()
        self.filter = QToolButton()
        self.filter.setText("selected only")
        self.filter.setFont(font(11))
        self.filter.setCheckable(True)
        self.filter.setToolTip("Show only the lanes of the selected nodes")
        self.filter.toggled.connect(self._filter)
        self.strip.addWidget(self.filter)
        for name, text in (("ease.panel", "ease…"), ("keys.now", "key now")):
            button = QToolButton()
            button.setDefaultAction(actions[name])
            button.setText(text)
            button.setFont(font(11))
            self.strip.addWidget(button)
        self.body.addWidget(self.view, 1)
        self.ease = EasePanel(document)
        self.view.ease_wanted.connect(self.open_ease)
        actions.connect("ease.panel", self.open_ease)

    def _filter(self, on: bool) -> None:
        self.view.only_selected = on
        self.view._refresh()

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
