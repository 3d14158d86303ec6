"""Auto-key rules: whether a change becomes a value, a key, or a pending value. Free of Qt."""

from collections.abc import Iterable, Mapping
from typing import Literal

import msgspec
import numpy as np

from ...edits import KeyRef, change_keys, is_locked, set_channel, set_key, set_value
from ...edits.keys import moved_keys
from ...evaluate import evaluate
from ...evaluate.channels import own_values as inverted
from ...motion import evaluate_channel
from ...scene import AnyNode, Channel, Scene, channel_or_default, is_moved, specs
from ...scene.channels import LENS, POSITION, ROTATION
from ...scene.inputs import ChannelRef


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
    locked: tuple[ChannelRef, ...] = ()
    """What was left alone."""


def own_values(
    scene: Scene, changes: Mapping[tuple[str, str], float], frame: float, seen: bool = True
) -> dict[tuple[str, str], float]:
    """What channels' keys have to come to, so that at the end of all stages (or, unless what is ``seen`` is meant,
    before movers and takes) they have the wanted values."""
    out = dict(changes)
    for (node_id, name), value in changes.items():
        node = scene.node(node_id)
        channel = channel_or_default(node, name)
        moved = seen and is_moved(node, name)
        if channel.has_inputs or moved:
            here = evaluate(scene, frame, [node_id] if moved else [])
            out[node_id, name] = float(inverted(here, node, channel, np.array([value]), seen)[0])
    return out


def record(
    state: State, changes: Mapping[tuple[str, str], float], frame: float, auto_key: bool, seen: bool = True
) -> Recorded:
    """Carry out changes of channels' values, by (node, channel), at a frame.

    With auto-key every changed channel gets a key. Without, a channel that has no keys takes the value, and one that
    has becomes pending. Locked nodes and channels are left alone. They are values as they are ``seen``, or as they are
    before movers and takes.
    """
    return _recorded(state, own_values(state.shown(frame), changes, frame, seen), frame, auto_key)


def _recorded(state: State, changes: Mapping[ChannelRef, float], frame: float, auto_key: bool) -> Recorded:
    """The same for what the keys themselves have to come to."""
    scene, pending = state.scene, {(p.node, p.channel, p.frame): p for p in state.pending}
    keys: list[KeyRef] = []
    locked: list[ChannelRef] = []
    waiting = 0
    for (node_id, name), value in changes.items():
        node = scene.node(node_id)
        channel = channel_or_default(node, name)
        if is_locked(node, name):
            locked.append((node_id, name))
        elif auto_key:
            scene = set_key(scene, node_id, name, frame, value)
            pending.pop((node_id, name, frame), None)
            keys.append(KeyRef(node_id, name, frame))
        elif channel.keys:
            pending[node_id, name, frame] = Pending(node_id, name, frame, value)
            waiting += 1
        else:
            scene = set_value(scene, node_id, name, value)
    return Recorded(State(scene, tuple(pending.values())), tuple(keys), waiting, tuple(locked))


Scope = Literal["changed", "pose", "lens", "everything"]
SCOPES: tuple[Scope, ...] = ("changed", "pose", "lens", "everything")
"""What is keyed: only what changed, the pose of its node, the pose and the lens, or every channel."""


def in_scope(node: AnyNode, scope: Scope) -> list[str]:
    """The channels of a node that are keyed along with a change."""
    if scope == "changed":
        return []
    if scope == "everything":
        return list(specs(node))
    lens = [name for name in LENS if name in specs(node)] if scope == "lens" else []
    return [*POSITION, *ROTATION, *lens]


def without_keys(scene: Scene, before: Scene, refs: tuple[KeyRef, ...]) -> Scene:
    """The scene with just these keys as they were in an earlier one: gone, or with their old values and spans."""

    def change(node: AnyNode, channel: Channel, picked: list[int]) -> Channel:
        old = before.node(node.id).channel(channel.name) if node.id in before else None
        frames = [channel.keys[i].frame for i in picked]
        again = [key for frame in frames if old is not None and (key := old.key_at(frame)) is not None]
        keys = moved_keys(channel.keys, picked, again)
        value = old.value if old is not None and not keys else channel.value
        return msgspec.structs.replace(channel, keys=keys, value=value)

    return change_keys(scene, refs, change)[0]


def key_pending(state: State) -> Recorded:
    """Turn every pending value into a key at its own frame. What is locked goes on waiting."""
    scene, keys, waiting = state.scene, [], []
    for item in state.pending:
        if is_locked(scene.node(item.node), item.channel):
            waiting.append(item)
            continue
        scene = set_key(scene, item.node, item.channel, item.frame, item.value)
        keys.append(KeyRef(item.node, item.channel, item.frame))
    locked = tuple((item.node, item.channel) for item in waiting)
    return Recorded(State(scene, tuple(waiting)), tuple(keys), 0, locked)


def discard_pending(state: State) -> State:
    """Let every pending value go."""
    return msgspec.structs.replace(state, pending=())


def key_now(state: State, channels: Iterable[ChannelRef], frame: float) -> Recorded:
    """Key channels where they are now, whatever auto-key says. Locked ones are left alone."""
    shown = state.shown(frame)
    own = {
        (node, name): float(evaluate_channel(channel_or_default(shown.node(node), name), np.array([frame]))[0])
        for node, name in channels
    }
    return _recorded(state, own, frame, auto_key=True)
