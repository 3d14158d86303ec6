"""Small pictures of cameras, framings and shots, drawn while nothing else is."""

import time
from collections import OrderedDict
from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QImage

from ...gl.request import FrameRequest, ThroughLens
from ...scene import Scene
from ..state.document import Document
from .render_link import RenderLink
from .shown_pictures import ShownFrame

STREAM = "small"
HEIGHT = 54
_MOST = 600
_IDLE_MS = 30
_PATIENCE_SECONDS = 3.0
"""After which a picture that did not come is not waited for any more: it could not be drawn."""
_SETTLED_MS = 160


class Small(NamedTuple):
    """Which picture: through what (None: the output), and when."""

    lens: str | None
    frame: float


class SmallPictures(QObject):
    """Pictures by what they show. An old one is given until the new one is drawn."""

    changed = pyqtSignal()

    def __init__(self, document: Document, link: RenderLink, is_busy: Callable[[], bool]) -> None:
        """``is_busy``: whether something goes on that must not be slowed down."""
        super().__init__()
        self._document, self._link, self._is_busy = document, link, is_busy
        self._held: OrderedDict[Small, tuple[Scene | None, QImage]] = OrderedDict()
        self._wanted: OrderedDict[Small, None] = OrderedDict()
        self._asked: tuple[Small, Scene, float] | None = None
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self._next)
        self._tell = QTimer(self)
        self._tell.setSingleShot(True)
        self._tell.setInterval(60)
        self._tell.timeout.connect(self.changed)
        link.drawn.connect(self._drawn)
        link.restarted.connect(self.restart)
        document.changed.connect(self._settle)
        document.opened.connect(self._forget)

    @property
    def is_drawing(self) -> bool:
        """Whether there are pictures that are wanted and not there yet."""
        return bool(self._wanted) or self._asked is not None

    @property
    def is_waited_for(self) -> bool:
        """Whether pictures that are in sight could be drawn now. Those that only lack artwork have time."""
        if self._is_busy() or self._document.gesture.running:
            return False
        return self._is_awaited or any(self._is_old(wish) for wish in self._wanted)

    @property
    def _is_awaited(self) -> bool:
        return self._asked is not None and time.monotonic() - self._asked[2] < _PATIENCE_SECONDS

    def _is_old(self, wish: Small) -> bool:
        known = self._held.get(wish)
        return known is None or known[0] is not None

    @property
    def size(self) -> tuple[int, int]:
        """In pixels of the picture that is drawn: twice as fine as it is shown."""
        settings = self._document.settings
        high = 2 * HEIGHT
        return max(16, min(round(high * settings.width / settings.height), 8 * HEIGHT)), high

    def look_up(self, lens: str | None, frame: float) -> QImage | None:
        """A small picture, if there is one; where there is none, or an old one, it is drawn before long."""
        wish = Small(lens, frame)
        known = self._held.get(wish)
        if known is None or known[0] is not self._document.scene:
            self._wanted[wish] = None
            self._wanted.move_to_end(wish, last=False)
            while len(self._wanted) > _MOST:
                self._wanted.popitem()
            if not self._idle.isActive():
                self._idle.start(_IDLE_MS)
        if known is None:
            return None
        self._held.move_to_end(wish)
        return known[1]

    def _settle(self) -> None:
        """The scene changed: what is seen asks again once it stays the same."""
        self._wanted.clear()
        self._idle.start(_SETTLED_MS)
        self._tell.start(_SETTLED_MS)

    def _forget(self) -> None:
        self._held.clear()
        self._wanted.clear()

    def _next(self) -> None:
        document = self._document
        if not self._wanted:
            return
        if self._is_awaited:
            self._idle.start(_SETTLED_MS)
            return
        if self._link.is_busy or document.gesture.running or document.views.is_proposing or self._is_busy():
            self._idle.start(_SETTLED_MS)
            return
        wish, _ = self._wanted.popitem(last=False)
        scene = document.scene
        if wish.lens is not None and wish.lens not in scene:
            self._idle.start(0)
            return
        self._asked = (wish, scene, time.monotonic())
        self._link.want(STREAM, FrameRequest(wish.frame, ThroughLens(wish.lens), *self.size))

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        if stream != STREAM:
            return
        asked, self._asked = self._asked, None
        self._link.forget(STREAM)
        if asked is not None:
            # One that lacks artwork is shown, and drawn again later.
            scene = asked[1] if drawn.complete else None
            self._held[asked[0]] = (scene, drawn.picture.image.copy())
            while len(self._held) > _MOST:
                self._held.popitem(last=False)
            if not drawn.complete:
                self._wanted[asked[0]] = None
            if not self._tell.isActive():
                self._tell.start(60)
        self._idle.start(0 if drawn.complete else 2 * _SETTLED_MS)

    def restart(self) -> None:
        """The render process is a new one."""
        self._asked = None
        self._idle.start(_SETTLED_MS)

    def stop(self) -> None:
        self._idle.stop()
        self._tell.stop()
