"""Plays the scene's sound in step with the picture, or keeps the same time without a device."""

import contextlib
import threading
from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import QIODevice, QLoggingCategory, QObject, QTimer, qInstallMessageHandler

from ...motion.sound import RATE, mixed
from ..state.document import Document
from ..state.playback import Playback, steady_clock
from .clock import SoundClock

if TYPE_CHECKING:
    from PyQt6.QtMultimedia import QAudioSink

_BYTES = 4
"""Of a sample on both channels."""
_BUFFER_SECONDS = 0.12
_SCRUB_SECONDS = 0.09


class Feed(QIODevice):
    """What is heard from a frame on, round and round in a range."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._first, self._length, self._at, self._ends = 0.0, 0.0, 0.0, False
        self.given = 0
        """Samples that have been asked for so far."""

    def begin(self, frame: float, first: float, last: float, loops: bool) -> None:
        """Give what is heard from a frame on; ``first`` and ``last`` are the range that is played."""
        fps = self._document.settings.rate.fps
        self._first, self._length = first / fps, (last + 1.0 - first) / fps
        self._at, self._ends, self.given = frame / fps - self._first, not loops, 0

    def piece(self, count: int) -> Any:
        """The next samples (count, 2) int16."""
        out = np.zeros((count, 2), np.int16)
        document = self._document
        tracks, rate = document.heard.tracks(document.scene), document.settings.rate
        done = 0
        while done < count and self._length > 0.0:
            place = self._at + (self.given + done) / RATE
            if place >= self._length and self._ends:
                break
            place %= self._length
            some = min(count - done, max(round((self._length - place) * RATE), 1))
            heard = mixed(tracks, rate, self._first + place, some)
            out[done : done + some] = np.round(heard * 32767.0)
            done += some
        self.given += count
        return out

    def readData(self, size: int) -> bytes:
        return self.piece(max(size // _BYTES, 0)).tobytes()

    def writeData(self, data: Any) -> int:
        return -1

    def bytesAvailable(self) -> int:
        return 1 << 20

    def isSequential(self) -> bool:
        return True


class SoundPlayer(QObject):
    """The playback's clock is the sound's while something is heard."""

    def __init__(self, document: Document, playback: Playback) -> None:
        super().__init__()
        self._document, self._playback = document, playback
        self._sink: QAudioSink | None = None
        self._feed: Feed | None = None
        self._looked = False
        self._loaded = threading.Event()
        document.heard.changed.connect(self._load)
        self._scrub = QTimer(self)
        self._scrub.setSingleShot(True)
        self._scrub.setInterval(round(_SCRUB_SECONDS * 1000))
        self._scrub.timeout.connect(self._silence)
        playback.started.connect(self._start)
        playback.changed.connect(self._changed)
        document.playhead.moved.connect(self._moved)
        self.muted = False

    @property
    def device(self) -> str:
        """What it is heard through; "" where there is nothing."""
        return "" if self._sink is None else "sound"

    def _ready(self) -> bool:
        """Whether there is anything to hear, and through something."""
        if self.muted or not self._document.heard.tracks(self._document.scene):
            return False
        if self._sink is None and not self._looked and self._loaded.is_set():
            self._looked = True
            self._open()
        return self._sink is not None

    def _load(self) -> None:
        """Load what plays sound, away from the interface, once there is something to hear."""
        if self._loaded.is_set() or not self._document.heard.samples:
            return
        # What its libraries lack they tell on standard error, which is nobody's concern: without a device it is silent.
        QLoggingCategory.setFilterRules("qt.multimedia*=false")

        def load() -> None:
            with contextlib.suppress(ImportError):
                import PyQt6.QtMultimedia  # noqa: F401
            self._loaded.set()

        threading.Thread(target=load, name="loading sound", daemon=True).start()

    def _open(self) -> None:
        try:
            from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices
        except ImportError:
            return
        told = qInstallMessageHandler(lambda *words: None)
        device = QMediaDevices.defaultAudioOutput()
        qInstallMessageHandler(told)
        if device.isNull():
            return
        form = QAudioFormat()
        form.setSampleRate(RATE)
        form.setChannelCount(2)
        form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        if not device.isFormatSupported(form):
            return
        self._sink = QAudioSink(device, form, self)
        self._sink.setBufferSize(round(_BUFFER_SECONDS * RATE) * _BYTES)

    def _heard(self) -> float:
        """Seconds that have come out of the device since it began."""
        sink, feed = self._sink, self._feed
        if sink is None or feed is None:
            return 0.0
        waiting = (sink.bufferSize() - sink.bytesFree()) / _BYTES
        return max(feed.given - waiting, 0.0) / RATE

    def _start(self) -> None:
        """It plays from the playhead on."""
        self._scrub.stop()
        if not self._ready():
            self._playback.clock = steady_clock
            return
        first, last = self._document.playhead.range
        self._run(self._document.playhead.frame, first, last, self._document.playhead.loop)
        clock = SoundClock(self._heard, steady_clock)
        self._playback.clock = clock
        self._playback.restart_clock()

    def _run(self, frame: float, first: float, last: float, loops: bool) -> None:
        sink = self._sink
        assert sink is not None
        sink.stop()
        self._feed = Feed(self._document)
        self._feed.begin(frame, first, last, loops)
        self._feed.open(QIODevice.OpenModeFlag.ReadOnly)
        sink.start(self._feed)

    def _changed(self) -> None:
        if not self._playback.is_playing:
            self._silence()
            self._playback.clock = steady_clock

    def _moved(self) -> None:
        """Standing still, a short piece of what is at the playhead is heard."""
        if self._playback.is_playing or not self._document.scene.sounds or not self._ready():
            return
        settings = self._document.settings
        self._run(self._document.playhead.frame, settings.first, settings.last, False)
        self._scrub.start()

    def _silence(self) -> None:
        if self._sink is not None:
            self._sink.stop()

    def set_muted(self, muted: bool) -> None:
        """Play without sound, or with it again."""
        self.muted = muted
        if self._playback.is_playing:
            self._silence()
            self._playback.restart()

    def stop(self) -> None:
        self._scrub.stop()
        self._silence()
