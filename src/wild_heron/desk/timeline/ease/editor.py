"""One normalised curve, drawn large, whose two beads shape all the selected spans."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from ....motion.easing import unit_ease
from ....scene import Bezier, Handles, Hold, Span, Steps
from ...widgets.theme import AMBER, DEEP, LINE, RAISED, SOFT, TEXT, colour, font
from ...widgets.unexpected import painted
from .tiles import phase, points

_BELOW, _ABOVE = -0.4, 1.4
_EDGE = 10
_REACH = 11.0

Outline = tuple[tuple[float, float], ...]


def beads(span: Span | None) -> Bezier:
    """Where the beads are: those of a drawn curve, else along the slopes at the ends of the curve there is."""
    if isinstance(span, Bezier):
        return span
    if span is None or isinstance(span, Hold | Steps | Handles):
        return Bezier(0.33, 0.33, 0.67, 0.67)
    ease, far, step = unit_ease(span), 0.36, 0.02
    first, last = (float(v) for v in ease(np.array([step, 1.0 - step])))
    low, high = (float(np.clip(v, _BELOW, _ABOVE)) for v in (first / step * far, 1.0 - (1.0 - last) / step * far))
    return Bezier(far, round(low, 3), 1.0 - far, round(high, 3))


class EaseEditor(QWidget):
    """Drag a bead, or press anywhere: the nearer bead comes. Shift keeps its height, Ctrl its moment."""

    begun = pyqtSignal()
    shaped = pyqtSignal(object)
    ended = pyqtSignal()
    cancelled = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.span: Span | None = None
        self.ghosts: list[Outline] = []
        """What the selected spans look like now, from 0 to 1 each."""
        self._held: int | None = None
        self._start = beads(None)
        self.setFixedWidth(196)
        self.setMinimumHeight(170)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Curve of the ease")
        self.setToolTip("Drag the beads. Shift keeps a bead's height, Ctrl its moment; Esc takes the drag back.")

    def sizeHint(self) -> QSize:
        return QSize(196, 190)

    def show_span(self, span: Span | None, ghosts: list[Outline]) -> None:
        self.span, self.ghosts = span, ghosts
        self.update()

    # What is where

    def place(self, share: float, value: float) -> QPointF:
        wide, tall = self.width() - 2.0 * _EDGE, self.height() - 2.0 * _EDGE
        return QPointF(_EDGE + share * wide, _EDGE + (_ABOVE - value) / (_ABOVE - _BELOW) * tall)

    def bead(self, number: int) -> QPointF:
        curve = beads(self.span)
        return self.place(curve.x1, curve.y1) if number == 0 else self.place(curve.x2, curve.y2)

    # The mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or not self.isEnabled():
            return
        offs = [float(np.hypot(off.x(), off.y())) for off in (self.bead(k) - event.position() for k in (0, 1))]
        self._held, self._start = int(np.argmin(offs)), beads(self.span)
        self.begun.emit()
        if min(offs) > _REACH:
            self._put(event.position(), event.modifiers())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._held is not None:
            self._put(event.position(), event.modifiers())

    def _put(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        wide, tall = self.width() - 2.0 * _EDGE, self.height() - 2.0 * _EDGE
        x = min(max((at.x() - _EDGE) / wide, 0.0), 1.0)
        y = min(max(_ABOVE - (at.y() - _EDGE) / tall * (_ABOVE - _BELOW), _BELOW), _ABOVE)
        numbers = [self._start.x1, self._start.y1, self._start.x2, self._start.y2]
        first = 0 if self._held == 0 else 2
        if not keys & Qt.KeyboardModifier.ControlModifier:
            numbers[first] = round(x, 2)
        if not keys & Qt.KeyboardModifier.ShiftModifier:
            # The levels of the start and the end catch a bead that comes near.
            level = next((each for each in (0.0, 1.0) if abs(y - each) < 0.03), y)
            numbers[first + 1] = round(level, 2)
        self.shaped.emit(Bezier(*numbers))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._held is not None:
            self._held = None
            self.ended.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and self._held is not None:
            self._held = None
            self.cancelled.emit()
        else:
            super().keyPressEvent(event)

    # Painting

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(colour(LINE), 1))
        p.setBrush(colour(DEEP))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5)
        p.fillRect(QRectF(self.place(0, 1), self.place(1, 0)), colour(RAISED, 0.45))
        for level in (0.0, 1.0):
            p.setPen(QPen(colour(LINE), 1))
            p.drawLine(self.place(0, level), self.place(1, level))
        p.setBrush(Qt.BrushStyle.NoBrush)
        for outline in self.ghosts:
            p.setPen(QPen(colour(SOFT, 0.45), 1.2))
            p.drawPolyline(QPolygonF([self.place(*each) for each in outline]))
        if self.span is None:
            p.setPen(colour(SOFT))
            p.setFont(font(11))
            words = "These spans differ.\nDraw one curve for all." if self.ghosts else "Select spans in Lanes."
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        self._paint_beads(p)
        p.setPen(QPen(colour(AMBER), 2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        curve = points(self.span)
        p.drawPolyline(QPolygonF([self.place(*each) for each in curve]))
        share, value = curve[min(int(phase() * (len(curve) - 1) + 0.5), len(curve) - 1)]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(TEXT))
        p.drawEllipse(self.place(share, value), 3, 3)

    def _paint_beads(self, p: QPainter) -> None:
        own = isinstance(self.span, Bezier)
        for number, end in ((0, self.place(0, 0)), (1, self.place(1, 1))):
            at = self.bead(number)
            p.setPen(QPen(colour(TEXT, 0.7 if own else 0.3), 1))
            p.drawLine(end, at)
            p.setPen(QPen(colour(TEXT if own else SOFT), 1.4))
            p.setBrush(colour(AMBER if own and self._held == number else TEXT if own else DEEP))
            p.drawEllipse(at, 4.5, 4.5)
