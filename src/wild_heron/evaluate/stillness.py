"""A cache of which nodes never move, so that dragging something still recomputes nothing."""

from collections.abc import Callable
from functools import lru_cache

from ..scene import AnyNode, Scene

_MOST_KNOWN = 16
_known: dict[tuple[object, ...], frozenset[str]] = {}


def still_nodes(scene: Scene, look: Callable[[Scene], frozenset[str]]) -> frozenset[str]:
    """The nodes that stand still, found by ``look`` where they are not known. Other values of channels without keys
    change nothing about that, unless they are numbers of a bind or a mover."""
    key = (
        scene.settings.first, scene.settings.last, tuple(map(_what_moves, scene.nodes)), scene.camera, scene.shots,
        scene.rules, scene.events, scene.markers, scene.takes,
    )  # fmt: skip
    found = _known.get(key)
    if found is None:
        found = _known[key] = look(scene)
        while len(_known) > _MOST_KNOWN:
            # Another thread may have taken the oldest.
            _known.pop(next(iter(_known.copy()), ()), None)
    return found


@lru_cache(maxsize=4096)
def _what_moves(node: AnyNode) -> tuple[object, ...]:
    """All of a node that may decide whether it, or what depends on it, moves."""
    parts = {each.id for each in (*node.binds, *node.movers)} | {"take", "life"}
    moving = tuple(each for each in node.channels if each.is_animated or each.name.partition(".")[0] in parts)
    return (node.id, node.carrier, node.binds, node.movers, node.take, moving)
