"""What a held mouse button does: one small class for each kind of drag."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QWidget

from .focus_ring import BY_KEYBOARD, FocusRing

Keys = Qt.KeyboardModifier


class Drag:
    """Begun at ``start``; every method does nothing unless a kind of drag says what."""

    def __init__(self, start: QPointF) -> None:
        self.start = start

    def offset(self, at: QPointF) -> QPointF:
        return at - self.start

    def is_past(self, at: QPointF, pixels: float = 3.0) -> bool:
        """Whether it went far enough to be meant."""
        off = self.offset(at)
        return abs(off.x()) + abs(off.y()) >= pixels

    def move(self, at: QPointF, keys: Keys) -> None:
        """The pointer is elsewhere now."""

    def release(self, at: QPointF) -> None:
        """The button was let go."""

    def cancel(self) -> None:
        """Escape was pressed."""


class DragArea(QWidget):
    """What is dragged in: letting go ends a drag, Escape takes it back."""

    def __init__(self) -> None:
        super().__init__()
        self.drag: Drag | None = None
        self._ring: FocusRing | None = None

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        if self._ring is None and event is not None and event.reason() in BY_KEYBOARD:
            self._ring = FocusRing(self)
        if self._ring is not None:
            self._ring.heed(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if self._ring is not None:
            self._ring.heed(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        drag, self.drag = self.drag, None
        if drag is not None:
            drag.release(drag.start if event is None else event.position())
            self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and self.drag is not None:
            drag, self.drag = self.drag, None
            drag.cancel()
            self.update()
        else:
            super().keyPressEvent(event)
