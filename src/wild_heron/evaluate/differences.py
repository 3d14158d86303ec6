"""Finds the frames at which two versions of a scene render differently."""

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene import AnyNode, Format, Scene, is_moved, specs
from .cameras import CameraView
from .evaluation import Evaluation, evaluate

_UNDRAWN = {"path", "window"}
"""Roles of what shows in no picture, not even by what it does to others."""
_WORDS = (
    "name", "colour", "locked", "channels", "binds", "dials", "movers", "take", "unmoved", "carrier", "rotation_order",
)  # fmt: skip
"""What of a node does not show by itself: what its channels and relations come to does."""


def changed_frames(
    old: Scene, new: Scene, frames: Array, camera: str | None = None, format: Format | None = None
) -> NDArray[np.bool_]:
    """Whether each frame (N,) may look different in the new scene, through a camera (None: what the output shows), in a
    format: bit for bit, so an edit drops no frame in vain.

    What is hidden, and words that nobody sees in the picture, make no difference.
    """
    nothing = np.zeros(len(frames), dtype=bool)
    if old is new:
        return nothing
    if _looks(old) != _looks(new):
        return ~nothing
    before = evaluate(old, frames)
    after = evaluate(new, frames, previous=before)
    changed = _seen_differently(before.camera(camera, format), after.camera(camera, format))
    for node in new.nodes:
        if node.serves_as("shown") or node.hidden or not (node.roles - _UNDRAWN):
            continue  # It is not drawn; what it carries is looked at by itself.
        alive = bool(node.movers or node.take)
        if alive or node is not old.node(node.id) or after.pose_of(node.id) is not before.pose_of(node.id):
            changed = changed | _differs(before, after, node)
    return changed


def _seen_differently(before: CameraView, after: CameraView) -> NDArray[np.bool_]:
    """Whether anything of a camera differs at each frame (N,), but what it is about, which does not show."""
    changed = before.segment != after.segment
    for name in before.__struct_fields__:
        old, new = getattr(before, name), getattr(after, name)
        if name in ("aim", "about") or old is new:
            continue
        if (old is None) != (new is None):
            return np.ones(len(before), dtype=bool)
        if isinstance(old, np.ndarray):
            count = len(before)
            changed = changed | (old.reshape(count, -1) != new.reshape(count, -1)).any(axis=1)
        elif old != new:
            return np.ones(len(before), dtype=bool)
    return changed


def _looks(scene: Scene) -> tuple[object, ...]:
    """Everything that decides the picture besides where nodes are and what their channels are worth."""
    nodes = [
        (node.kind, *(getattr(node, field) for field in node.__struct_fields__ if field not in _WORDS))
        for node in scene.nodes
        if not node.serves_as("shown") and not node.serves_as("window")
    ]
    settings = msgspec.structs.replace(scene.settings, first=0, last=0)
    return (settings, scene.plain_formats(), *nodes)


def _differs(before: Evaluation, after: Evaluation, node: AnyNode) -> NDArray[np.bool_]:
    count = len(after)
    moved = before.world(node.id).reshape(count, -1) != after.world(node.id).reshape(count, -1)
    changed = moved.any(axis=1)
    old = before.node(node.id)
    for name in specs(node):
        if "." in name and name.partition(".")[0] in ("position", "rotation", "scale", "dial"):
            continue
        same = old.channel(name) is node.channel(name)
        if same and not (_is_driven(node, name) or _is_driven(old, name)):
            continue
        if name in specs(old):
            changed = changed | (before.value(node.id, name) != after.value(node.id, name))
    return changed


def _is_driven(node: AnyNode, name: str) -> bool:
    """Whether something else than its own keys has a say in a channel."""
    channel = node.channel(name)
    return is_moved(node, name) or (channel is not None and channel.has_inputs)
