"""The film's cuts as OpenTimelineIO has them: shots, blends, markers and sounds."""

from typing import Any

import opentimelineio as otio

from ...scene import Blend, Scene, Sound
from ...scene.film import blend_frames
from ...scene.lookup import nodes_by_id
from ...scene.output import shots_of

KEY = "wild_heron"
"""Where in the metadata stands what the standard has no word for."""


def film_text(scene: Scene) -> str:
    """The film as the text of an ``.otio`` file."""
    settings = scene.settings
    rate = settings.rate.fps

    def time(frames: float) -> Any:
        return otio.opentime.RationalTime(frames, rate)

    timeline = otio.schema.Timeline(scene.name, global_start_time=time(settings.first))
    video = otio.schema.Track("Film", kind=otio.schema.TrackKind.Video)
    nodes = nodes_by_id(scene)
    shots = shots_of(scene)
    end = float(settings.last + 1)
    for number, shot in enumerate(shots):
        first = max(shot.first, float(settings.first)) if number else float(settings.first)
        last = shots[number + 1].first if number + 1 < len(shots) else end
        if number and isinstance(shot.join, Blend):
            length = blend_frames(shot.join, settings.rate)
            before = length * {"before": 1.0, "on": 0.5, "after": 0.0}[shot.join.place]
            told = {"blend": {"way": shot.join.way, "ease": str(type(shot.join.ease).__name__)}}
            video.append(
                otio.schema.Transition(
                    f"Into {shot.name}",
                    otio.schema.TransitionTypes.Custom,
                    time(before),
                    time(length - before),
                    {KEY: told},
                )
            )
        clip = otio.schema.Clip(
            shot.name,
            otio.schema.MissingReference(),
            otio.opentime.TimeRange(time(first), time(max(last - first, 0.0))),
            metadata={KEY: {"camera": nodes[shot.camera].name, "note": shot.note}},
        )
        video.append(clip)
    timeline.tracks.append(video)
    for marker in scene.markers:
        at = otio.opentime.TimeRange(time(marker.frame - settings.first), time(1.0))
        video.markers.append(otio.schema.Marker(marker.name, at, metadata={KEY: {"kind": marker.kind}}))
    for sound in scene.sounds:
        _sound(timeline, scene, sound, time)
    return str(timeline.to_json_string(indent=1)) + "\n"


def _sound(timeline: Any, scene: Scene, sound: Sound, time: Any) -> None:
    """A track for each sound that is on, with a gap before it."""
    if not sound.on:
        return
    settings = scene.settings
    track = otio.schema.Track(sound.name, kind=otio.schema.TrackKind.Audio)
    offset = sound.start - settings.first
    if offset > 0.0:
        track.append(otio.schema.Gap(source_range=otio.opentime.TimeRange(time(0.0), time(offset))))
    length = min(sound.seconds * settings.rate.fps, max(settings.last + 1.0 - max(sound.start, settings.first), 0.0))
    begins = sound.skip * settings.rate.fps + max(-offset, 0.0)
    reference = otio.schema.ExternalReference(target_url=sound.source)
    told = {"gain": sound.gain, "fade_in": sound.fade_in, "fade_out": sound.fade_out}
    inside = otio.opentime.TimeRange(time(begins), time(length))
    track.append(otio.schema.Clip(sound.name, reference, inside, metadata={KEY: told}))
    timeline.tracks.append(track)
