"""What a change to a channel becomes: a value, a key, or a pending value. Free of Qt."""

from collections.abc import Mapping
from typing import Literal

import msgspec
import numpy as np

from ..evaluate import evaluate
from ..motion import evaluate_channel
from ..scene import AnyNode, Scene, SceneError, channel_or_default, specs
from ..scene.channels import POSITION, ROTATION
from ..scene.edits import KeyRef, merge_keys, set_channel, set_key, set_value


class Pending(msgspec.Struct, frozen=True):
    """A keyed channel changed at a frame while auto-key is off: neither keyed nor lost until it is decided."""

    node: str
    channel: str
    frame: float
    value: float


class State(msgspec.Struct, frozen=True):
    """What undo goes back to."""

    scene: Scene
    pending: tuple[Pending, ...] = ()

    def shown(self, frame: float) -> Scene:
        """The scene with the pending values of this frame in force."""
        scene = self.scene
        for item in self.pending:
            if item.frame == frame and item.node in scene:
                channel = channel_or_default(scene.node(item.node), item.channel)
                scene = set_channel(scene, item.node, msgspec.structs.replace(channel, value=item.value, keys=()))
        return scene

    def with_scene(self, scene: Scene) -> "State":
        """Another scene; pending values of nodes and channels that are gone go too."""
        kept = tuple(item for item in self.pending if item.node in scene and _is_keyed(scene, item.node, item.channel))
        return State(scene, kept)


def _is_keyed(scene: Scene, node: str, channel: str) -> bool:
    found = scene.node(node).channel(channel)
    return found is not None and bool(found.keys)


class Recorded(msgspec.Struct, frozen=True):
    """A state after a change, and what the change became."""

    state: State
    keys: tuple[KeyRef, ...] = ()
    pending: int = 0
    refused: tuple[str, ...] = ()


def own_values(scene: Scene, changes: Mapping[tuple[str, str], float], frame: float) -> dict[tuple[str, str], float]:
    """What channels' own values have to be so that, with what links add to them, they come to the wanted ones.

    A formula decides what comes of a value, so where one does, the value is given as it is.
    """
    out = dict(changes)
    for (node_id, name), value in changes.items():
        channel = scene.node(node_id).channel(name)
        if channel is not None and channel.links and not channel.formula:
            total = float(evaluate(scene, frame, []).value(node_id, name)[0])
            own = float(evaluate_channel(channel, np.array([frame]))[0])
            out[node_id, name] = value - (total - own)
    return out


def record(state: State, changes: Mapping[tuple[str, str], float], frame: float, auto_key: bool) -> Recorded:
    """Carry out changes of channels' values, by (node, channel), at a frame.

    With auto-key every changed channel gets a key. Without, a channel that has no keys takes the value, and one that
    has becomes pending. Locked nodes and channels refuse.
    """
    scene, pending = state.scene, {(p.node, p.channel, p.frame): p for p in state.pending}
    changes = own_values(state.shown(frame), changes, frame)
    keys: list[KeyRef] = []
    refused: list[str] = []
    waiting = 0
    for (node_id, name), value in changes.items():
        node = scene.node(node_id)
        channel = channel_or_default(node, name)
        if node.locked or channel.locked:
            refused.append(f"{node.name} is locked" if node.locked else f"{node.name} · {name} is locked")
        elif auto_key:
            scene = set_key(scene, node_id, name, frame, value)
            pending.pop((node_id, name, frame), None)
            keys.append(KeyRef(node_id, name, frame))
        elif channel.keys:
            pending[node_id, name, frame] = Pending(node_id, name, frame, value)
            waiting += 1
        else:
            scene = set_value(scene, node_id, name, value)
    return Recorded(State(scene, tuple(pending.values())), tuple(keys), waiting, tuple(dict.fromkeys(refused)))


Scope = Literal["changed", "pose", "lens", "everything"]
SCOPES: tuple[Scope, ...] = ("changed", "pose", "lens", "everything")
"""What is keyed: only what changed, the pose of its node, the pose and the lens, or every channel."""


def in_scope(node: AnyNode, scope: Scope) -> list[str]:
    """The channels of a node that are keyed along with a change."""
    if scope == "changed":
        return []
    if scope == "everything":
        return list(specs(node))
    lens = [name for name in specs(node) if name.startswith("lens.")] if scope == "lens" else []
    return [*POSITION, *ROTATION, *lens]


def without_keys(scene: Scene, before: Scene, refs: tuple[KeyRef, ...]) -> Scene:
    """The scene with just these keys as they were in an earlier one: gone, or with their old values and spans."""
    for ref in refs:
        if ref.node not in scene:
            continue
        channel = channel_or_default(scene.node(ref.node), ref.channel)
        old = before.node(ref.node).channel(ref.channel) if ref.node in before else None
        key = old.key_at(ref.frame) if old is not None else None
        rest = [each for each in channel.keys if abs(each.frame - ref.frame) > 1e-6]
        keys = merge_keys(rest, [key] if key is not None else [])
        value = old.value if old is not None and not keys else channel.value
        scene = set_channel(scene, ref.node, msgspec.structs.replace(channel, keys=keys, value=value))
    return scene


def key_pending(state: State) -> Recorded:
    """Turn every pending value into a key at its own frame."""
    scene = state.scene
    keys = []
    for item in state.pending:
        scene = set_key(scene, item.node, item.channel, item.frame, item.value)
        keys.append(KeyRef(item.node, item.channel, item.frame))
    return Recorded(State(scene), tuple(keys))


def discard_pending(state: State) -> State:
    """Let every pending value go."""
    return msgspec.structs.replace(state, pending=())


def key_now(state: State, channels: list[tuple[str, str, float]], frame: float) -> Recorded:
    """Key channels at their present values, whatever auto-key says. SceneError where all of them are locked."""
    shown = state.shown(frame)

    def own(node: str, name: str, value: float) -> float:
        channel = channel_or_default(shown.node(node), name)
        return float(evaluate_channel(channel, np.array([frame]))[0]) if channel.formula else value

    free = {
        (node, name): own(node, name, value)
        for node, name, value in channels
        if not state.scene.node(node).locked and not channel_or_default(state.scene.node(node), name).locked
    }
    if channels and not free:
        raise SceneError("Every one of these channels is locked.")
    return record(state, free, frame, auto_key=True)
