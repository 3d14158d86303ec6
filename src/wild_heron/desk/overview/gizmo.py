"""The handles on the active node: three stalks that move it along its carrier's axes, three arcs that turn it.

Each handle changes exactly one channel, so that one number stays one move.
"""

import msgspec
import numpy as np

from ...arrays import Array
from ...evaluate import Evaluation
from ...scene import AnyNode
from ...scene.channels import POSITION, ROTATION
from ...space.rotation import AXES, axis_quaternion, quaternion_to_matrix
from .free_view import Eye

_STALK = 62.0
_ARC = 40.0
_REACH = 9.0
_FLAT = 14.0


class Handle(msgspec.Struct, frozen=True):
    """One handle on screen. ``line`` (N, 2) are its pixels, ``bead`` the part that is grabbed."""

    channel: str
    axis: int
    line: Array
    bead: Array
    world_axis: Array
    turns: bool


def handles(node: AnyNode, here: Evaluation, eye: Eye, width: float, height: float) -> list[Handle]:
    """The handles of a node at the playhead."""
    origin = here.position(node.id)[0]
    unit = eye.units_per_pixel(origin, width)
    carrier = here.world(node.carrier)[0][:3, :3] if node.carrier else np.eye(3)
    found = []
    for k in range(3):
        axis = carrier[:, k]
        size = float(np.linalg.norm(axis))
        if size < 1e-9:
            continue
        line = eye.project(np.stack([origin, origin + axis / size * _STALK * unit]), width, height)[0]
        if np.isfinite(line).all() and np.linalg.norm(line[1] - line[0]) > _FLAT:
            found.append(Handle(POSITION[k], k, line, line[1], axis, False))
    aimed = node.aim is not None and node.aim.on
    for k, axis in enumerate(_turning_axes(node, here, carrier)):
        if aimed and k != 2:
            continue
        arc = _arc(origin, axis, carrier.sum(axis=1), _ARC * unit, eye, width, height)
        if arc is not None:
            found.append(Handle(ROTATION[k], k, arc, arc[len(arc) // 2], axis, True))
    return found


def _turning_axes(node: AnyNode, here: Evaluation, carrier: Array) -> list[Array]:
    """The world axes about which the angles x, y and z turn, given the order of rotation."""
    frame = carrier / np.maximum(np.linalg.norm(carrier, axis=0), 1e-12)
    axes: list[Array] = [np.zeros(3)] * 3
    for letter in node.rotation_order:
        k = AXES.index(letter)
        axes[k] = frame[:, k]
        angle = np.radians(float(here.value(node.id, ROTATION[k])[0]))
        frame = frame @ quaternion_to_matrix(axis_quaternion(k, np.array(angle)))
    if node.aim is not None and node.aim.on:
        axes[2] = here.world(node.id)[0][:3, 2]
    return axes


def _arc(origin: Array, axis: Array, away: Array, radius: float, eye: Eye, width: float, height: float) -> Array | None:
    """Part of a circle about the axis, on the side of the viewer and away from a direction (the stalks).

    Seen from the side it is a line; it begins beside the origin, so that no two arcs meet there.
    """
    size = float(np.linalg.norm(axis))
    if size < 1e-9:
        return None
    axis = axis / size
    towards = eye.axes()[:, 2]
    across = towards - axis * float(towards @ axis)
    if np.linalg.norm(across) < 0.35:
        across = -away - axis * float(-away @ axis)
        start, end = -45.0, 45.0
    else:
        start, end = 22.0, 88.0
    across = across / max(float(np.linalg.norm(across)), 1e-9)
    other = np.cross(axis, across)
    if float(other @ away) > 0.0:
        other = -other
    angles = np.radians(np.linspace(start, end, 13))[:, None]
    points = origin + radius * (np.cos(angles) * across + np.sin(angles) * other)
    pixels = eye.project(points, width, height)[0]
    if not np.isfinite(pixels).all() or np.ptp(pixels, axis=0).max() < _FLAT:
        return None
    return pixels


def handle_at(found: list[Handle], x: float, y: float) -> Handle | None:
    """The handle whose bead, or whose line, is under a pixel."""
    here = np.array([x, y])
    best: tuple[float, Handle] | None = None
    for handle in found:
        distance = float(np.linalg.norm(handle.bead - here))
        if not handle.turns:
            distance = min(
                distance, _distance_to_line(here, handle.line[0] * 0.5 + handle.line[1] * 0.5, handle.line[1]) + 2
            )
        if distance <= _REACH and (best is None or distance < best[0]):
            best = (distance, handle)
    return best[1] if best else None


def _distance_to_line(point: Array, a: Array, b: Array) -> float:
    along = b - a
    share = min(max(float((point - a) @ along) / max(float(along @ along), 1e-9), 0.0), 1.0)
    return float(np.linalg.norm(point - a - along * share))


def moved_by(handle: Handle, start: Array, end: Array, origin: Array, eye: Eye, width: float, height: float) -> float:
    """How much a drag from pixel ``start`` to ``end`` (2,) changes the handle's channel: units or degrees."""
    if handle.turns:
        middle = eye.project(origin[None], width, height)[0][0]
        before, after = start - middle, end - middle
        swept = np.arctan2(before[1], before[0]) - np.arctan2(after[1], after[0])
        swept = (swept + np.pi) % (2.0 * np.pi) - np.pi
        facing = float(handle.world_axis @ eye.axes()[:, 2])
        if abs(facing) < 0.35 * float(np.linalg.norm(handle.world_axis)):
            # Seen from the side a circle is a line: go by the way along it.
            along = handle.line[-1] - handle.line[0]
            along = along / max(float(np.linalg.norm(along)), 1e-9)
            return float(np.degrees((end - start) @ along / _ARC))
        return float(np.degrees(swept)) * (1.0 if facing > 0 else -1.0)
    line = handle.line[1] - handle.line[0]
    length = float(np.linalg.norm(line))
    pixels = float((end - start) @ line) / length
    units = pixels * _STALK * eye.units_per_pixel(origin, width) / length
    return units / float(np.linalg.norm(handle.world_axis))
