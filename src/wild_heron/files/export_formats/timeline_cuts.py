"""Imports the cuts of an OpenTimelineIO film as shots."""

import re

import msgspec

from ...edits.film import with_shots
from ...scene import Blend, Cut, Marker, Scene, SceneError, Shot, View
from ...scene.film import MAX_SHOTS, settled
from ...scene.model import MAX_FRAMES
from ...scene.validate import validate_change
from ..contents import CutClip, FilmCuts, FilmMarker

_SAME_RATE = 1e-5


def with_cuts(scene: Scene, film: FilmCuts, start: float) -> tuple[Scene, tuple[str, ...]]:
    """The scene with the film's shots from frame ``start`` on, its markers, and a range that ends with it; and what is
    to be said of it, a sentence each.

    A shot shows the camera or framing of the name that it, or what it shows, has; else the cameras one after another.
    SceneError where there is none.
    """
    views = [node for node in scene.nodes if isinstance(node, View)]
    known = [node for node in views if node.serves_as("camera")] or views
    if not known:
        raise SceneError("The scene has no camera for the shots to show. Camera ▸ Add camera makes one.")
    by_name = {node.name: node.id for node in views}
    fps = scene.settings.rate.fps
    notes = list(film.notes)
    other = film.rate > 0.0 and abs(film.rate - fps) > _SAME_RATE * fps
    if other:
        notes.append(
            f"It counts {film.rate:g} frames a second, the scene {fps:g}: every cut is on the frame that is nearest."
        )

    def at(seconds: float) -> float:
        return start + (float(round(seconds * fps)) if other else round(seconds * fps, 6))

    if len(film.clips) > MAX_SHOTS:
        notes.append(f"It has {len(film.clips)} clips, of which the first {MAX_SHOTS} come in.")
    shots = []
    for number, clip in enumerate(film.clips[:MAX_SHOTS]):
        camera = by_name.get(clip.camera) or by_name.get(clip.name) or known[number % len(known)].id
        join = _join(clip, fps) if number else Cut()
        colour = _colour(clip.colour)
        shots.append(
            Shot(clip.name or f"Shot {number + 1}", camera, at(clip.begins), colour, clip.note, join)
        )  # fmt: skip
    changed = with_shots(scene, settled(shots, scene.settings.rate))
    changed = _with_markers(changed, tuple(_marker(each, at(each.seconds)) for each in film.markers))
    last = round(at(film.seconds)) - 1
    if film.seconds > 0.0 and last != scene.settings.last and 0 < last - scene.settings.first < MAX_FRAMES:
        notes.append(f"The scene now ends with the film, on frame {last}.")
        changed = msgspec.structs.replace(changed, settings=msgspec.structs.replace(scene.settings, last=last))
    validate_change(scene, changed)
    return changed, tuple(notes)


def _join(clip: CutClip, fps: float) -> Cut | Blend:
    length = (clip.before + clip.after) * fps
    if length <= 0.0:
        return Cut()
    place = "before" if clip.after <= 0.0 else "after" if clip.before <= 0.0 else "on"
    plain = Blend(round(length, 6), "frames", place)  # type: ignore[arg-type]
    try:
        told = msgspec.json.decode(clip.blend, type=Blend)
    except msgspec.MsgspecError:
        return plain
    # As long as the timeline has it: somebody may have trimmed it there.
    return msgspec.structs.replace(plain, ease=told.ease, way=told.way)


def _colour(text: str) -> str:
    return text if re.fullmatch("#[0-9a-fA-F]{6}", text) else ""


def _marker(found: FilmMarker, frame: float) -> Marker:
    kind = found.kind if found.kind in ("moment", "beat", "chapter") else "moment"
    return Marker(frame, found.name, kind, _colour(found.colour))  # type: ignore[arg-type]


def _with_markers(scene: Scene, markers: tuple[Marker, ...]) -> Scene:
    there = {(marker.frame, marker.name) for marker in scene.markers}
    new = [marker for marker in markers if (marker.frame, marker.name) not in there]
    every = tuple(sorted((*scene.markers, *new), key=lambda marker: marker.frame))
    return msgspec.structs.replace(scene, markers=every)
