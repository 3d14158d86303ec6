"""What the film shows: the shots with what events make of them, cut and blended into one picture over time."""

from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Rows
from ..motion.easing import unit_ease
from ..scene import Blend, Format, Scene, Shot, View
from ..scene.dependencies import OUTPUT_STAGE, final_stage, subscene
from ..scene.lookup import nodes_by_id
from ..scene.output import shots_of
from ..scene.spans import Ease
from ..space.aim import heading, level_frame, unit_directions
from ..space.rotation import axis_quaternion, quaternion_to_matrix
from .binds.surroundings import Elsewhere
from .cameras import CameraView, Scenery, Segments, own_view
from .events import MadeShot, with_events
from .mixing import Course, course_of, mixed, put_together, rows_of
from .touring import with_tour


class FilmShot(NamedTuple):
    """A shot as it is shown. It ``begins`` to be seen at a frame, is alone from ``ends`` on, and ``first`` is its own.

    ``source`` is its number in the scene, -1 where the event of number ``event`` made it.
    """

    camera: str
    first: float
    begins: float
    ends: float
    ease: Ease | None
    """None: a cut."""
    course: Course | None
    source: int
    event: int = -1
    aim: str | None = None
    tilt: float = 0.0
    name: str = ""


class Film(msgspec.Struct, frozen=True):
    """All shots in order; the first one begins before everything."""

    shots: tuple[FilmShot, ...]
    segments: Segments
    begins: Array

    def number(self, frames: Array) -> Rows:
        """Which shot (N,) is the last that has begun at each frame (N,)."""
        return np.maximum(np.searchsorted(self.begins, frames, side="right") - 1, 0)

    def under(self, number: int, frames: Array) -> list[tuple[int, NDArray[np.bool_]]]:
        """The shots that are seen at frames (N,) at which a shot is the last that has begun, and where (N,) each is:
        itself, and those that it is still blended with."""
        found = [(number, np.ones(len(frames), dtype=bool))]
        seen = found[0][1]
        while self.shots[number].ease is not None and number:
            seen = seen & (frames < self.shots[number].ends)
            if not seen.any():
                break
            number -= 1
            found.append((number, seen))
        return found


def film_of(elsewhere: Elsewhere, scene: Scene) -> Film:
    """The film of a scene. What it comes to is kept for the part of the scene that it depends on."""
    shots = shots_of(scene)
    if not any(event.on for event in scene.events) and not any(isinstance(shot.join, Blend) for shot in shots[1:]):
        return _cuts(shots)
    nodes = nodes_by_id(scene)
    looked_at = dict.fromkeys(each for event in scene.events if event.on for each in event.looked_at())
    return _film(elsewhere, subscene(scene, (OUTPUT_STAGE, *(final_stage(nodes[each]) for each in looked_at))))


@lru_cache(maxsize=64)
def _cuts(shots: tuple[Shot, ...]) -> Film:
    """A film without events and blends, for which nothing has to be evaluated."""
    return _joined(
        [
            FilmShot(shot.camera, shot.first, shot.first, shot.first, None, None, number, name=shot.name)
            for number, shot in enumerate(shots)
        ]
    )


def _joined(shots: list[FilmShot]) -> Film:
    starts = tuple(shot.first for shot in shots[1:] if shot.ease is None)
    begins = [-np.inf, *(shot.begins for shot in shots[1:])]
    return Film(tuple(shots), Segments(starts), np.array(begins))


@lru_cache(maxsize=32)
def _film(elsewhere: Elsewhere, scene: Scene) -> Film:
    shots = with_events(elsewhere, scene, shots_of(scene))
    planned = [_planned(scene, number, made) for number, made in enumerate(shots)]
    blends = [k for k, each in enumerate(planned) if each.ease is not None]
    if not blends:
        return _joined(planned)
    nodes = nodes_by_id(scene)
    middles = np.array([0.5 * (planned[k].begins + planned[k].ends) for k in blends])
    wanted = dict.fromkeys(each for k in blends for each in (planned[k - 1].camera, planned[k].camera))
    aims = dict.fromkeys(planned[k].aim for k in range(len(planned)) if planned[k].aim)
    stages = [final_stage(nodes[each]) for each in (*wanted, *(each for each in aims if each))]
    there = elsewhere(scene, middles, stages)
    for row, k in enumerate(blends):
        one = np.array([row])
        before, after = (rows_of(seen_in_shot(there, planned[k + step]), one) for step in (-1, 0))
        a, b = (nodes[planned[k + step].camera].aim for step in (-1, 0))
        same = a is not None and b is not None and a.on and b.on and bool(a.targets) and a.targets == b.targets
        join = shots[k].shot.join
        assert isinstance(join, Blend)
        planned[k] = planned[k]._replace(course=course_of(before, after, join.way, same))
    return _joined(planned)


def _planned(scene: Scene, number: int, made: MadeShot) -> FilmShot:
    shot = made.shot
    begins, ends = shot.interval(scene.settings.rate)
    blend = shot.join if number and isinstance(shot.join, Blend) else None
    if blend is None:
        begins = ends = shot.first
    return FilmShot(
        shot.camera, shot.first, begins, ends, blend.ease if blend else None, None, made.source, made.event, made.aim,
        made.tilt, shot.name,
    )  # fmt: skip


def camera_view(
    there: Scenery, lens: View, output: Format | None = None, size: tuple[int, int] | None = None
) -> CameraView:
    """What a camera or a framing sees, on its tour if it is on one."""
    own = own_view(there, lens, output, size)
    return own if lens.serves_as("framing") else with_tour(there, lens, own, output, size)


def seen_in_shot(
    there: Scenery, shot: FilmShot, output: Format | None = None, size: tuple[int, int] | None = None
) -> CameraView:
    """What a shot's camera sees, aimed and tilted as an event wants it."""
    node = there.node(shot.camera)
    assert isinstance(node, View)
    view = camera_view(there, node, output, size)
    if shot.aim is None and not shot.tilt:
        return view
    count = len(view)
    if shot.aim is None:
        pose = view.pose.copy()
        turn = quaternion_to_matrix(axis_quaternion(2, np.full(count, np.radians(shot.tilt))))
        for k in range(3):
            pose[:, :3, k] = sum(view.pose[:, :3, j] * turn[:, j, k, None] for j in range(3))
        return msgspec.structs.replace(view, pose=pose)
    point = np.broadcast_to(there.position_of(shot.aim), (count, 3))
    direction = unit_directions(point - view.position)
    roll = np.full(count, np.radians(shot.tilt))
    pose = level_frame(direction, heading(direction), roll, np.ascontiguousarray(view.position))
    distance = np.sqrt(((point - view.position) ** 2).sum(axis=1))
    return msgspec.structs.replace(view, pose=pose, aim=point, focus=np.maximum(distance, 1e-3))


See = Callable[[int, Rows], CameraView]
"""What the shot of a number shows at the frames of some numbers."""


def film_view(film: Film, frames: Array, see: See) -> CameraView:
    """What a film shows at frames (N,)."""
    top = film.number(frames)
    parts = []
    for number in np.unique(top).tolist():
        rows = np.flatnonzero(top == number)
        parts.append((rows, _shown(film, number, rows, frames, see)))
    return msgspec.structs.replace(put_together(frames, parts), segments=film.segments)


def _shown(film: Film, number: int, rows: Rows, frames: Array, see: See) -> CameraView:
    """A shot at the frames of some numbers, blended with what is there before it is alone."""
    shot = film.shots[number]
    times = frames[rows]
    blending = times < shot.ends
    if shot.ease is None or number == 0 or not blending.any():
        return see(number, rows)
    assert shot.course is not None
    part = rows[blending]
    share = unit_ease(shot.ease)(np.clip((times[blending] - shot.begins) / (shot.ends - shot.begins), 0.0, 1.0))
    blend = mixed(_shown(film, number - 1, part, frames, see), see(number, part), share, shot.course)
    if blending.all():
        return blend
    alone = np.flatnonzero(~blending)
    return put_together(times, [(np.flatnonzero(blending), blend), (alone, see(number, rows[alone]))])


def output_view(
    elsewhere: Elsewhere, there: Scenery, output: Format | None = None, size: tuple[int, int] | None = None
) -> CameraView:
    """What the output shows in a scene that has been evaluated."""
    film = film_of(elsewhere, there.scene)
    whole: dict[int, CameraView] = {}

    def see(number: int, rows: Rows) -> CameraView:
        if number not in whole:
            whole[number] = seen_in_shot(there, film.shots[number], output, size)
        view = whole[number]
        return view if len(rows) == len(view) else rows_of(view, rows)

    return film_view(film, there.frames, see)


def filmed(
    elsewhere: Elsewhere,
    evaluated: Callable[[Scene, Array, Iterable[str]], Scenery],
    scene: Scene,
    frames: Array,
    output: Format | None = None,
    size: tuple[int, int] | None = None,
) -> CameraView:
    """What the output shows at frames (N,), each camera evaluated at just the frames at which it is seen."""
    film = film_of(elsewhere, scene)
    top = film.number(frames)
    wanted: dict[tuple[str, str | None, float], list[Rows]] = {}
    for number in np.unique(top).tolist():
        rows = np.flatnonzero(top == number)
        for under, where in film.under(number, frames[rows]):
            shot = film.shots[under]
            wanted.setdefault((shot.camera, shot.aim, shot.tilt), []).append(rows[where])
    seen: dict[tuple[str, str | None, float], tuple[Rows, CameraView]] = {}
    for key, pieces in wanted.items():
        rows = np.unique(np.concatenate(pieces))
        there = evaluated(scene, frames[rows], [each for each in key[:2] if each is not None])
        shot = next(each for each in film.shots if (each.camera, each.aim, each.tilt) == key)
        seen[key] = (rows, seen_in_shot(there, shot, output, size))

    def see(number: int, rows: Rows) -> CameraView:
        shot = film.shots[number]
        at, view = seen[shot.camera, shot.aim, shot.tilt]
        return rows_of(view, np.searchsorted(at, rows))

    return film_view(film, frames, see)
