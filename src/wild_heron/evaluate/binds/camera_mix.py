"""Solver of mixes, the mean of cameras by weights; and the lens that tours and mixes give a camera."""

from collections.abc import Callable, Sequence
from typing import Any

import msgspec
import numpy as np

from ...arrays import Array, Rows, ascending
from ...scene import AnyNode, Format, Mix, Scene, Tour, View
from ...scene.dependencies import PoseStage, final_stage, subscene
from ...scene.lookup import nodes_by_id
from ...sized_cache import cached_by_size
from ..cameras import CameraView, own_view
from ..context import EvaluationContext, Evaluator, in_blocks
from ..mixing import BlendCourse, chosen, course_over, mixed, put_together, rows_of
from .solver import Solvers
from .touring import at_pose, tour_view

_PER_FRAME = 4
_MOST = 40_000

Stretch = tuple[float, float]
"""From which frame to which something is mixed in."""


def shares(there: EvaluationContext, node: AnyNode, bind: Mix) -> Array:
    """How much of what is mixed so far each member (K) makes up at frames (N,): (K, N). Where nothing has a weight yet,
    the first is shown."""
    count = len(there.frames)
    weights = np.stack(
        [
            np.broadcast_to(there.number(node, f"{bind.id}.weight.{k}"), (count,))
            for k in range(1, len(bind.members) + 1)
        ]
    )
    total = np.cumsum(weights, axis=0)
    return np.where(total > 0.0, weights / np.where(total > 0.0, total, 1.0), 0.0)


def mix_view(
    there: EvaluationContext,
    node: AnyNode,
    bind: Mix,
    output: Format | None = None,
    size: tuple[int, int] | None = None,
) -> CameraView:
    """What a mix shows at its weights."""
    return _mixed_up_to(there, node, bind, len(bind.members), output, size)


def _mixed_up_to(
    there: EvaluationContext, node: AnyNode, bind: Mix, count: int, output: Format | None, size: tuple[int, int] | None
) -> CameraView:
    """What the first members of a mix come to."""
    parts = shares(there, node, bind)[:count]
    view = _member(there, bind, 0, output, size)
    for k in range(1, count):
        share = parts[k]
        if (share == 0.0).all():
            continue
        other = _member(there, bind, k, output, size)
        if (share == 1.0).all():
            view = other
            continue
        pieces = []
        for some, course in _courses(there, node, bind, k):
            pieces.append((some, mixed(rows_of(view, some), rows_of(other, some), share[some], course)))
        view = put_together(there.frames, pieces)
    return view


def _member(
    there: EvaluationContext, bind: Mix, k: int, output: Format | None, size: tuple[int, int] | None
) -> CameraView:
    member = there.node(bind.members[k])
    assert isinstance(member, View)
    own = own_view(there, member, output, size)
    return own if member.serves_as("framing") else with_lens_of_binds(there, member, own, output, size)


def _courses(there: EvaluationContext, node: AnyNode, bind: Mix, k: int) -> Sequence[tuple[Rows, BlendCourse]]:
    """How a member is mixed in, by the stretch of time that each of the frames (N,) lies on or nearest."""
    number = node.binds.index(bind)
    stages = ((node.id, number), *(final_stage(nodes_by_id(there.scene)[each]) for each in bind.members))
    scene = subscene(there.scene, stages)
    found = _stretches(there.evaluator, scene, node.id, number, k)
    every = np.arange(len(there.frames))
    if not found:
        edge = float(there.scene.settings.first)
        return [(every, _course(there.evaluator, scene, node.id, number, k, (edge, edge + 1.0)))]
    begins, ends = np.array(found).T
    off = np.maximum(begins[None] - there.frames[:, None], there.frames[:, None] - ends[None])
    nearest = off.argmin(axis=1)
    return [
        (np.flatnonzero(nearest == j), _course(there.evaluator, scene, node.id, number, k, found[j]))
        for j in ascending(nearest).tolist()
    ]


@cached_by_size
def _stretches(evaluator: Evaluator, scene: Scene, node_id: str, number: int, k: int) -> tuple[Stretch, ...]:
    """When a member counts in part, over the scene and all keys of the weights."""
    node = nodes_by_id(scene)[node_id]
    bind = node.binds[number]
    assert isinstance(bind, Mix)
    keyed = [
        key.frame for channel in node.channels if channel.name.startswith(f"{bind.id}.weight.") for key in channel.keys
    ]
    first, last = min([float(scene.settings.first), *keyed]), max([float(scene.settings.last), *keyed])
    even = np.linspace(first, last, min(_PER_FRAME * int(np.ceil(last - first)), _MOST) + 1)
    frames = ascending(np.concatenate([even, keyed]))
    (share,) = in_blocks(evaluator, scene, frames, [(node_id, number)], lambda there: (shares(there, node, bind)[k],))
    some = np.concatenate([[False], (share > 0.0) & (share < 1.0), [False]])
    edges = np.flatnonzero(some[1:] != some[:-1])
    return tuple(
        (float(frames[max(low - 1, 0)]), float(frames[min(high, len(frames) - 1)]))
        for low, high in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)
    )


@cached_by_size
def _course(evaluator: Evaluator, scene: Scene, node_id: str, number: int, k: int, stretch: Stretch) -> BlendCourse:
    """How a member comes in over those before it, followed over the stretch."""
    nodes = nodes_by_id(scene)
    node = nodes[node_id]
    bind = node.binds[number]
    assert isinstance(bind, Mix)
    stages: list[PoseStage] = [(node_id, number), *(final_stage(nodes[each]) for each in bind.members[: k + 1])]

    def seen(frames: Array) -> tuple[CameraView, CameraView]:
        here = evaluator(scene, frames, stages)
        return _mixed_up_to(here, node, bind, k, None, None), _member(here, bind, k, None, None)

    aims = [aim.targets if (aim := nodes[each].aim) is not None and aim.on else () for each in bind.members[: k + 1]]
    same = bool(aims[0]) and all(each == aims[0] for each in aims)
    return course_over(seen, *stretch, bind.way, same)


def placed(evaluation: EvaluationContext, node: AnyNode, bind: Mix, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) where its mix has a node, its scale kept."""
    return at_pose(node, world, mix_view(evaluation, node, bind).pose)


SOLVERS: Solvers = {Mix: placed}


VIEWS: dict[type, Callable[[EvaluationContext, AnyNode, Any, Format | None, tuple[int, int] | None], CameraView]] = {
    Tour: tour_view, Mix: mix_view,
}  # fmt: skip
"""What binds that take over a lens show."""


def with_lens_of_binds(
    there: EvaluationContext, node: View, own: CameraView, output: Format | None, size: tuple[int, int] | None
) -> CameraView:
    """A camera's own picture with the lens and focus of its tour or mix, as far as that is in force; its pose is its
    own, as binds have made it."""
    bind = next((bind for bind in node.binds if bind.takes_lens and bind.on), None)
    if bind is None:
        return own
    strength = np.broadcast_to(there.number(node, f"{bind.id}.strength"), there.frames.shape)
    shown = VIEWS[type(bind)](there, node, bind, output, size)
    alone = node.binds[-1] is bind and not node.movers
    if (strength == 1.0).all() and alone:
        return shown  # Bit for bit: its own matrix has been made rigid once more.
    seen = msgspec.structs.replace(shown, pose=own.pose, aim=shown.aim if own.aim is None else own.aim)
    if (strength == 1.0).all():
        return seen
    part = mixed(own, seen, strength, BlendCourse("straight"))
    part = chosen(msgspec.structs.replace(part, pose=own.pose), own, strength == 0.0)
    return chosen(part, shown if alone else seen, strength == 1.0)
