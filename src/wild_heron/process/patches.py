"""Scene patches: the difference between two scenes, sent in place of the whole."""

from collections.abc import Iterable

import msgspec

from ..scene import AnyNode, Channel, Key, Scene, Take

_ALL = 0.5
"""From so large a part of changed nodes on, the whole scene is no more to send."""


class ChannelPatch(msgspec.Struct, frozen=True):
    """A channel as it is now, with only the keys in its midst that are new; ``before`` and ``after`` them it has so
    many of those it had."""

    channel: Channel
    before: int
    after: int


class NodePatch(msgspec.Struct, frozen=True):
    """A node as it is now, but without channels: those that changed, and the names of all it has, in order."""

    node: AnyNode
    changed: tuple[ChannelPatch, ...]
    channels: tuple[str, ...]


class ScenePatch(msgspec.Struct, frozen=True):
    """``rest`` is the scene without its nodes and takes, None where nothing of that changed; ``order`` the ids of all
    nodes, None where they are the same as before; ``takes`` those that are new, ``take_order`` the ids of all."""

    nodes: tuple[NodePatch, ...]
    rest: Scene | None = None
    order: tuple[str, ...] | None = None
    takes: tuple[Take, ...] = ()
    take_order: tuple[str, ...] | None = None


def patch_between(old: Scene, new: Scene) -> ScenePatch | None:
    """What makes ``new`` of ``old``, by the identity of what did not change; None where too much did."""
    before = {node.id: node for node in old.nodes}
    changed = [node for node in new.nodes if before.get(node.id) is not node]
    if len(changed) > max(1, _ALL * len(new.nodes)):
        return None
    names = [name for name in new.__struct_fields__ if name not in ("nodes", "takes")]
    same = all(getattr(old, name) is getattr(new, name) for name in names)
    order = tuple(node.id for node in new.nodes)
    known = {take.id: take for take in old.takes}
    return ScenePatch(
        tuple(_node_patch(before.get(node.id), node) for node in changed),
        None if same else msgspec.structs.replace(new, nodes=(), takes=()),
        None if order == tuple(before) else order,
        tuple(take for take in new.takes if known.get(take.id) is not take),
        None if old.takes is new.takes else tuple(take.id for take in new.takes),
    )


def _node_patch(old: AnyNode | None, new: AnyNode) -> NodePatch:
    known = {channel.name: channel for channel in old.channels} if old is not None else {}
    changed = (
        _channel_patch(known.get(channel.name), channel)
        for channel in new.channels
        if known.get(channel.name) is not channel
    )
    names = tuple(channel.name for channel in new.channels)
    return NodePatch(msgspec.structs.replace(new, channels=()), tuple(changed), names)


def _channel_patch(old: Channel | None, new: Channel) -> ChannelPatch:
    had = old.keys if old is not None else ()
    before = _same(had, new.keys)
    after = _same(reversed(had[before:]), reversed(new.keys[before:]))
    return ChannelPatch(msgspec.structs.replace(new, keys=new.keys[before : len(new.keys) - after]), before, after)


def _same(old: Iterable[Key], new: Iterable[Key]) -> int:
    """How many keys at the beginning are the very same."""
    count = 0
    for a, b in zip(old, new, strict=False):
        if a is not b:
            break
        count += 1
    return count


def patched(scene: Scene, patch: ScenePatch) -> Scene:
    """The scene that a patch makes of the one that it was taken from. KeyError where it is another one."""
    nodes = {node.id: node for node in scene.nodes}
    for each in patch.nodes:
        nodes[each.node.id] = _patched_node(nodes.get(each.node.id), each)
    order = patch.order if patch.order is not None else tuple(node.id for node in scene.nodes)
    takes = scene.takes
    if patch.take_order is not None:
        # What a take holds is much, and is sent once.
        known = {take.id: take for take in (*scene.takes, *patch.takes)}
        takes = tuple(known[each] for each in patch.take_order)
    return msgspec.structs.replace(patch.rest or scene, nodes=tuple(nodes[node_id] for node_id in order), takes=takes)


def _patched_node(old: AnyNode | None, patch: NodePatch) -> AnyNode:
    channels = {channel.name: channel for channel in old.channels} if old is not None else {}
    for each in patch.changed:
        had = channels[each.channel.name].keys if each.before or each.after else ()
        keys = (*had[: each.before], *each.channel.keys, *had[len(had) - each.after :])
        channels[each.channel.name] = msgspec.structs.replace(each.channel, keys=keys)
    return msgspec.structs.replace(patch.node, channels=tuple(channels[name] for name in patch.channels))
