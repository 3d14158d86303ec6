"""Cached lookup of nodes by id and by name."""

from functools import lru_cache

from .errors import UnknownNodeError
from .model import Scene
from .nodes import AnyNode


class Nodes(dict[str, AnyNode]):
    """Nodes by id. One that is not there is an UnknownNodeError."""

    def __missing__(self, node_id: str) -> AnyNode:
        raise UnknownNodeError(node_id)


def nodes_by_id(scene: Scene) -> dict[str, AnyNode]:
    """Every node by its id. The dictionary is shared: do not change it."""
    # By identity: an equal scene has nodes of its own, and what changed is told by which nodes are the same.
    known = _nodes.get(id(scene))
    if known is not None and known[0] is scene:
        return known[1]
    found = Nodes({node.id: node for node in scene.nodes})
    _nodes[id(scene)] = (scene, found)
    while len(_nodes) > _KEPT:
        # Another thread may have taken the oldest.
        _nodes.pop(next(iter(_nodes.copy()), 0), None)
    return found


_KEPT = 32
_nodes: dict[int, tuple[Scene, dict[str, AnyNode]]] = {}


@lru_cache(maxsize=32)
def nodes_by_name(scene: Scene) -> dict[str, AnyNode]:
    """Every node by its name, of several that share one the first. The dictionary is shared: do not change it."""
    return {node.name: node for node in reversed(scene.nodes)}
