"""Coordinate spaces of movers: moves and turns along the axes of the node, its carrier, the world or the picture."""

import numpy as np

from ...arrays import Array
from ...scene import AnyNode
from ...scene.channels import FOCUS, POSITION, ROTATION
from ...scene.film import OUTPUT
from ...space.aim import heading, level_frame, unit_directions
from ...space.rotation import (
    conjugate,
    euler_to_quaternion,
    eulers_near,
    matrix_to_quaternion,
    multiply,
    quaternion_to_matrix,
    vector_to_quaternion,
)
from ...space.transform import apply, invert, length, rigid, unrigid
from ..binds.aiming import target_of
from ..context import EvaluationContext
from ..rows import rows
from .mover_case import MoverCase, Values


def stacked(values: Values, names: tuple[str, ...]) -> Array:
    """Channels as (N, K), or (1, K) where none changes."""
    return np.stack(rows(*(values[name] for name in names)), axis=1)


def with_columns(values: Values, names: tuple[str, ...], columns: Array) -> Values:
    """The values with other columns (N, K)."""
    return values | {name: columns[:, k] for k, name in enumerate(names)}


def own_quaternion(node: AnyNode, values: Values) -> Array:
    """How the node is turned in its carrier, (N, 4)."""
    return euler_to_quaternion(np.radians(stacked(values, ROTATION)), node.rotation_order)


def turned_to(node: AnyNode, values: Values, quaternion: Array) -> Values:
    """The values with the angles of quaternions (N, 4), near the present ones, whole turns kept."""
    near, quaternion = rows(np.radians(stacked(values, ROTATION)), quaternion)
    angles = eulers_near(quaternion_to_matrix(quaternion), node.rotation_order, near)
    return with_columns(values, ROTATION, np.degrees(angles))


def along(axes: Array, vector: Array) -> Array:
    """Vectors (N, 3) given in some axes, whose columns are (N, 3, 3)."""
    axes, vector = rows(axes, vector)
    return axes[:, :, 0] * vector[:, :1] + axes[:, :, 1] * vector[:, 1:2] + axes[:, :, 2] * vector[:, 2:3]


def is_aimed(node: AnyNode) -> bool:
    return node.aim is not None and node.aim.on


def aim_point(there: EvaluationContext, node: AnyNode, values: Values) -> Array | None:
    """What the node is about, in its carrier's terms (N, 3): its aim, or what its lens is focused on; None without."""
    if node.aim is not None and node.aim.on:
        target = target_of(there, node, node.aim)
        if node.carrier is None:
            return target
        return apply(*rows(invert(there.pose_of(node.carrier)), target))
    if not node.serves_as("lens"):
        return None
    away = there.number(node, FOCUS) if node.serves_as("shown") else np.array([10.0])
    axis = quaternion_to_matrix(own_quaternion(node, values))[:, :, 2]
    position, axis, away = rows(stacked(values, POSITION), axis, away)
    if node.carrier is not None:
        # What is in focus is so far away in the world, along what the carrier makes of the axis.
        linear, axis, position, away = rows(there.pose_of(node.carrier)[:, :3, :3], axis, position, away)
        away = away / np.maximum(length(along(linear, axis)), 1e-12)
    return position - axis * away[:, None]


def own_axes(there: EvaluationContext, node: AnyNode, values: Values) -> Array:
    """The node's own axes in its carrier's terms, (N, 3, 3): those with which it looks at its aim, where it has one."""
    if not is_aimed(node):
        return quaternion_to_matrix(own_quaternion(node, values))
    point = aim_point(there, node, values)
    assert point is not None
    origin, point = rows(stacked(values, POSITION), point)
    direction = unit_directions(point - origin)
    return level_frame(direction, heading(direction), np.zeros(len(direction)), origin)[:, :3, :3]


def turned_about(there: EvaluationContext, node: AnyNode, values: Values, point: Array, angles: Array) -> Values:
    """A lens's pose turned in the world, about a point given in its carrier's terms (N, 3), by angles (N, 3) in radians
    about its own axes: so the point stays where it is in the picture, however the carrier is scaled."""
    carrier = there.pose_of(node.carrier) if node.carrier is not None else np.eye(4)[None]
    seen = in_world(there, node, values)
    turned = quaternion_to_matrix(seen[:, 3:])
    if node.carrier is not None:
        linear, own = rows(carrier[:, :3, :3], quaternion_to_matrix(own_quaternion(node, values)))
        made = np.zeros((len(linear), 4, 4))
        made[:, :3, :3], made[:, 3, 3] = _product(linear, own), 1.0
        turned = rigid(made)[:, :3, :3]
    middle = apply(*rows(carrier, point))
    swing = vector_to_quaternion(along(turned, angles))
    matrix, position, middle, carrier = rows(quaternion_to_matrix(swing), seen[:, :3], middle, carrier)
    position = middle + along(matrix, position - middle)
    values = with_columns(values, POSITION, apply(invert(carrier), position) if node.carrier is not None else position)
    local = unrigid(*rows(carrier[:, :3, :3], _product(matrix, turned)))
    return turned_to(node, values, matrix_to_quaternion(local))


def axes_of(case: MoverCase, values: Values) -> tuple[Array, Array]:
    """The axes of a mover's space in the carrier's terms: for places (N, 3, 3), which may be scaled, and for turns."""
    there, node, space = case.there, case.node, case.mover.space
    if space == "carrier":
        return np.eye(3)[None], np.eye(3)[None]
    if space == "own" or (space == "picture" and node.serves_as("lens")):
        own = own_axes(there, node, values)
        return own, own
    outside = np.eye(3)[None] if space == "world" else rigid(there.pose_of(OUTPUT))[:, :3, :3]
    if node.carrier is None:
        return outside, outside
    pose = there.pose_of(node.carrier)
    linear, level = invert(pose)[:, :3, :3], np.swapaxes(rigid(pose)[:, :3, :3], 1, 2)
    if space == "world":
        return linear, level
    return _product(linear, outside), _product(level, outside)


def _product(a: Array, b: Array) -> Array:
    a, b = rows(a, b)
    return np.stack([along(a, b[:, :, k]) for k in range(3)], axis=2)


# What is seen in the world, and the way back


def in_world(there: EvaluationContext, node: AnyNode, values: Values) -> Array:
    """Place and turn in the world as rows (N, 7)."""
    position, quaternion = stacked(values, POSITION), own_quaternion(node, values)
    if node.carrier is not None:
        pose = there.pose_of(node.carrier)
        position = apply(*rows(pose, position))
        quaternion = multiply(*rows(matrix_to_quaternion(rigid(pose)[:, :3, :3]), quaternion))
    return np.concatenate(rows(position, quaternion), axis=1)


def from_world(there: EvaluationContext, node: AnyNode, values: Values, seen: Array) -> Values:
    """The values that come to places and turns in the world (N, 7)."""
    position, quaternion = seen[:, :3], seen[:, 3:]
    quaternion = quaternion / np.sqrt(sum(quaternion[:, k] ** 2 for k in range(4)))[:, None]
    if node.carrier is not None:
        pose = there.pose_of(node.carrier)
        position = apply(*rows(invert(pose), position))
        back = conjugate(matrix_to_quaternion(rigid(pose)[:, :3, :3]))
        quaternion = multiply(*rows(back, quaternion))
    return turned_to(node, with_columns(values, POSITION, position), quaternion)
