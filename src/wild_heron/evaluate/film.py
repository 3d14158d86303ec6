"""The film over time: shots, events, cuts and blends as one camera view."""

from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, Rows, ascending
from ..motion.easing import unit_ease
from ..scene import Blend, Format, Scene, Shot, View, Way
from ..scene.dependencies import OUTPUT_STAGE, PoseStage, final_stage, position_stage, subscene
from ..scene.lookup import nodes_by_id
from ..scene.output import shots_of
from ..scene.spans import Ease
from ..sized_cache import cached_by_size
from ..space.aim import heading, level_frame, unit_directions
from ..space.rotation import axis_quaternion, quaternion_to_matrix
from .binds.camera_mix import with_lens_of_binds
from .cameras import CameraView, Segments, own_view
from .context import EvaluationContext, Evaluator
from .events import MadeShot, with_events
from .mixing import BlendCourse, course_over, mixed, put_together, rows_of


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
    way: Way | None
    source: int
    event: int = -1
    aim: str | None = None
    tilt: float = 0.0
    name: str = ""

    def bare(self) -> "FilmShot":
        """What is seen of it and when, without what it is called."""
        return self._replace(first=self.begins, source=0, event=-1, name="")


class Film(msgspec.Struct, frozen=True):
    """All shots in order; the first one begins before everything."""

    shots: tuple[FilmShot, ...]
    segments: Segments
    begins: Array
    ends: Array
    """When each is alone; of a cut before everything."""
    scene: Scene | None = None
    evaluator: Evaluator | None = None
    """What it takes to tell how blends go; None where there are none."""
    known: dict[int, BlendCourse] = {}
    """The courses that were told so far: they cost something, and most are not asked for."""

    def course(self, number: int) -> BlendCourse:
        """How the blend into a shot goes."""
        found = self.known.get(number)
        if found is None:
            assert self.scene is not None
            assert self.evaluator is not None
            first = number - 1
            while first and self.shots[first].ease is not None and self.shots[number].begins < self.shots[first].ends:
                first -= 1
            chain = tuple(shot.bare() for shot in self.shots[first : number + 1])
            needed = subscene(self.scene, _stages_of(self.scene, *chain))
            found = self.known[number] = _course(self.evaluator, needed, chain)
        return found

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


def film_of(evaluator: Evaluator, scene: Scene) -> Film:
    """The film of a scene. What it comes to is kept for the part of the scene that it depends on."""
    shots = shots_of(scene)
    if not any(event.on for event in scene.events) and not any(isinstance(shot.join, Blend) for shot in shots[1:]):
        return _cuts(shots)
    nodes = nodes_by_id(scene)
    looked_at = dict.fromkeys(each for event in scene.events if event.on for each in event.looked_at())
    return _film(evaluator, subscene(scene, (OUTPUT_STAGE, *(final_stage(nodes[each]) for each in looked_at))))


@lru_cache(maxsize=64)
def _cuts(shots: tuple[Shot, ...]) -> Film:
    """A film without events and blends, for which nothing has to be evaluated."""
    return _joined(
        [
            FilmShot(shot.camera, shot.first, shot.first, shot.first, None, None, number, name=shot.name)
            for number, shot in enumerate(shots)
        ]
    )


def _joined(shots: list[FilmShot], scene: Scene | None = None, evaluator: Evaluator | None = None) -> Film:
    starts = tuple(shot.first for shot in shots[1:] if shot.ease is None)
    begins = np.array([-np.inf, *(shot.begins for shot in shots[1:])])
    ends = np.array([shot.ends if number and shot.ease is not None else -np.inf for number, shot in enumerate(shots)])
    return Film(tuple(shots), Segments(starts), begins, ends, scene, evaluator, {})


@lru_cache(maxsize=32)
def _film(evaluator: Evaluator, scene: Scene) -> Film:
    shots = with_events(evaluator, scene, shots_of(scene))
    planned = [_planned(scene, number, made) for number, made in enumerate(shots)]
    return _joined(planned, scene, evaluator)


def _stages_of(scene: Scene, *shots: "FilmShot") -> tuple[PoseStage, ...]:
    """What has to be worked out to see shots, with what events let them aim at."""
    nodes = nodes_by_id(scene)
    seen = [final_stage(nodes[shot.camera]) for shot in shots]
    aimed = [position_stage(nodes[shot.aim]) for shot in shots if shot.aim is not None]
    return tuple(dict.fromkeys((*seen, *aimed)))


@cached_by_size
def _course(evaluator: Evaluator, scene: Scene, chain: tuple[FilmShot, ...]) -> BlendCourse:
    """How the last of some shots comes in over those before it that are still blended, followed over all of the blend.
    It is kept, since most edits leave most blends alone."""
    shot = chain[-1]
    assert shot.way is not None
    nodes, stages = nodes_by_id(scene), _stages_of(scene, *chain)
    film = _joined([chain[0]._replace(ease=None, way=None), *chain[1:]], scene, evaluator)

    def seen(frames: Array) -> tuple[CameraView, CameraView]:
        there = evaluator(scene, frames, stages)
        views = [seen_in_shot(there, each) for each in chain]
        rows = np.arange(len(frames))
        before = _shown(film, np.full(len(frames), len(chain) - 2), rows, frames, lambda k, at: rows_of(views[k], at))
        return before, views[-1]

    aims = [nodes[each.camera].aim for each in chain[-2:]]
    a, b = ((aim.targets if aim is not None and aim.on else ()) for aim in aims)
    return course_over(seen, shot.begins, shot.ends, shot.way, bool(a) and a == b)


def _planned(scene: Scene, number: int, made: MadeShot) -> FilmShot:
    shot = made.shot
    begins, ends = shot.interval(scene.settings.rate)
    blend = shot.join if number and isinstance(shot.join, Blend) else None
    if blend is None:
        begins = ends = shot.first
    return FilmShot(
        shot.camera, shot.first, begins, ends, blend.ease if blend else None, blend.way if blend else None,
        made.source, made.event, made.aim, made.tilt, shot.name,
    )  # fmt: skip


def camera_view(
    there: EvaluationContext, lens: View, output: Format | None = None, size: tuple[int, int] | None = None
) -> CameraView:
    """What a camera or a framing sees, on its tour if it is on one."""
    own = own_view(there, lens, output, size)
    return own if lens.serves_as("framing") else with_lens_of_binds(there, lens, own, output, size)


def seen_in_shot(
    there: EvaluationContext, shot: FilmShot, output: Format | None = None, size: tuple[int, int] | None = None
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
    seen = _shown(film, film.number(frames), np.arange(len(frames)), frames, see)
    return msgspec.structs.replace(seen, segments=film.segments)


def _shown(film: Film, numbers: Rows, rows: Rows, frames: Array, see: See) -> CameraView:
    """The shots of some numbers (M,) at the frames of some others (M,), each blended with what is there before it is
    alone, and those that they begin in below them."""
    times = frames[rows]
    parts = [(here, see(int(numbers[here[0]]), rows[here])) for here in _groups(numbers)]
    seen = put_together(times, parts)
    blending = np.flatnonzero(times < film.ends[numbers])
    if not len(blending):
        return seen
    over = numbers[blending]
    before = _shown(film, over - 1, rows[blending], frames, see)
    share = _shares(film, over, times[blending])
    after = rows_of(seen, blending)
    blends = []
    for each in _groups(over):
        course = film.course(int(over[each[0]]))
        blends.append((each, mixed(rows_of(before, each), rows_of(after, each), share[each], course)))
    alone = np.flatnonzero(times >= film.ends[numbers])
    blend = put_together(times[blending], blends)
    return put_together(times, [(blending, blend), *([(alone, rows_of(seen, alone))] if len(alone) else [])])


def _groups(values: NDArray[np.generic]) -> list[Rows]:
    """The numbers of rows that have one value, for each value."""
    return [np.flatnonzero(values == value) for value in dict.fromkeys(values.tolist())]


def _shares(film: Film, numbers: Rows, times: Array) -> Array:
    """How far the blends of some shots (N,) are at frames (N,). Those of one ease are worked out together."""
    first, last = film.begins[numbers], film.ends[numbers]
    share = np.clip((times - first) / (last - first), 0.0, 1.0)
    by_ease: dict[Ease | None, list[int]] = {}
    for number in dict.fromkeys(numbers.tolist()):
        by_ease.setdefault(film.shots[number].ease, []).append(number)
    for ease, of in by_ease.items():
        assert ease is not None
        rows = np.flatnonzero(np.isin(numbers, of))
        share[rows] = unit_ease(ease)(share[rows])
    return share


def output_view(
    evaluator: Evaluator, there: EvaluationContext, output: Format | None = None, size: tuple[int, int] | None = None
) -> CameraView:
    """What the output shows in a scene that has been evaluated."""
    film = film_of(evaluator, there.scene)
    whole: dict[int, CameraView] = {}

    def see(number: int, rows: Rows) -> CameraView:
        if number not in whole:
            whole[number] = seen_in_shot(there, film.shots[number], output, size)
        view = whole[number]
        return view if len(rows) == len(view) else rows_of(view, rows)

    return film_view(film, there.frames, see)


def filmed(
    evaluator: Evaluator,
    evaluated: Callable[[Scene, Array, Iterable[str]], EvaluationContext],
    scene: Scene,
    frames: Array,
    output: Format | None = None,
    size: tuple[int, int] | None = None,
) -> CameraView:
    """What the output shows at frames (N,), each camera evaluated at just the frames at which it is seen."""
    film = film_of(evaluator, scene)
    top = film.number(frames)
    wanted: dict[tuple[str, str | None, float], list[Rows]] = {}
    for number in ascending(top).tolist():
        rows = np.flatnonzero(top == number)
        for under, where in film.under(number, frames[rows]):
            shot = film.shots[under]
            wanted.setdefault((shot.camera, shot.aim, shot.tilt), []).append(rows[where])
    seen: dict[tuple[str, str | None, float], tuple[Rows, CameraView]] = {}
    for key, pieces in wanted.items():
        rows = ascending(np.concatenate(pieces))
        there = evaluated(scene, frames[rows], [each for each in key[:2] if each is not None])
        shot = next(each for each in film.shots if (each.camera, each.aim, each.tilt) == key)
        seen[key] = (rows, seen_in_shot(there, shot, output, size))

    def see(number: int, rows: Rows) -> CameraView:
        shot = film.shots[number]
        at, view = seen[shot.camera, shot.aim, shot.tilt]
        return rows_of(view, np.searchsorted(at, rows))

    return film_view(film, frames, see)
