"""Sound in the scene: brought in, placed, and its beats found, tapped and marked."""

import time
from collections.abc import Callable
from pathlib import Path

import msgspec
import numpy as np
from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QInputDialog, QWidget

from ...edits import SAME_FRAME, add_sound, change_sound, remove_sound, set_beats
from ...edits.events import with_half_the_beats, with_twice_the_beats
from ...files.artwork_files import source_for
from ...files.errors import FileError
from ...motion.beats import find_beats
from ...motion.sound import RATE, mono
from ...motion.tempo import beat_frames
from ...scene import Beats, Marker, Scene, Sound
from ...scene.sound import FASTEST_TEMPO, SLOWEST_TEMPO
from ..state.background import Errand
from ..state.document import Document
from ..state.playback import Playback

_TAPS = 8
_TAP_PAUSE = 2.5
_CLEARLY = 0.5


class SoundCommands(QObject):
    """What the Sound menu does."""

    def __init__(self, document: Document, playback: Playback, frame: QWidget) -> None:
        super().__init__()
        self._document, self._playback, self._frame = document, playback, frame
        self._taps: list[tuple[float, float]] = []
        self.is_finding = False

    def bring(self, path: Path) -> None:
        """Put a sound file into the scene, at its beginning."""
        document = self._document
        document.file.allow([path])
        try:
            info = document.file.reader.sound(path)
        except FileError as problem:
            document.messages.say(str(problem), True)
            return
        source = source_for(document.file.base, path)
        sound = Sound(path.stem[:200] or "Sound", source, info.seconds, float(document.settings.first))
        if document.edit(f"Bring in {path.name}", lambda scene: add_sound(scene, sound)):
            document.messages.say(f"{path.name}: {info.seconds:.1f} s. P, B finds its beats.")

    def change(self, number: int, name: str, **fields: object) -> None:
        """Change some fields of a sound."""
        self._document.edit(name, lambda scene: change_sound(scene, number, **fields))

    def remove(self, number: int) -> None:
        name = self._document.scene.sounds[number].name
        self._document.edit(f"Remove {name}", lambda scene: remove_sound(scene, number))

    # Beats

    def find(self) -> None:
        """Find the beats of the first sound, in the background."""
        document = self._document
        sound = next((each for each in document.scene.sounds if each.on), None)
        if sound is None:
            document.messages.say("There is no sound in the scene. P, S brings one in.", True)
            return
        samples = document.heard.samples.get(sound.source)
        if samples is None:
            document.messages.say(document.heard.problems.get(sound.source, f"{sound.name} is still being read."), True)
            return
        if self.is_finding:
            return
        self.is_finding = True
        document.messages.say("Listening for beats…")
        fps = document.settings.rate.fps

        def work(errand: Errand) -> tuple[Beats, float] | None:
            found = find_beats(mono(samples), RATE)
            at = (found.seconds - sound.skip) * fps + sound.start
            at = at[at > sound.start - 1.0]
            if len(at) < 2:
                return None
            frames = tuple(float(each) for each in np.round(at, 3))
            tempo = float(np.clip(found.tempo, SLOWEST_TEMPO, FASTEST_TEMPO))
            return Beats(round(tempo, 2), frames[0], 4, found.downbeat, frames), found.sure

        def failed(problem: Exception) -> None:
            self._take_beats(None, sound.name)
            raise problem

        document.background.start("beats", work, lambda found: self._take_beats(found, sound.name), failed=failed)

    def _take_beats(self, found: tuple[Beats, float] | None, name: str) -> None:
        self.is_finding = False
        messages = self._document.messages
        if found is None:
            messages.say(f"No beats: nothing in {name} repeats steadily. P, T taps them along while it plays.", True)
            return
        beats, sure = found
        if self._document.edit("Find the beats", lambda scene: set_beats(scene, beats)):
            doubt = "" if sure > _CLEARLY else " Listen to them: P, W makes them twice as many, P, H half."
            messages.say(
                f"{name}: {beats.tempo:.1f} beats a minute, {len(beats.at)} beats, {100.0 * sure:.0f} % sure.{doubt}"
            )

    def twice(self) -> None:
        """Twice as many beats."""
        self._other_beats("Twice as many beats", with_twice_the_beats)

    def half(self) -> None:
        """Half as many beats."""
        self._other_beats("Half as many beats", with_half_the_beats)

    def _other_beats(self, name: str, change: Callable[[Scene], Scene]) -> None:
        if self._document.edit(name, change):
            beats = self._document.scene.beats
            assert beats is not None
            self._document.messages.say(f"{beats.tempo:.1f} beats a minute.")

    def tap(self) -> None:
        """A tap on the beat: the tempo and the first beat follow the last taps."""
        document = self._document
        now = (time.monotonic(), document.playhead.frame)
        if self._taps and now[0] - self._taps[-1][0] > _TAP_PAUSE:
            self._taps = []
        self._taps = [*self._taps[1 - _TAPS :], now]
        if len(self._taps) < 3:
            document.messages.say("Tap on: the third tap sets the tempo.")
            return
        beats = tapped(self._taps, document.settings.rate.fps, document.scene.beats, self._playback.is_playing)
        if document.push("Tap the tempo", document.state.with_scene(
            msgspec.structs.replace(document.scene, beats=beats)), "tap"):  # fmt: skip
            document.messages.say(f"{beats.tempo:.1f} beats a minute.")

    def change_beats(self, name: str, **fields: object) -> None:
        """Change tempo, first beat or bar; beats that were found one by one become even ones with it."""

        def change(scene: Scene) -> Scene:
            now = scene.beats or Beats(first=float(scene.settings.first))
            if {"tempo", "first"} & fields.keys():
                now = msgspec.structs.replace(now, at=())
            return msgspec.structs.replace(scene, beats=msgspec.structs.replace(now, **fields))

        self._document.edit(name, change)

    def markers_on_beats(self) -> None:
        """Ask for a number, and put a marker on every so-manieth beat of the range that is played."""
        document = self._document
        if document.scene.beats is None:
            document.messages.say("There are no beats yet: P, B finds them, P, T taps them along.", True)
            return
        every, accepted = QInputDialog.getInt(self._frame, "Markers on beats", "On every so many beats:", 4, 1, 64)
        if accepted:
            first, last = document.playhead.range
            document.edit(f"Markers on every {every}. beat", lambda scene: marked_beats(scene, every, first, last))


def tapped(taps: list[tuple[float, float]], fps: float, now: Beats | None, playing: bool) -> Beats:
    """Beats by the line through taps, (seconds, frame): while it plays by the frames, else by the clock."""
    number = np.arange(len(taps), dtype=np.float64)
    times = np.array([frame / fps if playing else at for at, frame in taps])
    step, first = np.polyfit(number, times, 1)
    tempo = float(np.clip(60.0 / max(step, 1e-3), 20.0, 400.0))
    start = first * fps if playing else (now.first if now else taps[0][1])
    bar, downbeat = (now.bar, now.downbeat) if now else (4, 0)
    return Beats(round(tempo, 2), round(float(start), 2), bar, downbeat)


def marked_beats(scene: Scene, every: int, first: float, last: float) -> Scene:
    """The scene with a beat marker on every so-manieth beat, counted from the first beat of a bar, in place of those
    that were there."""
    assert scene.beats is not None
    frames, bars = beat_frames(scene.beats, scene.settings.rate, first, last)
    start = int(np.argmax(bars)) % every if bars.any() else 0
    chosen = np.round(frames[start::every])
    others = [each for each in scene.markers if each.kind != "beat" or not first <= each.frame <= last]
    taken = {each.frame for each in others}
    new = [
        Marker(float(frame), f"Beat {k}", "beat")
        for k, frame in enumerate(dict.fromkeys(chosen.tolist()), 1)
        if all(abs(frame - each) > SAME_FRAME for each in taken)
    ]
    return msgspec.structs.replace(scene, markers=tuple(sorted([*others, *new], key=lambda each: each.frame)))
