"""Where in time the scene is looked at, and which part of it is played."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from ...scene import Settings


class Playhead(QObject):
    """A frame inside the scene's range."""

    moved = pyqtSignal()
    range_changed = pyqtSignal()

    def __init__(self, settings: Callable[[], Settings]) -> None:
        super().__init__()
        self._settings = settings
        self.frame = 0.0
        self.loop = True
        self.play_range: tuple[int, int] | None = None
        """The part that is played, where that is not all."""

    def set_frame(self, frame: float) -> None:
        settings = self._settings()
        frame = float(min(max(frame, settings.first), settings.last))
        if frame != self.frame:
            self.frame = frame
            self.moved.emit()

    def keep_inside(self) -> None:
        """Come back into the range where that has become shorter."""
        self.set_frame(self.frame)

    def restart(self) -> None:
        """Stand at the beginning of another scene, all of which is played."""
        self.play_range = None
        self.frame = float(self._settings().first)

    def set_loop(self, loop: bool) -> None:
        self.loop = loop

    def set_play_range(self, play_range: tuple[int, int] | None) -> None:
        self.play_range = play_range
        self.range_changed.emit()

    @property
    def range(self) -> tuple[int, int]:
        """First and last frame that are played."""
        settings = self._settings()
        if self.play_range is None:
            return settings.first, settings.last
        first, last = self.play_range
        return max(first, settings.first), min(last, settings.last)
