"""Solves a node's binds in order, in the same frame as the nodes that they depend on."""

import numpy as np
from msgspec.structs import replace

from ...arrays import Array
from ...scene import AnyNode, Bind, Channel, Scene
from ...scene.channels import POSITION, ROTATION
from ...scene.dependencies import stages_of_channels, subscene
from ...sized_cache import cached_by_size
from ...space.rotation import euler_to_quaternion, multiply, quaternion_to_matrix
from ...space.transform import compose, decompose, rigid
from ...space.turning import Ways, ways_over
from ..context import EvaluationContext, Evaluator, in_blocks
from ..rows import applied, rows
from . import aiming, camera_mix, following, placing, riding, rolling, touring
from .solver import Solvers

SOLVERS: Solvers = (
    aiming.SOLVERS
    | placing.SOLVERS
    | following.SOLVERS
    | riding.SOLVERS
    | rolling.SOLVERS
    | touring.SOLVERS
    | camera_mix.SOLVERS
)


def bound(evaluation: EvaluationContext, node: AnyNode, bind: Bind, number: int, world: Array) -> Array:
    """World matrices (M, 4, 4) of a node after its bind of that number (from 1), at the bind's strength."""
    strength = evaluation.number(node, f"{bind.id}.strength")
    if len(strength) == 1 and strength[0] == 0.0:
        return world
    made = SOLVERS[type(bind)](evaluation, node, bind, number, world)
    if bind.places and node.movers and node.take is None:
        made = _with_movers(evaluation, node, bind, made)
    if not ((strength > 0.0) & (strength < 1.0)).any():
        return _mixed(world, made, strength)
    needed = subscene(evaluation.scene, ((node.id, number),))
    ways = _ways(evaluation.evaluator, needed, node.id, number)
    return _mixed(world, made, strength, ways, evaluation.frames)


def _at_full_strength(node: AnyNode, bind: Bind) -> AnyNode:
    """The node with a bind that counts wholly, whatever keys, movers or a take make of its strength."""
    name = f"{bind.id}.strength"
    channels = tuple(each for each in node.channels if each.name != name)
    movers = tuple(
        replace(each, targets=tuple(target for target in each.targets if target.channel != name))
        for each in node.movers
    )
    take = node.take
    if take is not None:
        take = replace(take, channels=tuple(each for each in take.channels if each != name))
    full = sorted((*channels, Channel(name, 1.0)), key=lambda each: each.name)
    return replace(node, channels=tuple(full), movers=movers, take=take)


@cached_by_size
def _ways(evaluator: Evaluator, scene: Scene, node_id: str, number: int) -> Ways:
    """How a node goes over into what its bind of a number makes of it, where that counts in part: over the scene."""
    node, settings = scene.node(node_id), scene.settings
    full = scene.with_node(_at_full_strength(node, node.binds[number - 1]))
    name = f"{node.binds[number - 1].id}.strength"

    def turned(there: EvaluationContext) -> tuple[Array, ...]:
        return tuple(decompose(there.at_stage((node_id, each)))[1] for each in (number - 1, number))

    def both(frames: Array) -> tuple[Array, Array]:
        before, after = in_blocks(evaluator, full, frames, [(node_id, number)], turned)
        return before, after

    def strength(frames: Array) -> Array:
        # Nothing but what the strength itself depends on: the bind would ask for this again.
        stages = stages_of_channels(scene).get(node_id, ())
        return in_blocks(evaluator, scene, frames, stages, lambda there: (there.number(node, name),))[0]

    return ways_over(both, strength, settings.first - 1.0, settings.last + 1.0)


def _with_movers(evaluation: EvaluationContext, node: AnyNode, bind: Bind, world: Array) -> Array:
    """What a bind has put somewhere, moved there as its movers would have moved it from where its own channels have it:
    in the axes that the bind gives it, or else those of its carrier. A tour, which heeds no rotation, is turned too."""
    before, after = (
        tuple(np.stack(rows(*(read(node, name) for name in names)), axis=1) for names in (POSITION, ROTATION))
        for read in (evaluation.unmoved, evaluation.number)
    )
    if all(np.array_equal(a, b) for a, b in zip(before, after, strict=True)):
        return world
    step = np.subtract(*rows(after[0], before[0]))
    still, turned = (euler_to_quaternion(np.radians(each[1]), node.rotation_order) for each in (before, after))
    axes = rigid(world)[:, :3, :3]
    if bind.places == "whole":
        back = still * _CONJUGATE
        move = _turned(axes, _turned(quaternion_to_matrix(back), step))
        by = quaternion_to_matrix(multiply(*rows(back, turned)))
        linear = np.stack([_turned(world[:, :3, :3], by[:, :, k]) for k in range(3)], axis=2)
    else:
        linear = world[:, :3, :3]
        if bind.places == "own":
            # It has added the node's own rotation, movers and all.
            move = _turned(axes, _turned(quaternion_to_matrix(turned * _CONJUGATE), step))
        else:
            move = step if node.carrier is None else _turned(evaluation.pose_of(node.carrier)[:, :3, :3], step)
    position, move, linear = rows(world[:, :3, 3], move, linear)
    out = np.zeros((len(position), 4, 4))
    out[:, :3, :3], out[:, :3, 3], out[:, 3, 3] = linear, position + move, 1.0
    return out


_CONJUGATE = np.array([-1.0, -1.0, -1.0, 1.0])


def _turned(matrices: Array, vectors: Array) -> Array:
    return applied(*rows(matrices, vectors))


def _mixed(
    before: Array, after: Array, strength: Array, ways: Ways | None = None, frames: Array | None = None
) -> Array:
    """Between two poses: position and scale straight, rotation the way that was told for the stretch of time in which
    both count."""
    if (strength == 1.0).all():
        return after
    size = max(len(before), len(after), len(strength))
    before, after = np.broadcast_to(before, (size, 4, 4)), np.broadcast_to(after, (size, 4, 4))
    share = np.broadcast_to(strength, (size,))
    p0, q0, s0 = decompose(before)
    p1, q1, s1 = decompose(after)
    wide = share[:, None]
    if ways is None or frames is None:
        ways, frames = Ways(()), np.zeros(size)
    # Where nothing changes there is one row, of all frames.
    turned = ways.at(frames if len(frames) == size else np.broadcast_to(frames[:1], (size,)), q0, q1, share)
    mixed = compose(p0 + (p1 - p0) * wide, turned, s0 + (s1 - s0) * wide)
    return np.where((share == 1.0)[:, None, None], after, np.where((share == 0.0)[:, None, None], before, mixed))
