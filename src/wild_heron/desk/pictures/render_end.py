"""The desk's connection to one render process: newest request wins, a dead process is replaced."""

import os
import time
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QSocketNotifier, QTimer, pyqtSignal

from ...gl.request import FrameRequest, ThroughLens
from ...process.messages import Drawn, Dropped, Failed, Loading, ProcessEnded, Ready, RequestRefused
from ...scene import Scene
from .shown_pictures import ShownFrame

if TYPE_CHECKING:
    from ...process.client import RenderClient

_SLOTS_PER_STREAM = 2
_FRUITLESS_STARTS = 4
"""After so many processes in a row that ended before they gave a picture, it is given up."""
_HUNG_SECONDS = 1.5
_LOOK_MS = 250
_REST_SECONDS = 60.0


class RenderEnd(QObject):
    """Serves named streams of pictures (the Lens, the Overview) from one render process, which runs at a priority
    (``niceness``). ``rests``: it ends after a while without a wish, and begins anew with the next."""

    drawn = pyqtSignal(str, ShownFrame)
    """A stream's frame: what is to stay of it must be taken before the signal has been told."""
    completed = pyqtSignal(str)
    """The stream's newest picture is drawn, with nothing missing from it."""
    status = pyqtSignal(str, bool)
    problems_changed = pyqtSignal(dict)
    restarted = pyqtSignal()

    def __init__(self, streams: tuple[str, ...], niceness: int = 0, rests: bool = False) -> None:
        super().__init__()
        self.streams = streams
        self._rests, self._used = rests, 0.0
        self._niceness = niceness
        self._client: RenderClient | None = None
        self._notifier: QSocketNotifier | None = None
        self._scenes: dict[int, tuple[Scene, Path | None]] = {}
        self._sent: dict[int, tuple[Scene, Path | None]] = {}
        self._allowed: tuple[str, ...] = ()
        self.wishes: dict[str, FrameRequest] = {}
        self._waiting: set[str] = set()
        self._asked: dict[int, tuple[str, int, FrameRequest]] = {}
        self.unfinished: set[str] = set()
        """Streams whose latest picture lacks artwork that is still being read."""
        self._fruitless = 0
        self._moved = ((0, 0), 0.0)
        self._watch = QTimer(self)
        self._watch.setInterval(_LOOK_MS)
        self._watch.timeout.connect(self._look)
        self._hopeless = False
        self.renderer = ""
        """What draws, as the graphics driver calls it."""
        self.problems: dict[str, str] = {}

    def start(self) -> None:
        """Start the process (also after it was given up)."""
        if self._client is not None:
            return
        # What starts processes is loaded when the window is up.
        from ...process.client import RenderClient

        # Without a graphics card the processors draw: one of them is left to the window.
        threads = max(1, (os.cpu_count() or 2) - 1)
        self._client = RenderClient(_SLOTS_PER_STREAM * len(self.streams), self._niceness, threads=threads)
        self._notifier = QSocketNotifier(self._client.fileno(), QSocketNotifier.Type.Read)  # type: ignore[call-overload]
        self._notifier.activated.connect(self._read)
        self._hopeless = False
        self._sent = {}
        self._asked = {}
        self._waiting = set(self.wishes)
        self._moved = ((0, 0), time.monotonic())
        self._watch.start()
        self._pump()

    def _look(self) -> None:
        """See whether the process does anything about what it was asked for; one that hangs is replaced."""
        if self._client is None:
            return
        now, progress = time.monotonic(), self._client.progress()
        if self._rests and not self.is_busy and now - self._used > _REST_SECONDS:
            self._stop()
            return
        owes = bool(self._asked) or progress[1] > 0
        # On a busy machine it may not get a tick of processor time for a while, and does not hang.
        if not owes or progress != self._moved[0] or self._client.wants_processor():
            self._moved = (progress, now)
        elif now - self._moved[1] > _HUNG_SECONDS:
            self._revive("The render process hung and was replaced; nothing is lost.")

    @property
    def pid(self) -> int | None:
        return self._client.pid if self._client else None

    @property
    def is_busy(self) -> bool:
        return bool(self._asked or self._waiting or self.unfinished)

    def set_scene(self, scene: Scene, base: Path | None, version: int = 0) -> None:
        """What is drawn from the next picture on; other versions stay as they are."""
        self._scenes[version] = (scene, base)

    def allow(self, folders: tuple[str, ...]) -> None:
        """Which folders outside the scene's own files may be read from."""
        if folders != self._allowed:
            self._allowed = folders
            self._sent = {}
            self.problems = {}
            self.problems_changed.emit({})
            self._waiting |= self.wishes.keys()
            self._pump()

    def drop_version(self, version: int) -> None:
        """Let a version go, and what only it used."""
        if self._scenes.pop(version, None) is not None and version in self._sent and self._client is not None:
            del self._sent[version]
            try:
                self._client.set_scene(Scene(), None, version)
            except ProcessEnded:
                self._revive()

    def reload_artwork(self) -> None:
        if self._client is not None:
            try:
                self._client.reload_artwork()
            except ProcessEnded:
                self._revive()
        self.problems = {}
        self.problems_changed.emit({})

    def want(self, stream: str, wish: FrameRequest) -> None:
        """Ask for a picture; an older wish of the stream that was not begun is forgotten."""
        self.wishes[stream] = wish
        self._waiting.add(stream)
        self._used = time.monotonic()
        self._pump()

    def forget(self, stream: str) -> None:
        """The stream wants nothing any more; what is still drawn for it does not matter."""
        self.wishes.pop(stream, None)
        self._waiting.discard(stream)
        self.unfinished.discard(stream)

    def _pump(self) -> None:
        if self._client is None or not self._scenes:
            return
        try:
            for number, stream in enumerate(self.streams):
                if stream not in self._waiting:
                    continue
                taken = {slot for name, slot, _ in self._asked.values() if name == stream}
                first = number * _SLOTS_PER_STREAM
                slot = next((s for s in range(first, first + _SLOTS_PER_STREAM) if s not in taken), None)
                if slot is None:
                    continue
                wish = self.wishes[stream]
                if wish.version not in self._scenes:
                    self.forget(stream)
                    continue
                scene, sent = self._scenes[wish.version], self._sent.get(wish.version)
                if sent is None or sent != scene or sent[0] is not scene[0]:
                    self._client.set_scene(*scene, wish.version, self._allowed)
                    self._sent[wish.version] = scene
                number_ = self._client.request(stream, slot, wish)
                self._asked[number_] = (stream, slot, wish)
                self._waiting.discard(stream)
        except ProcessEnded:
            self._revive()

    def _read(self) -> None:
        if self._client is None:
            return
        try:
            replies = self._client.replies()
        except ProcessEnded:
            self._revive()
            return
        for reply in replies:
            if isinstance(reply, Drawn):
                self._fruitless = 0
                stream, slot, wish = self._asked.pop(reply.id)
                around = wish.view.around if isinstance(wish.view, ThroughLens) else 1.0
                pixels = self._client.frame(slot, wish.width, wish.height)
                frame = ShownFrame(pixels, wish.frame, reply.complete, around)
                if reply.complete:
                    self.unfinished.discard(stream)
                else:
                    self.unfinished.add(stream)
                self.drawn.emit(stream, frame)
                if reply.complete and stream not in self._waiting:
                    self.completed.emit(stream)
            elif isinstance(reply, Ready):
                self.renderer = reply.renderer
            elif isinstance(reply, Dropped):
                self._asked.pop(reply.id, None)
            elif isinstance(reply, Failed):
                self._hopeless = reply.id == 0
                asked = self._asked.pop(reply.id, None)
                if reply.id == 0 or (asked is not None and self._matters(asked[0], asked[2])):
                    self.status.emit(reply.message, True)
            elif isinstance(reply, RequestRefused):
                self.status.emit(reply.message, True)
            elif isinstance(reply, Loading):
                self._loading(reply)
        self._pump()

    def _matters(self, stream: str, wish: FrameRequest) -> bool:
        """Whether a picture that could not be drawn is still wanted: not where its camera went with the scene it was
        in, as when another one is opened."""
        if wish not in self.wishes.values():
            return False
        view, scene = wish.view, self._scenes.get(wish.version)
        if isinstance(view, ThroughLens) and (scene is None or view.camera not in {node.id for node in scene[0].nodes}):
            self.forget(stream)
            return False
        return True

    def _loading(self, reply: Loading) -> None:
        if reply.done < reply.total:
            self.status.emit(f"Reading artwork: {reply.done} of {reply.total}", False)
        else:
            self.status.emit("", False)
        # Artwork has come that pictures were drawn without.
        self._waiting |= self.unfinished & self.wishes.keys()
        fresh = {node: problem for node, problem in reply.problems.items() if self.problems.get(node) != problem}
        if fresh:
            self.problems = self.problems | fresh
            self.problems_changed.emit(self.problems)

    def _revive(self, why: str = "The render process ended and was started again; nothing is lost.") -> None:
        """The process is gone, or of no use: start another and ask again. Give up where none of several in a row came
        as far as a picture."""
        self._stop()
        if self._hopeless:
            return  # It said why; starting it again would change nothing.
        self._fruitless += 1
        if self._fruitless >= _FRUITLESS_STARTS:
            self._fruitless = 0
            self.status.emit(
                "The picture cannot be drawn: the render process keeps ending. View ▸ Restart the renderer.", True
            )
            return
        self.status.emit(why, True)
        self.restarted.emit()
        QTimer.singleShot(0, self.start)

    def _stop(self) -> None:
        self._watch.stop()
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None
        if self._client is not None:
            self._client.close()
            self._client = None

    def close(self) -> None:
        self._stop()
