"""Where the areas are in the window: shown or not, how large, and the Lens and the Overview changing places."""

from PyQt6.QtCore import QPoint, QSettings, Qt, pyqtSignal
from PyQt6.QtWidgets import QMainWindow, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from ..board.board import Board
from ..widgets.dialog import NUMBERS
from .proportions import LEFT, LOWER, RIGHT

AREAS = ("rig", "depth", "overview", "inspector", "lanes")
_SPLITTERS = ("left", "right", "upper", "whole")


class Areas(QWidget):
    """All of the window under its menus. ``areas`` are those that can be hidden, by name."""

    shown = pyqtSignal(str, bool)
    """An area is shown or hidden now."""

    def __init__(
        self,
        frame: QMainWindow,
        lens: QWidget,
        areas: dict[str, QWidget],
        numbers: tuple[QWidget, QWidget],
        board: Board,
        above: tuple[QWidget, ...],
        below: QWidget,
    ) -> None:
        """``numbers``, the inspector and the builder of rigs, take turns in one area; ``above`` and ``below`` are
        strips over the whole width."""
        super().__init__()
        self._frame, self._lens, self._board = frame, lens, board
        self._board_placed = False
        self.numbers = QStackedWidget()
        self.numbers.setObjectName(NUMBERS)
        for page in numbers:
            self.numbers.addWidget(page)
        self.areas = {**areas, "inspector": self.numbers}
        self.left = _splitter(Qt.Orientation.Vertical, areas["rig"], areas["depth"])
        self._middle, self._corner = _holder(lens), _holder(areas["overview"])
        self.right = _splitter(Qt.Orientation.Vertical, self._corner, self.numbers)
        self.upper = _splitter(Qt.Orientation.Horizontal, self.left, self._middle, self.right)
        self.whole = _splitter(Qt.Orientation.Vertical, self.upper, areas["lanes"])
        self.upper.setStretchFactor(1, 1)
        self.whole.setStretchFactor(0, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for strip in above:
            column.addWidget(strip)
        column.addWidget(self.whole, 1)
        column.addWidget(below)
        self.left.setSizes([230, 290])
        self.right.setSizes([245, 270])
        self.upper.setSizes([LEFT, 1280 - LEFT - RIGHT, RIGHT])
        self.whole.setSizes([500, LOWER])
        frame.addDockWidget(Qt.DockWidgetArea.RightDockWidgetArea, board)
        board.setFloating(True)
        board.resize(320, 250)
        board.hide()

    def show_area(self, area: str, on: bool) -> None:
        self.areas[area].setVisible(on)
        if area == "overview" and self.is_swapped:
            self._middle.setVisible(on)
        self.left.setVisible(any(not self.areas[name].isHidden() for name in ("rig", "depth")))
        self._corner.setVisible(self.is_swapped or not self.areas["overview"].isHidden())
        self.right.setVisible(not self._corner.isHidden() or not self.numbers.isHidden())
        self.shown.emit(area, on)

    @property
    def is_swapped(self) -> bool:
        return self.areas["overview"].parentWidget() is self._middle

    def swap(self) -> None:
        """Lens and Overview change places."""
        overview = self.areas["overview"]
        if overview.isHidden():
            self.show_area("overview", True)
        first, second = (self._lens, overview) if self.is_swapped else (overview, self._lens)
        for holder, panel in ((self._middle, first), (self._corner, second)):
            holder.layout().addWidget(panel)
            panel.show()

    def show_numbers(self, page: QWidget) -> None:
        """Give a page its turn in the inspector's place."""
        if self.numbers.isHidden():
            self.show_area("inspector", True)
        self.numbers.setCurrentWidget(page)

    def show_board(self, on: bool) -> None:
        board, lens = self._board, self._lens
        if on and board.isFloating() and not self._board_placed:
            # Over the Lens's lower edge, where it hides the least, until it is put elsewhere.
            board.move(lens.mapToGlobal(QPoint(lens.width() - 336, lens.height() - 320)))
            self._board_placed = True
        board.setVisible(on)

    def restore(self, settings: QSettings) -> None:
        """Be as it was left."""
        for name in _SPLITTERS:
            state = settings.value(f"window/{name}")
            if state is not None:
                getattr(self, name).restoreState(state)
        docks = settings.value("window/docks")
        if docks is not None:
            self._frame.restoreState(docks)
            self._board_placed = True
        hidden = settings.value("window/hidden", [])
        for area in [hidden] if isinstance(hidden, str) else hidden or []:
            if area in AREAS:
                self.show_area(area, False)

    def remember(self, settings: QSettings) -> None:
        for name in _SPLITTERS:
            settings.setValue(f"window/{name}", getattr(self, name).saveState())
        settings.setValue("window/geometry", self._frame.saveGeometry())
        settings.setValue("window/docks", self._frame.saveState())
        settings.setValue("window/hidden", [area for area in AREAS if self.areas[area].isHidden()])


def _splitter(orientation: Qt.Orientation, *widgets: QWidget) -> QSplitter:
    out = QSplitter(orientation)
    out.setHandleWidth(1)
    out.setChildrenCollapsible(False)
    for widget in widgets:
        out.addWidget(widget)
    return out


def _holder(widget: QWidget) -> QWidget:
    out = QWidget()
    column = QVBoxLayout(out)
    column.setContentsMargins(0, 0, 0, 0)
    column.addWidget(widget)
    return out
