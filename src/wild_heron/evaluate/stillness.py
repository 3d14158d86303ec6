"""What never moves, worked out once: whole nodes, so that dragging something still recomputes nothing, and the parts of
a node's own place."""

from collections.abc import Callable
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..scene import AnyNode, Scene, spec
from ..scene.channels import POSITION, ROTATION, SCALE
from ..scene.moving import may_change
from ..space.rotation import euler_to_quaternion
from ..space.transform import compose

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


@lru_cache(maxsize=20_000)
def _what_moves(node: AnyNode) -> tuple[object, ...]:
    """All of a node that may decide whether it, or what depends on it, moves."""
    parts = {each.id for each in (*node.binds, *node.movers)} | {"take", "life"}
    moving = tuple(each for each in node.channels if each.is_animated or each.name.partition(".")[0] in parts)
    return (node.id, node.carrier, node.binds, node.movers, node.take, moving)


class StillParts(NamedTuple):
    """What of a node's own place never changes: (1, 3), (1, 4), (1, 3) and, where all of it stays, the matrix
    (1, 4, 4)."""

    position: Array | None
    quaternion: Array | None
    scale: Array | None
    local: Array | None = None


@lru_cache(maxsize=20_000)
def still_parts(node: AnyNode) -> StillParts:
    """Most of a scene stands still, and a node never changes: what was worked out for it once holds for every frame and
    every later scene."""
    position, angles, scale = (_still_values(node, names) for names in (POSITION, ROTATION, SCALE))
    quaternion = None if angles is None else _turned(angles, node.rotation_order)
    if position is None or quaternion is None or scale is None:
        return StillParts(position, quaternion, scale)
    return StillParts(position, quaternion, scale, compose(position, quaternion, scale))


def _still_values(node: AnyNode, names: tuple[str, ...]) -> Array | None:
    """Channels (1, K), or None where one of them may change."""
    if any(may_change(node, name) for name in names):
        return None
    found = [(node.channel(name), name) for name in names]
    return np.array([[spec(node, name).default if channel is None else channel.value for channel, name in found]])


def _turned(angles: Array, order: str) -> Array:
    """Quaternions (1, 4); most nodes are not turned at all."""
    return euler_to_quaternion(np.radians(angles), order) if angles.any() else _unturned(order)


@lru_cache(maxsize=16)
def _unturned(order: str) -> Array:
    return euler_to_quaternion(np.zeros((1, 3)), order)
