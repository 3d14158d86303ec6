"""Small drawn eases to pick from, each with a dot that moves the way it does."""

import time
from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton

from ....motion import sample_ease
from ....scene import Flow, Span, span_label
from ...widgets.theme import AMBER, DEEP, HOVER, LINE, RAISED, REED, SOFT, TEXT, colour, font
from ...widgets.unexpected import painted

_SECONDS = 1.6
_REST = 0.5


@lru_cache(maxsize=128)
def points(span: Span) -> tuple[tuple[float, float], ...]:
    """An ease's curve, as shares of time and change."""
    shares, values = sample_ease(span, 60)
    if isinstance(span, Flow):
        values = shares * shares * (3.0 - 2.0 * shares)  # as it looks between two level neighbours
    return tuple(zip(shares.tolist(), values.tolist(), strict=True))


def phase() -> float:
    """Where the dots are on their way now, 0 to 1."""
    return min((time.monotonic() % (_SECONDS + _REST)) / _SECONDS, 1.0)


class EaseTile(QAbstractButton):
    """One ease."""

    def __init__(self, span: Span, name: str) -> None:
        super().__init__()
        self.span = span
        self.name = name
        self.setCheckable(True)
        self.setFixedSize(66, 54)
        self.setToolTip(span_label(span))
        self.setAccessibleName(span_label(span))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        lit = self.isChecked()
        box = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        p.setPen(QPen(colour(AMBER if lit or self.hasFocus() else LINE), 1.4 if lit else 1))
        p.setBrush(colour(HOVER if self.underMouse() else RAISED if lit else DEEP))
        p.drawRoundedRect(box, 5, 5)
        area = QRectF(11, 9, self.width() - 32, self.height() - 32)

        def place(share: float, value: float) -> QPointF:
            return QPointF(area.left() + share * area.width(), area.bottom() - value * area.height())

        p.setPen(QPen(colour(LINE), 1))
        p.drawLine(place(0, 0), place(1, 0))
        p.drawLine(place(0, 1), place(1, 1))
        p.setPen(QPen(colour(AMBER if lit else REED), 1.6))
        curve = points(self.span)
        p.drawPolyline(QPolygonF([place(*pair) for pair in curve]))
        value = curve[min(int(phase() * (len(curve) - 1) + 0.5), len(curve) - 1)][1]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(TEXT))
        p.drawEllipse(QPointF(self.width() - 11, area.bottom() - value * area.height()), 3, 3)
        p.setFont(font(10, QFont.Weight.Medium if lit else QFont.Weight.Normal))
        p.setPen(colour(AMBER if lit else SOFT))
        p.drawText(QRectF(2, self.height() - 17, self.width() - 4, 14), Qt.AlignmentFlag.AlignCenter, self.name)
