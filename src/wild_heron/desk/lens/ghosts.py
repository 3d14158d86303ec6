"""Ghosts over the Lens's picture: what it shows at the key before and at the key after the playhead."""

from collections.abc import Iterable

from msgspec.structs import replace
from PyQt6.QtCore import QObject, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter

from ...edits import neighbouring_key_frames
from ...gl.request import FrameRequest
from ...scene import Scene
from ...scene.dependencies import closure, final_stage
from ..pictures.render_link import RenderLink
from ..pictures.shown_pictures import ShownFrame
from ..state.document import Document
from ..widgets.theme import DEEP, SKY, font
from ..widgets.theme import on_picture as colour

STREAMS = {"before": "ghost before", "after": "ghost after"}
_STRENGTH = 0.38


class Ghosts(QObject):
    """Up to two pictures, half transparent. They are asked for once for as long as neither key nor scene changes."""

    changed = pyqtSignal()

    def __init__(self, document: Document, link: RenderLink) -> None:
        super().__init__()
        self._document, self._link = document, link
        self.on = {"before": False, "after": False}
        self.images: dict[str, QImage] = {}
        self._asked: dict[str, tuple[Scene, FrameRequest]] = {}
        self._wish: FrameRequest | None = None
        link.drawn.connect(self._drawn)
        link.restarted.connect(self._asked.clear)
        document.selection.changed.connect(self._again)

    def show(self, side: str, on: bool) -> None:
        self.on[side] = on
        self._again()

    def _again(self) -> None:
        if self._wish is not None and any(self.on.values()):
            self.ask(self._wish)
        self.changed.emit()

    def frames(self) -> dict[str, float | None]:
        """The frames of the keys before and after the playhead: of what is selected, else of the camera and all that
        moves it."""
        document = self._document
        before, after = neighbouring_key_frames(document.views.moving, self._nodes(), document.playhead.frame)
        return {"before": before, "after": after}

    def _nodes(self) -> Iterable[str]:
        document = self._document
        if any(channel.keys for i in document.selection.nodes for channel in document.scene.node(i).channels):
            return document.selection.nodes
        camera = document.views.camera
        if camera is None:
            return ()
        needed = {part[0] for part in closure(document.scene, [final_stage(camera)])}
        return [each for each in needed if each in document.scene]

    def ask(self, wish: FrameRequest) -> None:
        """Ask for the ghosts of what a wish of the Lens shows."""
        self._wish = wish
        frames = self.frames() if any(self.on.values()) else {}
        for side, stream in STREAMS.items():
            frame = frames.get(side) if self.on[side] else None
            if frame is None:
                self._link.forget(stream)
                self.images.pop(side, None)
                self._asked.pop(side, None)
                continue
            asked = (self._document.views.shown, replace(wish, frame=frame, samples=1))
            known = self._asked.get(side)
            if known is None or known[0] is not asked[0] or known[1] != asked[1]:
                self._asked[side] = asked
                self._link.want(stream, asked[1])

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        for side, name in STREAMS.items():
            if stream == name and self.on[side] and side in self._asked and self._asked[side][1].frame == drawn.frame:
                self.images[side] = drawn.see_through()
                self.changed.emit()

    def paint(self, p: QPainter, rect: QRectF) -> None:
        """Draw them over a picture, and say at its lower corners which frames they are."""
        for image in self.images.values():
            p.setOpacity(_STRENGTH)
            p.drawImage(rect, image)
        p.setOpacity(1.0)
        p.setFont(font(11))
        for side in self.images:
            words = f"key before, {self._asked[side][1].frame:g}" if side == "before" else ""
            words = words or f"key after, {self._asked[side][1].frame:g}"
            width = p.fontMetrics().horizontalAdvance(words) + 16
            left = rect.left() + 8 if side == "before" else rect.right() - 8 - width
            box = QRectF(left, rect.bottom() - 28, width, 20)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(colour(DEEP, 0.82))
            p.drawRoundedRect(box, 4, 4)
            p.setPen(colour(SKY))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
