"""Solver of follow: between two distances from a moving node, from behind or along a direction, with a lag."""

from typing import NamedTuple

import numpy as np

from ...arrays import Array
from ...motion.filters import lagged, lagged_between
from ...scene import AnyNode, Follow, Scene
from ...scene.dependencies import position_stage, subscene
from ...sized_cache import cached_by_size
from ...space.transform import length
from ..context import EvaluationContext, Evaluator, in_blocks
from ..rows import moved_to, rows, unit
from .grids import Grid, grid_for
from .solver import Solvers

_STANDING = 1e-6
"""A step between frames that is shorter than this, in units, has no direction."""


class _Course(NamedTuple):
    """On the grid: where the follower would be without lag (N, 3), where the lag has it (N, 3), half-lives (N,)."""

    wanted: Array
    lagged: Array
    half_life: Array


def followed(evaluation: EvaluationContext, node: AnyNode, bind: Follow, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) of the node where the lag has it, kept between the two distances from where the other
    one is now."""
    grid = grid_for(evaluation.scene.settings, evaluation.frames)
    scene = subscene(evaluation.scene, ((node.id, number),))
    course = _course(evaluation.evaluator, scene, node.id, number, grid)
    left, share = grid.cell(evaluation.frames)
    place = lagged_between(
        course.wanted[left], course.wanted[left + 1], course.lagged[left], course.half_life[left + 1], share
    )
    centre = evaluation.position_of(bind.node)
    nearest, farthest = (evaluation.number(node, f"{bind.id}.{name}") for name in ("nearest", "farthest"))
    place, centre, nearest, farthest = rows(place, centre, nearest, farthest)
    away = place - centre
    distance = length(away)
    kept = np.clip(distance, nearest, np.maximum(nearest, farthest))
    return moved_to(world, centre + unit(away) * kept[:, None])


@cached_by_size
def _course(evaluator: Evaluator, scene: Scene, node_id: str, number: int, grid: Grid) -> _Course:
    node = scene.node(node_id)
    bind = node.binds[number - 1]
    assert isinstance(bind, Follow)
    names = tuple(f"{bind.id}.{name}" for name in ("turn", "rise", "nearest", "farthest", "half_life"))

    def read(there: EvaluationContext) -> tuple[Array, ...]:
        return there.position_of(bind.node), there.vector(node, names)

    target, numbers = in_blocks(evaluator, scene, grid.frames, [position_stage(scene.node(bind.node))], read)
    turn, rise, nearest, farthest, half_life = numbers.T
    turn = np.radians(turn) + (_behind(target) if bind.way == "behind" else 0.0)
    rise = np.radians(rise)
    way = np.stack([np.sin(turn) * np.cos(rise), np.sin(rise), np.cos(turn) * np.cos(rise)], axis=1)
    distance = 0.5 * (nearest + np.maximum(nearest, farthest))
    wanted = target + way * distance[:, None]
    half_life = half_life * scene.settings.rate.fps
    return _Course(wanted, lagged(wanted, half_life), half_life)


def _behind(target: Array) -> Array:
    """The heading (N,) of what lies behind a moving point (N, 3), 0 along +Z; while it stands still, as before."""
    # The velocity at each frame itself, from the frames on either side.
    step = np.gradient(target, axis=0)
    moving = np.hypot(step[:, 0], step[:, 2]) > _STANDING
    if not moving.any():
        return np.zeros(len(target))
    latest = np.maximum.accumulate(np.where(moving, np.arange(len(target)), -1))
    latest = np.where(latest < 0, int(np.argmax(moving)), latest)
    heading = np.arctan2(-step[:, 0], -step[:, 2])
    return heading[latest]


SOLVERS: Solvers = {Follow: followed}
