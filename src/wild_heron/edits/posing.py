"""Edits that need to know where things are: carriers given and taken with the pose kept, aims, nulls put somewhere."""

from collections.abc import Iterable, Mapping

import msgspec
import numpy as np

from ..arrays import Array
from ..evaluate.binds.aiming import target_of
from ..evaluate.evaluation import evaluate
from ..scene import AimAt, AnyNode, Channel, Key, Null, Scene, SceneError, Span
from ..scene.channels import POSITION, ROTATION, SCALE
from ..scene.dependencies import descendants
from ..scene.specs import channel_or_default
from ..space.depth import along_ray
from ..space.rotation import euler_near, quaternion_to_matrix
from ..space.transform import apply, decompose, invert, length, rigid, unrigid
from . import add_node, change_node, fresh_id, fresh_name, remove_nodes, set_aim, set_channel

Values = dict[str, float]

_SAME = 1e-9
_CLEAN_DIGITS = 10


def values_for_pose(scene: Scene, node_id: str, world: Array, frame: float) -> Values:
    """The place channels, with values, that put a node at a world matrix (4, 4) at a frame; only those that change.

    Angles are the ones nearest to the present ones, whole turns kept. SceneError where the carrier is scaled to
    nothing, or the pose is not finite.
    """
    node = scene.node(node_id)
    here = evaluate(scene, frame, [node_id])
    present = {name: float(here.value(node_id, name)[0]) for name in (*POSITION, *ROTATION, *SCALE)}
    wanted = _local_values(node, _to_carrier(scene, node, frame), world, present)
    return {name: value for name, value in wanted.items() if abs(value - present[name]) > _SAME}


def _to_carrier(scene: Scene, node: AnyNode, frame: float, carrier: str | None = None) -> Array:
    carrier = carrier or node.carrier
    if carrier is None:
        return np.eye(4)
    try:
        return invert(evaluate(scene, frame, [carrier]).world(carrier)[0])
    except np.linalg.LinAlgError:
        name = scene.node(carrier).name
        raise SceneError(f"{name} is scaled to nothing at this frame, so what it carries cannot be placed.") from None


def _local_values(node: AnyNode, to_carrier: Array, world: Array, near: Mapping[str, float]) -> Values:
    """The place channels, near given ones, that put a node at a world matrix (4, 4) where its carrier's is the inverse
    of one. What a lens sees it sees again, however its carrier is scaled; what else that shears, nearly."""
    local = to_carrier @ world
    if not np.isfinite(local).all():
        raise SceneError(f"{node.name} cannot be placed there: the position is not a finite number.")
    position, quaternion, scale = (part[0] for part in decompose(local[None]))
    turned = quaternion_to_matrix(quaternion)
    if node.serves_as("lens"):
        turned = unrigid(invert(to_carrier[None, :3, :3]), rigid(world[None])[:, :3, :3])[0]
        scale = np.abs(scale)
    angles = np.radians([near[name] for name in ROTATION])
    rotation = np.degrees(euler_near(turned, node.rotation_order, angles))
    # A mirror shows as a negative z scale; keep the sign where it was if that says the same.
    numbers = np.round(np.concatenate([position, rotation, scale]), _CLEAN_DIGITS) + 0.0
    return dict(zip((*POSITION, *ROTATION, *SCALE), numbers.tolist(), strict=True))


def give_carrier(scene: Scene, node_id: str, carrier_id: str | None, frame: float) -> Scene:
    """Hang a node on a carrier (None: on none), its world pose kept at ``frame`` and at every one of its keys.

    Raises LoopError where the carrier depends on the node.
    """
    node = scene.node(node_id)
    if node.carrier == carrier_id:
        return scene
    if carrier_id == node_id:
        raise SceneError(f"{node.name} cannot carry itself.")
    moved = change_node(scene, node_id, carrier=carrier_id)
    for group in (POSITION, ROTATION, SCALE):
        channels = [channel_or_default(node, name) for name in group]
        key_frames = sorted({key.frame for channel in channels for key in channel.keys})
        poses = _carried_poses(scene, moved, node, key_frames or [frame])
        for name, channel in zip(group, channels, strict=True):
            if key_frames:
                keys = tuple(Key(at, values[name], _span_at(channels, at)) for at, values in poses)
                changed = msgspec.structs.replace(channel, keys=keys)
            else:
                changed = msgspec.structs.replace(channel, value=poses[0][1][name])
            moved = set_channel(moved, node_id, changed)
    for bind in node.binds:
        if isinstance(bind, AimAt) and not bind.targets:
            moved = _carry_aim_point(scene, moved, node, bind, frame)
    return moved


def _carried_poses(old: Scene, new: Scene, node: AnyNode, frames: list[float]) -> list[tuple[float, Values]]:
    """The node's place channels under its new carrier at each frame, so that it stays where the old scene has it."""
    # The pose before any aim: an aim goes on turning the lens under the new carrier as it did under the old one.
    unaimed = _unbound(old, node) if node.binds else old
    there = evaluate(unaimed, frames, [node.id])
    poses: list[tuple[float, Values]] = []
    shift = dict.fromkeys(ROTATION, 0.0)
    for i, at in enumerate(frames):
        before = {name: float(there.value(node.id, name)[i]) for name in (*POSITION, *ROTATION, *SCALE)}
        # Angles stay near the old ones, shifted as at the key before, so that turns are kept and none is added.
        near = before | {name: before[name] + shift[name] for name in ROTATION}
        values = _local_values(node, _to_carrier(new, new.node(node.id), at), there.world(node.id)[i], near)
        if any(bind.turns and bind.on for bind in node.binds):
            # Under an aim the angle about z is the roll, which does not depend on the carrier.
            values |= {name: before[name] for name in ROTATION}
        shift = {name: values[name] - before[name] for name in ROTATION}
        poses.append((at, values))
    return poses


def _span_at(channels: list[Channel], frame: float) -> Span:
    return next(key.span for channel in channels if (key := channel.key_at(frame)) is not None)


def _unbound(scene: Scene, node: AnyNode) -> Scene:
    off = tuple(msgspec.structs.replace(bind, on=False) for bind in node.binds)
    return change_node(scene, node.id, binds=off)


def _carry_aim_point(old: Scene, moved: Scene, node: AnyNode, bind: AimAt, frame: float) -> Scene:
    here = evaluate(old, frame, [node.id])
    local = apply(_to_carrier(moved, moved.node(node.id), frame), target_of(here, node, bind)[0])
    for axis, value in zip("xyz", np.round(local, _CLEAN_DIGITS).tolist(), strict=True):
        channel = channel_or_default(node, f"{bind.id}.{axis}")
        if not channel.keys:
            moved = set_channel(moved, node.id, msgspec.structs.replace(channel, value=value))
    return moved


def delete_nodes(scene: Scene, node_ids: Iterable[str], frame: float) -> Scene:
    """Remove nodes; what they carried stays where it is and goes to the nearest carrier that remains."""
    gone = set(node_ids)
    for node in scene.nodes:
        if node.id not in gone and node.carrier in gone:
            carrier: str | None = node.carrier
            while carrier is not None and carrier in gone:
                carrier = scene.node(carrier).carrier
            scene = give_carrier(scene, node.id, carrier, frame)
    return remove_nodes(scene, gone)


def middle(scene: Scene, node_ids: Iterable[str], frame: float) -> Array:
    """The middle (3,) of the box around the nodes' origins."""
    ids = list(node_ids)
    if not ids:
        return np.zeros(3)
    here = evaluate(scene, frame, ids)
    points = np.stack([here.position(node_id)[0] for node_id in ids])
    return np.asarray(0.5 * (points.min(axis=0) + points.max(axis=0)))


def add_null_at(scene: Scene, name: str, point: Array, carrier: str | None, frame: float) -> tuple[Scene, str]:
    """A new null with its origin at a world point (3,), level with the world; returns the scene and its id."""
    label = fresh_name(scene, name)
    null = Null(id=fresh_id(scene, label), name=label, carrier=carrier)
    scene = add_node(scene, null)
    world = np.eye(4)
    world[:3, 3] = point
    for channel, value in values_for_pose(scene, null.id, world, frame).items():
        scene = set_channel(scene, null.id, Channel(channel, value))
    return scene, null.id


def carry_together(scene: Scene, node_ids: Iterable[str], carrier_id: str | None, frame: float) -> Scene:
    """Hang several nodes on one carrier. Those that already hang under another of them stay there."""
    ids = list(node_ids)
    under = set().union(*(descendants(scene, node_id) for node_id in ids)) if ids else set()
    for node_id in ids:
        if node_id not in under and node_id != carrier_id:
            scene = give_carrier(scene, node_id, carrier_id, frame)
    return scene


def aim_at_node(scene: Scene, node_id: str, *target_ids: str) -> Scene:
    """Aim a node at the middle of others. Raises LoopError where one of them depends on it."""
    if node_id in target_ids:
        raise SceneError(f"{scene.node(node_id).name} cannot aim at itself.")
    present = scene.node(node_id).aim
    return set_aim(scene, node_id, AimAt(target_ids, present.up if present else None))


def aim_at_point(scene: Scene, node_id: str, frame: float) -> Scene:
    """Aim a node at a point: where it looks now, at its present aim or (a camera) its focus distance."""
    node = scene.node(node_id)
    if node.aim is not None and not node.aim.targets:
        return scene
    here = evaluate(scene, frame, [node_id])
    target = here.aim(node_id)
    if target is None:
        pose = here.world(node_id)
        distance = here.camera(node_id).focus if node.serves_as("camera") else np.array([10.0])
        target = pose[:, :3, 3] - pose[:, :3, 2] / length(pose[:, :3, 2])[:, None] * distance[:, None]
    aimed = set_aim(scene, node_id, AimAt((), node.aim.up if node.aim else None))
    node = aimed.node(node_id)
    assert node.aim is not None
    local = apply(_to_carrier(aimed, node, frame), target[0])
    for axis, value in zip("xyz", np.round(local, _CLEAN_DIGITS).tolist(), strict=True):
        aimed = set_channel(aimed, node_id, Channel(f"{node.aim.id}.{axis}", value))
    return aimed


def release_aim(scene: Scene, node_id: str, frame: float) -> tuple[Scene, Values]:
    """Take a node's aim away; also the rotation values that keep its pose at ``frame``."""
    node = scene.node(node_id)
    if node.aim is None:
        return scene, {}
    world = evaluate(scene, frame, [node_id]).world(node_id)[0]
    freed = set_aim(scene, node_id, None)
    values = values_for_pose(freed, node_id, world, frame)
    return freed, {name: value for name, value in values.items() if name in ROTATION}


def depth_of(scene: Scene, camera_id: str, node_id: str, frame: float) -> float:
    """Distance of a node's origin along a camera's axis, in units."""
    here = evaluate(scene, frame, [camera_id, node_id])
    return float(here.camera(camera_id).pixels(here.position(node_id))[1][0])


def values_for_depth(scene: Scene, camera_id: str, node_id: str, depth: float, frame: float, keep_size: bool) -> Values:
    """The channels that put a node at another depth from the camera, along the ray from the lens.

    With ``keep_size`` its scale grows with the distance, so that it looks the same through the lens.
    """
    here = evaluate(scene, frame, [camera_id, node_id])
    pose = here.camera(camera_id).pose[0]
    world = here.world(node_id)[0].copy()
    present = float(-(world[:3, 3] - pose[:3, 3]) @ pose[:3, 2])
    if abs(present) < 1e-9 or depth <= 0.0:
        raise SceneError(f"{scene.node(node_id).name} is not in front of the lens.")
    factor = depth / present
    if factor <= 0.0:
        raise SceneError(f"{scene.node(node_id).name} is behind the lens: turn the camera round first.")
    world[:3, 3] = along_ray(pose[:3, 3], world[:3, 3], factor)
    values = values_for_pose(scene, node_id, world, frame)
    moved = {name: value for name, value in values.items() if name in POSITION}
    if keep_size:
        moved |= {name: float(here.value(node_id, name)[0]) * factor for name in SCALE}
    return moved
