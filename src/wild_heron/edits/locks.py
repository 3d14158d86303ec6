"""Locks: edits leave locked nodes and channels alone, and report what they left."""

from collections.abc import Iterable

from ..scene.errors import SceneError
from ..scene.inputs import ChannelRef
from ..scene.lookup import nodes_by_id
from ..scene.model import Scene
from ..scene.nodes import AnyNode
from ..scene.specs import spec, specs


def is_locked(node: AnyNode, name: str) -> bool:
    """Whether a channel is locked, by itself or with its node."""
    channel = node.channel(name)
    return node.locked or (channel is not None and channel.locked)


def check_unlocked(node: AnyNode, names: Iterable[str]) -> None:
    """SceneError that names the first of a node's channels that is locked: for edits that need all of them."""
    for name in names:
        if is_locked(node, name):
            raise SceneError(f"{_name(node, name)} is locked. Unlock it first.")


def left_alone(scene: Scene, channels: Iterable[ChannelRef]) -> str:
    """A sentence that names what of the channels is locked; nothing where none is."""
    nodes = nodes_by_id(scene)
    names = dict.fromkeys(
        _name(nodes[node_id], name)
        for node_id, name in channels
        if node_id in nodes and name in specs(nodes[node_id]) and is_locked(nodes[node_id], name)
    )
    if not names:
        return ""
    first, *others = names
    if not others:
        return f"{first} is locked and was left alone."
    return f"{first} and {len(others)} more are locked and were left alone."


def _name(node: AnyNode, name: str) -> str:
    return node.name if node.locked else f"{node.name} · {spec(node, name).label}"
