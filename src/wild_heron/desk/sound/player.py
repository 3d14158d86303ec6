"""Plays sound in step with the picture, or keeps time without a device."""

from PyQt6.QtCore import QObject, QTimer

from ..state.document import Document
from ..state.playback import Playback, steady_clock
from .clock import SoundClock
from .feed import Feed, Speaker

_SCRUB_MS = 90


class SoundPlayer(QObject):
    """The playback's clock is the sound's while something is heard."""

    def __init__(self, document: Document, playback: Playback) -> None:
        super().__init__()
        self._document, self._playback = document, playback
        self._speaker: Speaker | None = None
        self._scrub = QTimer(self)
        self._scrub.setSingleShot(True)
        self._scrub.setInterval(_SCRUB_MS)
        self._scrub.timeout.connect(self._silence)
        document.heard.changed.connect(self._heard_changed)
        document.changed.connect(self._scene_changed)
        playback.started.connect(self._start)
        playback.changed.connect(self._changed)
        document.playhead.moved.connect(self._moved)
        self.muted = False
        self._stopped = False

    @property
    def device(self) -> str:
        """What it is heard through; "" where there is nothing."""
        return "sound" if self._speaker is not None and self._speaker.usable else ""

    def _ready(self) -> Speaker | None:
        """What it is heard through, if there is anything to hear."""
        speaker = self._speaker
        if self.muted or speaker is None or not speaker.usable:
            return None
        return speaker if self._document.heard.tracks(self._document.scene) else None

    def _heard_changed(self) -> None:
        """Start what plays sound once there is something to hear."""
        if self._speaker is None and self._document.heard.samples and not self._stopped:
            self._speaker = Speaker()
        self._scene_changed()

    def _scene_changed(self) -> None:
        if self._speaker is not None and self._playback.is_playing:
            self._speaker.change(self._document.heard.tracks(self._document.scene))

    def _start(self) -> None:
        """It plays from the playhead on."""
        self._scrub.stop()
        speaker = self._ready()
        if speaker is None:
            self._playback.clock = steady_clock
            return
        first, last = self._document.playhead.range
        self._run(speaker, first, last, self._document.playhead.loop)
        self._playback.clock = SoundClock(speaker.heard, steady_clock)
        self._playback.restart_clock()

    def _run(self, speaker: Speaker, first: float, last: float, loops: bool) -> None:
        document = self._document
        tracks = document.heard.tracks(document.scene)
        speaker.play(Feed(tracks, document.settings.rate, document.playhead.frame, first, last, loops))

    def _changed(self) -> None:
        if not self._playback.is_playing:
            self._silence()
            self._playback.clock = steady_clock

    def _moved(self) -> None:
        """Standing still, a short piece of what is at the playhead is heard."""
        if self._playback.is_playing or not self._document.scene.sounds:
            return
        speaker = self._ready()
        if speaker is not None:
            settings = self._document.settings
            self._run(speaker, settings.first, settings.last, False)
            self._scrub.start()

    def _silence(self) -> None:
        if self._speaker is not None:
            self._speaker.silence()

    def set_muted(self, muted: bool) -> None:
        """Play without sound, or with it again."""
        self.muted = muted
        if self._playback.is_playing:
            self._silence()
            self._playback.restart()

    def stop(self) -> None:
        """For when the program ends."""
        self._stopped = True
        self._scrub.stop()
        speaker, self._speaker = self._speaker, None
        if speaker is not None:
            speaker.close()
