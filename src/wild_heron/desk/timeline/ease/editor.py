"""One normalised curve, drawn large, whose two beads shape all the selected spans."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from ....motion.easing import unit_ease
from ....scene import Bezier, Handles, Hold, Span, Steps
from ...widgets.drag import Drag, DragArea, Keys
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


class EaseEditor(DragArea):
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
        self.setFixedWidth(196)
        self.setMinimumHeight(170)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Curve of the ease")
        self.setToolTip("Drag the beads. Shift keeps the height, Ctrl the time; Esc cancels.")

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
        self.drag = BeadDrag(event.position(), self, int(np.argmin(offs)))
        self.begun.emit()
        if min(offs) > _REACH:
            self.drag.move(event.position(), event.modifiers())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.drag is not None:
            self.drag.move(event.position(), event.modifiers())

    def shape(self, at: QPointF) -> tuple[float, float]:
        """A pixel as a share of the time and of the way, inside what the editor shows."""
        wide, tall = self.width() - 2.0 * _EDGE, self.height() - 2.0 * _EDGE
        x = min(max((at.x() - _EDGE) / wide, 0.0), 1.0)
        return x, min(max(_ABOVE - (at.y() - _EDGE) / tall * (_ABOVE - _BELOW), _BELOW), _ABOVE)

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
        held = self.drag.number if isinstance(self.drag, BeadDrag) else None
        for number, end in ((0, self.place(0, 0)), (1, self.place(1, 1))):
            at = self.bead(number)
            p.setPen(QPen(colour(TEXT, 0.7 if own else 0.3), 1))
            p.drawLine(end, at)
            p.setPen(QPen(colour(TEXT if own else SOFT), 1.4))
            p.setBrush(colour(AMBER if own and held == number else TEXT if own else DEEP))
            p.drawEllipse(at, 4.5, 4.5)


class BeadDrag(Drag):
    """One of the two beads. Shift keeps its height, Ctrl its moment."""

    def __init__(self, start: QPointF, editor: EaseEditor, number: int) -> None:
        super().__init__(start)
        self._editor, self.number, self._before = editor, number, beads(editor.span)

    def move(self, at: QPointF, keys: Keys) -> None:
        x, y = self._editor.shape(at)
        curve = self._before
        numbers = [curve.x1, curve.y1, curve.x2, curve.y2]
        first = 2 * self.number
        if not keys & Keys.ControlModifier:
            numbers[first] = round(x, 2)
        if not keys & Keys.ShiftModifier:
            # The levels of the start and the end catch a bead that comes near.
            level = next((each for each in (0.0, 1.0) if abs(y - each) < 0.03), y)
            numbers[first + 1] = round(level, 2)
        self._editor.shaped.emit(Bezier(*numbers))

    def release(self, at: QPointF) -> None:
        self._editor.ended.emit()

    def cancel(self) -> None:
        self._editor.cancelled.emit()
