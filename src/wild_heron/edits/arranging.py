"""Putting nodes in their places: in depth, in line, on the ground, to fill the frame.

Each gives the values of channels that do it, by (node, channel), for the rules of auto-key to write.
"""

from collections.abc import Iterable, Sequence
from typing import Literal

import msgspec
import numpy as np

from ..arrays import Array
from ..evaluate.evaluation import Evaluation, evaluate
from ..evaluate.extent import corners, local_bounds
from ..scene import AnyNode, Logo, Picture, Scene, SceneError
from ..scene.channels import ANCHOR, POSITION, SCALE
from ..scene.dependencies import descendants
from ..scene.specs import channel_or_default
from . import set_channel
from .posing import depth_of, values_for_depth, values_for_pose

Changes = dict[tuple[str, str], float]
Line = Literal["x", "y", "depth"]
Spacing = Literal["even", "perspective"]


def _moved(scene: Scene, here: Evaluation, node_id: str, shift: Array, frame: float) -> Changes:
    world = here.world(node_id)[0].copy()
    world[:3, 3] += shift
    values = values_for_pose(scene, node_id, world, frame)
    return {(node_id, name): value for name, value in values.items() if name in POSITION}


def outermost(scene: Scene, node_ids: Iterable[str]) -> list[str]:
    """The nodes without those that hang under another of them."""
    ids = list(dict.fromkeys(node_ids))
    under = set().union(*(descendants(scene, node_id) for node_id in ids)) if ids else set()
    return [node_id for node_id in ids if node_id not in under]


def spread(
    scene: Scene,
    camera_id: str,
    node_ids: Sequence[str],
    nearest: float,
    farthest: float,
    spacing: Spacing,
    frame: float,
    keep_size: bool = True,
) -> Changes:
    """Nodes, given from far to near, spread in depth between two distances.

    even: the same distance apart. perspective: evenly in 1/distance, so that under a sideways move each slides the
    same amount past the next. With ``keep_size`` the picture through the lens stays the same.
    """
    if not 0.0 < nearest <= farthest:
        raise SceneError("The nearest distance must be above zero and no larger than the farthest.")
    share = np.linspace(0.0, 1.0, len(node_ids)) if len(node_ids) > 1 else np.zeros(1)
    if spacing == "even":
        depths = farthest + (nearest - farthest) * share
    else:
        depths = 1.0 / (1.0 / farthest + (1.0 / nearest - 1.0 / farthest) * share)
    changes: Changes = {}
    for node_id, depth in zip(node_ids, depths.tolist(), strict=True):
        values = values_for_depth(scene, camera_id, node_id, depth, frame, keep_size)
        changes |= {(node_id, name): value for name, value in values.items()}
    return changes


def push_together(
    scene: Scene, camera_id: str, node_ids: Iterable[str], factor: float, frame: float, keep_size: bool
) -> Changes:
    """Nodes moved in depth so that each one's distance is multiplied: their proportions stay."""
    changes: Changes = {}
    for node_id in outermost(scene, node_ids):
        depth = depth_of(scene, camera_id, node_id, frame) * factor
        values = values_for_depth(scene, camera_id, node_id, depth, frame, keep_size)
        changes |= {(node_id, name): value for name, value in values.items()}
    return changes


def _direction(scene: Scene, camera_id: str | None, line: Line, frame: float) -> Array:
    if line == "x":
        return np.array([1.0, 0.0, 0.0])
    if line == "y":
        return np.array([0.0, 1.0, 0.0])
    if camera_id is None:
        return np.array([0.0, 0.0, -1.0])
    return np.asarray(evaluate(scene, frame, [camera_id]).camera(camera_id).axis[0])


def align(scene: Scene, camera_id: str | None, node_ids: Sequence[str], line: Line, frame: float) -> Changes:
    """The middles of nodes brought in line with that of the last one: in the world's x or y, or in depth."""
    direction = _direction(scene, camera_id, line, frame)
    here = evaluate(scene, frame, node_ids)
    ids = outermost(scene, node_ids)
    target = float(_middle(here, node_ids[-1]) @ direction)
    changes: Changes = {}
    for node_id in ids:
        if node_id != node_ids[-1]:
            away = target - float(_middle(here, node_id) @ direction)
            changes |= _moved(scene, here, node_id, direction * away, frame)
    return changes


def distribute(scene: Scene, camera_id: str | None, node_ids: Sequence[str], line: Line, frame: float) -> Changes:
    """The middles of nodes spaced evenly between the outermost two, which stay."""
    direction = _direction(scene, camera_id, line, frame)
    ids = outermost(scene, node_ids)
    here = evaluate(scene, frame, ids)
    places = {node_id: float(_middle(here, node_id) @ direction) for node_id in ids}
    order = sorted(ids, key=lambda node_id: places[node_id])
    wanted = np.linspace(places[order[0]], places[order[-1]], len(order))
    changes: Changes = {}
    for node_id, place in zip(order, wanted.tolist(), strict=True):
        if abs(place - places[node_id]) > 1e-12:
            changes |= _moved(scene, here, node_id, direction * (place - places[node_id]), frame)
    return changes


def _middle(here: Evaluation, node_id: str) -> Array:
    box = corners(here, node_id)
    return np.asarray(0.5 * (box.min(axis=0) + box.max(axis=0)))


def stand_on_ground(scene: Scene, node_ids: Iterable[str], frame: float, height: float = 0.0) -> Changes:
    """Nodes lifted or lowered until their lowest corner is at a height of the world."""
    ids = outermost(scene, node_ids)
    here = evaluate(scene, frame)
    changes: Changes = {}
    for node_id in ids:
        group = [node_id, *descendants(scene, node_id)]
        low = min(
            float(corners(here, each)[:, 1].min())
            for each in group
            if scene.node(each).serves_as("seen") or each == node_id
        )
        changes |= _moved(scene, here, node_id, np.array([0.0, height - low, 0.0]), frame)
    return changes


def to_frame_distance(scene: Scene, camera_id: str, node_ids: Iterable[str], frame: float) -> Changes:
    """Nodes moved along their rays to where artwork shows one to one."""
    view = evaluate(scene, frame, [camera_id]).camera(camera_id)
    distance = float(view.frame_distance(scene.settings.pixels_per_unit)[0])
    changes: Changes = {}
    for node_id in outermost(scene, node_ids):
        values = values_for_depth(scene, camera_id, node_id, distance, frame, keep_size=False)
        changes |= {(node_id, name): value for name, value in values.items()}
    return changes


def fill_frame(scene: Scene, camera_id: str, node_ids: Iterable[str], frame: float) -> Changes:
    """Flat nodes scaled, and put in the middle, so that they just cover the camera's frame at their depth.

    They are turned to face along the camera's axis.
    """
    changes: Changes = {}
    for node_id in node_ids:
        node = scene.node(node_id)
        low, high = local_bounds(node, scene.settings)
        size = high - low
        if not (size[0] > 0.0 and size[1] > 0.0):
            raise SceneError(f"{node.name} has no size that could fill the frame.")
        here = evaluate(scene, frame, [camera_id, node_id])
        view = here.camera(camera_id)
        pose, focal = view.pose[0], float(view.focal_px[0])
        content = here.content(node_id)[0]
        middle = content[:3, :3] @ (0.5 * (low + high)) + content[:3, 3]
        depth = float(-(middle - pose[:3, 3]) @ pose[:3, 2])
        if depth <= 0.0:
            raise SceneError(f"{node.name} is not in front of the lens.")
        scale = depth / focal * max(view.width / size[0], view.height / size[1])
        world = np.eye(4)
        world[:3, :3] = pose[:3, :3] * scale
        anchor = np.array([float(here.value(node_id, name)[0]) for name in ANCHOR])
        world[:3, 3] = pose[:3, 3] - pose[:3, 2] * depth - world[:3, :3] @ (0.5 * (low + high) - anchor)
        values = values_for_pose(scene, node_id, world, frame)
        changes |= {(node_id, name): value for name, value in values.items()}
    return changes


def snap(scene: Scene, node_ids: Sequence[str], frame: float) -> Changes:
    """Nodes put where the last one is."""
    here = evaluate(scene, frame, node_ids)
    target = here.position(node_ids[-1])[0]
    changes: Changes = {}
    for node_id in outermost(scene, node_ids[:-1]):
        changes |= _moved(scene, here, node_id, target - here.position(node_id)[0], frame)
    return changes


def values_for_size(scene: Scene, node_id: str, width: float | None, height: float | None, frame: float) -> Changes:
    """The scale that gives a picture or logo a width, or a height, in artwork pixels; x and y keep their ratio."""
    node = scene.node(node_id)
    assert isinstance(node, Picture | Logo)
    here = evaluate(scene, frame, [node_id])
    present = [float(here.value(node_id, name)[0]) for name in SCALE]
    now, wanted = (node.width * present[0], width) if width is not None else (node.height * present[1], height)
    assert wanted is not None
    if abs(now) < 1e-9:
        return {(node_id, name): wanted / (node.width if width is not None else node.height) for name in SCALE}
    return {(node_id, name): value * wanted / now for name, value in zip(SCALE, present, strict=True)}


def set_anchor(scene: Scene, node_id: str, share: tuple[float, float, float], frame: float) -> Scene:
    """The node's anchor put at a place in the box of its contents (0–1 from left to right, bottom to top, back to
    front), with what it shows, and what it carries, staying where it is.

    The position follows at each of its keys; between keys it does so exactly where the node does not turn.
    """
    node = scene.node(node_id)
    low, high = local_bounds(node, scene.settings)
    anchor = low + (high - low) * np.array(share)
    here = evaluate(scene, frame, [node_id])
    delta = anchor - np.array([float(here.value(node_id, name)[0]) for name in ANCHOR])
    moved = scene
    for k, name in enumerate(ANCHOR):
        moved = set_channel(
            moved, node_id, msgspec.structs.replace(channel_or_default(node, name), value=float(anchor[k]), keys=())
        )
    moved = _shifted(scene, moved, node, delta, frame)
    for child in scene.carried_by(node_id):
        for k, name in enumerate(POSITION):
            channel = channel_or_default(child, name)
            keys = tuple(msgspec.structs.replace(key, value=key.value - float(delta[k])) for key in channel.keys)
            moved = set_channel(
                moved, child.id, msgspec.structs.replace(channel, value=channel.value - float(delta[k]), keys=keys)
            )
    return moved


def _shifted(scene: Scene, moved: Scene, node: AnyNode, delta: Array, frame: float) -> Scene:
    """The node's position moved by a step in its own, turned and scaled, space."""
    channels = [channel_or_default(node, name) for name in POSITION]
    frames = sorted({frame, *(key.frame for channel in channels for key in channel.keys)})
    alone = evaluate(_on_its_own(scene, node), frames, [node.id])
    steps = {at: alone.world(node.id)[i, :3, :3] @ delta for i, at in enumerate(frames)}
    for k, channel in enumerate(channels):
        keys = tuple(
            msgspec.structs.replace(key, value=round(key.value + float(steps[key.frame][k]), 10))
            for key in channel.keys
        )
        value = round(channel.value + float(steps[frame][k]), 10)
        moved = set_channel(moved, node.id, msgspec.structs.replace(channel, value=value, keys=keys))
    return moved


def _on_its_own(scene: Scene, node: AnyNode) -> Scene:
    free = msgspec.structs.replace(node, carrier=None, binds=())
    return Scene(settings=scene.settings, nodes=(free,))
