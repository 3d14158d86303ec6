"""What is drawn over a picture to compose by: guides, and the mask over what lies beyond the frame."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen

from ...scene import Guides
from ...scene.checks import AREAS
from ..widgets.theme import TEXT, font
from ..widgets.theme import on_picture as colour

BEYOND = 1.24
"""How many frames wide the picture is under a mask."""
_LINE, _AREA = 0.4, 0.6
_SMALLEST = 150.0
"""Pixels of a picture's width below which words in it are left out."""


def beyond(guides: Guides) -> float:
    """How many frames wide a picture is asked for."""
    return BEYOND if guides.mask is not None else 1.0


def outer(frame: QRectF, guides: Guides) -> QRectF:
    """Where the picture that was asked for lies about its frame."""
    spare = 0.5 * (beyond(guides) - 1.0)
    across, up = spare * frame.width(), spare * frame.height()
    return frame.adjusted(-across, -up, across, up)


def paint_guides(p: QPainter, frame: QRectF, guides: Guides) -> None:
    """The mask, and the guides that are shown."""
    p.save()
    p.setBrush(Qt.BrushStyle.NoBrush)
    if guides.mask is not None:
        _paint_mask(p, frame, guides)
    if "thirds" in guides.shown:
        _paint_thirds(p, frame)
    if "centre" in guides.shown:
        _paint_centre(p, frame)
    if "safe" in guides.shown:
        _paint_safe(p, frame)
    if "text" in guides.shown:
        _paint_text_band(p, frame, guides)
    p.restore()


def _paint_mask(p: QPainter, frame: QRectF, guides: Guides) -> None:
    assert guides.mask is not None
    ring = QPainterPath()
    ring.setFillRule(Qt.FillRule.OddEvenFill)
    ring.addRect(outer(frame, guides))
    ring.addRect(frame)
    p.fillPath(ring, colour(guides.mask, guides.strength))
    p.setPen(QPen(colour(TEXT, _LINE), 1))
    p.drawRect(frame)


def _paint_thirds(p: QPainter, frame: QRectF) -> None:
    p.setPen(QPen(colour(TEXT, _LINE), 1))
    for k in (1, 2):
        x, y = frame.left() + frame.width() * k / 3, frame.top() + frame.height() * k / 3
        p.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
        p.drawLine(QPointF(frame.left(), y), QPointF(frame.right(), y))


def _paint_centre(p: QPainter, frame: QRectF) -> None:
    """A cross in the middle, and a short line at the middle of each side."""
    p.setPen(QPen(colour(TEXT, _AREA), 1))
    middle, arm = frame.center(), 0.03 * min(frame.width(), frame.height())
    for x, y in ((1.0, 0.0), (0.0, 1.0)):
        along = QPointF(x * arm, y * arm)
        p.drawLine(middle - along, middle + along)
        rim = QPointF(0.5 * x * frame.width(), 0.5 * y * frame.height())
        p.drawLine(middle - rim, middle - rim + along)
        p.drawLine(middle + rim, middle + rim - along)


def _paint_safe(p: QPainter, frame: QRectF) -> None:
    for area, style in (("action", Qt.PenStyle.SolidLine), ("title", Qt.PenStyle.DashLine)):
        share = AREAS[area]  # type: ignore[index]
        inner = QRectF(0, 0, frame.width() * share, frame.height() * share)
        inner.moveCenter(frame.center())
        p.setPen(QPen(colour(TEXT, _AREA), 1, style))
        p.drawRect(inner)


def _paint_text_band(p: QPainter, frame: QRectF, guides: Guides) -> None:
    low, high = guides.text
    band = QRectF(0, 0, frame.width() * AREAS["title"], frame.height() * (high - low))
    band.moveCenter(QPointF(frame.center().x(), frame.bottom() - 0.5 * (low + high) * frame.height()))
    p.setPen(QPen(colour(TEXT, _AREA), 1))
    p.fillRect(band, colour(TEXT, 0.08))
    p.drawRect(band)
    if frame.width() >= _SMALLEST:
        p.setFont(font(10))
        p.setPen(colour(TEXT, 0.85))
        p.drawText(band.adjusted(6, 3, -6, -3), Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, "text")
