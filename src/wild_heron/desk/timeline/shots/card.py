"""A camera or a framing as a small picture to choose: on the shelf and on the contact sheet."""

from collections.abc import Sequence

from PyQt6.QtCore import QMimeData, QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QDrag, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QApplication, QWidget

from ....scene import Framing, View, span_label
from ...pictures.small_pictures import SmallPictures
from ...state.document import Document
from ...widgets.ease_menu import curve
from ...widgets.theme import AMBER, BLANK, DEEP, HOVER, LINE, RAISED, REED, RUST, SOFT, TEXT, colour, elided, font
from ...widgets.unexpected import painted
from ..film_parts import FilmParts
from .shots_view import VIEW_MIME

_FOOT = 21
_SETTLED_MS = 350


class ViewCard(QAbstractButton):
    """Pressed it is chosen; dragged it can be dropped on the film, or between others on the shelf."""

    def __init__(self, node: View, small: SmallPictures, number: int = 0, foot: bool = True) -> None:
        super().__init__()
        self.node, self._small, self.number, self._foot = node, small, number, foot
        self.frame = 0.0
        """At which frame it is seen."""
        self.is_shown = False
        """Whether the Lens shows it."""
        self._from: QPointF | None = None
        self.setCheckable(True)
        self.setText(node.name)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(node.name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def say(self, tip: str) -> None:
        self.setToolTip(tip)

    def sizeHint(self) -> QSize:
        return QSize(140, 100)

    @property
    def picture_rect(self) -> QRectF:
        box = QRectF(self.rect()).adjusted(4, 4, -4, -4)
        return box.adjusted(0, 0, 0, -_FOOT) if self._foot else box

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        lit = self.isChecked() or self.is_shown
        p.setPen(QPen(colour(AMBER if lit else LINE), 1.6 if lit else 1.0))
        p.setBrush(colour(HOVER if self.underMouse() else RAISED))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 5, 5)
        room = self.picture_rect
        image = self._small.look_up(self.node.id, self.frame)
        if image is None:
            p.fillRect(room, colour(BLANK))
        else:
            scale = min(room.width() / image.width(), room.height() / image.height())
            size = QRectF(0, 0, image.width() * scale, image.height() * scale)
            size.moveCenter(room.center())
            p.drawImage(size, image)
            room = size
        if 1 <= self.number <= 9:
            badge = QRectF(room.left() + 2, room.top() + 2, 15, 15)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(colour(RUST if self.is_shown else DEEP, 1.0 if self.is_shown else 0.8))
            p.drawRoundedRect(badge, 3, 3)
            p.setFont(font(10, QFont.Weight.DemiBold))
            p.setPen(colour(DEEP if self.is_shown else TEXT))
            p.drawText(badge, Qt.AlignmentFlag.AlignCenter, str(self.number))
        self._words(p, room)
        if self.hasFocus():
            p.setPen(QPen(colour(TEXT), 1.6))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRoundedRect(QRectF(self.rect()).adjusted(3.5, 3.5, -3.5, -3.5), 3, 3)

    def _words(self, p: QPainter, room: QRectF) -> None:
        if not self._foot:
            plate = QRectF(room.left(), room.bottom() - 14, room.width(), 14)
            p.fillRect(plate, colour(DEEP, 0.78))
            p.setFont(font(10))
            p.setPen(colour(TEXT))
            text = elided(self.node.name, int(plate.width()) - 6, 10)
            p.drawText(plate.adjusted(3, 0, -3, 0), Qt.AlignmentFlag.AlignVCenter, text)
            return
        foot = QRectF(8, self.height() - _FOOT - 2, self.width() - 16, _FOOT)
        p.setFont(font(11, QFont.Weight.Medium))
        p.setPen(colour(AMBER if self.isChecked() else TEXT))
        p.drawText(foot, Qt.AlignmentFlag.AlignVCenter, elided(self.node.name, int(foot.width()) - 62, 11))
        if isinstance(self.node, Framing):
            unit = "s" if self.node.timed_by == "seconds" else "u/s"
            p.setFont(font(10))
            p.setPen(colour(SOFT))
            p.drawText(
                foot.adjusted(0, 0, -26, 0),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                f"{self.node.time:g} {unit}",
            )
            p.setPen(QPen(colour(REED), 1.4))
            p.drawPolyline(curve(self.node.ease, QRectF(foot.right() - 19, foot.top() + 6, 18, foot.height() - 12)))

    # Dragging

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        super().mousePressEvent(event)
        self._from = event.position() if event is not None else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._from is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if (event.position() - self._from).manhattanLength() < QApplication.startDragDistance():
            return
        self._from = None
        self.setDown(False)
        # Its source is what outlives the card, should the shelf be built anew meanwhile.
        drag = QDrag(self.window())
        data = QMimeData()
        data.setData(VIEW_MIME, self.node.id.encode())
        drag.setMimeData(data)
        drag.setPixmap(self.grab().scaledToHeight(48, Qt.TransformationMode.SmoothTransformation))
        drag.exec(Qt.DropAction.MoveAction)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter does what a double click does, Space chooses it."""
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.doubleClicked()
            return
        super().keyPressEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.doubleClicked()

    def doubleClicked(self) -> None:
        """It is meant: nothing, unless whoever shows it says what."""


class CardHolder(QWidget):
    """Shows cards as they are at the playhead, once that rests."""

    def __init__(self, document: Document, parts: FilmParts) -> None:
        super().__init__()
        self.document, self.parts = document, parts
        self._settled = QTimer(self)
        self._settled.setSingleShot(True)
        self._settled.setInterval(_SETTLED_MS)
        self._settled.timeout.connect(self.show_frame)
        document.playhead.moved.connect(self._settled.start)
        parts.small.changed.connect(self._repaint)

    def every_card(self) -> Sequence[ViewCard]:
        """The cards that it shows."""
        return ()

    def show_frame(self) -> None:
        """Show them as they are at the playhead, unless it plays."""
        if self.parts.playback.is_playing:
            return
        for card in self.every_card():
            card.frame = self.document.playhead.frame
            card.update()

    def _repaint(self) -> None:
        for card in self.every_card():
            card.update()


def framing_tip(node: Framing) -> str:
    """What a card of the shelf says of its framing."""
    unit = "seconds" if node.timed_by == "seconds" else "units a second"
    return (
        f"{node.name}: {span_label(node.ease)}, {node.time:g} {unit}, stays {node.stay:g} s. Double-click to go there."
    )
