"""A soft amber outline round what a lesson points at."""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, QRectF, Qt, QTimer
from PyQt6.QtGui import QAction, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QMainWindow, QMenu, QToolButton, QWidget

from ..commands.actions import ActionTable
from ..widgets.theme import AMBER, colour
from ..widgets.unexpected import painted
from .lesson_run import LessonRun

_ROOM = 4
_LOOK_MS = 150
"""How often it is looked whether things have moved: panels come and go without telling."""


class Pointer(QWidget):
    """Lies over the whole window and lets everything through."""

    def __init__(
        self,
        frame: QMainWindow,
        run: LessonRun,
        actions: ActionTable,
        widgets: Callable[[str, str], QWidget | None],
        menus: dict[str, QMenu],
    ) -> None:
        """``widgets`` gives what a kind (area, field, choice, tab) and a name mean; None where it is not there."""
        super().__init__(frame)
        self._frame, self._run, self._actions, self._widgets, self._menus = frame, run, actions, widgets, menus
        self._boxes: list[QRect] = []
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._look = QTimer(self)
        self._look.setInterval(_LOOK_MS)
        self._look.timeout.connect(self.refresh)
        run.changed.connect(self._changed)
        frame.installEventFilter(self)
        self.hide()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            self.refresh()
        return False

    def _changed(self) -> None:
        on = self._run.step is not None
        if on:
            self._look.start()
        else:
            self._look.stop()
        self.refresh()

    @property
    def boxes(self) -> list[QRect]:
        """What is outlined, in the window."""
        return self._boxes

    def refresh(self) -> None:
        """Look where the things are by now."""
        step = self._run.step
        found = [] if step is None else [box for at in step.at if (box := self._box(at)) is not None]
        if found == self._boxes and self.isVisible() == bool(found) and self.size() == self._frame.size():
            return
        self._boxes = found
        self.setVisible(bool(found))
        if found:
            self.setGeometry(self._frame.rect())
            self.raise_()
            self.update()

    def _box(self, at: str) -> QRect | None:
        kind, _, name = at.partition(":")
        if kind == "action":
            return self._action_box(self._actions[name])
        widget = self._widgets(kind, name)
        return self._around(widget) if widget is not None and widget.isVisible() else None

    def _action_box(self, action: QAction) -> QRect | None:
        """A button for it that is in sight, else the menu that it is in."""
        for button in self._frame.findChildren(QToolButton):
            if button.defaultAction() is action and button.isVisible() and button.window() is self._frame:
                return self._around(button)
        bar = self._frame.menuBar()
        menu = self._menus.get(action.objectName().partition(".")[0])
        if bar is None or menu is None:
            return None
        box = bar.actionGeometry(menu.menuAction())
        return box.translated(bar.mapTo(self._frame, QPoint())) if box.isValid() else None

    def _around(self, widget: QWidget) -> QRect:
        return QRect(widget.mapTo(self._frame, QPoint()), widget.size())

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for box in self._boxes:
            around = QRectF(box.adjusted(-_ROOM, -_ROOM, _ROOM, _ROOM)) & QRectF(self.rect()).adjusted(3, 3, -3, -3)
            for width, alpha in ((8.0, 0.16), (5.0, 0.3), (2.0, 1.0)):
                p.setPen(QPen(colour(AMBER, alpha), width))
                p.drawRoundedRect(around, 6, 6)
