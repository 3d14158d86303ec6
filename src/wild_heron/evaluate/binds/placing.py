"""Solvers of binds that take a node's place from another node: match, opposite, limit."""

import numpy as np

from ...arrays import Array
from ...scene import AnyNode, Limit, Match, Opposite
from ...space.aim import heading, level_frame
from ...space.rotation import euler_to_quaternion, matrix_to_euler, multiply, quaternion_to_matrix
from ...space.transform import compose, decompose, length
from ..context import EvaluationContext
from ..rows import moved_to, rows, unit, with_rotation
from .solver import Solvers


def matched(evaluation: EvaluationContext, node: AnyNode, bind: Match, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) with position, rotation and scale of another node taken over, axis by axis.

    All three axes of a rotation are taken whole, with the offset turned along; some of them as the angles of both.
    """
    world, other = rows(world, evaluation.pose_of(bind.node))
    position, quaternion, scale = decompose(world)
    there, turned, size = decompose(other)
    for k, axis in enumerate("xyz"):
        if axis in bind.position:
            position, there, offset = rows(position, there, evaluation.number(node, f"{bind.id}.move.{axis}"))
            position = position.copy()
            position[:, k] = there[:, k] + offset
        if axis in bind.scale:
            scale, size, factor = rows(scale, size, evaluation.number(node, f"{bind.id}.size.{axis}"))
            scale = scale.copy()
            scale[:, k] = size[:, k] * factor
    if bind.rotation:
        quaternion = _matched_rotation(evaluation, node, bind, quaternion, turned)
    return compose(*rows(position, quaternion, scale))


def _matched_rotation(
    evaluation: EvaluationContext, node: AnyNode, bind: Match, quaternion: Array, turned: Array
) -> Array:
    offsets = np.zeros((1, 3))
    for k, axis in enumerate("xyz"):
        if axis in bind.rotation:
            offsets, value = rows(offsets, evaluation.number(node, f"{bind.id}.turn.{axis}"))
            offsets = offsets.copy()
            offsets[:, k] = value
    offsets = np.radians(offsets)
    if bind.rotation == "xyz":
        turned, offset = rows(turned, euler_to_quaternion(offsets, node.rotation_order))
        return multiply(turned, offset)
    mine = matrix_to_euler(quaternion_to_matrix(quaternion), node.rotation_order)
    theirs = matrix_to_euler(quaternion_to_matrix(turned), node.rotation_order)
    mine, theirs, offsets = rows(mine, theirs, offsets)
    taken = np.array([axis in bind.rotation for axis in "xyz"])
    return euler_to_quaternion(np.where(taken, theirs + offsets, mine), node.rotation_order)


def opposite(evaluation: EvaluationContext, node: AnyNode, bind: Opposite, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) across the centre from the other node: level from it, at a distance and a height."""
    centre, other = rows(evaluation.position_of(bind.centre), evaluation.position_of(bind.node))
    across = unit((centre - other) * np.array([1.0, 0.0, 1.0]))
    distance = evaluation.number(node, f"{bind.id}.distance")
    height = evaluation.number(node, f"{bind.id}.height")
    centre, across, distance, height = rows(centre, across, distance, height)
    position = centre + across * distance[:, None]
    position[:, 1] = centre[:, 1] + height
    return moved_to(world, position)


def limited(evaluation: EvaluationContext, node: AnyNode, bind: Limit, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) with distance, height or tilt kept between two ends; where they are the wrong way round,
    at the lower."""
    low, high = (evaluation.number(node, f"{bind.id}.{end}") for end in ("low", "high"))
    world, low, high = rows(world, low, high)
    high = np.maximum(low, high)
    position = world[:, :3, 3].copy()
    if bind.what == "height":
        position[:, 1] = np.clip(position[:, 1], low, high)
        return moved_to(world, position)
    if bind.what == "distance":
        assert bind.node is not None
        position, centre = rows(position, evaluation.position_of(bind.node))
        away = position - centre
        distance = length(away)
        kept = np.clip(distance, low, high)
        inside = (kept == distance)[:, None]
        return moved_to(world, np.where(inside, position, centre + unit(away) * kept[:, None]))
    return _level_enough(world, np.radians(low), np.radians(high))


def _level_enough(world: Array, low: Array, high: Array) -> Array:
    """The front (−Z) tilted no further than two angles to the horizon, its heading and roll kept."""
    front = unit(-world[:, :3, 2], (0.0, 0.0, -1.0))
    tilt = np.arcsin(np.clip(front[:, 1], -1.0, 1.0))
    kept = np.clip(tilt, low, high)
    turn = heading(front)
    none = np.zeros(len(front))
    level = level_frame(front, turn, none, world[:, :3, 3])
    right = world[:, :3, 0]
    roll = np.arctan2(
        right[:, 0] * level[:, 0, 1] + right[:, 1] * level[:, 1, 1] + right[:, 2] * level[:, 2, 1],
        right[:, 0] * level[:, 0, 0] + right[:, 1] * level[:, 1, 0] + right[:, 2] * level[:, 2, 0],
    )
    wanted = np.stack([-np.sin(turn) * np.cos(kept), np.sin(kept), -np.cos(turn) * np.cos(kept)], axis=1)
    turned = with_rotation(world, level_frame(wanted, turn, roll, world[:, :3, 3])[:, :3, :3])
    return np.where((kept == tilt)[:, None, None], world, turned)


SOLVERS: Solvers = {Match: matched, Opposite: opposite, Limit: limited}
