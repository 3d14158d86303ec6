"""A pad: two dials of a node as a place in a square."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ...edits.mixes import members_on_pad
from ...scene import Dial
from ..channels.field import ChannelField, channel_mark
from ..state.document import Document
from ..widgets.theme import AMBER, DEEP, LINE, REED, RUST, SOFT, TEXT, colour, font
from ..widgets.unexpected import painted

_SIDE = 176
_RIM = 16.0
_STEP, _FINE, _COARSE = 0.05, 0.01, 0.25


class DialPad(QWidget):
    """Dragged, both dials change as one step; arrows step them; a double click goes to the middle."""

    def __init__(
        self, document: Document, node_id: str, across: tuple[ChannelField, Dial], up: tuple[ChannelField, Dial]
    ) -> None:
        super().__init__()
        self._document, self._node_id = document, node_id
        self._across, self._up = across, up
        self._pressed = False
        self.setFixedSize(_SIDE, _SIDE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.CrossCursor)
        name = document.scene.node(node_id).name
        self.setAccessibleName(f"{name} pad")
        self.setToolTip(f"{name}: drag, or use the arrow keys. A double click goes to the middle.")

    def sizeHint(self) -> QSize:
        return QSize(_SIDE, _SIDE)

    def place_of(self, x: float, y: float) -> QPointF:
        """Where values across and up are in the square."""
        shares = [
            (value - dial.low) / (dial.high - dial.low) for value, (_, dial) in ((x, self._across), (y, self._up))
        ]
        room = _SIDE - 2.0 * _RIM
        return QPointF(_RIM + min(max(shares[0], 0.0), 1.0) * room, _RIM + (1.0 - min(max(shares[1], 0.0), 1.0)) * room)

    def values_at(self, at: QPointF) -> tuple[float, float]:
        """The values across and up of a point."""
        room = _SIDE - 2.0 * _RIM
        shares = ((at.x() - _RIM) / room, 1.0 - (at.y() - _RIM) / room)
        found = (
            dial.low + min(max(share, 0.0), 1.0) * (dial.high - dial.low)
            for share, (_, dial) in zip(shares, (self._across, self._up), strict=True)
        )
        x, y = (float(f"{value:.4g}") for value in found)
        return x, y

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(_RIM, _RIM, _SIDE - 2.0 * _RIM, _SIDE - 2.0 * _RIM)
        p.setPen(QPen(colour(AMBER if self.hasFocus() else LINE), 1))
        p.setBrush(colour(DEEP))
        p.drawRoundedRect(room.adjusted(-8, -8, 8, 8), 4, 4)
        at = self.place_of(self._across[0].value, self._up[0].value)
        scene = self._document.scene
        node = scene.node(self._node_id)
        p.setFont(font(10))
        for member, x, y in members_on_pad(node):
            name, there = scene.node(member).name, self.place_of(x, y)
            p.setPen(QPen(colour(LINE), 1))
            p.drawLine(at, there)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(colour(SOFT))
            p.drawEllipse(there, 3, 3)
            p.setPen(colour(TEXT))
            text = p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, 70)
            wide = p.fontMetrics().horizontalAdvance(text)
            left = min(max(there.x() - wide / 2, 10.0), _SIDE - 10.0 - wide)
            p.drawText(QPointF(left, there.y() + (15 if there.y() < _SIDE / 2 else -7)), text)
        marks = {channel_mark(self._document, *field.place) for field, _ in (self._across, self._up)}
        p.setPen(colour(DEEP))
        p.setBrush(colour(RUST if "pending" in marks else AMBER if "here" in marks else REED))
        p.drawEllipse(at, 7, 7)

    def put(self, x: float, y: float, merge: str = "") -> None:
        """Both dials at once."""
        name = f"{self._document.scene.node(self._node_id).name}: pad"
        places = (self._across[0].place, self._up[0].place)
        self._document.recorder.set_values(name, dict(zip(places, (x, y), strict=True)), merge, False)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._pressed = True
            self.setFocus()
            self._document.gesture.begin(f"{self._document.scene.node(self._node_id).name}: pad")
            self.put(*self.values_at(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pressed:
            self.put(*self.values_at(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._pressed:
            self._pressed = False
            self._document.gesture.commit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.put(self._across[1].default, self._up[1].default)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        if event.key() == Qt.Key.Key_Escape and self._pressed:
            self._pressed = False
            self._document.cancel()
        elif event.key() in steps:
            keys = event.modifiers()
            size = _FINE if keys & Qt.KeyboardModifier.ShiftModifier else _STEP
            size = _COARSE if keys & Qt.KeyboardModifier.ControlModifier else size
            values = [
                min(max(field.value + size * way, dial.low), dial.high)
                for way, (field, dial) in zip(steps[Qt.Key(event.key())], (self._across, self._up), strict=True)
            ]
            self.put(round(values[0], 9), round(values[1], 9), f"{self._node_id}/pad")
        else:
            super().keyPressEvent(event)

    def event(self, event) -> bool:  # type: ignore[no-untyped-def]
        # The arrows step the pad, not the playhead.
        if event.type() == event.Type.ShortcutOverride and event.key() in (
            Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Escape,
        ):  # fmt: skip
            event.accept()
            return True
        return super().event(event)
