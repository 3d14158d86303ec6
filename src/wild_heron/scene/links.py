"""The graph of links between channels, kept free of cycles."""

from collections.abc import Iterator
from functools import lru_cache

import msgspec

from .channel import Channel
from .errors import LoopError, SceneError
from .formulas import FormulaError, references
from .inputs import ChannelRef
from .lookup import nodes_by_id, nodes_by_name
from .model import Scene
from .moving import consulted, group_of, moved_channels
from .nodes import AnyNode
from .specs import specs

MAX_CHAIN = 100
MAX_LINKED = 5_000


def named_node(scene: Scene, name: str, own: AnyNode) -> AnyNode | None:
    """The node that a formula means: by id, else by name, "" for its own."""
    if not name:
        return own
    return nodes_by_id(scene).get(name) or nodes_by_name(scene).get(name)


def sources(scene: Scene, node: AnyNode, channel: Channel) -> tuple[ChannelRef, ...]:
    """The channels that a channel is driven by, as far as its formula can be read."""
    found: list[ChannelRef] = [(link.node, link.channel) for link in channel.links]
    if channel.formula:
        try:
            for each in references(channel.formula):
                other = named_node(scene, each.node, node)
                if other is not None:
                    found.append((other.id, each.channel))
        except FormulaError:
            pass
    return tuple(found)


@lru_cache(maxsize=64)
def channel_inputs(scene: Scene) -> dict[ChannelRef, tuple[ChannelRef, ...]]:
    """Every channel that is driven, and the channels of the scene that drive it. The dictionary is shared: do not
    change it."""
    nodes = nodes_by_id(scene)
    found: dict[ChannelRef, tuple[ChannelRef, ...]] = {}
    for node in scene.nodes:
        for channel in node.channels:
            if channel.has_inputs:
                given = sources(scene, node, channel)
                found[node.id, channel.name] = tuple(
                    each for each in given if each[0] in nodes and each[1] in specs(nodes[each[0]])
                )
        for name in moved_channels(node):
            # What is worked out together needs what drives any of it, and how much it is moved.
            group = group_of(node, name)
            if name == group[0]:
                driven = [other for each in group for other in found.get((node.id, each), ())]
                every = tuple(dict.fromkeys([*driven, *consulted(node, group)]))
                found.update(dict.fromkeys(((node.id, each) for each in group), every))
    return found


def missing_reference(scene: Scene, node: AnyNode, formula: str) -> str | None:
    """What a formula names that is not there, as a sentence; None where everything is."""
    for each in references(formula):
        other = named_node(scene, each.node, node)
        if other is None:
            return f"There is no node “{each.node}”."
        if each.channel not in specs(other):
            return f"{other.name} has no channel “{each.channel}”."
    return None


@lru_cache(maxsize=64)
def check_links(scene: Scene) -> None:
    """Raise LoopError where channels drive each other in a circle, SceneError where a link's channel is not there, or
    channels are driven by too many others in a row."""
    nodes, driven = nodes_by_id(scene), channel_inputs(scene)
    if len(driven) > MAX_LINKED:
        raise SceneError(f"{len(driven)} channels have links, formulas or movers; up to {MAX_LINKED} work.")

    def label(place: ChannelRef) -> str:
        node = nodes[place[0]]
        return f"{node.name} · {specs(node)[place[1]].label if place[1] in specs(node) else place[1]}"

    for node_id, name in driven:
        channel = nodes[node_id].channel(name)
        for link in channel.links if channel is not None else ():
            if link.node not in nodes or link.channel not in specs(nodes[link.node]):
                raise SceneError(
                    f"{label((node_id, name))} is linked to “{link.node} · {link.channel}”, which is not in the scene."
                )
    heights: dict[ChannelRef, int] = {}
    for root in driven:
        trail: dict[ChannelRef, Iterator[ChannelRef]] = {}
        stack = [root]
        while stack:
            place = stack[-1]
            if place in heights:
                stack.pop()
                continue
            if place not in trail:
                trail[place] = iter(driven.get(place, ()))
            for other in trail[place]:
                if other in trail and other not in heights:
                    raise LoopError([label(each) for each in (*stack[stack.index(other) :], other)], "Take one away.")
                if other not in heights:
                    stack.append(other)
                    break
            else:
                heights[place] = 1 + max((heights[each] for each in driven.get(place, ())), default=-1)
                if heights[place] > MAX_CHAIN:
                    raise SceneError(f"{label(place)} is at the end of more than {MAX_CHAIN} links.")
                stack.pop()


def dependent_channels(scene: Scene, node_id: str, name: str) -> tuple[ChannelRef, ...]:
    """The channels that one channel drives directly."""
    return tuple(place for place, given in channel_inputs(scene).items() if (node_id, name) in given)


def affected_nodes(scene: Scene, changed: set[str]) -> set[str]:
    """The given nodes, and those whose channels they drive, however far on."""
    driven = channel_inputs(scene)
    found, before = set(changed), -1
    while len(found) != before:
        before = len(found)
        for (node_id, _), given in driven.items():
            if node_id not in found and any(source in found for source, _ in given):
                found.add(node_id)
    return found


def without_lost_links(scene: Scene, node: AnyNode) -> AnyNode:
    """The node without links from channels that are not in the scene."""
    channels = []
    for channel in node.channels:
        kept = tuple(
            link for link in channel.links if link.node in scene and link.channel in specs(scene.node(link.node))
        )
        channels.append(channel if kept == channel.links else msgspec.structs.replace(channel, links=kept))
    return node if tuple(channels) == node.channels else msgspec.structs.replace(node, channels=tuple(channels))
