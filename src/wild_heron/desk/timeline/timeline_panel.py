"""The bottom area: the tabs, one page of them shown, and the ease panel that floats over them."""

from functools import cached_property, partial
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QStackedLayout, QToolButton, QWidget

from ..commands.actions import ActionTable
from ..state.document import Document
from ..widgets.theme import heading_font
from .film_parts import FilmParts
from .tabs import TABS

if TYPE_CHECKING:
    from .curves.curves_panel import CurvesPanel
    from .ease.ease_panel import EasePanel
    from .lanes.lanes_panel import LanesPanel
    from .shots.shots_panel import ShotsPanel


class TimelinePanel(QWidget):
    """A page for each tab, made when it is first shown."""

    chosen = pyqtSignal(str)
    """A tab was brought to the front."""

    def __init__(self, document: Document, actions: ActionTable, parts: FilmParts) -> None:
        super().__init__()
        self._document, self._actions, self._parts = document, actions, parts
        self._buttons: dict[str, list[QToolButton]] = {tab.name: [] for tab in TABS}
        self._stack = QStackedLayout(self)
        self._pages: dict[str, QWidget] = {}
        self._shown = TABS[0].name
        for tab in TABS:
            if tab.action is not None:
                actions.connect(tab.action.name, partial(self._toggle, tab.name))
        self.view = self.lanes.view
        self.view.ease_wanted.connect(self.open_ease)
        actions.connect("ease.panel", self.open_ease)
        self.choose(TABS[0].name)

    def page(self, name: str) -> QWidget:
        """A tab's page."""
        if name not in self._pages:
            tab = next(each for each in TABS if each.name == name)
            self._pages[name] = tab.make(self._document, self._row(), self._parts)
            self._stack.addWidget(self._pages[name])
        return self._pages[name]

    @property
    def lanes(self) -> "LanesPanel":
        return cast("LanesPanel", self.page("lanes"))

    @property
    def curves(self) -> "CurvesPanel":
        return cast("CurvesPanel", self.page("curves"))

    @property
    def shots(self) -> "ShotsPanel":
        return cast("ShotsPanel", self.page("shots"))

    def stop(self) -> None:
        """For when the program ends."""
        if "shots" in self._pages:
            self.shots.view.speeds.stop()

    @cached_property
    def ease(self) -> "EasePanel":
        """The ease panel, made when it is first wanted."""
        from .ease.ease_panel import EasePanel

        return EasePanel(self._document)

    def _row(self) -> QWidget:
        """The words that choose a tab."""
        out = QWidget()
        row = QHBoxLayout(out)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        group = QButtonGroup(out)
        for tab in TABS:
            button = QToolButton()
            button.setText(tab.word)
            button.setCheckable(True)
            button.setChecked(tab.name == self._shown)
            button.setFont(heading_font())
            button.setToolTip(tab.tip)
            button.setProperty("look", "tab")
            button.setMinimumWidth(button.fontMetrics().horizontalAdvance(tab.word) + 6)
            button.clicked.connect(partial(self.choose, tab.name))
            group.addButton(button)
            row.addWidget(button)
            self._buttons[tab.name].append(button)
        return out

    def button(self, name: str) -> QToolButton | None:
        """The word for a tab that is in sight."""
        return next((button for button in self._buttons[name] if button.isVisible()), None)

    @property
    def shown(self) -> str:
        """The tab that is in front."""
        return self._shown

    def choose(self, name: str, checked: bool = True) -> None:
        """Bring a tab to the front."""
        self._shown = name
        self._stack.setCurrentWidget(self.page(name))
        for each, buttons in self._buttons.items():
            for button in buttons:
                button.setChecked(each == name)
        for tab in TABS:
            if tab.action is not None:
                self._actions[tab.action.name].setChecked(tab.name == name)
        self.chosen.emit(name)

    def _toggle(self, name: str, on: bool) -> None:
        self.choose(name if on else TABS[0].name)

    def open_ease(self) -> None:
        """Open the ease panel over the lower part of the window, clear of the lanes' labels."""
        window = self.window()
        assert window is not None
        self.ease.setParent(window)
        self.ease.adjustSize()
        corner = self.mapTo(window, self.rect().topRight())
        if not self.ease.was_moved:
            self.ease.move(corner.x() - self.ease.width() - 18, max(corner.y() - self.ease.height() - 6, 60))
        self.ease.open()
        self.ease.setFocus()
