"""Solvers of aims and of facing a camera: level horizon, subject off the middle of the frame."""

import numpy as np

from ...arrays import Array
from ...scene import AimAt, AnyNode, FaceCamera, Projection, Scene, View, is_moved
from ...scene.channels import FOCAL, ROTATION
from ...scene.dependencies import PoseStage, final_stage, position_stage, subscene
from ...scene.lookup import nodes_by_id
from ...sized_cache import cached_by_size
from ...space.aim import POLE_CONE, AimCourse, heading, level_frame, steady_headings, unit_directions
from ...space.lens import focal_pixels
from ...space.rotation import matrix_to_quaternion, quaternion_to_matrix, slerp, turn_onto
from ...space.transform import apply, length, rigid
from ..context import EvaluationContext, Evaluator, in_blocks
from ..rows import dot, rows, turned_axes, with_rotation
from .solver import Solvers


def target_of(evaluation: EvaluationContext, node: AnyNode, bind: AimAt) -> Array:
    """What an aim looks at: points (N, 3), or (1, 3) where it never moves."""
    if bind.targets:
        total = evaluation.position_of(bind.targets[0])
        for each in bind.targets[1:]:
            total = total + evaluation.position_of(each)
        return total / len(bind.targets) if len(bind.targets) > 1 else total
    point = evaluation.vector(node, tuple(f"{bind.id}.{axis}" for axis in "xyz"))
    return point if node.carrier is None else apply(evaluation.pose_of(node.carrier), point)


def _upright(evaluation: EvaluationContext, bind: AimAt) -> Array:
    """Axes (N, 3, 3) of what is level: the world's, or those of the aim's up node."""
    if bind.up is None:
        return np.eye(3)[None]
    return rigid(evaluation.pose_of(bind.up))[:, :3, :3]


def _seen_from(axes: Array, vector: Array) -> Array:
    """Vectors (N, 3) in the axes' own terms."""
    axes, vector = rows(axes, vector)
    return np.stack([dot(axes[:, :, k], vector) for k in range(3)], axis=1)


def _directions(evaluation: EvaluationContext, node: AnyNode, bind: AimAt, origin: Array) -> Array:
    origin, target = rows(origin, target_of(evaluation, node, bind))
    return _seen_from(_upright(evaluation, bind), unit_directions(target - origin))


def aimed(evaluation: EvaluationContext, node: AnyNode, bind: AimAt, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) of the node turned to its aim; it becomes rigid, as a lens is."""
    origin = world[:, :3, 3]
    direction = _directions(evaluation, node, bind, origin)

    def course() -> AimCourse:
        nodes = nodes_by_id(evaluation.scene)
        stages = tuple(_needed(nodes, node, bind, number))
        return _course(evaluation.evaluator, subscene(evaluation.scene, stages), node.id, bind, number)

    headings = steady_headings(direction, evaluation.frames, course)
    roll = np.radians(evaluation.number(node, ROTATION[2]))
    direction, headings, roll, origin = rows(direction, headings, roll, origin)
    offset = _frame_offset(evaluation, node, bind)
    if offset is None:
        out = level_frame(direction, headings, roll, origin)
    else:
        out = _off_centre(direction, headings, roll, origin, offset)
    if bind.up is not None:
        axes, out = rows(_upright(evaluation, bind), out)
        out = out.copy()
        out[:, :3, :3] = turned_axes(axes, out)
    return out


@cached_by_size
def _course(evaluator: Evaluator, scene: Scene, node_id: str, bind: AimAt, number: int) -> AimCourse:
    """The directions of an aim over the whole scene."""
    nodes = nodes_by_id(scene)
    node = nodes[node_id]
    stages = _needed(nodes, node, bind, number)

    def read(there: EvaluationContext) -> tuple[Array, ...]:
        return (_directions(there, node, bind, there.at_stage((node_id, number - 1))[:, :3, 3]),)

    def directions(frames: Array) -> Array:
        return in_blocks(evaluator, scene, frames, stages, read)[0]

    keyed = [key.frame for each in scene.nodes for channel in each.channels for key in channel.keys]
    first, last = float(scene.settings.first), float(scene.settings.last)
    return AimCourse(directions, min([first, *keyed]), max([last, *keyed]))


def _needed(nodes: dict[str, AnyNode], node: AnyNode, bind: AimAt, number: int) -> list[PoseStage]:
    """The stages of the scene that say where an aiming node is and what it aims at."""
    stages: list[PoseStage] = [(node.id, number - 1), *(position_stage(nodes[each]) for each in bind.targets)]
    if bind.up is not None:
        stages.append(final_stage(nodes[bind.up]))
    return stages


def _frame_offset(evaluation: EvaluationContext, node: AnyNode, bind: AimAt) -> Array | None:
    """Where in the frame the target belongs, as rays (N, 3) of the lens; None for the middle."""
    if not isinstance(node, View | Projection):
        return None  # It has no frame.
    names = f"{bind.id}.off.x", f"{bind.id}.off.y"
    off = evaluation.vector(node, names)
    if not off.any() and not any(node.is_animated(name) or is_moved(node, name) for name in names):
        return None
    focal = evaluation.number(node, FOCAL)
    if isinstance(node, View):
        settings = evaluation.scene.settings
        width, height = settings.width, settings.height
        sensor = (node.sensor_width, node.sensor_height)
        pixels = focal_pixels(focal, sensor, node.fit, settings, (width, height), None)
    else:
        width, height = node.width, node.height
        pixels = focal * (width / node.sensor_width)
    off, pixels = rows(off, pixels)
    ray = np.stack(
        [off[:, 0] * (0.5 * width) / pixels, off[:, 1] * (0.5 * height) / pixels, np.full(len(pixels), -1.0)], axis=1
    )
    return ray / length(ray)[:, None]


def _off_centre(direction: Array, headings: Array, roll: Array, origin: Array, ray: Array) -> Array:
    """A lens whose given ray (N, 3), rather than its axis, lies along a direction, the horizon level.

    Away from the poles the elevation p follows from the height of the ray, which turns about x alone:
    r_y cos p − r_z sin p = d_y. Near them, where no heading does that, the level frame is tilted as little as it takes;
    both put the ray on the direction, and so does every mixture of them.
    """
    direction, headings, roll, origin, ray = rows(direction, headings, roll, origin, ray)
    c, s = np.cos(roll), np.sin(roll)
    rolled = np.stack([ray[:, 0] * c - ray[:, 1] * s, ray[:, 0] * s + ray[:, 1] * c, ray[:, 2]], axis=1)
    reach = np.sqrt(rolled[:, 1] ** 2 + rolled[:, 2] ** 2)
    lift = np.clip(direction[:, 1] / reach, -1.0, 1.0)
    pitch = np.arcsin(lift) - np.arctan2(rolled[:, 1], -rolled[:, 2])
    flat_z = rolled[:, 1] * np.sin(pitch) + rolled[:, 2] * np.cos(pitch)
    # The angles about y of where the pitched ray points, and of where it should.
    yaw = np.arctan2(-direction[:, 0], -direction[:, 2]) - np.arctan2(-rolled[:, 0], -flat_z)
    zero = np.zeros_like(pitch)
    forward = np.stack([-np.sin(yaw) * np.cos(pitch), np.sin(pitch), -np.cos(yaw) * np.cos(pitch)], axis=1)
    exact = level_frame(forward, yaw, roll, origin)
    level = level_frame(direction, headings, roll, origin)
    tilt = quaternion_to_matrix(turn_onto(ray, np.stack([zero, zero, zero - 1.0], axis=1)))
    near = np.zeros_like(level)
    near[:, 3, 3] = 1.0
    near[:, :3, 3] = origin
    for k in range(3):
        near[:, :3, k] = sum(level[:, :3, j] * tilt[:, j, k, None] for j in range(3))
    # How far the direction is from the pole, beyond what the ray leans to the side.
    lean = np.arcsin(np.clip(np.abs(rolled[:, 0]), 0.0, 1.0))
    away = np.arccos(np.clip(np.abs(direction[:, 1]), 0.0, 1.0)) - lean
    share = np.clip((away - POLE_CONE) / POLE_CONE, 0.0, 1.0)
    share = share * share * (3.0 - 2.0 * share)
    mixed = near.copy()
    q = slerp(matrix_to_quaternion(near[:, :3, :3]), matrix_to_quaternion(exact[:, :3, :3]), share)
    mixed[:, :3, :3] = quaternion_to_matrix(q)
    whole = (share == 1.0)[:, None, None]
    return np.where(whole, exact, mixed)


def facing(evaluation: EvaluationContext, node: AnyNode, bind: FaceCamera, number: int, world: Array) -> Array:
    """World matrices (N, 4, 4) of the node turned so that its +Z points at the camera, its scale kept and its z angle
    as a roll."""
    origin, eye = rows(world[:, :3, 3], evaluation.position_of(bind.camera))
    # A frame looks down its −Z, so one that looks away from the camera shows it its front.
    away = origin - eye
    if bind.upright:
        away = away * np.array([1.0, 0.0, 1.0])
    direction = unit_directions(away)
    roll = np.radians(evaluation.number(node, ROTATION[2]))
    direction, roll, origin, world = rows(direction, roll, origin, world)
    turned = level_frame(direction, heading(direction), roll, origin)
    return with_rotation(world, turned[:, :3, :3])


SOLVERS: Solvers = {AimAt: aimed, FaceCamera: facing}
