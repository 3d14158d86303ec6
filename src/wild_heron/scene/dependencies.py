"""Which nodes a node's place depends on, the order that respects it, and loops."""

from collections.abc import Iterable, Iterator
from functools import lru_cache

import msgspec

from .binds import Bind, named_nodes
from .errors import LoopError, SceneError
from .feeding import feeds
from .lookup import nodes_by_id
from .model import AnyNode, Scene

MAX_NESTED = 24
"""How many binds that look at other moments (aims, follows, drops) may depend on each other in a row: each works out
the motion of the one before over the whole scene."""

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

    Raises LoopError naming the nodes of a loop, SceneError where a node depends on one that is not there, or on too
    many binds in a row.
    """
    nodes = nodes_by_id(scene)
    done: dict[Part, int] = {}
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
                done[part] = _nesting(nodes, part, done)
                stack.pop()
    return tuple(done)


def _nesting(nodes: dict[str, AnyNode], part: Part, known: dict[Part, int]) -> int:
    """How many binds that look at other moments a part is worked out from in a row."""
    deepest = max((known[each] for each in needs(nodes, part)), default=0)
    node, stage = nodes[part[0]], part[1]
    if stage and looks_elsewhere(node.binds[stage - 1]):
        deepest += 1
        if deepest > MAX_NESTED:
            raise SceneError(
                f"{node.name} is at the end of more than {MAX_NESTED} aims, follows and drops that depend on each "
                "other. Take one away."
            )
    return deepest


def looks_elsewhere(bind: Bind) -> bool:
    """Whether what a bind does at one moment depends on others."""
    return bind.on and bind.looks_elsewhere


def _without_repeats(ids: list[str]) -> list[str]:
    out = [node_id for k, node_id in enumerate(ids) if k == 0 or ids[k - 1] != node_id]
    return out if len(out) > 1 else [*out, *out]


def _last_index(items: list[Part], wanted: Part) -> int:
    return len(items) - 1 - items[::-1].index(wanted)


def closure(scene: Scene, parts: Iterable[Part]) -> set[Part]:
    """The given parts and everything they depend on."""
    nodes = nodes_by_id(scene)
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

    Binds that none of the parts depends on are off, since what they are bound to may be missing. Two scenes that differ
    elsewhere have the same excerpt, so what was worked out for it still holds.
    """
    nodes, fed = nodes_by_id(scene), feeds(scene)
    stages: dict[str, int] = {}
    for node_id, stage in closure(scene, parts):
        stages[node_id] = max(stage, stages.get(node_id, 0))
    wanted = set(stages)
    waiting = list(wanted)
    while waiting:
        node = nodes[waiting.pop()]
        for channel in node.channels:
            for other, _ in fed.get((node.id, channel.name), ()):
                if other not in wanted:
                    wanted.add(other)
                    waiting.append(other)
    # A node whose channels feed others is there for its channels alone.
    kept = tuple(_up_to(node, stages.get(node.id)) for node in scene.nodes if node.id in wanted)
    return Scene(settings=scene.settings, nodes=kept)


def _up_to(node: AnyNode, stage: int | None) -> AnyNode:
    """The node with the binds after a stage off; None: with all of them off, and without its carrier."""
    if stage == len(node.binds):
        return node
    binds = tuple(
        bind if stage is not None and k < stage else msgspec.structs.replace(bind, on=False)
        for k, bind in enumerate(node.binds)
    )
    return msgspec.structs.replace(node, binds=binds, carrier=node.carrier if stage is not None else None)


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
