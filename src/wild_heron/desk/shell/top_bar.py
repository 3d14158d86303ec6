"""The top bar: scene name, transport, frame and time, auto-key, preview quality, format."""

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QLabel, QLineEdit, QWidget

from ...scene import seconds, timecode
from ..commands.actions import ActionTable
from ..state.document import Document
from ..state.playback import Playback
from ..widgets import icons
from ..widgets.panel_parts import Choice, label, set_surface
from ..widgets.quantities import parse_number
from ..widgets.theme import AMBER, DEEP, FAINT, HOVER, LIT_AMBER, SOFT, TEXT, colour, font
from ..widgets.unexpected import painted

_ROOMY = 1080
"""From what width on there is room for the name of the file."""
QUALITIES = (("Full", 1.0), ("Draft ½", 0.5), ("Draft ¼", 0.25))


class _PlayButton(QAbstractButton):
    """The round play button."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(32, 32)
        self.playing = False
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(colour(TEXT), 1.5) if self.hasFocus() else Qt.PenStyle.NoPen)
        p.setBrush(colour(LIT_AMBER if self.underMouse() else AMBER))
        p.drawEllipse(QRectF(1, 1, 30, 30))
        icons.paint(p, "pause" if self.playing else "play", QRectF(8, 8, 16, 16), colour(DEEP))


class _AutoKeyButton(QAbstractButton):
    """The auto-key switch: an outline while off, filled with amber while on."""

    def __init__(self) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setText("Auto-key")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(112, 26)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        on = self.isChecked()
        box = QRectF(1, (self.height() - 24) / 2, self.width() - 2, 24)
        p.setPen(QPen(colour(TEXT if self.hasFocus() else AMBER if on else FAINT), 1.2))
        p.setBrush(colour(AMBER) if on else colour(HOVER) if self.underMouse() else Qt.BrushStyle.NoBrush)
        p.drawRoundedRect(box, 12, 12)
        tone = colour(DEEP if on else SOFT)
        p.setPen(QPen(tone, 1.4))
        p.setBrush(tone if on else Qt.BrushStyle.NoBrush)
        p.drawEllipse(QRectF(box.left() + 11, box.center().y() - 4, 8, 8))
        p.setPen(tone)
        p.setFont(font(12, QFont.Weight.DemiBold if on else QFont.Weight.Medium))
        text = "Auto-key on" if on else "Auto-key off"
        p.drawText(box.adjusted(26, 0, -8, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)


class FrameField(QWidget):
    """The frame at the playhead, beside its second or timecode; click to type, click the time to change its form."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._as_timecode = False
        self.setFixedSize(216, 26)
        set_surface(self, "field")
        row = QHBoxLayout(self)
        row.setContentsMargins(5, 0, 10, 0)
        row.setSpacing(4)
        self.edit = QLineEdit()
        self.edit.setFont(font(14, QFont.Weight.DemiBold))
        self.edit.setFixedSize(58, 22)
        self.edit.setProperty("look", "bare")
        self.edit.setAccessibleName("Frame")
        self.edit.setToolTip("The frame at the playhead. Type a frame, a sum, or seconds such as 4s.")
        self.edit.returnPressed.connect(self._typed)
        self.time = _Clickable("")
        self.time.setFont(font(12))
        self.time.setProperty("role", "soft")
        self.time.setToolTip("Click to change between seconds and timecode.")
        self.time.clicked = self._toggle
        self.rate = label("", "soft")
        row.addWidget(self.edit)
        row.addWidget(self.time)
        row.addStretch()
        row.addWidget(self.rate)
        document.playhead.moved.connect(self.refresh)
        document.changed.connect(self.refresh)
        self.refresh()

    def _toggle(self) -> None:
        self._as_timecode = not self._as_timecode
        self.refresh()

    def refresh(self) -> None:
        rate, frame = self._document.settings.rate, self._document.playhead.frame
        if not self.edit.hasFocus() or not self.edit.isModified():
            self.edit.setText(f"{frame:04.0f}" if frame == round(frame) else f"{frame:.2f}")
        self.time.setText(timecode(frame, rate) if self._as_timecode else f"{seconds(frame, rate):.2f} s")
        self.rate.setText(f"{rate.label} fps")

    def _typed(self) -> None:
        text = self.edit.text().strip()
        try:
            if text.endswith("s"):
                frame = round(parse_number(text[:-1]) * self._document.settings.rate.fps)
            else:
                frame = round(parse_number(text))
            self._document.playhead.set_frame(frame)
        except ValueError as problem:
            self._document.messages.say(str(problem), True)
        self.edit.setModified(False)
        self.edit.clearFocus()
        self.refresh()


class _Clickable(QLabel):
    clicked = staticmethod(lambda: None)

    def mousePressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.clicked()


class TopBar(QWidget):
    """The strip under the menus."""

    def __init__(self, document: Document, playback: Playback, actions: ActionTable) -> None:
        super().__init__()
        self._document, self._playback = document, playback
        set_surface(self, "panel", "bottom")
        self.setFixedHeight(44)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 14, 0)
        row.setSpacing(6)
        self.name = label("", size=14, weight=QFont.Weight.DemiBold)
        self.file = label("", "soft", 12)
        # What is short of room gives way here first.
        self.name.setMinimumWidth(60)
        self.file.setMinimumWidth(10)
        row.addWidget(self.name)
        row.addSpacing(4)
        row.addWidget(self.file)
        row.addStretch(3)
        for name in ("play.start", "play.key_back", "play.back"):
            row.addWidget(actions.button(name))
        self.play = _PlayButton()
        self.play.setToolTip(actions.tip("play.toggle"))
        self.play.setAccessibleName("Play")
        self.play.clicked.connect(actions["play.toggle"].trigger)
        row.addWidget(self.play)
        for name in ("play.forward", "play.key_forward", "play.end"):
            row.addWidget(actions.button(name))
        row.addWidget(actions.button("play.loop"))
        row.addSpacing(8)
        self.frame = FrameField(document)
        row.addWidget(self.frame)
        row.addStretch(2)
        self.auto_key = _AutoKeyButton()
        self.auto_key.setToolTip(actions.tip("keys.auto"))
        self.auto_key.clicked.connect(actions["keys.auto"].trigger)
        row.addWidget(self.auto_key)
        row.addSpacing(6)
        self.quality = Choice()
        self.quality.addItems([name for name, _ in QUALITIES])
        self.quality.setToolTip("Preview quality: how finely the views are drawn")
        self.quality.setAccessibleName("Preview quality")
        row.addWidget(self.quality)
        self.format = Choice()
        self.format.setToolTip("The output frame that the Lens shows")
        self.format.setAccessibleName("Format")
        self.format.setMinimumWidth(96)
        self.format.activated.connect(lambda: document.views.set_format(self.format.currentText()))
        row.addWidget(self.format)
        for combo in (self.quality, self.format):
            combo.setFixedHeight(26)
        document.changed.connect(self.refresh)
        document.file.changed.connect(self.refresh)
        document.settings_changed.connect(self.refresh)
        playback.changed.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.file.setVisible(self.width() >= _ROOMY)
        super().resizeEvent(event)

    @property
    def scale(self) -> float:
        """Picture pixels per screen pixel at the chosen quality."""
        return QUALITIES[self.quality.currentIndex()][1]

    def refresh(self) -> None:
        document = self._document
        title, _, rest = document.scene.name.partition(", ")
        self.name.setText(title)
        file = document.file.path.name if document.file.path else "not saved yet"
        self.file.setText(rest if rest and document.file.path else rest or file)
        self.file.setToolTip(str(document.file.path or "not saved yet"))
        self.auto_key.setChecked(document.recorder.auto_key)
        self.play.playing = self._playback.is_playing
        self.play.update()
        names = [each.name for each in document.scene.formats_with_main()]
        if [self.format.itemText(i) for i in range(self.format.count())] != names:
            self.format.clear()
            self.format.addItems(names)
        self.format.setCurrentText(document.views.format.name)
