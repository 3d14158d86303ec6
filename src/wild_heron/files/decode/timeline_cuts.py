"""The cuts of a film from OpenTimelineIO."""

from collections.abc import Iterable
from itertools import pairwise
from typing import Any, NamedTuple

import msgspec

from ...intervals import outside
from ..contents import CutClip, FilmCuts, FilmMarker
from ..errors import FileError
from ..extras import needing
from .source import Source

_MAX_BYTES = 64 * 1024 * 1024
_MOST = 100_000
_DEEPEST = 64
_REMEDY = "Export it anew as .otio."
_KEY = "wild_heron"


def read_cuts(file: Source) -> FilmCuts:
    """What the tracks of pictures show, one over another, as clips one after another. FileError where that is
    nothing."""
    with needing():
        import opentimelineio as otio

    data = file.read(_MAX_BYTES, _REMEDY)
    try:
        timeline = otio.adapters.read_from_string(data.decode("utf-8"), "otio_json")
    except (UnicodeDecodeError, otio.exceptions.OTIOError, ValueError, RuntimeError) as problem:
        what = " ".join(str(problem).split())[:200]
        raise FileError(file.path, f"is no timeline that can be read: {what}.", _REMEDY) from problem
    if not isinstance(timeline, otio.schema.Timeline) or not timeline.video_tracks():
        raise FileError(file.path, "holds no track of pictures.", _REMEDY)
    try:
        return _Reading(file).film(timeline)
    except (otio.exceptions.OTIOError, LookupError, ValueError, TypeError, AttributeError, RuntimeError) as problem:
        what = " ".join(str(problem).split())[:200]
        raise FileError(file.path, f"is not a timeline as it should be: {what}.", _REMEDY) from problem


class _Piece(NamedTuple):
    """A clip as it is seen from one second to another; ``before`` and ``after`` its beginning it is mixed with what
    comes before."""

    begins: float
    ends: float
    clip: Any
    before: float = 0.0
    after: float = 0.0
    transition: Any = None


class _Reading:
    def __init__(self, file: Source) -> None:
        self._file = file
        self._markers: list[FilmMarker] = []
        self._count = 0
        self._notes: list[str] = []

    def film(self, timeline: Any) -> FilmCuts:
        start, part = _part(timeline.tracks, 0.0, None)
        pieces = self._stack(timeline.tracks, start, part, 0)
        if not pieces:
            raise FileError(self._file.path, "holds no shots.", _REMEDY)
        # A sound that runs on after the last picture does not make the film longer.
        seconds = max(_seconds(track.duration()) for track in timeline.video_tracks())
        seconds = seconds + start if part is None else min(seconds + start, part[1])
        holes = [(a.ends, b.begins) for a, b in pairwise(pieces) if b.begins - a.ends > 1e-6]
        if holes:
            self._notes.append(
                f"{len(holes)} {'gap' if len(holes) == 1 else 'gaps'} between clips: the shot before goes on there."
            )
        if pieces[0].begins > 1e-6:
            self._notes.append("It begins with a gap: the first shot is shown there.")
        rate = next((_rate(piece.clip) for piece in pieces), 0.0)
        markers = tuple(sorted(set(self._markers), key=lambda each: (each.seconds, each.name)))
        return FilmCuts(tuple(map(_cut, pieces)), seconds, markers, rate, tuple(self._notes))

    def _stack(self, stack: Any, at: float, inside: tuple[float, float] | None, depth: int) -> list[_Piece]:
        """What tracks that lie over one another show: the highest that has a clip there."""
        import opentimelineio as otio

        seen: list[_Piece] = []
        self._mark(stack, at, inside)
        for track in stack:
            if not track.enabled or getattr(track, "kind", "Video") != otio.schema.TrackKind.Video:
                continue
            start, part = _part(track, at, inside)
            own = self._composed(track, start, part, depth + 1)
            seen = _over(seen, own)
        return seen

    def _track(self, track: Any, at: float, inside: tuple[float, float] | None, depth: int) -> list[_Piece]:
        """What a track shows, whose own time 0 is at a second of the film, as far as it lies inside two of them."""
        import opentimelineio as otio

        self._mark(track, at, inside)
        out: list[_Piece] = []
        now, before, after, transition = at, 0.0, 0.0, None
        for item in track:
            if isinstance(item, otio.schema.Transition):
                before, after, transition = _seconds(item.in_offset), _seconds(item.out_offset), item
                continue
            self._count += 1
            if self._count > _MOST:
                raise FileError(self._file.path, f"has more than {_MOST} clips.", "Take a part of it.")
            length = _seconds(item.duration())
            low, high = (now, now + length) if inside is None else (max(now, inside[0]), min(now + length, inside[1]))
            if high > low and item.enabled and not isinstance(item, otio.schema.Gap):
                if isinstance(item, otio.schema.Clip):
                    started = _seconds(item.trimmed_range().start_time)
                    self._mark(item, now - started, (low, high))
                    mixed = (before, after, transition) if low == now else (0.0, 0.0, None)
                    out.append(_Piece(low, high, item, *mixed))
                else:
                    start, part = _part(item, now, (low, high))
                    out += self._composed(item, start, part, depth + 1)
            before, after, transition = 0.0, 0.0, None
            now += length
        return out

    def _composed(self, item: Any, at: float, inside: tuple[float, float] | None, depth: int) -> list[_Piece]:
        import opentimelineio as otio

        if depth > _DEEPEST:
            raise FileError(self._file.path, "has timelines inside one another without an end.", _REMEDY)
        if isinstance(item, otio.schema.Stack):
            return self._stack(item, at, inside, depth)
        if isinstance(item, otio.schema.Track):
            return self._track(item, at, inside, depth)
        return []

    def _mark(self, item: Any, at: float, inside: tuple[float, float] | None) -> None:
        """Markers of what has its own time 0 at a second of the film."""
        for marker in item.markers:
            seconds = at + _seconds(marker.marked_range.start_time)
            if inside is None or inside[0] - 1e-9 <= seconds < inside[1]:
                told = _told(marker)
                kind, colour = (str(told.get(key, "")) for key in ("kind", "colour"))
                self._markers.append(FilmMarker(seconds, marker.name[:80] or "Marker", kind[:20], colour[:7]))


def _part(item: Any, at: float, inside: tuple[float, float] | None) -> tuple[float, tuple[float, float] | None]:
    """Where the own time 0 of something lies that begins at a second of the film, and between which seconds it is
    seen."""
    trimmed = item.source_range
    if trimmed is None:
        return at, inside
    low, high = at, at + _seconds(trimmed.duration)
    if inside is not None:
        low, high = max(low, inside[0]), min(high, inside[1])
    return at - _seconds(trimmed.start_time), (low, high)


def _over(under: Iterable[_Piece], over: list[_Piece]) -> list[_Piece]:
    """Pieces with others over them, in order."""
    out = list(over)
    for piece in under:
        edges = outside((piece.begins, piece.ends), [(top.begins, top.ends) for top in over], 1e-9)
        out += [
            piece._replace(begins=low, ends=high) if low == piece.begins else
            piece._replace(begins=low, ends=high, before=0.0, after=0.0, transition=None)
            for low, high in edges
        ]  # fmt: skip
    return sorted(out, key=lambda piece: piece.begins)


def _cut(piece: _Piece) -> CutClip:
    told = _told(piece.clip)
    blend = "" if piece.transition is None else _told(piece.transition).get("blend", "")
    return CutClip(
        (piece.clip.name or "")[:80],
        str(told.get("camera", ""))[:200],
        piece.begins,
        piece.before,
        piece.after,
        _plain(blend),
        str(told.get("note", ""))[:2000],
        str(told.get("colour", ""))[:7],
    )


def _told(item: Any) -> Any:
    """What we told of a thing ourselves, or nothing."""
    told = item.metadata.get(_KEY, {})
    return told if hasattr(told, "get") else {}


def _plain(told: Any) -> str:
    """Metadata as JSON."""

    def plain(value: Any) -> Any:
        if hasattr(value, "items"):
            return {str(key): plain(each) for key, each in value.items()}
        return value if isinstance(value, bool | int | float | str) else [plain(each) for each in value]

    try:
        return msgspec.json.encode(plain(told)).decode() if told else ""
    except (TypeError, RecursionError, msgspec.MsgspecError):
        return ""


def _seconds(time: Any) -> float:
    return float(time.to_seconds())


def _rate(clip: Any) -> float:
    return float(clip.trimmed_range().duration.rate)
