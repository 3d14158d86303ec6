"""Where artwork is dropped to begin with it."""

from pathlib import Path

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDropEvent,
    QFont,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ..commands.actions import ActionTable
from ..widgets.panel_parts import label
from ..widgets.theme import AMBER, LINE, PANEL, RAISED, REED, SKY, STRAW, colour
from ..widgets.unexpected import painted

_DRAWING = 168
"""How wide the drawing of cards in depth is."""


class ArtworkDrop(QWidget):
    """A field that takes files, with buttons for those who have none at hand."""

    dropped = pyqtSignal(list)

    def __init__(self, actions: ActionTable) -> None:
        super().__init__()
        self._over = False
        self.setAcceptDrops(True)
        self.setMinimumHeight(126)
        column = QVBoxLayout(self)
        column.setContentsMargins(_DRAWING + 26, 12, 18, 12)
        column.setSpacing(5)
        column.addStretch()
        column.addWidget(label("Begin with artwork", size=17, weight=QFont.Weight.DemiBold))
        words = label("Drop pictures here, the farthest first. They stand in depth and fill the frame, "
                      "and a camera drifts past them.", "soft")  # fmt: skip
        words.setWordWrap(True)
        column.addWidget(words)
        column.addSpacing(6)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.choose = QPushButton("Choose artwork…")
        self.choose.setProperty("main", True)
        self.choose.setToolTip(actions.tip("scene.begin"))
        self.choose.clicked.connect(actions["scene.begin"].trigger)
        self.camera = QPushButton("Empty set with a camera")
        self.camera.setToolTip(actions.tip("camera.add"))
        self.camera.clicked.connect(actions["camera.add"].trigger)
        self.open = QPushButton("Open…")
        self.open.setToolTip(actions.tip("scene.open"))
        self.open.clicked.connect(actions["scene.open"].trigger)
        for button in (self.choose, self.camera, self.open):
            row.addWidget(button)
        row.addStretch()
        column.addLayout(row)
        column.addStretch()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None and data.hasUrls():
            self._over = True
            self.update()
            event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent | None) -> None:
        self._over = False
        self.update()

    def dropEvent(self, event: QDropEvent | None) -> None:
        self._over = False
        self.update()
        data = event.mimeData() if event else None
        if event is not None and data is not None:
            event.acceptProposedAction()
            self.dropped.emit([Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()])

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(colour(AMBER) if self._over else colour(LINE), 1.5, Qt.PenStyle.DashLine))
        p.setBrush(colour(RAISED) if self._over else colour(PANEL))
        p.drawRoundedRect(self.rect().adjusted(1, 1, -1, -1), 8, 8)
        self._paint_cards(p)

    def _paint_cards(self, p: QPainter) -> None:
        """Three cards in depth, and the way of a camera before them."""
        p.save()
        p.translate(26.0, self.height() / 2 - 58.0)
        for tone, x, y, side in ((SKY, 66.0, 6.0, 62.0), (REED, 42.0, 22.0, 58.0), (STRAW, 16.0, 40.0, 54.0)):
            card = QPolygonF([QPointF(x, y + 10), QPointF(x + side, y), QPointF(x + side, y + 38), QPointF(x, y + 48)])
            p.setPen(QPen(colour(tone), 1.4))
            p.setBrush(colour(tone, 0.24))
            p.drawPolygon(card)
        way = QPainterPath(QPointF(6.0, 106.0))
        way.cubicTo(QPointF(46.0, 118.0), QPointF(96.0, 112.0), QPointF(134.0, 84.0))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(colour(AMBER), 2.0, Qt.PenStyle.DotLine, Qt.PenCapStyle.RoundCap))
        p.drawPath(way)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(AMBER))
        p.drawPolygon(QPolygonF([QPointF(128.0, 98.0), QPointF(121.0, 80.0), QPointF(139.0, 76.0)]))
        p.restore()
