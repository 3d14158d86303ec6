"""A switch for something that goes on: live switching, recording."""

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QFontMetrics, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton

from .theme import DEEP, HOVER, RUST, SOFT, TEXT, colour, font
from .unexpected import painted


class PillSwitch(QAbstractButton):
    """A switch for what goes on while it is on: a ring while off, filled while on."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setText(text)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(QFontMetrics(font(12, QFont.Weight.DemiBold)).horizontalAdvance(self.text()) + 42, 24)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        on = self.isChecked()
        box = QRectF(1, (self.height() - 22) / 2, self.width() - 2, 22)
        p.setPen(QPen(colour(RUST), 1.3))
        p.setBrush(colour(RUST) if on else colour(HOVER) if self.underMouse() else Qt.BrushStyle.NoBrush)
        p.drawRoundedRect(box, 11, 11)
        tone = colour(DEEP if on else RUST)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(tone)
        p.drawEllipse(QRectF(box.left() + 10, box.center().y() - 4, 8, 8))
        p.setPen(colour(DEEP if on else SOFT))
        p.setFont(font(12, QFont.Weight.DemiBold))
        p.drawText(box.adjusted(24, 0, -8, 0), Qt.AlignmentFlag.AlignVCenter, self.text())
        if self.hasFocus():
            # Inside, where the pill may be filled: amber on rust would not tell.
            p.setPen(QPen(colour(DEEP if on else TEXT), 1.5))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRoundedRect(box.adjusted(2.5, 2.5, -2.5, -2.5), 8.5, 8.5)
