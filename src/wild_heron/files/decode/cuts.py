"""The cuts of a film from OpenTimelineIO."""

from typing import Any

from ..contents import CutClip, FilmCuts
from ..errors import FileError
from .source import Source

_MAX_BYTES = 64 * 1024 * 1024
_REMEDY = "Export it anew as .otio."
_KEY = "wild_heron"


def read_cuts(file: Source) -> FilmCuts:
    """The clips of the first track of pictures, one after another. FileError where there is none."""
    import opentimelineio as otio

    data = file.read(_MAX_BYTES, _REMEDY)
    try:
        timeline = otio.adapters.read_from_string(data.decode("utf-8"), "otio_json")
    except (UnicodeDecodeError, otio.exceptions.OTIOError, ValueError, RuntimeError) as problem:
        what = " ".join(str(problem).split())[:200]
        raise FileError(file.path, f"is no timeline that can be read: {what}.", _REMEDY) from problem
    tracks = timeline.video_tracks() if isinstance(timeline, otio.schema.Timeline) else []
    if not tracks:
        raise FileError(file.path, "holds no track of pictures.", _REMEDY)
    return _cuts(file, tracks[0])


def _cuts(file: Source, track: Any) -> FilmCuts:
    import opentimelineio as otio

    clips: list[CutClip] = []
    now, before, after = 0.0, 0.0, 0.0
    for item in track:
        if isinstance(item, otio.schema.Transition):
            before, after = item.in_offset.to_seconds(), item.out_offset.to_seconds()
            continue
        length = item.duration().to_seconds()
        if isinstance(item, otio.schema.Clip) and length > 0.0:
            told = item.metadata.get(_KEY, {})
            camera = str(told.get("camera", "")) if hasattr(told, "get") else ""
            clips.append(CutClip(item.name[:80], camera[:80], now, before, after))
        before = after = 0.0
        now += length
    if not clips:
        raise FileError(file.path, "holds no shots.", _REMEDY)
    markers = tuple(
        (marker.marked_range.start_time.to_seconds(), marker.name[:80] or "Marker") for marker in track.markers
    )
    return FilmCuts(tuple(clips), now, markers)
