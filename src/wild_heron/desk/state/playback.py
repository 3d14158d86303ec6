"""Playing in real time: the clock moves the playhead, and frames that come too late are dropped."""

import time
from collections.abc import Callable

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from .document import Document


def steady_clock() -> float:
    """Seconds, while there is no sound to keep the time."""
    return time.perf_counter()


class Playback(QObject):
    """Plays the document's range. The achieved rate is counted where pictures are shown."""

    changed = pyqtSignal()
    started = pyqtSignal()
    """It plays on from where the playhead is now."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        self._start_time = 0.0
        self._start_frame = 0.0
        self._shown: list[float] = []
        self.clock: Callable[[], float] = steady_clock
        """Seconds that run while it plays: the sound's, where there is one."""
        self.every = 1
        """Of how many frames one is shown; the time that they take stays."""
        document.playhead.moved.connect(self._resync)
        self._moving = False

    @property
    def is_playing(self) -> bool:
        return self._timer.isActive()

    def toggle(self) -> None:
        self.stop() if self.is_playing else self.play()

    def play(self) -> None:
        first, last = self._document.playhead.range
        if last <= first:
            return
        if not first <= self._document.playhead.frame < last:
            self._document.playhead.set_frame(first)
        self._begin()
        self._shown = []
        self._timer.start(max(4, round(500 / self._document.settings.rate.fps)))
        self.changed.emit()

    def stop(self) -> None:
        if self.is_playing:
            self._timer.stop()
            self.changed.emit()

    def _begin(self) -> None:
        self.restart_clock()
        self.started.emit()

    def restart(self) -> None:
        """Play on from where it is, with the clock that there is now."""
        self._begin()

    def restart_clock(self) -> None:
        """Play from the playhead as of now; for who gives it another clock."""
        self._start_time = self.clock()
        self._start_frame = self._document.playhead.frame

    def _resync(self) -> None:
        if self.is_playing and not self._moving:
            self._begin()

    def _tick(self) -> None:
        first, last = self._document.playhead.range
        elapsed = max(self.clock() - self._start_time, 0.0)
        frame = self._start_frame + int(elapsed * self._document.settings.rate.fps)
        frame = first + (frame - first) // self.every * self.every
        if frame > last:
            if not self._document.playhead.loop:
                self._move(last)
                self.stop()
                return
            frame = first + (frame - first) % (last - first + 1)
        self._move(frame)

    def _move(self, frame: float) -> None:
        self._moving = True
        self._document.playhead.set_frame(frame)
        self._moving = False

    def count_shown(self) -> None:
        """A picture was shown."""
        now = time.perf_counter()
        self._shown = [t for t in self._shown if now - t < 1.0]
        self._shown.append(now)

    def rate_shown(self) -> float:
        """Pictures shown per second, over the last second."""
        now = time.perf_counter()
        recent = [t for t in self._shown if now - t < 1.0]
        if len(recent) < 2:
            return float(len(recent))
        return (len(recent) - 1) / max(recent[-1] - recent[0], 1e-6)
