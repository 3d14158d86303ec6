"""Small drawings made for Wild Heron: one function draws each, on a 16 × 16 field."""

from collections.abc import Callable
from functools import lru_cache

from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QIcon, QIconEngine, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

from .theme import SOFT, TEXT, colour

Draw = Callable[[QPainter, QColor], None]
DRAWINGS: dict[str, Draw] = {}
"""By name. A node's icon is named after its kind."""


def _drawing(draw: Draw) -> Draw:
    DRAWINGS[draw.__name__.rstrip("_")] = draw
    return draw


def _line(p: QPainter, *points: tuple[float, float]) -> None:
    p.drawPolyline(QPolygonF([QPointF(x, y) for x, y in points]))


def _fill(p: QPainter, c: QColor, *points: tuple[float, float]) -> None:
    p.setBrush(c)
    p.setPen(Qt.PenStyle.NoPen)
    p.drawPolygon(QPolygonF([QPointF(x, y) for x, y in points]))


@_drawing
def null(p: QPainter, c: QColor) -> None:
    _line(p, (8, 3), (8, 13))
    _line(p, (3, 8), (13, 8))


@_drawing
def picture(p: QPainter, c: QColor) -> None:
    p.drawRoundedRect(QRectF(2.5, 3.5, 11, 9), 1.5, 1.5)
    _line(p, (3, 11), (6.5, 7.5), (9, 10), (10.5, 8.5), (13, 11))


@_drawing
def camera(p: QPainter, c: QColor) -> None:
    _fill(p, c, (2, 5), (10, 5), (10, 12), (2, 12))
    _fill(p, c, (10.6, 8), (14.5, 5.4), (14.5, 11.6), (10.6, 9))


@_drawing
def framing(p: QPainter, c: QColor) -> None:
    for x, y in ((2.5, 3.5), (13.5, 3.5), (2.5, 12.5), (13.5, 12.5)):
        _line(p, (x, y + (3 if y < 8 else -3)), (x, y), (x + (3.5 if x < 8 else -3.5), y))
    p.setBrush(c)
    p.drawEllipse(QPointF(8, 8), 1.5, 1.5)


@_drawing
def window(p: QPainter, c: QColor) -> None:
    _line(p, (2, 3.5), (14, 3.5), (14, 12.5), (2, 12.5), (2, 3.5))
    _fill(p, c, (6, 3.5), (10.5, 3.5), (10.5, 12.5), (6, 12.5))


@_drawing
def logo(p: QPainter, c: QColor) -> None:
    _line(p, (3, 12.5), (6.2, 3.5), (9.4, 12.5))
    _line(p, (4.2, 9.3), (8.2, 9.3))
    _line(p, (6.2, 3.5), (8.6, 2.2), (13, 11), (9.4, 12.5))


@_drawing
def model(p: QPainter, c: QColor) -> None:
    _line(p, (8, 2.2), (13.2, 5), (13.2, 11), (8, 13.8), (2.8, 11), (2.8, 5), (8, 2.2))
    _line(p, (2.8, 5), (8, 7.8), (13.2, 5))
    _line(p, (8, 7.8), (8, 13.8))


@_drawing
def light(p: QPainter, c: QColor) -> None:
    p.drawEllipse(QPointF(8, 8), 2.6, 2.6)
    for dx, dy in ((1, 0), (0, 1), (-1, 0), (0, -1), (0.7, 0.7), (-0.7, 0.7), (0.7, -0.7), (-0.7, -0.7)):
        _line(p, (8 + 4.2 * dx, 8 + 4.2 * dy), (8 + 6 * dx, 8 + 6 * dy))


@_drawing
def projection(p: QPainter, c: QColor) -> None:
    _fill(p, c, (2, 6), (6, 6), (6, 10), (2, 10))
    p.setPen(QPen(c, 1.2))
    p.setBrush(Qt.BrushStyle.NoBrush)
    _line(p, (6.5, 7), (12, 3.5), (14, 4.5), (14, 12.5), (12, 12.5), (6.5, 9))
    _line(p, (12, 3.5), (12, 12.5))


@_drawing
def close(p: QPainter, c: QColor) -> None:
    _line(p, (4.5, 4.5), (11.5, 11.5))
    _line(p, (11.5, 4.5), (4.5, 11.5))


@_drawing
def only(p: QPainter, c: QColor) -> None:
    for y, on in ((3.5, False), (8.0, True), (12.5, False)):
        p.setPen(QPen(c if on else QColor(c.red(), c.green(), c.blue(), 90), 2.4 if on else 1.4))
        _line(p, (3, y), (13, y))


@_drawing
def eye(p: QPainter, c: QColor) -> None:
    path = QPainterPath(QPointF(1.5, 8))
    path.quadTo(8, 1.8, 14.5, 8)
    path.quadTo(8, 14.2, 1.5, 8)
    p.drawPath(path)
    p.setBrush(c)
    p.drawEllipse(QPointF(8, 8), 1.7, 1.7)


@_drawing
def eye_shut(p: QPainter, c: QColor) -> None:
    path = QPainterPath(QPointF(1.5, 7))
    path.quadTo(8, 13, 14.5, 7)
    p.drawPath(path)
    for x in (4, 8, 12):
        _line(p, (x, 9.6), (x + (x - 8) * 0.2, 12.4))


@_drawing
def lock(p: QPainter, c: QColor) -> None:
    p.drawArc(QRectF(5, 2.5, 6, 8), 0, 180 * 16)
    p.setBrush(c)
    p.setPen(Qt.PenStyle.NoPen)
    p.drawRoundedRect(QRectF(3.5, 7, 9, 6.5), 1.4, 1.4)


@_drawing
def play(p: QPainter, c: QColor) -> None:
    _fill(p, c, (4.5, 2.5), (13.5, 8), (4.5, 13.5))


@_drawing
def pause(p: QPainter, c: QColor) -> None:
    _fill(p, c, (4, 3), (6.8, 3), (6.8, 13), (4, 13))
    _fill(p, c, (9.2, 3), (12, 3), (12, 13), (9.2, 13))


@_drawing
def forward(p: QPainter, c: QColor) -> None:
    _fill(p, c, (5, 3.5), (12, 8), (5, 12.5))


@_drawing
def back(p: QPainter, c: QColor) -> None:
    _fill(p, c, (11, 3.5), (4, 8), (11, 12.5))


@_drawing
def end(p: QPainter, c: QColor) -> None:
    _fill(p, c, (3.5, 3.5), (10.5, 8), (3.5, 12.5))
    _fill(p, c, (11, 3.5), (13, 3.5), (13, 12.5), (11, 12.5))


@_drawing
def start(p: QPainter, c: QColor) -> None:
    _fill(p, c, (12.5, 3.5), (5.5, 8), (12.5, 12.5))
    _fill(p, c, (3, 3.5), (5, 3.5), (5, 12.5), (3, 12.5))


@_drawing
def pin_forward(p: QPainter, c: QColor) -> None:
    _line(p, (3, 8), (8, 8))
    _line(p, (6, 5.5), (8.5, 8), (6, 10.5))
    _line(p, (12, 13), (12, 6))
    p.setBrush(c)
    p.drawEllipse(QPointF(12, 4.6), 1.7, 1.7)


@_drawing
def pin_back(p: QPainter, c: QColor) -> None:
    _line(p, (13, 8), (8, 8))
    _line(p, (10, 5.5), (7.5, 8), (10, 10.5))
    _line(p, (4, 13), (4, 6))
    p.setBrush(c)
    p.drawEllipse(QPointF(4, 4.6), 1.7, 1.7)


@_drawing
def loop(p: QPainter, c: QColor) -> None:
    p.drawArc(QRectF(2.5, 4, 11, 8), 30 * 16, 300 * 16)
    _fill(p, c, (13.9, 3.2), (13.6, 7.6), (10.2, 5.2))


@_drawing
def turn(p: QPainter, c: QColor) -> None:
    p.drawArc(QRectF(2, 5, 12, 8), 200 * 16, 140 * 16)
    _line(p, (11, 12.5), (13.4, 10.6), (13.8, 13.6))
    _line(p, (8, 9), (8, 2.5))
    _line(p, (6, 4.5), (8, 2.2), (10, 4.5))


@_drawing
def roll(p: QPainter, c: QColor) -> None:
    p.drawArc(QRectF(3, 3, 10, 10), 40 * 16, 280 * 16)
    _fill(p, c, (13.6, 2.6), (13.2, 7.2), (9.8, 4.8))


@_drawing
def slide(p: QPainter, c: QColor) -> None:
    _line(p, (2, 8), (14, 8))
    _line(p, (8, 2), (8, 14))
    for a, b, d in (((3.6, 6.3), (2, 8), (3.6, 9.7)), ((12.4, 6.3), (14, 8), (12.4, 9.7))):
        _line(p, a, b, d)
    for a, b, d in (((6.3, 3.6), (8, 2), (9.7, 3.6)), ((6.3, 12.4), (8, 14), (9.7, 12.4))):
        _line(p, a, b, d)


@_drawing
def push(p: QPainter, c: QColor) -> None:
    p.drawRect(QRectF(6, 5.5, 4, 3.4))
    _line(p, (2, 13), (5.4, 9.6))
    _line(p, (14, 13), (10.6, 9.6))
    _line(p, (3.6, 9.4), (5.6, 9.4), (5.6, 11.4))
    _line(p, (12.4, 9.4), (10.4, 9.4), (10.4, 11.4))


@_drawing
def zoom(p: QPainter, c: QColor) -> None:
    _line(p, (2, 8), (13.6, 2.6))
    _line(p, (2, 8), (13.6, 13.4))
    path = QPainterPath(QPointF(11, 3.8))
    path.quadTo(13.4, 8, 11, 12.2)
    p.drawPath(path)


@_drawing
def orbit(p: QPainter, c: QColor) -> None:
    p.drawEllipse(QRectF(1.8, 5.2, 12.4, 5.6))
    p.setBrush(c)
    p.drawEllipse(QPointF(8, 8), 1.5, 1.5)
    p.drawEllipse(QPointF(12.2, 10.2), 1.6, 1.6)


@_drawing
def swap(p: QPainter, c: QColor) -> None:
    _line(p, (3, 6), (13, 6))
    _line(p, (10.5, 3.5), (13, 6))
    _line(p, (13, 10), (3, 10))
    _line(p, (5.5, 12.5), (3, 10))


@_drawing
def path(p: QPainter, c: QColor) -> None:
    curve = QPainterPath(QPointF(3, 12))
    curve.cubicTo(4, 3, 11, 14, 13, 4)
    p.drawPath(curve)
    p.setBrush(c)
    p.drawEllipse(QPointF(3, 12), 1.5, 1.5)
    p.drawEllipse(QPointF(13, 4), 1.5, 1.5)


@_drawing
def ground(p: QPainter, c: QColor) -> None:
    for y in (5.5, 9, 12.5):
        curve = QPainterPath(QPointF(1.8, y))
        curve.cubicTo(5, y - 4, 7, y + 3, 14.2, y - 1.4)
        p.drawPath(curve)


@_drawing
def plus(p: QPainter, c: QColor) -> None:
    _line(p, (8, 3.5), (8, 12.5))
    _line(p, (3.5, 8), (12.5, 8))


@_drawing
def cross(p: QPainter, c: QColor) -> None:
    _line(p, (4.5, 4.5), (11.5, 11.5))
    _line(p, (11.5, 4.5), (4.5, 11.5))


@_drawing
def up(p: QPainter, c: QColor) -> None:
    _line(p, (8, 13), (8, 3.5))
    _line(p, (4.5, 7), (8, 3.5), (11.5, 7))


@_drawing
def down(p: QPainter, c: QColor) -> None:
    _line(p, (8, 3), (8, 12.5))
    _line(p, (4.5, 9), (8, 12.5), (11.5, 9))


@_drawing
def folder(p: QPainter, c: QColor) -> None:
    _line(p, (2.5, 12.5), (2.5, 3.5), (6.5, 3.5), (8, 5.5), (13.5, 5.5), (13.5, 12.5), (2.5, 12.5))


@_drawing
def more(p: QPainter, c: QColor) -> None:
    p.setBrush(c)
    p.setPen(Qt.PenStyle.NoPen)
    for x in (3.5, 8, 12.5):
        p.drawEllipse(QPointF(x, 8), 1.3, 1.3)


@_drawing
def dial(p: QPainter, c: QColor) -> None:
    for y, x in ((4, 10), (8, 5.5), (12, 9)):
        _line(p, (2.5, y), (13.5, y))
        p.setBrush(c)
        p.drawEllipse(QPointF(x, y), 1.7, 1.7)


def paint(painter: QPainter, name: str, rect: QRectF, colour: QColor) -> None:
    """Draw an icon into a rectangle."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(rect.topLeft())
    painter.scale(rect.width() / 16, rect.height() / 16)
    painter.setPen(QPen(colour, 1.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    DRAWINGS[name](painter, colour)
    painter.restore()


class _Drawn(QIconEngine):
    """Draws an icon when and as large as it is wanted."""

    def __init__(self, name: str, tone: str, off: str) -> None:
        super().__init__()
        self._name, self._tone, self._off = name, tone, off

    def clone(self) -> QIconEngine:
        return _Drawn(self._name, self._tone, self._off)

    def paint(self, painter: QPainter | None, rect: QRect, mode: QIcon.Mode, state: QIcon.State) -> None:
        if painter is not None:
            tone = self._off if mode == QIcon.Mode.Disabled else self._tone
            paint(painter, self._name, QRectF(rect), colour(tone))

    def pixmap(self, size: QSize, mode: QIcon.Mode, state: QIcon.State) -> QPixmap:
        out = QPixmap(size)
        out.fill(Qt.GlobalColor.transparent)
        painter = QPainter(out)
        self.paint(painter, QRect(QPoint(0, 0), size), mode, state)
        painter.end()
        return out


@lru_cache(maxsize=128)
def icon(name: str, tone: str = TEXT, off: str = SOFT) -> QIcon:
    """An icon for buttons and trees."""
    return QIcon(_Drawn(name, tone, off))
