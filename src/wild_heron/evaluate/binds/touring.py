"""Solver of tours: pose and lens interpolated from framing to framing."""

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from ...arrays import Array, Rows, ascending
from ...scene import AnyNode, Format, Scene, Tour, View, Way, is_moved
from ...scene.dependencies import PoseStage, final_stage, subscene
from ...scene.lookup import nodes_by_id
from ...sized_cache import cached_by_size
from ..cameras import CameraView, own_view
from ..context import EvaluationContext, Evaluator, in_blocks
from ..mixing import BlendCourse, course_of, course_over, mixed, put_together, rows_of
from ..rows import rows as together
from ..rows import with_rotation
from .solver import Solvers

_WHOLE = 1e-9


def legs(node: AnyNode, bind: Tour, frames: Array, place: Array) -> tuple[Rows, Rows, Array]:
    """From which to which framing (N,) a node goes at frames (N,), and the share (N,) of the leg it has gone.

    Between two keys on whole numbers it goes directly from the one to the other; else from the whole number below to
    the one above.
    """
    low = np.floor(place)
    start, end = low, low + 1.0
    channel = node.channel(f"{bind.id}.place")
    if channel is not None and len(channel.keys) > 1 and not (channel.has_inputs or is_moved(node, channel.name)):
        times = np.array([key.frame for key in channel.keys])
        values = np.array([key.value for key in channel.keys])
        whole = np.abs(values - np.round(values)) < _WHOLE
        at = np.clip(np.searchsorted(times, frames, side="right") - 1, 0, len(times) - 2)
        inside = (frames >= times[0]) & (frames <= times[-1]) & whole[at] & whole[at + 1]
        direct = inside & (values[at] != values[at + 1])
        # A hold between two keys of one value stays where it is.
        still = inside & (values[at] == values[at + 1])
        start = np.where(direct | still, np.round(values[at]), start)
        end = np.where(direct, np.round(values[at + 1]), np.where(still, start + 1.0, end))
    share = (place - start) / (end - start)
    # At a key it is there, whatever an ease rounds to.
    nearest = np.round(share)
    share = np.where(np.abs(share - nearest) < _WHOLE, nearest, share)
    count = len(bind.framings)
    return np.mod(start, count).astype(np.intp), np.mod(end, count).astype(np.intp), share


def tour_view(
    there: EvaluationContext,
    node: AnyNode,
    bind: Tour,
    output: Format | None = None,
    size: tuple[int, int] | None = None,
) -> CameraView:
    """What the framings of a tour show at its place between them."""
    frames = there.frames
    place = np.broadcast_to(there.number(node, f"{bind.id}.place"), frames.shape)
    start, end, share = legs(node, bind, frames, place)
    views: dict[int, CameraView] = {}

    def view(number: int) -> CameraView:
        if number not in views:
            framing = there.node(bind.framings[number])
            assert isinstance(framing, View)
            views[number] = own_view(there, framing, output, size)
        return views[number]

    parts = []
    for a, b in sorted(set(zip(start.tolist(), end.tolist(), strict=True))):
        rows = np.flatnonzero((start == a) & (end == b))
        part = share[rows]
        if a == b or (part == 0.0).all():
            parts.append((rows, rows_of(view(a), rows)))
        elif (part == 1.0).all():
            parts.append((rows, rows_of(view(b), rows)))
        else:
            for some, leg in _ways(there, node, bind, frames[rows], a, b):
                before, after = rows_of(view(a), rows[some]), rows_of(view(b), rows[some])
                parts.append((rows[some], mixed(before, after, part[some], _course(there, node, bind, leg, a, b))))
    return put_together(frames, parts)


def _ways(
    there: EvaluationContext, node: AnyNode, bind: Tour, frames: Array, a: int, b: int
) -> Sequence[tuple[Rows, "Leg | None"]]:
    """Which of some frames (N,) lie on which leg from one framing to another: on one and the same, where both stand
    still."""
    every = np.arange(len(frames))
    if there.is_still(bind.framings[a]) and there.is_still(bind.framings[b]):
        return [(every, None)]
    number = node.binds.index(bind)
    scene = subscene(there.scene, ((node.id, number), *_stages(there.scene, bind.framings)))
    return _leg_at(_legs_over(there.evaluator, scene, node.id, number), frames, a, b) or [(every, None)]


class Leg(NamedTuple):
    """A stretch of time on the way from one framing of a tour to another, by their numbers."""

    start: int
    end: int
    begins: float
    ends: float


def _course(there: EvaluationContext, node: AnyNode, bind: Tour, leg: Leg | None, a: int, b: int) -> BlendCourse:
    """How a leg goes: told once where both framings stand still, else followed over the leg."""
    first, second = (there.node(bind.framings[k]).aim for k in (a, b))
    same = first is not None and second is not None and first.targets == second.targets and bool(first.targets)
    framings = tuple(bind.framings[k] for k in (a, b))
    scene = subscene(there.scene, _stages(there.scene, framings))
    begins, ends = (leg.begins, leg.ends) if leg is not None else (0.0, 0.0)
    return _course_over(there.evaluator, scene, framings, begins, ends, bind.way, same)


def _stages(scene: Scene, node_ids: tuple[str, ...]) -> tuple[PoseStage, ...]:
    nodes = nodes_by_id(scene)
    return tuple(dict.fromkeys(final_stage(nodes[each]) for each in node_ids))


@cached_by_size
def _course_over(
    evaluator: Evaluator, scene: Scene, framings: tuple[str, ...], begins: float, ends: float, way: Way, same: bool
) -> BlendCourse:
    stages = _stages(scene, framings)

    def seen(frames: Array) -> tuple[CameraView, CameraView]:
        here = evaluator(scene, frames, stages)
        a, b = (here.node(each) for each in framings)
        assert isinstance(a, View)
        assert isinstance(b, View)
        return own_view(here, a), own_view(here, b)

    if begins == ends:
        return course_of(*seen(np.array([begins])), way, same)
    return course_over(seen, begins, ends, way, same)


_PER_FRAME = 4
_MOST = 40_000


@cached_by_size
def _legs_over(evaluator: Evaluator, scene: Scene, node_id: str, number: int) -> tuple[Leg, ...]:
    """The legs of a tour, which is its node's bind of a number, over the scene and all its keys, in order."""
    node = nodes_by_id(scene)[node_id]
    bind = node.binds[number]
    assert isinstance(bind, Tour)
    channel = node.channel(f"{bind.id}.place")
    keyed = [key.frame for key in channel.keys] if channel is not None else []
    first, last = min([float(scene.settings.first), *keyed]), max([float(scene.settings.last), *keyed])
    even = np.linspace(first, last, min(_PER_FRAME * int(np.ceil(last - first)), _MOST) + 1)
    frames = ascending(np.concatenate([even, keyed]))

    def read(there: EvaluationContext) -> tuple[Array, ...]:
        place = np.broadcast_to(there.number(node, f"{bind.id}.place"), there.frames.shape)
        start, end, _ = legs(node, bind, there.frames, place)
        return (np.stack([start, end], axis=1),)

    (pairs,) = in_blocks(evaluator, scene, frames, [(node_id, number)], read)
    edges = [0, *(np.flatnonzero((np.diff(pairs, axis=0) != 0).any(axis=1)) + 1).tolist(), len(frames) - 1]
    return tuple(
        Leg(int(pairs[low, 0]), int(pairs[low, 1]), float(frames[low]), float(frames[high]))
        for low, high in pairwise(edges)
    )


def _leg_at(found: tuple[Leg, ...], frames: Array, a: int, b: int) -> Sequence[tuple[Rows, Leg | None]]:
    """The leg from one framing to another on which each of some frames (N,) lies, or that is nearest."""
    mine = [leg for leg in found if (leg.start, leg.end) == (a, b)]
    if not mine:
        return []
    begins, ends = (np.array(each) for each in zip(*((leg.begins, leg.ends) for leg in mine), strict=True))
    off = np.maximum(begins[None] - frames[:, None], frames[:, None] - ends[None])
    nearest = off.argmin(axis=1)
    return [(np.flatnonzero(nearest == k), mine[k]) for k in ascending(nearest).tolist()]


def toured(evaluation: EvaluationContext, node: AnyNode, bind: Tour, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) where its tour has a node, its scale kept."""
    return at_pose(node, world, tour_view(evaluation, node, bind).pose)


def at_pose(node: AnyNode, world: Array, pose: Array) -> Array:
    """A node's world matrices (N, 4, 4) with a lens's pose (N, 4, 4), its own scale kept where it has one."""
    world, pose = together(world, pose)
    if not node.scales:
        return np.array(pose)
    out = with_rotation(world, pose[:, :3, :3])
    out[:, :3, 3] = pose[:, :3, 3]
    return out


SOLVERS: Solvers = {Tour: toured}
