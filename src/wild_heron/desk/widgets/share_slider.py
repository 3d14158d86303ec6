"""A share from nothing to all of it, as a bar that is dragged."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from .theme import DEEP, REED, TEXT, colour
from .unexpected import painted

_STEPS = {Qt.Key.Key_Left: -0.05, Qt.Key.Key_Down: -0.05, Qt.Key.Key_Right: 0.05, Qt.Key.Key_Up: 0.05}


class ShareSlider(QWidget):
    """Drag it, or use the arrow keys."""

    settled = pyqtSignal(float)
    """It was let go, or stepped."""

    def __init__(self, name: str, tip: str, value: float) -> None:
        super().__init__()
        self.value = value
        self.setFixedHeight(23)
        self.setMinimumWidth(90)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(name)
        self.setToolTip(tip)

    def sizeHint(self) -> QSize:
        return QSize(110, 23)

    def _set(self, value: float) -> None:
        self.value = min(max(round(value, 2), 0.0), 1.0)
        self.setAccessibleDescription(f"{self.value * 100:.0f} %")
        self.update()

    def _value_at(self, x: float) -> float:
        return (x - 7.0) / max(self.width() - 14.0, 1.0)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.setFocus()
            self._set(self._value_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._set(self._value_at(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.settled.emit(self.value)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        step = _STEPS.get(Qt.Key(event.key())) if event is not None else None
        if step is None:
            super().keyPressEvent(event)
            return
        self._set(self.value + step)
        self.settled.emit(self.value)

    def event(self, event) -> bool:  # type: ignore[no-untyped-def]
        # The arrows step it, not the playhead.
        if event.type() == event.Type.ShortcutOverride and event.key() in _STEPS:
            event.accept()
            return True
        return super().event(event)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle, x = self.height() / 2, 7.0 + self.value * (self.width() - 14.0)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(DEEP))
        p.drawRoundedRect(QRectF(4, middle - 2.5, self.width() - 8, 5), 2.5, 2.5)
        p.setBrush(colour(REED))
        p.drawRoundedRect(QRectF(4, middle - 2.5, x - 4, 5), 2.5, 2.5)
        p.setPen(colour(TEXT) if self.hasFocus() else Qt.PenStyle.NoPen)
        p.drawEllipse(QPointF(x, middle), 5.5, 5.5)
