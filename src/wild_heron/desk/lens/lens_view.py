"""The Lens's picture: drawn by the render process, with guides over it; dragging in it moves the camera."""

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFont,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)

from ...arrays import Pixels
from ...gl.request import FrameRequest, ThroughLens
from ...scene import Scene
from ..pictures.preview_cache import PreviewCache
from ..pictures.render_link import RenderLink
from ..pictures.shown_pictures import HeldPicture, ShownFrame
from ..state.document import Document
from ..widgets.drag import DragArea
from ..widgets.images import opaque_image_of
from ..widgets.theme import AMBER, BLANK, DEEP, REED, RUST, SOFT, SURROUND, TEXT, font
from ..widgets.theme import colour as surface
from ..widgets.theme import on_picture as colour
from ..widgets.unexpected import painted
from .camera_moves import CameraMoves
from .comparison import Comparison
from .format_outlines import FormatOutlines, WindowDrag
from .ghosts import Ghosts
from .guide_painting import beyond, outer, paint_guides
from .lens_drags import CameraDrag, WipeDrag

_MARGIN = 14
BLURRED_SAMPLES = 16
"""How many samples the frame is shown with as it goes out."""
_TOOLS = {
    "turn": ("pan", "tilt"), "roll": ("roll",), "slide": ("truck",), "push": ("dolly",), "zoom": ("zoom",),
    "orbit": ("orbit",),
}  # fmt: skip


def false_colours(pixels: Pixels) -> tuple[QImage, tuple[float, float]]:
    """A stretch picture (H, W, 4) in colours: reed up to 1 : 1, amber to rust beyond 2 : 1, violet where nothing is
    received.

    Also the parts of all receivers that are stretched beyond twice, and that receive nothing.
    """
    from ...process.stretch import factors

    factor, received, receiver = factors(pixels)
    share = np.clip(np.log2(np.maximum(factor, 1.0)), 0.0, 1.0)[..., None]
    tones = [np.array([int(tone[k : k + 2], 16) for k in (1, 3, 5)], dtype=np.float64) for tone in (REED, AMBER, RUST)]
    low = tones[0] + (tones[1] - tones[0]) * np.minimum(2.0 * share, 1.0)
    shown = low + (tones[2] - tones[1]) * np.maximum(2.0 * share - 1.0, 0.0)
    shown[receiver & ~received] = (124, 92, 170)
    shown[~receiver] = (30, 38, 43)
    out = np.full(pixels.shape, 255, np.uint8)
    out[..., :3] = shown
    total = max(int(receiver.sum()), 1)
    parts = (int((received & (factor > 2.0)).sum()) / total, int((receiver & ~received).sum()) / total)
    return opaque_image_of(out), parts


class LensView(DragArea):
    """Shows the picture as large as it goes on a neutral surround."""

    shown = pyqtSignal()
    """A new picture was taken over."""

    def __init__(self, document: Document, link: RenderLink, moves: CameraMoves) -> None:
        super().__init__()
        self._document, self._link, self._moves = document, link, moves
        self.scale = 0.5
        self.tool = "orbit"
        self.outlines = FormatOutlines(document)
        self.bare: tuple[str, ...] | None = None
        """The sides that show bare background; None while artwork is still being read."""
        self.stretch = False
        self._blurred: tuple[float, Scene] | None = None
        """At which frame of which scene the picture is shown as it goes out."""
        """Whether false colours show how far projected photographs are stretched."""
        self.stretched: tuple[float, float] | None = None
        """The parts of all receivers in the picture that are stretched beyond twice, and that receive nothing."""
        self.cache: PreviewCache | None = None
        self.wish: FrameRequest | None = None
        """What was asked for last."""
        self.image: QImage | None = None
        self.shown_frame = 0.0
        """The frame of the picture that is shown."""
        self.ghosts = Ghosts(document, link)
        self.comparison = Comparison(document, link)
        for each in (self.ghosts, self.comparison):
            each.changed.connect(self.update)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 150)
        self.setMouseTracking(True)
        self.setAccessibleName("Lens")
        self.setCursor(Qt.CursorShape.CrossCursor)
        link.drawn.connect(self._drawn)
        link.restarted.connect(self.ask)
        for signal in (document.changed, document.playhead.moved, document.settings_changed):
            signal.connect(self.ask)
        # What lies over the picture does not change with the frame, so a new frame repaints nothing before it comes.
        for signal in (document.changed, document.settings_changed, document.selection.changed):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(710, 420)

    @property
    def picture_rect(self) -> QRectF:
        """Where the frame is, in widget pixels."""
        shape = self._document.views.format
        room = QRectF(self.rect()).adjusted(_MARGIN, _MARGIN / 2, -_MARGIN, -_MARGIN)
        scale = max(min(room.width() / shape.width, room.height() / shape.height) / beyond(shape.guides), 1e-3)
        width, height = round(shape.width * scale), round(shape.height * scale)
        left = room.left() + (room.width() - width) / 2
        top = room.top() + (room.height() - height) / 2
        return QRectF(round(left), round(top), width, height)

    @property
    def drawn_rect(self) -> QRectF:
        """Where the picture is: under a mask it goes beyond the frame."""
        return outer(self.picture_rect, self._document.views.format.guides)

    def set_scale(self, scale: float) -> None:
        self.scale = scale
        self.ask()

    def ask(self) -> None:
        """Ask for the picture at the playhead."""
        camera = self._document.views.camera
        if camera is None:
            self._link.forget("lens")
            self.image = None
        if camera is None or not self.isVisible():
            return
        rect = self.drawn_rect
        ratio = self.devicePixelRatioF() * self.scale
        width, height = max(16, round(rect.width() * ratio)), max(16, round(rect.height() * ratio))
        chosen, shape = self._document.views.format_or_none, self._document.views.format
        view = ThroughLens(
            self._document.views.lens, chosen.name if chosen else None, self.stretch, around=beyond(shape.guides)
        )
        frame = self._document.playhead.frame
        wish = FrameRequest(frame, view, min(width, 8192), min(height, 4320))
        if self._blurred != (frame, self._document.views.shown):
            self._blurred = None
        self.wish = wish
        if self._blurred is not None:
            self._link.want("lens", replace(wish, samples=BLURRED_SAMPLES, fine=True))
            return
        held = self.cache.look_up(wish) if self.cache is not None and not self.stretch else None
        if held is None:
            self._link.want("lens", wish)
        else:
            self._link.forget("lens")
            self._take(held, True, wish.frame)
        self.comparison.ask(wish)
        self.ghosts.ask(wish)

    def show_blurred(self) -> None:
        """Show the frame at the playhead as it goes out, with motion blur and depth of field, till anything changes."""
        self._blurred = (self._document.playhead.frame, self._document.views.shown)
        self.ask()

    @property
    def is_blurred(self) -> bool:
        """Whether what is shown, or asked for, is the frame as it goes out."""
        return self._blurred is not None

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        if stream != "lens" or not self.isVisible():
            return
        if self.stretch:
            self.bare = None
            self.image, self.stretched = false_colours(drawn.pixels)
            self._changed()
            return
        wish = self.wish
        settled = self._document.views.moving is self._document.scene and not self._document.gesture.running
        asked = wish is not None and (wish.frame, wish.size) == (drawn.frame, drawn.size)
        if self.cache is not None and wish is not None and asked and drawn.complete and settled and not self._blurred:
            self.cache.store(wish, drawn.picture)
        self._take(drawn.picture, drawn.complete, drawn.frame)

    def _take(self, picture: HeldPicture, complete: bool, frame: float) -> None:
        """Show a picture, and what it tells."""
        self.image, self.stretched, self.shown_frame = picture.image, None, frame
        self.bare = picture.bare if complete else None
        self._changed()

    def _changed(self) -> None:
        self.shown.emit()
        self.update()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    # Painting

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), surface(SURROUND))
        rect, drawn = self.picture_rect, self.drawn_rect
        if self._document.views.camera is None:
            self._paint_hint(p)
            return
        if self.image is None:
            p.fillRect(drawn, surface(BLANK))
        else:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(drawn, self.image)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.comparison.paint(p, drawn)
        self.ghosts.paint(p, drawn)
        paint_guides(p, rect, self._document.views.format.guides)
        self.outlines.paint(p, rect, drawn)
        if self._document.recorder.auto_key:
            p.setPen(QPen(colour(AMBER), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(rect.adjusted(-2, -2, 2, 2))
        problems = self._document.evaluations.problems
        if problems:
            self._paint_problems(p, rect, list(problems.values()))

    def _paint_hint(self, p: QPainter) -> None:
        p.setPen(surface(TEXT))
        p.setFont(font(15, QFont.Weight.DemiBold))
        middle = QRectF(self.rect())
        p.drawText(middle.adjusted(0, -24, 0, -24), Qt.AlignmentFlag.AlignCenter, "Nothing looks at the scene yet")
        p.setPen(surface(SOFT))
        p.setFont(font(12))
        has = bool(self._document.scene.nodes)
        first = "" if has else "Drop artwork here, or Set ▸ Bring in (Ctrl+I).  "
        p.drawText(
            middle.adjusted(0, 18, 0, 18), Qt.AlignmentFlag.AlignCenter, f"{first}Camera ▸ Add camera (Ctrl+Shift+C)."
        )

    def _paint_problems(self, p: QPainter, rect: QRectF, problems: list[str]) -> None:
        """What is wrong with the first node that something is wrong with, and how many more there are."""
        more = f"  And {len(problems) - 1} more, marked in the Rig." if len(problems) > 1 else ""
        p.setFont(font(11, QFont.Weight.Medium))
        metrics = p.fontMetrics()
        room = int(rect.width()) - 36 - metrics.horizontalAdvance(more)
        text = metrics.elidedText(problems[0], Qt.TextElideMode.ElideMiddle, max(room, 60)) + more
        width = metrics.horizontalAdvance(text) + 20
        box = QRectF(rect.left() + 8, rect.bottom() - 30, width, 22)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(RUST))
        p.drawRoundedRect(box, 4, 4)
        p.setPen(colour(DEEP))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    # Moving the camera

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or self._document.views.camera is None:
            return
        at = event.position()
        if self.comparison.takes(at, self.drawn_rect):
            self.drag = WipeDrag(at, self.comparison, lambda: self.drawn_rect)
            return
        grip = self.outlines.at(at, self.picture_rect)
        if grip is not None:
            self.drag = WindowDrag(at, self._document, self.outlines, grip, self.picture_rect)
            self.update()
            return
        why = next((why for name in _TOOLS[self.tool] if (why := self._moves.refused(name))), None)
        if why:
            self._document.messages.say(why, True)
            return
        self.drag = CameraDrag(at, self._document, self._moves, self.tool, lambda: self.picture_rect)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self.drag is not None:
            self.drag.move(event.position(), event.modifiers())
            return
        grip = None
        if self.comparison.takes(event.position(), self.drawn_rect):
            self.setCursor(Qt.CursorShape.SplitHCursor)
        else:
            grip = self.outlines.at(event.position(), self.picture_rect)
            shape = Qt.CursorShape.SizeAllCursor if grip is not None else Qt.CursorShape.CrossCursor
            self.setCursor(Qt.CursorShape.SizeFDiagCursor if grip is not None and grip.corner else shape)
        held = grip.shape.name if grip is not None else None
        if held != self.outlines.held:
            self.outlines.held = held
            self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or self._document.views.camera is None or self.drag is not None:
            return
        why = self._moves.refused("dolly")
        if why:
            self._document.messages.say(why, True)
            return
        fine = 0.2 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        _, distance = self._moves.focus_point()
        amount = self._moves.moves.dolly + event.angleDelta().y() / 120.0 * distance * 0.04 * fine
        self._moves.set_moves(
            replace(self._moves.moves, dolly=amount), "Dolly", f"wheel/{self._document.playhead.frame}"
        )
        event.accept()
