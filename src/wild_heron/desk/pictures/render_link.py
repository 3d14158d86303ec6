"""Routes picture requests to two render processes: one for what is waited for, one for the rest."""

from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...gl.request import FrameRequest
from ...scene import Scene
from .render_end import RenderEnd
from .shown_pictures import ShownFrame

_NICENESS = 10
"""Of what is drawn ahead, small, or to be checked. What somebody waits for is drawn at ordinary priority: on a machine
with other work to do a patient process gets next to nothing."""
_LATER_MS = 4000
"""How long pictures that may come later wait for the first that is waited for."""


class RenderLink(QObject):
    """Serves named streams of pictures; ``later`` are those that give way to everything else."""

    drawn = pyqtSignal(str, ShownFrame)
    """A stream's frame: what is to stay of it must be taken before the signal has been told."""
    completed = pyqtSignal(str)
    """The stream's newest picture is drawn, with nothing missing from it."""
    status = pyqtSignal(str, bool)
    problems_changed = pyqtSignal(dict)
    restarted = pyqtSignal()

    def __init__(self, streams: tuple[str, ...], later: tuple[str, ...] = ()) -> None:
        super().__init__()
        self.first = RenderEnd(streams)
        self.later = RenderEnd(later, _NICENESS, rests=True)
        self._ends = (self.first, self.later)
        self._of = {stream: end for end in self._ends for stream in end.streams}
        self._scenes: set[int] = set()
        self._begun = False
        for end in self._ends:
            end.drawn.connect(self.drawn)
            end.completed.connect(self.completed)
            end.restarted.connect(self.restarted)
        # Whoever cannot draw says so once.
        self.first.status.connect(self.status)
        self.first.problems_changed.connect(self.problems_changed)
        self.first.completed.connect(self._may_begin)
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(_LATER_MS)
        self._late.timeout.connect(self._may_begin)

    def start(self) -> None:
        """Start the process that is waited for (also after it was given up). The other follows when it is needed."""
        self.first.start()
        self._late.start()

    def _may_begin(self) -> None:
        """What may come later may come from now on."""
        if not self._begun:
            self._begun = True
            self._late.stop()
            if self.later.is_busy:
                self.later.start()

    @property
    def pid(self) -> int | None:
        """Of the process that draws what is waited for."""
        return self.first.pid

    @property
    def renderer(self) -> str:
        """What draws, as the graphics driver calls it."""
        return self.first.renderer

    @property
    def problems(self) -> dict[str, str]:
        """What was found wrong with artwork, by node."""
        return self.first.problems

    @property
    def is_busy(self) -> bool:
        return any(end.is_busy for end in self._ends)

    def set_scene(self, scene: Scene, base: Path | None, version: int = 0) -> None:
        """What is drawn from the next picture on; other versions stay as they are."""
        for end in self._ends:
            end.set_scene(scene, base, version)

    def allow(self, folders: tuple[str, ...]) -> None:
        """Which folders outside the scene's own files may be read from."""
        for end in self._ends:
            end.allow(folders)

    def drop_version(self, version: int) -> None:
        """Let a version go, and what only it used."""
        for end in self._ends:
            end.drop_version(version)

    def reload_artwork(self) -> None:
        for end in self._ends:
            end.reload_artwork()

    def want(self, stream: str, wish: FrameRequest) -> None:
        """Ask for a picture; an older wish of the stream that was not begun is forgotten."""
        end = self._of[stream]
        end.want(stream, wish)
        if end is self.later and self._begun:
            end.start()

    def forget(self, stream: str) -> None:
        """The stream wants nothing any more; what is still drawn for it does not matter."""
        self._of[stream].forget(stream)

    def close(self) -> None:
        self._late.stop()
        self._begun = False
        for end in self._ends:
            end.close()
