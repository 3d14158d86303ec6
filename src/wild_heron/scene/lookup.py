"""The nodes of a scene by id and by name, worked out once for each scene."""

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
    known, nodes = _nodes(scene)
    # Asked of an equal scene before, it has that one's nodes; what compares by identity needs this one's.
    return nodes if known is scene else _nodes.__wrapped__(scene)[1]


@lru_cache(maxsize=32)
def _nodes(scene: Scene) -> tuple[Scene, dict[str, AnyNode]]:
    return scene, Nodes({node.id: node for node in scene.nodes})


@lru_cache(maxsize=32)
def nodes_by_name(scene: Scene) -> dict[str, AnyNode]:
    """Every node by its name, of several that share one the first. The dictionary is shared: do not change it."""
    return {node.name: node for node in reversed(scene.nodes)}
