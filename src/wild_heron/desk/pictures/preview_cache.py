"""A memory cache of Lens frames, filled ahead of the playhead."""

from collections import OrderedDict
from collections.abc import Callable

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...evaluate.differences import changed_frames
from ...gl.request import FrameRequest, ThroughLens
from ...scene import Scene, SceneError
from ..state.background import Errand
from ..state.document import Document
from .render_link import RenderLink
from .shown_pictures import HeldPicture, ShownFrame

STREAM = "ahead"
KEPT_AHEAD = "kept ahead"
BUDGET = 768 * 1024 * 1024
_IDLE_MS = 700
"""How long nothing may have happened before frames are drawn ahead: they would be in the way of what is asked for."""
_TELL_MS = 250


class PreviewCache(QObject):
    """The frames of one scene, seen in one way. An edit drops exactly those that look different after it."""

    changed = pyqtSignal()
    """Other frames are held than before."""

    # A budget of 0 bytes keeps nothing and draws nothing ahead.

    def __init__(
        self,
        document: Document,
        link: RenderLink,
        stream: str = STREAM,
        version: int = 0,
        scene: Callable[[], Scene | None] | None = None,
        gives_way: Callable[[], bool] = lambda: False,
    ) -> None:
        """Of the scene as it is shown, or of another ``version`` that ``scene`` tells; None: there is none now.
        ``gives_way``: whether something is drawn first that is looked at already."""
        super().__init__()
        self._document, self._link, self._stream, self._version = document, link, stream, version
        self._scene_now = scene or (lambda: document.views.shown)
        self.budget = BUDGET
        self.every = 1
        """Of how many frames one is drawn ahead."""
        self._look: tuple[object, ...] | None = None
        self._scene: Scene | None = None
        self.frames: OrderedDict[float, HeldPicture] = OrderedDict()
        self.bytes = 0
        """What all frames that are held take up."""
        self._wish: FrameRequest | None = None
        self._asked: tuple[Scene, float] | None = None
        self._compared: tuple[Scene, list[float]] | None = None
        self._comparing: Errand | None = None
        self.playing = False
        self._gives_way = gives_way
        link.drawn.connect(self._drawn)
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self.fill)
        self._tell = QTimer(self)
        self._tell.setSingleShot(True)
        self._tell.setInterval(_TELL_MS)
        self._tell.timeout.connect(self.changed)
        document.changed.connect(self.wake)
        document.playhead.moved.connect(self.wake)

    @property
    def held(self) -> list[float]:
        """The frames that are held for the scene as it is."""
        return sorted(self.frames) if self._scene is self._scene_now() else []

    def look_up(self, wish: FrameRequest) -> HeldPicture | None:
        """The picture, if it is held for the scene and the view as they are."""
        self._see(wish)
        if self._scene is not self._scene_now():
            return None
        picture = self.frames.get(wish.frame)
        if picture is not None:
            self.frames.move_to_end(wish.frame)
        return picture

    def peek(self, frame: float) -> HeldPicture | None:
        """A frame, if it is held for the scene as it is."""
        return self.frames.get(frame) if self._scene is self._scene_now() else None

    def store(self, wish: FrameRequest, picture: HeldPicture) -> None:
        """Keep a whole picture of the scene as it is."""
        self._see(wish)
        scene = self._scene_now()
        if self.budget <= 0:
            return
        if self._scene is not scene:
            if self.frames:
                return  # Which of the others still hold is being found out.
            self._scene = scene
        if wish.frame in self.frames:
            return
        self.frames[wish.frame] = picture
        self.bytes += picture.image.sizeInBytes()
        self._keep_to_budget()
        self._told()

    def _keep_to_budget(self) -> None:
        while self.bytes > self.budget and len(self.frames) > 1:
            _, old = self.frames.popitem(last=False)
            self.bytes -= old.image.sizeInBytes()

    def set_budget(self, size: int) -> None:
        """Hold at most so many bytes; 0 for none, and nothing is drawn ahead."""
        self.budget = size
        if size <= 0:
            self.clear()
        self._keep_to_budget()
        self._told()
        self.wake()

    def clear(self) -> None:
        """Let every frame go."""
        self.frames.clear()
        self._asked = None
        self._link.forget(self._stream)
        self.bytes = 0
        self._told()

    def _told(self) -> None:
        if not self._tell.isActive():
            self._tell.start()

    def _see(self, wish: FrameRequest) -> None:
        """Another camera, format or size: nothing that is held is of use."""
        look = (wish.view, wish.width, wish.height, wish.samples)
        self._wish = wish
        if look != self._look:
            self._look = look
            self.clear()
            self._scene = None

    # Edits

    def wake(self) -> None:
        """Draw ahead once nothing has happened for a moment."""
        self._idle.start(60 if self.playing else _IDLE_MS)

    def _compare(self, scene: Scene | None) -> None:
        """Find out, in a thread, which frames look the same in the scene as it is now."""
        old, frames = self._scene, sorted(self.frames)
        view = self._wish.view if self._wish is not None else None
        camera = view.camera if isinstance(view, ThroughLens) else None
        name = view.format if isinstance(view, ThroughLens) else None
        assert old is not None
        assert scene is not None

        shape = next((each for each in scene.formats if each.name == name), None)

        def take(gone: NDArray[np.bool_]) -> None:
            self._comparing = None
            self._compared = (scene, [frame for frame, each in zip(frames, gone.tolist(), strict=True) if each])

        def failed(problem: Exception) -> None:
            # Every frame may look different.
            take(np.ones(len(frames), dtype=bool))
            if not isinstance(problem, SceneError | KeyError):
                raise problem

        self._comparing = self._document.background.start(
            "compare frames",
            lambda errand: changed_frames(old, scene, np.array(frames), camera, shape),
            take,
            failed=failed,
        )

    def take_over(self) -> bool:
        """Whether what is held is for the scene as it is; starts finding out where it is not."""
        scene = self._scene_now()
        if self._scene is scene:
            return True
        if not self.frames:
            self._scene = scene
            return True
        if self._comparing is not None:
            return False
        if self._compared is not None and self._compared[0] is scene:
            for frame in self._compared[1]:
                picture = self.frames.pop(frame, None)
                if picture is not None:
                    self.bytes -= picture.image.sizeInBytes()
            self._scene, self._compared = scene, None
            self._told()
            return True
        self._compare(scene)
        return False

    # Ahead of the playhead

    def fill(self) -> None:
        document, wish = self._document, self._wish
        scene = self._scene_now()
        if (
            self.budget <= 0
            or wish is None
            or scene is None
            or document.gesture.running
            or document.views.moving is not document.scene
            or document.state.pending
        ):
            return
        if not self.take_over() or self._link.is_busy or self._asked is not None or self._gives_way():
            self._idle.start(40)
            return
        frame = self._next(document.playhead.frame)
        room = self.bytes + self._average() <= self.budget
        if frame is None or not room:
            return
        self._asked = (scene, frame)
        self._link.want(self._stream, replace(wish, frame=frame))

    def _average(self) -> float:
        return self.bytes / len(self.frames) if self.frames else 0.0

    def _next(self, frame: float) -> float | None:
        """The next frame of those that are played that is not held, from the playhead on and round."""
        first, last = self._document.playhead.range
        count = (last - first) // self.every + 1
        start = round((min(max(frame, first), last) - first) / self.every)
        for k in range(count):
            each = float(first + (start + k) % count * self.every)
            if each not in self.frames:
                return each
        return None

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        if stream != self._stream:
            return
        asked, self._asked = self._asked, None
        self._link.forget(stream)
        held = asked is not None and asked == (self._scene_now(), drawn.frame) and drawn.complete
        if held and self._wish is not None:
            self.store(replace(self._wish, frame=drawn.frame), drawn.picture)
        self._idle.start(1 if drawn.complete else 300)

    def stop(self) -> None:
        self._idle.stop()
        self._tell.stop()
        self._document.background.let_go(self._comparing)
