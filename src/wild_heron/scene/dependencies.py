"""Which nodes a node's place depends on, the order that respects it, and loops."""

from collections.abc import Iterable, Iterator
from functools import lru_cache

import msgspec

from .binds import named_nodes
from .errors import LoopError, SceneError
from .feeding import sources
from .model import AnyNode, Scene

Part = tuple[str, int]
"""A node's world matrix after so many of its binds: 0 is its place, before any; all of them give its pose."""


def pose(node: AnyNode) -> Part:
    """The node after all of its binds."""
    return node.id, len(node.binds)


def spot(node: AnyNode) -> Part:
    """The node after the last bind that moves it: from then on it is only turned."""
    return node.id, next((k + 1 for k in reversed(range(len(node.binds))) if _moves(node, k)), 0)


def _moves(node: AnyNode, k: int) -> bool:
    return node.binds[k].on and node.binds[k].moves


def depends_on(node: AnyNode) -> tuple[str, ...]:
    """Ids of the nodes that must be known before this one is."""
    carrier = (node.carrier,) if node.carrier is not None else ()
    return (*carrier, *(each for bind in node.binds if bind.on for each, _ in named_nodes(bind)))


def needs(nodes: dict[str, AnyNode], part: Part) -> tuple[Part, ...]:
    """The parts that a part is worked out from directly. SceneError where one is not there."""
    node, stage = nodes[part[0]], part[1]

    def found(other: str) -> AnyNode:
        if other not in nodes:
            raise SceneError(f"{node.name} depends on “{other}”, which is not in the scene.")
        return nodes[other]

    if stage == 0:
        return (pose(found(node.carrier)),) if node.carrier is not None else ()
    before = (node.id, stage - 1)
    bind = node.binds[stage - 1]
    if not bind.on:
        return (before,)
    # It is enough for most binds to know where the other is: so a picture may face the camera that aims at it.
    return (before, *((pose if whole else spot)(found(other)) for other, whole in named_nodes(bind)))


@lru_cache(maxsize=64)
def evaluation_order(scene: Scene) -> tuple[Part, ...]:
    """Every node after each of its binds, each after everything it depends on.

    Raises LoopError naming the nodes of a loop, SceneError where a node depends on one that is not there.
    """
    nodes = {node.id: node for node in scene.nodes}
    done: dict[Part, None] = {}
    for root in scene.nodes:
        # Depth first without recursion: a chain of carriers may be longer than Python's stack.
        trail: dict[Part, Iterator[Part]] = {}
        stack: list[Part] = [pose(root)]
        while stack:
            part = stack[-1]
            if part in done:
                stack.pop()
                continue
            if part not in trail:
                trail[part] = iter(needs(nodes, part))
            for needed in trail[part]:
                if needed in trail and needed not in done:
                    loop = [node_id for node_id, _ in (*stack[_last_index(stack, needed) :], needed)]
                    raise LoopError([nodes[node_id].name for node_id in _without_repeats(loop)])
                if needed not in done:
                    stack.append(needed)
                    break
            else:
                done[part] = None
                stack.pop()
    return tuple(done)


def _without_repeats(ids: list[str]) -> list[str]:
    out = [node_id for k, node_id in enumerate(ids) if k == 0 or ids[k - 1] != node_id]
    return out if len(out) > 1 else [*out, *out]


def _last_index(items: list[Part], wanted: Part) -> int:
    return len(items) - 1 - items[::-1].index(wanted)


def closure(scene: Scene, parts: Iterable[Part]) -> set[Part]:
    """The given parts and everything they depend on."""
    nodes = {node.id: node for node in scene.nodes}
    found: set[Part] = set()
    waiting = list(parts)
    while waiting:
        part = waiting.pop()
        if part not in found:
            found.add(part)
            waiting.extend(needs(nodes, part))
    return found


@lru_cache(maxsize=256)
def excerpt(scene: Scene, parts: tuple[Part, ...]) -> Scene:
    """The scene with only the nodes that the given parts depend on, and those whose channels feed theirs.

    Two scenes that differ elsewhere have the same excerpt, so what was worked out for it still holds.
    """
    nodes = {node.id: node for node in scene.nodes}
    wanted = {node_id for node_id, _ in closure(scene, parts)}
    waiting = list(wanted)
    while waiting:
        node = nodes[waiting.pop()]
        for channel in node.channels:
            for other, _ in sources(scene, node, channel):
                if other in nodes and other not in wanted:
                    wanted.add(other)
                    waiting.append(other)
    # A node whose channels feed others is there for its channels: what carries it, or it is bound to, may be missing.
    placed = {node_id for node_id, _ in closure(scene, parts)}
    kept = tuple(node if node.id in placed else _unbound(node) for node in scene.nodes if node.id in wanted)
    return Scene(settings=scene.settings, nodes=kept)


def _unbound(node: AnyNode) -> AnyNode:
    off = tuple(msgspec.structs.replace(bind, on=False) for bind in node.binds)
    return msgspec.structs.replace(node, carrier=None, binds=off)


def descendants(scene: Scene, node_id: str) -> set[str]:
    """Everything that ``node_id`` carries, directly or not."""
    carried: dict[str | None, list[str]] = {}
    for node in scene.nodes:
        carried.setdefault(node.carrier, []).append(node.id)
    found: set[str] = set()
    waiting = list(carried.get(node_id, ()))
    while waiting:
        child = waiting.pop()
        if child not in found:
            found.add(child)
            waiting.extend(carried.get(child, ()))
    return found
