"""Matching a photograph: the set seen through the projection, the photograph over it at half strength, and corners,
lines and the horizon dragged to where they are in it."""

import math
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from ...gl.request import FrameRequest, ThroughLens
from ...scene import Projection
from ...scene.channels import ROTATION
from ..pictures.render_link import RenderLink
from ..pictures.shown_pictures import ShownFrame
from ..state.document import Document
from ..widgets.drag import Drag, DragArea, Keys
from ..widgets.images import image_of
from ..widgets.theme import AMBER, AXES, BLANK, DEEP, RUST, SKY, SURROUND, TEXT, font
from ..widgets.theme import colour as surface
from ..widgets.theme import on_picture as colour
from ..widgets.unexpected import painted
from .photo_match import PhotoMatch

_MARGIN = 14
_PICK = 11.0
_PHOTO_SIDE = 2048


class CornerGrip(NamedTuple):
    """A corner of a receiver."""

    node: str
    corner: int


class LineEnd(NamedTuple):
    """An end of a line that should be level, upright or deep."""

    number: int
    end: int


class HorizonGrip(NamedTuple):
    """The horizon, at a share of its way from left to right."""

    share: float


Grip = CornerGrip | LineEnd | HorizonGrip


class MatchView(DragArea):
    """The picture and the handles. What is found is written to the projection's place, turn and lens."""

    found = pyqtSignal()
    """Pins or lines changed, and with them the match."""

    def __init__(self, document: Document, link: RenderLink) -> None:
        super().__init__()
        self.document, self._link = document, link
        self.photo = PhotoMatch(document, self._changed)
        self._picture: QImage | None = None
        self._image: QImage | None = None
        self._hover: Grip | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 150)
        self.setAccessibleName("Match the photograph")
        link.drawn.connect(self._drawn)
        for signal in (document.changed, document.playhead.moved):
            signal.connect(self.ask)

    def sizeHint(self) -> QSize:
        return QSize(710, 420)

    @property
    def node(self) -> Projection | None:
        return self.photo.node

    def _changed(self) -> None:
        self.found.emit()
        self.update()

    def begin(self, node: Projection) -> None:
        """Show a projection's photograph over the set."""
        from ...files.artwork_files import resolve
        from ...files.errors import FileError

        self.photo.begin(node)
        self._picture = self._image = None
        try:
            pixels = np.ascontiguousarray(
                self.document.file.reader.picture(resolve(self.document.file.base, node.source), _PHOTO_SIDE)
            )
            self._picture = image_of(pixels, premultiplied=True).copy()
        except FileError as problem:
            self.document.messages.say(str(problem), True)
        self.ask()

    # Where things are

    @property
    def picture_rect(self) -> QRectF:
        node = self.node
        width, height = (node.width, node.height) if node else (16, 9)
        room = QRectF(self.rect()).adjusted(_MARGIN, _MARGIN / 2, -_MARGIN, -_MARGIN)
        scale = max(min(room.width() / width, room.height() / height), 1e-3)
        out = QRectF(0, 0, width * scale, height * scale)
        out.moveCenter(room.center())
        return out

    def to_widget(self, pixel: tuple[float, float] | np.ndarray) -> QPointF:
        """A pixel of the photograph in the widget."""
        node, rect = self.node, self.picture_rect
        assert node is not None
        scale = rect.width() / node.width
        return QPointF(rect.left() + float(pixel[0]) * scale, rect.top() + float(pixel[1]) * scale)

    def to_photo(self, at: QPointF) -> tuple[float, float]:
        node, rect = self.node, self.picture_rect
        assert node is not None
        scale = node.width / rect.width()
        return (at.x() - rect.left()) * scale, (at.y() - rect.top()) * scale

    # The picture

    def ask(self) -> None:
        node = self.node
        if node is None or not self.isVisible():
            return
        rect, ratio = self.picture_rect, self.devicePixelRatioF() * 0.75
        view = ThroughLens(node.id, projected=False)
        width, height = max(16, round(rect.width() * ratio)), max(16, round(rect.height() * ratio))
        self._link.want("lens", FrameRequest(self.document.playhead.frame, view, width, height))
        self.update()

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        if stream == "lens" and self.isVisible():
            self._image = drawn.see_through()
            self.update()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), surface(SURROUND))
        if self.node is None:
            return
        rect = self.picture_rect
        p.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        p.fillRect(rect, surface(BLANK))
        if self._image is not None:
            p.drawImage(rect, self._image)
        if self._picture is not None:
            p.setOpacity(0.5)
            p.drawImage(rect, self._picture)
            p.setOpacity(1.0)
        p.setClipRect(self.rect())
        self._paint_horizon(p)
        self._paint_edges(p)
        self._paint_lines(p)
        self._paint_corners(p)

    def _paint_horizon(self, p: QPainter) -> None:
        ends = self.photo.horizon()
        if ends is None:
            return
        a, b = self.to_widget(ends[0]), self.to_widget(ends[1])
        hot = isinstance(self._hover, HorizonGrip)
        p.setPen(QPen(colour(AMBER if hot else TEXT, 0.9 if hot else 0.6), 1.2, Qt.PenStyle.DashLine))
        p.drawLine(a, b)
        p.setFont(font(10, QFont.Weight.Medium))
        p.drawText(QPointF(self.picture_rect.left() + 8, a.y() - 5), "horizon")

    def _paint_edges(self, p: QPainter) -> None:
        p.setPen(QPen(colour(SKY, 0.9), 1.3))
        for start, end in self.photo.edges():
            p.drawLine(self.to_widget(start), self.to_widget(end))

    def _paint_corners(self, p: QPainter) -> None:
        places = self.photo.receiver_corners()
        if not places:
            self._paint_hint(p)
            return
        pixels = self.photo.seen(np.array(list(places.values())))
        pinned = {(pin.node, pin.corner): pin for pin in self.photo.pins}
        for key, pixel in zip(places, pixels, strict=True):
            hot = self._hover == CornerGrip(*key)
            pin = pinned.get(key)
            if pin is not None:
                at = self.to_widget(pin.pixel)
                if np.isfinite(pixel).all():
                    p.setPen(QPen(colour(RUST), 1.5))
                    p.drawLine(at, self.to_widget(pixel))
                p.setPen(QPen(colour(DEEP), 1.2))
                p.setBrush(colour(AMBER))
                p.drawEllipse(at, 6.5 if hot else 5.0, 6.5 if hot else 5.0)
            elif np.isfinite(pixel).all():
                p.setPen(QPen(colour(DEEP), 1.2))
                p.setBrush(colour(AMBER if hot else SKY))
                p.drawEllipse(self.to_widget(pixel), 5.5 if hot else 3.6, 5.5 if hot else 3.6)
        p.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_lines(self, p: QPainter) -> None:
        for number, line in enumerate(self.photo.lines):
            a, b = (self.to_widget(end) for end in line.ends)
            p.setPen(QPen(colour(DEEP, 0.7), 4))
            p.drawLine(a, b)
            p.setPen(QPen(colour(AXES[line.axis]), 2))
            p.drawLine(a, b)
            for end, at in enumerate((a, b)):
                hot = self._hover == LineEnd(number, end)
                p.setPen(QPen(colour(DEEP), 1.2))
                p.setBrush(colour(AMBER if hot else AXES[line.axis]))
                p.drawEllipse(at, 6.0 if hot else 4.5, 6.0 if hot else 4.5)
                p.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_hint(self, p: QPainter) -> None:
        rect = self.picture_rect
        box = QRectF(rect.center().x() - 210, rect.center().y() - 16, 420, 32)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(DEEP, 0.85))
        p.drawRoundedRect(box, 5, 5)
        p.setPen(colour(TEXT))
        p.setFont(font(12))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, "Choose in the inspector what the photograph is projected on.")

    # Dragging

    def _under(self, at: QPointF) -> Grip | None:
        """What can be dragged at a point of the widget."""
        best: tuple[float, Grip] | None = None

        def offer(point: QPointF, what: Grip, bonus: float = 0.0) -> None:
            nonlocal best
            away = math.hypot(point.x() - at.x(), point.y() - at.y())
            if away < _PICK and (best is None or away - bonus < best[0]):
                best = (away - bonus, what)

        for number, line in enumerate(self.photo.lines):
            for end, place in enumerate(line.ends):
                offer(self.to_widget(place), LineEnd(number, end), 2.0)
        pinned = {(pin.node, pin.corner): pin.pixel for pin in self.photo.pins}
        places = self.photo.receiver_corners()
        if places:
            for key, pixel in zip(places, self.photo.seen(np.array(list(places.values()))), strict=True):
                shown = pinned.get(key, pixel)
                if np.isfinite(np.asarray(shown)).all():
                    offer(self.to_widget(shown), CornerGrip(*key), 1.0)
        if best is not None:
            return best[1]
        ends = self.photo.horizon()
        if ends is not None:
            a, b = self.to_widget(ends[0]), self.to_widget(ends[1])
            share = (at.x() - a.x()) / max(b.x() - a.x(), 1e-6)
            if 0.0 <= share <= 1.0 and abs(at.y() - (a.y() + share * (b.y() - a.y()))) < 6.0:
                return HorizonGrip(share)
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        node = self.node
        if event is None or node is None:
            return
        under = self._under(event.position())
        if event.button() == Qt.MouseButton.RightButton:
            if isinstance(under, CornerGrip):
                self.photo.let_go(under)
            return
        if under is not None and event.button() == Qt.MouseButton.LeftButton:
            self.drag = MatchGripDrag(event.position(), self, node, under)
            self.document.gesture.begin(f"Match {node.name}")

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.node is None:
            return
        if self.drag is not None:
            self.drag.move(event.position(), event.modifiers())
            return
        hover = self._under(event.position())
        if hover != self._hover:
            self._hover = hover
            self.setCursor(Qt.CursorShape.PointingHandCursor if hover else Qt.CursorShape.ArrowCursor)
            self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if self.drag is not None or event is None or not self._press(event):
            super().keyPressEvent(event)

    def _press(self, event: QKeyEvent) -> bool:
        """N goes from corner to corner, arrows move the one that is lit by a pixel (Shift: a tenth), Delete lets it
        go. Whether the key meant anything."""
        steps = {
            Qt.Key.Key_Left: (-1.0, 0.0), Qt.Key.Key_Right: (1.0, 0.0), Qt.Key.Key_Up: (0.0, -1.0),
            Qt.Key.Key_Down: (0.0, 1.0),
        }  # fmt: skip
        places = self.photo.receiver_corners()
        if not places:
            return False
        keys = list(places)
        lit = self._hover if isinstance(self._hover, CornerGrip) else None
        if event.key() == Qt.Key.Key_N:
            back = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            at = keys.index(lit) if lit in keys else (0 if back else -1)
            self._hover = CornerGrip(*keys[(at + (-1 if back else 1)) % len(keys)])
            self.update()
            return True
        if lit is None or lit not in places:
            return False
        if event.key() == Qt.Key.Key_Delete:
            self.photo.let_go(lit)
            return True
        if event.key() not in steps:
            return False
        fine = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        pinned = {(pin.node, pin.corner): pin.pixel for pin in self.photo.pins}
        x, y = pinned.get(lit, self.photo.seen(places[lit][None])[0])
        dx, dy = steps[Qt.Key(event.key())]
        if math.isfinite(x) and math.isfinite(y):
            self.photo.pin(lit[0], lit[1], (float(x) + fine * dx, float(y) + fine * dy))
        return True

    def event(self, event: QEvent | None) -> bool:
        # These keys are actions elsewhere; here they are the view's.
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            arrows = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
            if event.key() in (Qt.Key.Key_N, Qt.Key.Key_Delete, *arrows) and self.node is not None:
                event.accept()
                return True
        return super().event(event)


class MatchGripDrag(Drag):
    """A corner, an end of a line, or the horizon."""

    def __init__(self, start: QPointF, view: MatchView, node: Projection, grip: Grip) -> None:
        super().__init__(start)
        self._view, self._document, self._node, self._grip = view, view.document, node, grip
        self._before = {name: self._document.evaluations.value(node.id, name) for name in ROTATION}

    def move(self, at: QPointF, keys: Keys) -> None:
        match self._grip:
            case CornerGrip(node_id, corner):
                self._view.photo.pin(node_id, corner, self._view.to_photo(at))
            case LineEnd(number, end):
                self._view.photo.move_end(number, end, self._view.to_photo(at))
            case HorizonGrip(share):
                self._turn(self.offset(at).y(), share)

    def _turn(self, down: float, share: float) -> None:
        """The horizon's middle third tilts, its ends roll."""
        node, width = self._node, self._view.picture_rect.width()
        focal = float(self._document.evaluations.here.camera(node.id).focal_px[0]) * width / node.width
        tilt, _, roll = (self._before[name] for name in ROTATION)
        if 1 / 3 < share < 2 / 3:
            changes = {(node.id, ROTATION[0]): tilt + math.degrees(math.atan2(down, focal))}
        else:
            arm = (share - 0.5) * width
            turned = math.atan2(down, arm) if share > 0.5 else math.atan2(-down, -arm)
            changes = {(node.id, ROTATION[2]): roll + math.degrees(turned)}
        self._document.recorder.set_values(f"Match {node.name}", changes)

    def release(self, at: QPointF) -> None:
        self._document.gesture.commit()

    def cancel(self) -> None:
        self._document.cancel()
