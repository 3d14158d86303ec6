"""Which nodes a node's place depends on, the order that respects it, and loops."""

from collections.abc import Iterable
from functools import lru_cache

from .errors import LoopError, SceneError
from .model import AimNode, AnyNode, Camera, Scene


def depends_on(node: AnyNode) -> tuple[str, ...]:
    """Ids of the nodes whose pose must be known before this one's."""
    carrier = (node.carrier,) if node.carrier is not None else ()
    aim = (node.aim.node,) if isinstance(node, Camera) and isinstance(node.aim, AimNode) else ()
    return (*carrier, *aim)


@lru_cache(maxsize=64)
def evaluation_order(scene: Scene) -> tuple[str, ...]:
    """Node ids, each after everything it depends on.

    Raises LoopError naming the nodes of a loop, SceneError where a node depends on one that is not there.
    """
    nodes = {node.id: node for node in scene.nodes}
    done: dict[str, None] = {}
    for root in nodes:
        # Depth first without recursion: a chain of carriers may be longer than Python's stack.
        trail: dict[str, Iterable[str]] = {}
        stack = [root]
        while stack:
            node_id = stack[-1]
            if node_id in done:
                stack.pop()
                continue
            if node_id not in trail:
                trail[node_id] = iter(depends_on(nodes[node_id]))
            for needed in trail[node_id]:
                if needed not in nodes:
                    raise SceneError(f"{nodes[node_id].name} depends on “{needed}”, which is not in the scene.")
                if needed in trail and needed not in done:
                    loop = stack[_last_index(stack, needed) :]
                    raise LoopError([nodes[i].name for i in (*loop, needed)])
                if needed not in done:
                    stack.append(needed)
                    break
            else:
                done[node_id] = None
                stack.pop()
    return tuple(done)


def _last_index(items: list[str], wanted: str) -> int:
    return len(items) - 1 - items[::-1].index(wanted)


def closure(scene: Scene, node_ids: Iterable[str]) -> set[str]:
    """The given nodes and everything they depend on."""
    nodes = {node.id: node for node in scene.nodes}
    found: set[str] = set()
    waiting = list(node_ids)
    while waiting:
        node_id = waiting.pop()
        if node_id not in found:
            found.add(node_id)
            waiting.extend(depends_on(nodes[node_id]))
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
