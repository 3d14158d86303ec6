"""Bakes rigs and motion to keys: dissolved rigs, paths lifted from keys, held sizes, imported motion."""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

import msgspec
import numpy as np

from ..arrays import Array
from ..evaluate.cameras import LENS
from ..evaluate.evaluation import Evaluation, evaluate
from ..motion.reading import read_between
from ..motion.thinning import thinned
from ..scene import (
    AnyNode,
    Channel,
    Key,
    Path,
    RidePath,
    Scene,
    SceneError,
    View,
    is_moved,
    moved_channels,
    specs,
)
from ..scene.channels import FOCAL, POSITION, ROTATION, SCALE
from ..scene.specs import channel_or_default
from ..space.path import fitted, track
from ..space.path_lengths import shares
from ..space.rotation import euler_near, quaternion_to_matrix
from ..space.transform import apply, decompose, invert, length
from . import (
    add_bind,
    add_node,
    change_node,
    check_unlocked,
    duplicate,
    fresh_id,
    fresh_name,
    merge_keys,
    remove_bind,
    set_channel,
)
from .rigs import FrameRange, whole
from .sample_times import moments


class Tolerance(NamedTuple):
    """How far baked keys may be from the motion at any tenth of a frame: units, degrees in total, and a share of any
    other channel's value."""

    units: float = 0.002
    degrees: float = 0.02
    share: float = 1e-4


_OF_TOLERANCE = 0.2
"""What may happen between two moments at which a motion is read."""


def read_closely(
    scene: Scene, span: FrameRange, ids: Sequence[str], *more: str, allowed: Tolerance | None = None
) -> Evaluation:
    """The scene at all moments of a span that matter for what nodes do within tolerances; with ``more`` nodes that are
    asked about."""
    asked = (*ids, *more)
    allowed = allowed or Tolerance()
    names = [(each, channel.name) for each in ids for channel in scene.node(each).channels]

    def everything(frames: Array) -> Array:
        here = evaluate(scene, frames, asked)
        columns = [here.world(each)[:, :3].reshape(len(frames), 12) for each in ids]
        columns += [here.value(*name)[:, None] for name in names]
        return np.concatenate(columns, axis=1)

    def least(read: Array) -> Array:
        most = np.empty(read.shape[1])
        for k in range(len(ids)):
            world = read[:, 12 * k : 12 * k + 12].reshape(-1, 3, 4)
            size = max(float(np.abs(world[:, :, :3]).max()), 1e-9)
            most[12 * k : 12 * k + 12] = size * np.radians(allowed.degrees) / 3.0
            most[12 * k + 3 : 12 * k + 12 : 4] = allowed.units / 3.0**0.5
        for k, (_, name) in enumerate(names, 12 * len(ids)):
            most[k] = _tolerance(name, read[:, k], allowed)
        return _OF_TOLERANCE * most

    frames = moments(scene, span.first, span.last, asked)
    return evaluate(scene, read_between(frames, everything, least), asked)


def unrolled_angles(rotations: Array, order: str, near: Array) -> Array:
    """Euler angles in degrees (N, 3) of rotation matrices (N, 3, 3) that run on without jumps from ``near`` (3,)
    radians."""
    out = np.empty((len(rotations), 3))
    for i, matrix in enumerate(rotations):
        near = euler_near(matrix, order, near)
        out[i] = near
    return np.degrees(out)


def _curves(node: AnyNode, frames: Array, worlds: Array, near: Array) -> dict[str, Array]:
    """The place channels that give a node without carrier world matrices (N, 4, 4)."""
    position, quaternion, scale = decompose(worlds)
    angles = unrolled_angles(quaternion_to_matrix(quaternion), node.rotation_order, near)
    curves = {name: position[:, k] for k, name in enumerate(POSITION)}
    curves |= {name: angles[:, k] for k, name in enumerate(ROTATION)}
    return curves | {name: scale[:, k] for k, name in enumerate(SCALE)}


def _tolerance(name: str, values: Array, allowed: Tolerance) -> float:
    # Three axes together are off by no more than what is allowed: distances add up squared, turns at worst plainly.
    if name in POSITION:
        return allowed.units / 3.0**0.5
    if name in ROTATION:
        return allowed.degrees / 3.0
    return allowed.share * max(float(np.abs(values).max()), 1e-6)


def keyed_through(scene: Scene, node_id: str, frames: Array, curves: Mapping[str, Array], allowed: Tolerance) -> Scene:
    """The node's channels as keys through curves (N,) by channel at frames (N,); one that does not change is a value.
    SceneError where one is locked."""
    check_unlocked(scene.node(node_id), curves)
    for name, values in curves.items():
        keys = thinned(frames, values, _tolerance(name, values, allowed))
        keys = tuple(msgspec.structs.replace(key, value=round(key.value, 10)) for key in keys)
        channel = Channel(name, keys[0].value, () if len(keys) == 1 else keys)
        scene = set_channel(scene, node_id, channel)
    return scene


def dissolve(
    scene: Scene, node_ids: Iterable[str], span: FrameRange | None = None, allowed: Tolerance | None = None,
    keep: bool = False,
) -> tuple[Scene, tuple[str, ...]]:  # fmt: skip
    """Nodes taken off their rigs, with as few keys of their own as keep to the same motion, between frames too.

    ``keep`` leaves them as they are and gives copies. Carriers and binds stay in the scene for others.
    """
    span, allowed = span or whole(scene), allowed or Tolerance()
    ids = tuple(node_ids)
    here = read_closely(scene, span, ids, allowed=allowed)
    frames = here.frames
    if keep:
        taken = dict(zip(ids, _copies(scene, ids)[1], strict=True))
        scene = _copies(scene, ids)[0]
    else:
        taken = {each: each for each in ids}
    for node_id in ids:
        node = here.scene.node(node_id)
        near = np.radians([float(here.value(node_id, name)[0]) for name in ROTATION])
        curves = _curves(node, frames, here.world(node_id), near)
        known = specs(msgspec.structs.replace(node, binds=(), movers=(), take=None))
        driven = [channel.name for channel in node.channels if channel.has_inputs and channel.name in known]
        driven += [name for name in moved_channels(node) if name in known]
        curves |= {name: here.value(node_id, name) for name in driven if name not in curves}
        if any(bind.takes_lens and bind.on for bind in node.binds) and isinstance(node, View):
            view = here.camera(node_id)
            curves |= {name: getattr(view, field) for name, field in LENS.items()}
        scene = change_node(scene, taken[node_id], carrier=None, binds=(), movers=(), take=None, unmoved=None)
        scene = keyed_through(scene, taken[node_id], frames, curves, allowed)
    return scene, tuple(taken.values())


def _copies(scene: Scene, ids: Sequence[str]) -> tuple[Scene, tuple[str, ...]]:
    made = []
    for node_id in ids:
        scene, (copy,) = duplicate(scene, [node_id])
        scene = change_node(scene, copy, name=fresh_name(scene, f"{scene.node(node_id).name}, baked"))
        made.append(copy)
    return scene, tuple(made)


def key_count(scene: Scene, node_ids: Iterable[str]) -> int:
    return sum(len(channel.keys) for node_id in node_ids for channel in scene.node(node_id).channels)


# Shape and timing apart


def lift_to_path(scene: Scene, node_id: str, tolerance: float = 0.01) -> tuple[Scene, str]:
    """A node's position keys as a path and a progress lane, so that shape and timing are two things; and the path's id.

    The path hangs on the node's carrier. The node keeps to where it was within a tolerance in units.
    """
    node = scene.node(node_id)
    channels = [channel_or_default(node, name) for name in POSITION]
    if any(channel.has_inputs or is_moved(node, channel.name) for channel in channels):
        raise SceneError(f"{node.name}'s position is driven by links, formulas or movers: dissolve its rig first.")
    key_frames = sorted({key.frame for channel in channels for key in channel.keys})
    if len(key_frames) < 2:
        raise SceneError(f"{node.name} has no position keys to make a path of. Key it at two frames first.")
    carriers = [node.carrier] if node.carrier else []
    here = read_closely(scene, FrameRange(key_frames[0], key_frames[-1]), [node_id], *carriers)
    frames = here.frames
    linear = here.world(node.carrier)[:, :3, :3] if node.carrier else np.broadcast_to(np.eye(3), (len(frames), 3, 3))
    tolerance = tolerance / _largest_scale(linear)
    points = np.stack([here.value(node_id, name) for name in POSITION], axis=1)
    run = np.concatenate([[0.0], np.cumsum(length(np.diff(points, axis=0)))])
    if run[-1] < 1e-9:
        raise SceneError(f"{node.name}'s position keys are all in one place.")
    name = fresh_name(scene, f"{node.name} path")
    curve, parameters = fitted(points, 0.7 * tolerance)
    path = Path(id=fresh_id(scene, name), name=name, carrier=node.carrier, colour="#7fb2c9", curve=curve)
    scene = add_node(scene, path)
    progress = shares(track(curve), parameters, linear)
    keys = thinned(frames, progress, 0.2 * tolerance / float(run[-1]))
    for channel, value in zip(channels, points[0].tolist(), strict=True):
        scene = set_channel(scene, node_id, Channel(channel.name, value))
    scene, bind = add_bind(scene, node_id, RidePath(path.id, along=False))
    if len(keys) == 1:
        keys = (Key(keys[0].frame, 0.0), Key(float(frames[-1]), 1.0))
    scene = set_channel(scene, node_id, Channel(f"{bind}.progress", keys[0].value, keys))
    return scene, path.id


def _largest_scale(linear: Array) -> float:
    """How much longer at most matrices (N, 3, 3) make anything."""
    return max(float(np.linalg.svd(linear, compute_uv=False)[:, 0].max()), 1e-9)


def lower_to_keys(scene: Scene, node_id: str, span: FrameRange | None = None, tolerance: float = 0.002) -> Scene:
    """The way back: position keys in place of a ride along a path. The path stays."""
    node = scene.node(node_id)
    bind = next((each for each in node.binds if isinstance(each, RidePath)), None)
    if bind is None:
        raise SceneError(f"{node.name} rides no path.")
    progress = channel_or_default(node, f"{bind.id}.progress")
    ends = [key.frame for key in progress.keys]
    span = span or (FrameRange(ends[0], ends[-1]) if len(ends) > 1 else whole(scene))
    here = read_closely(scene, span, [node_id], *([node.carrier] if node.carrier else []))
    frames = here.frames
    if node.carrier is not None:
        tolerance = tolerance / _largest_scale(here.world(node.carrier)[:, :3, :3])
    points = apply(_to_carrier(here, node), here.position(node_id))
    near = np.radians([float(here.value(node_id, name)[0]) for name in ROTATION])
    curves = {name: points[:, k] for k, name in enumerate(POSITION)}
    if bind.along and node.aim is None:
        local = invert(here.world(node.carrier)) @ here.world(node_id) if node.carrier else here.world(node_id)
        turned = _curves(node, frames, local, near)
        curves |= {name: turned[name] for name in ROTATION}
    scene = remove_bind(scene, node_id, bind.id)
    return keyed_through(scene, node_id, frames, curves, Tolerance(units=tolerance))


def _to_carrier(here: Evaluation, node: AnyNode) -> Array:
    if node.carrier is None:
        return np.broadcast_to(np.eye(4), (len(here), 4, 4))
    try:
        return invert(here.world(node.carrier))
    except np.linalg.LinAlgError:
        raise SceneError(f"{here.scene.node(node.carrier).name} is scaled to nothing somewhere in the span.") from None


# Hold size


def hold_size(scene: Scene, camera_id: str, subject_id: str, span: FrameRange | None = None) -> tuple[Scene, str]:
    """A subject's size in frame kept over a span as it is at the start; also a line that says what was written.

    Where the focal length is keyed, the camera's position is written, along its line to the subject; else the focal
    length is, from the distance.
    """
    span = span or whole(scene)
    camera, subject = scene.node(camera_id), scene.node(subject_id)
    assert isinstance(camera, View)
    here = read_closely(scene, span, [camera_id, subject_id], *([camera.carrier] if camera.carrier else []))
    frames = here.frames
    view = here.camera(camera_id)
    _, depth = view.pixels(here.position(subject_id))
    if depth.min() <= 0.0:
        raise SceneError(f"{subject.name} is behind {camera.name} somewhere in the span.")
    focal = here.value(camera_id, FOCAL)
    fine = 0.02 / scene.settings.width
    if float(np.ptp(focal)) > 1e-9:
        if any(bind.on and bind.moves for bind in camera.binds):
            raise SceneError(f"A bind decides where {camera.name} is: dissolve the rig first, or key its distance.")
        wanted = depth[0] * focal / focal[0]
        at, to = here.position(camera_id), here.position(subject_id)
        points = apply(_to_carrier(here, camera), to + (at - to) * (wanted / depth)[:, None])
        scale = _largest_scale(here.world(camera.carrier)[:, :3, :3]) if camera.carrier else 1.0
        curves = {name: points[:, k] for k, name in enumerate(POSITION)}
        scene = _spliced(scene, camera_id, frames, curves, fine * float(wanted.min()) / (3.0**0.5 * scale))
        return scene, f"The distance of {camera.name} follows its focal length: {subject.name} keeps its size."
    if float(np.ptp(depth)) < 1e-9:
        raise SceneError(f"Neither the distance to {subject.name} nor the focal length changes in the span: key one.")
    wanted = focal[0] * depth / depth[0]
    if wanted.min() < 1.0 or wanted.max() > 5000.0:
        raise SceneError(f"That takes a lens of {wanted.min():.3g} to {wanted.max():.3g} mm, beyond 1 to 5000 mm.")
    scene = _spliced(scene, camera_id, frames, {FOCAL: wanted}, fine * float(wanted.min()))
    return scene, f"The focal length of {camera.name} follows its distance: {subject.name} keeps its size."


def _spliced(scene: Scene, node_id: str, frames: Array, curves: Mapping[str, Array], tolerance: float) -> Scene:
    """Keys through curves in place of those that lie in their span. SceneError where a channel is locked."""
    check_unlocked(scene.node(node_id), curves)
    for name, values in curves.items():
        channel = channel_or_default(scene.node(node_id), name)
        keys = thinned(frames, values, tolerance)
        if len(keys) == 1 and not channel.keys:
            scene = set_channel(scene, node_id, msgspec.structs.replace(channel, value=keys[0].value))
            continue
        if len(keys) == 1:
            keys = (*keys, Key(float(frames[-1]), keys[0].value))
        outside = [key for key in channel.keys if not frames[0] <= key.frame <= frames[-1]]
        changed = msgspec.structs.replace(channel, keys=merge_keys(outside, keys), links=(), formula="")
        scene = set_channel(scene, node_id, changed)
    return scene


# Motion from outside


def take_motion(
    scene: Scene, node_id: str, frames: Array, positions: Array, angles: Array | None, tolerance: Tolerance
) -> Scene:
    """A node's position, and rotation where there are angles (N, 3) in degrees, as keys through given samples."""
    curves = {name: positions[:, k] for k, name in enumerate(POSITION)}
    if angles is not None:
        curves |= {name: angles[:, k] for k, name in enumerate(ROTATION)}
    return keyed_through(scene, node_id, frames, curves, tolerance)
