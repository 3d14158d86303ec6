"""The way of a node in space, by its position keys: where they are, their handles, and how both are moved."""

from typing import Literal

import numpy as np
from msgspec.structs import replace

from ..arrays import Array
from ..evaluate.evaluation import evaluate
from ..motion.keys import lengths_at, with_key, with_slopes
from ..motion.sides import slopes_at
from ..scene import AnyNode, Channel, Flow, Key, Scene, SceneError, channel_or_default, spec
from ..scene.channels import POSITION
from . import SAME_FRAME, is_locked, set_channel, set_key, set_value
from .posing import values_for_pose

Side = Literal["into", "out"]

_STILL = 1e-6
"""What a handle pulled straight along two axes may leave on the third, in units."""


def path_key_frames(node: AnyNode) -> list[float]:
    """The frames of a node's position keys."""
    return sorted({key.frame for name in POSITION if (c := node.channel(name)) is not None for key in c.keys})


def carrier_map(scene: Scene, node_id: str, frame: float) -> Array:
    """How steps of a node's position become steps in the world at a frame, (3, 3)."""
    carrier = scene.node(node_id).carrier
    return np.eye(3) if carrier is None else evaluate(scene, frame, [carrier]).world(carrier)[0, :3, :3]


def path_handles(scene: Scene, node_id: str, frame: float) -> dict[Side, Array]:
    """The handles of the keys at a frame, as steps (3,) of the node's position; only sides that have a span.

    Where the keys of all axes have handles of one length, the way there is the Bézier curve that the handles show.
    """
    node, found = scene.node(node_id), dict[Side, Array]()
    frames = path_key_frames(node)
    for side, there in (("into", frame > frames[0] + SAME_FRAME), ("out", frame < frames[-1] - SAME_FRAME)):
        if there:
            found[side] = np.array([_handle(node.channel(name), frame, side) for name in POSITION])  # type: ignore[index, arg-type]
    return found


def _handle(channel: Channel | None, frame: float, side: Side) -> float:
    """One axis of a handle: the slope over its length; 0 where nothing is keyed on that side."""
    if channel is None or len(channel.keys) < 2:
        return 0.0
    keys = with_key(channel.keys, frame)
    index = next((i for i, key in enumerate(keys) if abs(key.frame - frame) <= SAME_FRAME), None)
    if index is None:
        return 0.0
    slope, reach = _reach(keys, index, side)
    return slope * reach * (-1.0 if side == "into" else 1.0)


def _reach(keys: tuple[Key, ...], index: int, side: Side) -> tuple[float, float]:
    """Slope of a key's handle per frame, and how many frames it reaches."""
    first, last = (index - 1, index) if side == "into" else (index, index + 1)
    if first < 0 or last >= len(keys):
        return 0.0, 0.0
    number = 0 if side == "into" else 1
    return slopes_at(keys, index)[number], lengths_at(keys, index)[number] * (keys[last].frame - keys[first].frame)


def move_path_key(scene: Scene, node_id: str, frame: float, place: Array) -> Scene:
    """The scene with the position keys at a frame putting the node at a place (3,) in the world.

    An axis that is locked stays where it is.
    """
    node = scene.node(node_id)
    world = evaluate(scene, frame, [node_id]).world(node_id)[0].copy()
    world[:3, 3] = place
    for name, value in values_for_pose(scene, node_id, world, frame).items():
        if name in POSITION and not is_locked(node, name):
            if channel_or_default(node, name).keys:
                scene = set_key(scene, node_id, name, frame, value)
            else:
                scene = set_value(scene, node_id, name, value)
    return scene


def shape_path(scene: Scene, node_id: str, frame: float, side: Side, handle: Array, broken: bool = False) -> Scene:
    """The scene with a handle of the keys at a frame being a step (3,) of the node's position; unless it is broken the
    handle across follows in direction, and the node goes through at one speed.

    An axis that stands still gets keys where the others have them; one that is locked stays as it is. SceneError where
    an axis has no key there.
    """
    node = scene.node(node_id)
    frames = path_key_frames(node)
    for name, wanted in zip(POSITION, handle.tolist(), strict=True):
        channel = channel_or_default(node, name)
        same = abs(wanted - _handle(channel, frame, side)) < _STILL
        if is_locked(node, name) or (same and (broken or len(channel.keys) < 2)):
            continue
        keys = channel.keys
        if len(keys) < 2:
            still = keys[0].value if keys else channel.value
            keys = tuple(Key(each, still, Flow()) for each in frames)
        keys = with_key(keys, frame)
        index = next((i for i, key in enumerate(keys) if abs(key.frame - frame) <= SAME_FRAME), None)
        if index is None:
            raise SceneError(f"{node.name} · {spec(node, name).label} has no key here that could have a handle.")
        slope, reach = _reach(keys, index, side)
        if reach < 1e-9:
            continue
        slope = slope if same else wanted / reach * (-1.0 if side == "into" else 1.0)
        other = None if broken else slope
        into, out = (slope, other) if side == "into" else (other, slope)
        scene = set_channel(scene, node_id, replace(channel, keys=with_slopes(keys, index, into, out)))
    return scene
