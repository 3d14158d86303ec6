"""Exports the film to OpenTimelineIO: shots, blends, markers and sounds."""

import os
from pathlib import Path
from typing import Any
from urllib.parse import quote

import msgspec
import opentimelineio as otio

from ...evaluate import Evaluation
from ...evaluate.events import MadeShot, with_events
from ...scene import Blend, Scene, Sound
from ...scene.lookup import nodes_by_id
from ...scene.output import shots_of
from ..artwork_files import resolve

KEY = "wild_heron"
"""Where in the metadata stands what the standard has no word for."""


def film_text(scene: Scene, base: Path | None, path: Path, picture: Path | None = None) -> str:
    """The film within the scene's range as the text of an ``.otio`` file at ``path``. ``picture``: the movie, or one of
    the numbered frames (with # for their digits), that was made of it."""
    return _Film(scene, base, path, picture).text()


class _Film:
    def __init__(self, scene: Scene, base: Path | None, path: Path, picture: Path | None) -> None:
        self._scene, self._base, self._folder, self._picture = scene, base, path.resolve().parent, picture
        self._rate = scene.settings.rate.fps
        self._first, self._end = float(scene.settings.first), scene.settings.last + 1.0

    def text(self) -> str:
        scene = self._scene
        timeline = otio.schema.Timeline(scene.name, global_start_time=self._time(self._first))
        timeline.tracks.append(self._shots())
        for sound in scene.sounds:
            track = self._sound(sound)
            if track is not None:
                timeline.tracks.append(track)
        return str(timeline.to_json_string(indent=1)) + "\n"

    def _time(self, frames: float) -> Any:
        return otio.opentime.RationalTime(frames, self._rate)

    def _range(self, first: float, length: float) -> Any:
        return otio.opentime.TimeRange(self._time(first), self._time(length))

    def _shots(self) -> Any:
        """A clip for each shot that is seen, those among them that events make; what is told of a clip's medium counts
        in the scene's frames."""
        scene = self._scene
        track = otio.schema.Track("Film", kind=otio.schema.TrackKind.Video)
        made = with_events(Evaluation.evaluator, scene, shots_of(scene))
        edges = [*(each.shot.first for each in made[1:]), self._end]
        begins = self._first
        for each, edge in zip(made, edges, strict=True):
            ends = min(edge, self._end)
            if ends <= begins:
                continue
            if len(track):
                self._blend(track, each, begins)
            track.append(self._clip(each, begins, ends))
            begins = ends
        for marker in scene.markers:
            if self._first <= marker.frame < self._end:
                at = self._range(marker.frame - self._first, 1.0)
                told = {"kind": marker.kind, "colour": marker.colour}
                track.markers.append(otio.schema.Marker(marker.name, at, metadata={KEY: told}))
        return track

    def _blend(self, track: Any, made: MadeShot, at: float) -> None:
        """The transition into a shot whose clip begins at a frame, as far as the clips reach that it lies between."""
        join = made.shot.join
        if not isinstance(join, Blend):
            return
        begins, ends = made.shot.interval(self._scene.settings.rate)
        before, after = min(at - begins, at - self._first), min(ends - at, self._end - at)
        if before + after <= 0.0:
            return
        kind = otio.schema.TransitionTypes.Custom
        told = {"blend": msgspec.to_builtins(join)}
        name = f"Into {made.shot.name}"
        track.append(otio.schema.Transition(name, kind, self._time(before), self._time(after), {KEY: told}))

    def _clip(self, made: MadeShot, begins: float, ends: float) -> Any:
        shot = made.shot
        node = nodes_by_id(self._scene)[shot.camera]
        told: dict[str, Any] = {"camera": node.name, "shows": node.kind, "note": shot.note, "colour": shot.colour}
        if made.event >= 0:
            told["event"] = self._scene.events[made.event].name
        whole = self._range(self._first, self._end - self._first)
        return otio.schema.Clip(
            shot.name, self._medium(whole), self._range(begins, ends - begins), metadata={KEY: told}
        )

    def _medium(self, whole: Any) -> Any:
        """What was made of the film, whose first frame is the scene's."""
        if self._picture is None:
            return otio.schema.MissingReference(available_range=whole)
        name = self._picture.name
        if "#" not in name:
            return otio.schema.ExternalReference(self._url(self._picture), whole)
        prefix, _, rest = name.partition("#")
        return otio.schema.ImageSequenceReference(
            self._url(self._picture.parent) + "/", prefix, rest.lstrip("#"), self._scene.settings.first, 1, self._rate,
            len(rest) - len(rest.lstrip("#")) + 1, available_range=whole,
        )  # fmt: skip

    def _url(self, path: Path) -> str:
        """A file by its way from the folder that is written to: both can move together."""
        return quote(Path(os.path.relpath(path.resolve(), self._folder)).as_posix())

    def _sound(self, sound: Sound) -> Any | None:
        """A track for a sound as far as it is heard, with a gap before it; None where it is not."""
        there = (sound.seconds - sound.skip) * self._rate
        begins, ends = max(sound.start, self._first), min(sound.start + there, self._end)
        if not sound.on or ends <= begins:
            return None
        track = otio.schema.Track(sound.name, kind=otio.schema.TrackKind.Audio)
        if begins > self._first:
            track.append(otio.schema.Gap(source_range=self._range(0.0, begins - self._first)))
        source = self._url(resolve(self._base, sound.source))
        medium = otio.schema.ExternalReference(source, self._range(0.0, sound.seconds * self._rate))
        told = {"gain": sound.gain, "fade_in": sound.fade_in, "fade_out": sound.fade_out}
        inside = self._range(sound.skip * self._rate + begins - sound.start, ends - begins)
        track.append(otio.schema.Clip(sound.name, medium, inside, metadata={KEY: told}))
        return track
