"""Which nodes a node's place depends on, the order that respects it, and loops."""

from collections.abc import Iterable, Iterator
from functools import lru_cache

from .errors import LoopError, SceneError
from .model import AimNode, AnyNode, Camera, Scene

Part = tuple[str, bool]
"""A node's place (False: its world matrix before any aim or bind) or its pose (True: after them)."""


def depends_on(node: AnyNode) -> tuple[str, ...]:
    """Ids of the nodes that must be known before this one is."""
    carrier = (node.carrier,) if node.carrier is not None else ()
    return (*carrier, *_looked_at(node))


def _looked_at(node: AnyNode) -> tuple[str, ...]:
    """Ids of nodes of which it is enough to know the place."""
    aim = (node.aim.node,) if isinstance(node, Camera) and isinstance(node.aim, AimNode) else ()
    return (*aim, *(bind.camera for bind in node.binds))


def _needs(node: AnyNode, pose: bool) -> tuple[Part, ...]:
    if not pose:
        return ((node.carrier, True),) if node.carrier is not None else ()
    return ((node.id, False), *((other, False) for other in _looked_at(node)))


@lru_cache(maxsize=64)
def evaluation_order(scene: Scene) -> tuple[Part, ...]:
    """Places and poses, each after everything it depends on.

    A node that faces a camera that aims at it is no loop: either needs only the other's place.
    Raises LoopError naming the nodes of a loop, SceneError where a node depends on one that is not there.
    """
    nodes = {node.id: node for node in scene.nodes}
    done: dict[Part, None] = {}
    for root in nodes:
        # Depth first without recursion: a chain of carriers may be longer than Python's stack.
        trail: dict[Part, Iterator[Part]] = {}
        stack: list[Part] = [(root, True)]
        while stack:
            part = stack[-1]
            if part in done:
                stack.pop()
                continue
            if part not in trail:
                trail[part] = iter(_needs(nodes[part[0]], part[1]))
            for needed in trail[part]:
                if needed[0] not in nodes:
                    raise SceneError(f"{nodes[part[0]].name} depends on “{needed[0]}”, which is not in the scene.")
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
    """The given places and poses and everything they depend on."""
    nodes = {node.id: node for node in scene.nodes}
    found: set[Part] = set()
    waiting = list(parts)
    while waiting:
        part = waiting.pop()
        if part not in found:
            found.add(part)
            waiting.extend(_needs(nodes[part[0]], part[1]))
    return found


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
