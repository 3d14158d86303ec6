"""Markers: named moments of the scene."""

from bisect import bisect_left
from collections.abc import Iterable
from math import isfinite

import msgspec

from ..scene.channel import SAME_FRAME
from ..scene.errors import SceneError
from ..scene.model import Marker, MarkerKind, Scene


def marker_at(scene: Scene, frame: float) -> Marker | None:
    """The marker on a frame."""
    at = bisect_left(scene.markers, frame - SAME_FRAME, key=lambda each: each.frame)
    found = scene.markers[at : at + 1]
    return found[0] if found and abs(found[0].frame - frame) <= SAME_FRAME else None


def _with(scene: Scene, markers: Iterable[Marker]) -> Scene:
    return msgspec.structs.replace(scene, markers=tuple(sorted(markers, key=lambda each: each.frame)))


def set_marker(scene: Scene, frame: float, name: str = "", kind: MarkerKind | None = None, colour: str = "") -> Scene:
    """The scene with a marker on a frame, in place of one that is there, of whose kind it is then; without a name it is
    called by a number."""
    if not isfinite(frame):
        raise SceneError("A marker needs a finite frame.")
    known = marker_at(scene, frame)
    others = [each for each in scene.markers if each is not known]
    taken = {each.name for each in others}
    name = name.strip()[:200] or (known.name if known else "")
    word = {"beat": "Beat", "chapter": "Chapter"}.get(kind or "", "Marker")
    name = name or next(each for k in range(1, len(others) + 2) if (each := f"{word} {k}") not in taken)
    kind = kind or (known.kind if known else "moment")
    return _with(scene, [*others, Marker(float(frame), name, kind, colour or (known.colour if known else ""))])


def remove_marker(scene: Scene, frame: float) -> Scene:
    """The scene without the marker on a frame."""
    known = marker_at(scene, frame)
    return _with(scene, [each for each in scene.markers if each is not known])


def move_marker(scene: Scene, frame: float, to: float) -> Scene:
    """The scene with a marker moved; one that it lands on goes. SceneError where there is none."""
    known = marker_at(scene, frame)
    if known is None:
        raise SceneError(f"There is no marker at frame {frame:g}.")
    return set_marker(remove_marker(scene, frame), to, known.name, known.kind, known.colour)


def neighbouring_markers(scene: Scene, frame: float) -> tuple[float | None, float | None]:
    """Frames of the marker before and the one after a frame."""
    frames = [each.frame for each in scene.markers]
    before = [each for each in frames if each < frame - SAME_FRAME]
    after = [each for each in frames if each > frame + SAME_FRAME]
    return (before[-1] if before else None), (after[0] if after else None)
