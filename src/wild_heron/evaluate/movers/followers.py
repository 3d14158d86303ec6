"""Solvers of movers that follow their input: springs and lags, the same in any order of frames.

What they follow is read on a fixed grid, four points a frame from the pre-roll on, with the moments just before keys,
so that jumps stay jumps; it is kept for the subscene that it depends on.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array, ascending
from ...motion.movers.springs import SpringMotion, followed, followed_between, lagged, lagged_between, spring
from ...scene import Scene
from ...scene.dependencies import final_stage, stages_of_channels
from ...scene.lookup import nodes_by_id
from ...scene.movers import POSE, Lag, Overshoot
from ...sized_cache import cached_by_size
from ..binds.grids import grid_for
from ..context import EvaluationContext, Evaluator, in_blocks
from ..rows import rows
from .mover_case import MoverCase, Solvers, Values
from .spaces import from_world, in_world
from .stopping import swung

PER_FRAME = 4
_JUST_BEFORE = 1e-6


def mixed_in(case: MoverCase, values: Values, made: Values) -> Values:
    """The values with others in their place, as far as the mover counts on each."""
    out = dict(values)
    for name, value in made.items():
        share = case.weight * case.mover.amount(name)
        out[name] = values[name] + (value - values[name]) * share
    return out


def elsewhere_values(case: MoverCase, frames: Array, values: Values) -> Values:
    """What comes into a mover at other frames (N,), as values now: in the world, that is where it was then."""
    columns = _columns(case)
    made = _read(case.there.evaluator, case.before(), case.node.id, columns, frames)
    return _as_values(case, columns, made, values)


def _columns(case: MoverCase) -> tuple[str, ...]:
    """The channels that are followed; WORLD for place and turn in the world."""
    in_the_world = case.mover.space == "world" and not set(case.names).isdisjoint(POSE)
    return WORLD if in_the_world else case.names


WORLD = ("world",)


def _as_values(case: MoverCase, columns: tuple[str, ...], made: Array, values: Values) -> Values:
    if columns != WORLD:
        return {name: made[:, k] for k, name in enumerate(columns)}
    seen = from_world(case.there, case.node, {name: values[name] for name in POSE}, made)
    return {name: seen[name] for name in case.names if name in POSE}


def _read(evaluator: Evaluator, scene: Scene, node_id: str, columns: tuple[str, ...], frames: Array) -> Array:
    """What is followed at frames (N,): (N, C)."""
    nodes = nodes_by_id(scene)
    node = nodes[node_id]
    stages = list(stages_of_channels(scene).get(node_id, ()))
    if columns == WORLD and node.carrier is not None:
        stages.append(final_stage(nodes[node.carrier]))

    def read(there: EvaluationContext) -> tuple[Array, ...]:
        if columns == WORLD:
            values = {name: there.number(node, name) for name in POSE}
            return (in_world(there, node, values),)
        return (np.stack(rows(*(there.number(node, name) for name in columns)), axis=1),)

    (found,) = in_blocks(evaluator, scene, frames, stages, read)
    return found


class FollowedCourse(NamedTuple):
    """On the grid: what is followed just after and just before each point (N, C), and its step in seconds."""

    after: Array
    before: Array
    step: float


@cached_by_size
def _course(
    evaluator: Evaluator, scene: Scene, node_id: str, columns: tuple[str, ...], grid: "GridKey"
) -> FollowedCourse:
    start, count, step = grid
    frames = start + step * np.arange(count)
    keyed = ascending(
        np.array([key.frame for node in scene.nodes for each in node.channels for key in each.keys], dtype=np.float64)
    )
    at = np.flatnonzero(np.isin(np.round(frames, 6), np.round(keyed, 6)))
    read = _read(evaluator, scene, node_id, columns, np.concatenate([frames, frames[at] - _JUST_BEFORE]))
    after = read[:count]
    if columns == WORLD:
        after, read = _steady(after), _steady(read)
    before = after.copy()
    before[at] = read[count:]
    if columns == WORLD:
        # The moments just before keys, too, on the side of the rotation that comes after.
        near = (before[:, 3:] * after[:, 3:]).sum(axis=1, keepdims=True) < 0.0
        before[:, 3:] = np.where(near, -before[:, 3:], before[:, 3:])
    return FollowedCourse(after, before, step / scene.settings.rate.fps)


def _steady(seen: Array) -> Array:
    """Places and turns (N, 7) whose quaternions do not change sign from one to the next."""
    turns = seen[:, 3:]
    flips = np.cumprod(np.where((turns[1:] * turns[:-1]).sum(axis=1) < 0.0, -1.0, 1.0))
    out = seen.copy()
    out[1:, 3:] *= flips[:, None]
    return out


GridKey = tuple[float, int, float]
"""First frame, number of points, and frames from one to the next."""


class _Place(NamedTuple):
    """A course, where on it frames are (the point before each, and the share of the way to the next), and its grid."""

    course: FollowedCourse
    left: NDArray[np.int64]
    share: Array
    grid: GridKey


def _grid(case: MoverCase, loop: float) -> _Place:
    """What is followed over the scene, or over a loop of so many seconds from its first frame on."""
    settings, frames = case.there.scene.settings, case.there.frames
    if loop:
        whole = loop * settings.rate.fps
        last = max(2, round(whole * PER_FRAME))
        start, step = float(settings.first), whole / last
        place = np.mod(frames - start, whole) / step
    else:
        grid = grid_for(settings, frames)
        start, step, last = float(grid.start), 1.0 / PER_FRAME, (grid.size - 1) * PER_FRAME
        place = np.clip((frames - start) / step, 0.0, float(last))
    key = (start, last + 1, step)
    course = _course(case.there.evaluator, case.before(), case.node.id, _columns(case), key)
    left = np.minimum(np.floor(place).astype(np.int64), last - 1)
    return _Place(course, left, place - left, key)


@cached_by_size
def _sprung(
    evaluator: Evaluator, scene: Scene, node_id: str, columns: tuple[str, ...], grid: GridKey,
    law: SpringMotion, periodic: bool,
) -> Array:  # fmt: skip
    course = _course(evaluator, scene, node_id, columns, grid)
    return followed(law, course.after, course.before, course.step, periodic)


@cached_by_size
def _lagging(
    evaluator: Evaluator, scene: Scene, node_id: str, columns: tuple[str, ...], grid: GridKey,
    rate: float,
) -> Array:  # fmt: skip
    course = _course(evaluator, scene, node_id, columns, grid)
    return lagged(rate, course.after, course.before, course.step)


def overshot(case: MoverCase, values: Values) -> Values:
    """The spring where it is; where only stops count, the value with what swings on after them."""
    mover: Overshoot = case.mover
    law = spring(mover.bounce, mover.speed)
    if mover.only_stops:
        return mixed_in(case, values, swung(case, values, law))
    course, left, share, grid = _grid(case, mover.loop)
    columns = _columns(case)
    states = _sprung(case.there.evaluator, case.before(), case.node.id, columns, grid, law, mover.loop > 0.0)
    place = followed_between(law, states[left], course.after[left], course.before[left + 1], course.step, share)
    return mixed_in(case, values, _as_values(case, columns, place, values))


def trailed(case: MoverCase, values: Values) -> Values:
    mover: Lag = case.mover
    if mover.delay == 0.0:
        return values
    if mover.by == "frames":
        return mixed_in(case, values, elsewhere_values(case, case.there.frames - mover.delay, values))
    course, left, share, grid = _grid(case, 0.0)
    rate, columns = float(np.log(2.0)) / mover.delay, _columns(case)
    lagging = _lagging(case.there.evaluator, case.before(), case.node.id, columns, grid, rate)
    place = lagged_between(rate, lagging[left], course.after[left], course.before[left + 1], course.step, share)
    return mixed_in(case, values, _as_values(case, columns, place, values))


SOLVERS: Solvers = {Overshoot: overshot, Lag: trailed}
