"""Binds, each solved in the same frame as what it depends on."""

import numpy as np

from ...arrays import Array
from ...scene import AnyNode, Bind
from ...scene.channels import POSITION, ROTATION
from ...space.rotation import euler_to_quaternion, multiply, quaternion_to_matrix, slerp
from ...space.transform import compose, decompose, rigid
from . import aiming, following, placing, riding, rolling, touring
from .rows import applied, rows
from .solver import Solvers
from .surroundings import Surroundings

SOLVERS: Solvers = (
    aiming.SOLVERS | placing.SOLVERS | following.SOLVERS | riding.SOLVERS | rolling.SOLVERS | touring.SOLVERS
)


def bound(evaluation: Surroundings, node: AnyNode, bind: Bind, number: int, world: Array) -> Array:
    """World matrices (M, 4, 4) of a node after its bind of that number (from 1), at the bind's strength."""
    strength = evaluation.number(node, f"{bind.id}.strength")
    if len(strength) == 1 and strength[0] == 0.0:
        return world
    made = SOLVERS[type(bind)](evaluation, node, bind, number, world)
    if bind.places and node.movers and node.take is None:
        made = _with_movers(evaluation, node, bind, made)
    return _mixed(world, made, strength)


def _with_movers(evaluation: Surroundings, node: AnyNode, bind: Bind, world: Array) -> Array:
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


def _mixed(before: Array, after: Array, strength: Array) -> Array:
    """Between two poses: position and scale straight, rotation the short way."""
    if (strength == 1.0).all():
        return after
    size = max(len(before), len(after), len(strength))
    before, after = np.broadcast_to(before, (size, 4, 4)), np.broadcast_to(after, (size, 4, 4))
    share = np.broadcast_to(strength, (size,))
    p0, q0, s0 = decompose(before)
    p1, q1, s1 = decompose(after)
    wide = share[:, None]
    mixed = compose(p0 + (p1 - p0) * wide, slerp(q0, q1, share), s0 + (s1 - s0) * wide)
    return np.where((share == 1.0)[:, None, None], after, np.where((share == 0.0)[:, None, None], before, mixed))
