"""Two versions of the scene in one picture: the one that was kept, and the one as it is now, wiped or flipped."""

from msgspec.structs import replace
from PyQt6.QtCore import QObject, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPen

from ...gl.request import FrameRequest, ThroughLens
from ...scene import Scene
from ...scene.output import has_output
from ..pictures.preview_cache import PreviewCache
from ..pictures.render_link import RenderLink
from ..pictures.shown_pictures import HeldPicture, ShownFrame
from ..state.document import Document
from ..widgets.theme import AMBER, DEEP, SKY, TEXT, font
from ..widgets.theme import on_picture as colour

STREAM = "kept"
VERSION = 1
_REACH = 7.0


class Comparison(QObject):
    """Shows the document's kept version left of a line that is dragged, or, flipped, in place of the picture."""

    changed = pyqtSignal()
    toggled = pyqtSignal(bool)

    def __init__(self, document: Document, link: RenderLink) -> None:
        super().__init__()
        self._document, self._link = document, link
        self.on = False
        self.flipped = False
        self.share = 0.5
        """Where the line is, of the picture's width."""
        self.cache: PreviewCache | None = None
        """Frames of the kept version, for playing at full rate."""
        self.image: QImage | None = None
        self._wish: FrameRequest | None = None
        self._asked: FrameRequest | None = None
        link.drawn.connect(self._drawn)
        document.opened.connect(lambda: self.show(False))

    def scene(self) -> Scene | None:
        """The kept version, while it is compared with."""
        return self._document.versions.kept if self.on else None

    def show(self, on: bool) -> bool:
        """Begin or end; whether it shows now."""
        document = self._document
        if on and document.versions.kept is None and not document.keep_version_before():
            document.messages.say(
                "There is no version to compare with: keep this one (View ▸ Keep this version), go on.", True
            )
            on = False
        self.on, self.flipped = on, False
        if not on:
            self._link.forget(STREAM)
            self._link.drop_version(VERSION)
            self.image = None
            document.versions.let_go()
            if self.cache is not None:
                self.cache.clear()
        elif self._wish is not None:
            self.ask(self._wish)
        self.toggled.emit(on)
        self.changed.emit()
        return on

    def flip(self) -> None:
        """Show the other version in whole, or again this one."""
        if self.on or self.show(True):
            self.flipped = not self.flipped
            self.changed.emit()

    def ask(self, wish: FrameRequest) -> None:
        """Ask for the kept version of what a wish of the Lens shows."""
        kept = self._document.versions.kept
        self._wish = wish
        if not self.on or kept is None or not isinstance(wish.view, ThroughLens):
            return
        lens = wish.view.camera
        if not (has_output(kept) if lens is None else lens in kept):
            self.image = None
            return
        wish = self._asked = replace(wish, version=VERSION)
        self._link.set_scene(kept, self._document.file.base, VERSION)
        held = self.cache.look_up(wish) if self.cache is not None else None
        if held is None:
            self._link.want(STREAM, wish)
        else:
            self._link.forget(STREAM)
            self._take(held)

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        if stream != STREAM or not self.on:
            return
        wish = self._asked
        asked = wish is not None and (wish.frame, wish.size) == (drawn.frame, drawn.size)
        if wish is not None and self.cache is not None and drawn.complete and asked:
            self.cache.store(wish, drawn.picture)
        self._take(drawn.picture)

    def _take(self, picture: HeldPicture) -> None:
        self.image = picture.image
        self.changed.emit()

    # The line

    def line(self, rect: QRectF) -> float:
        return rect.left() + self.share * rect.width()

    def takes(self, at: QPointF, rect: QRectF) -> bool:
        """Whether the line is under the pointer."""
        inside = rect.top() <= at.y() <= rect.bottom()
        return self.on and not self.flipped and inside and abs(at.x() - self.line(rect)) <= _REACH

    def drag(self, at: QPointF, rect: QRectF) -> None:
        self.share = min(max((at.x() - rect.left()) / rect.width(), 0.0), 1.0)
        self.changed.emit()

    def paint(self, p: QPainter, rect: QRectF) -> None:
        """Over the picture as it is now: the kept version, the line, and which is which."""
        if not self.on or self.image is None:
            return
        x = rect.right() if self.flipped else self.line(rect)
        p.save()
        p.setClipRect(QRectF(rect.left(), rect.top(), x - rect.left(), rect.height()))
        p.drawImage(rect, self.image)
        p.restore()
        if self.flipped:
            _tag(p, rect, "kept version", SKY, Qt.AlignmentFlag.AlignHCenter)
            return
        p.setPen(QPen(colour(DEEP, 0.7), 3))
        p.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
        p.setPen(QPen(colour(TEXT), 1.4))
        p.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
        p.setBrush(colour(TEXT))
        p.setPen(QPen(colour(DEEP), 1))
        p.drawRoundedRect(QRectF(x - 4, rect.center().y() - 16, 8, 32), 3, 3)
        left, right = QRectF(rect.left(), rect.top(), x - rect.left(), 30), QRectF(x, rect.top(), rect.right() - x, 30)
        for room, words, tone, side in (
            (left, "kept version", SKY, Qt.AlignmentFlag.AlignRight),
            (right, "now", AMBER, Qt.AlignmentFlag.AlignLeft),
        ):
            if room.width() > 110:
                _tag(p, room, words, tone, side)


def _tag(p: QPainter, room: QRectF, words: str, tone: str, side: Qt.AlignmentFlag) -> None:
    p.setFont(font(11))
    width = p.fontMetrics().horizontalAdvance(words) + 16
    left = {
        Qt.AlignmentFlag.AlignLeft: room.left() + 8,
        Qt.AlignmentFlag.AlignRight: room.right() - 8 - width,
        Qt.AlignmentFlag.AlignHCenter: room.center().x() - width / 2,
    }[side]
    box = QRectF(left, room.top() + 8, width, 20)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour(DEEP, 0.82))
    p.drawRoundedRect(box, 4, 4)
    p.setPen(colour(tone))
    p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
