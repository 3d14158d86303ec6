"""Which channels feed a channel, and that none feeds itself."""

from functools import lru_cache

import msgspec

from .channels import specs
from .errors import LoopError, SceneError
from .formulas import FormulaError, references
from .model import AnyNode, Channel, Scene

MAX_CHAIN = 100
Place = tuple[str, str]
"""A node's id and a channel's name."""


def named_node(scene: Scene, name: str, own: AnyNode) -> AnyNode | None:
    """The node that a formula means: by id, else by name, "" for its own."""
    if not name:
        return own
    by_name = None
    for node in scene.nodes:
        if node.id == name:
            return node
        if by_name is None and node.name == name:
            by_name = node
    return by_name


def sources(scene: Scene, node: AnyNode, channel: Channel) -> tuple[Place, ...]:
    """The channels that a channel is fed by, as far as its formula can be read."""
    found: list[Place] = [(link.node, link.channel) for link in channel.links]
    if channel.formula:
        try:
            for each in references(channel.formula):
                other = named_node(scene, each.node, node)
                if other is not None:
                    found.append((other.id, each.channel))
        except FormulaError:
            pass
    return tuple(found)


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
def check_feeds(scene: Scene) -> None:
    """Raise LoopError where channels feed each other in a circle, SceneError where a link's channel is not there."""
    nodes = {node.id: node for node in scene.nodes}
    fed = {(node.id, channel.name): channel for node in scene.nodes for channel in node.channels if channel.is_fed}
    heights: dict[Place, int] = {}

    def label(place: Place) -> str:
        node = nodes[place[0]]
        return f"{node.name} · {specs(node)[place[1]].label if place[1] in specs(node) else place[1]}"

    for (node_id, name), channel in fed.items():
        for link in channel.links:
            if link.node not in nodes or link.channel not in specs(nodes[link.node]):
                raise SceneError(
                    f"{label((node_id, name))} is linked to “{link.node} · {link.channel}”, which is not in the scene."
                )
    for root in fed:
        stack: list[tuple[Place, list[Place]]] = [(root, _next(scene, nodes, root))]
        while stack:
            place, waiting = stack[-1]
            if waiting:
                other = waiting.pop()
                trail = [each for each, _ in stack]
                if other in trail:
                    raise LoopError([label(each) for each in (*trail[trail.index(other) :], other)], "Take one away.")
                if other not in heights:
                    stack.append((other, _next(scene, nodes, other)))
            else:
                below = [heights[each] for each in _next(scene, nodes, place)]
                heights[place] = 1 + max(below, default=-1)
                if heights[place] > MAX_CHAIN:
                    raise SceneError(f"{label(place)} is at the end of more than {MAX_CHAIN} links.")
                stack.pop()


def _next(scene: Scene, nodes: dict[str, AnyNode], place: Place) -> list[Place]:
    node = nodes[place[0]]
    channel = node.channel(place[1])
    if channel is None or not channel.is_fed:
        return []
    return [each for each in sources(scene, node, channel) if each[1] in specs(nodes[each[0]])]


def fed_by(scene: Scene, node_id: str, name: str) -> tuple[Place, ...]:
    """The channels that one channel feeds directly."""
    return tuple(
        (node.id, channel.name)
        for node in scene.nodes
        for channel in node.channels
        if channel.is_fed and (node_id, name) in sources(scene, node, channel)
    )


def fed_anew(scene: Scene, changed: set[str]) -> set[str]:
    """The given nodes, and those whose channels they feed, however far on."""
    fed = [(node, channel) for node in scene.nodes for channel in node.channels if channel.is_fed]
    found, before = set(changed), -1
    while len(found) != before:
        before = len(found)
        for node, channel in fed:
            if node.id not in found and any(source in found for source, _ in sources(scene, node, channel)):
                found.add(node.id)
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
