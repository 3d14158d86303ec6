"""A film's cuts from another program, as shots of the scene's cameras."""

from ...scene import Blend, Cut, Marker, Scene, SceneError, Shot
from ...scene.edits.film import with_shots
from ...scene.film import MAX_SHOTS, settled
from ...scene.output import cameras
from ..contents import FilmCuts


def with_cuts(scene: Scene, film: FilmCuts, start: float) -> Scene:
    """The scene with the film's shots from frame ``start`` on, and its markers added.

    A shot shows the camera of the name that it, or what it shows, has; else the cameras one after another. SceneError
    where there is none.
    """
    known = list(cameras(scene).values())
    if not known:
        raise SceneError("The scene has no camera for the shots to show. Camera ▸ Add camera makes one.")
    by_name = {node.name: node.id for node in known}
    fps = scene.settings.rate.fps
    shots = []
    for number, clip in enumerate(film.clips[:MAX_SHOTS]):
        camera = by_name.get(clip.camera) or by_name.get(clip.name) or known[number % len(known)].id
        join: Cut | Blend = Cut()
        if number and clip.before + clip.after > 0.0:
            place = "before" if clip.after <= 0.0 else "after" if clip.before <= 0.0 else "on"
            join = Blend((clip.before + clip.after) * fps, "frames", place)  # type: ignore[arg-type]
        shots.append(Shot(clip.name or f"Shot {number + 1}", camera, start + round(clip.begins * fps, 6), join=join))
    markers = tuple(Marker(start + round(seconds * fps, 6), name) for seconds, name in film.markers)
    changed = with_shots(scene, settled(shots, scene.settings.rate))
    return _with_markers(changed, markers)


def _with_markers(scene: Scene, markers: tuple[Marker, ...]) -> Scene:
    import msgspec

    there = {(marker.frame, marker.name) for marker in scene.markers}
    new = [marker for marker in markers if (marker.frame, marker.name) not in there]
    every = tuple(sorted((*scene.markers, *new), key=lambda marker: marker.frame))
    return msgspec.structs.replace(scene, markers=every)
