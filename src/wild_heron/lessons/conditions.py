"""Whether a step of a lesson is done."""

from collections.abc import Collection
from functools import singledispatch

from ..scene import AnyNode, Bind, Blend, Channel, Hold, Linear, Mover, Scene
from .lesson import Bound, Carried, Condition, Did, Eased, Film, Formats, Has, Keyed, Moves


def holds(condition: Condition, scene: Scene, did: Collection[str] = ()) -> bool:
    """Whether a condition holds in a scene, after the actions ``did`` were used."""
    return _holds(condition, scene, did)


@singledispatch
def _holds(condition: Condition, scene: Scene, did: Collection[str]) -> bool:
    raise TypeError(f"There is no condition {condition!r}.")


@_holds.register
def _(condition: Has, scene: Scene, did: Collection[str]) -> bool:
    return sum(node.kind == condition.node for node in scene.nodes) >= condition.least


@_holds.register
def _(condition: Keyed, scene: Scene, did: Collection[str]) -> bool:
    values = [key.value for channel in _channels(scene, condition.node, condition.channel) for key in channel.keys]
    return len(values) >= condition.least and max(values) - min(values) >= condition.apart


@_holds.register
def _(condition: Carried, scene: Scene, did: Collection[str]) -> bool:
    node = _node(scene, condition.node)
    return node is not None and node.carrier is not None and scene.node(node.carrier).kind == condition.by


@_holds.register
def _(condition: Bound, scene: Scene, did: Collection[str]) -> bool:
    node = _node(scene, condition.node)
    return node is not None and any(_tag(bind) == condition.bind for bind in node.binds)


@_holds.register
def _(condition: Eased, scene: Scene, did: Collection[str]) -> bool:
    keyed = [channel for channel in _channels(scene, condition.node) if len(channel.keys) > 1]
    spans = [key.span for channel in keyed for key in channel.keys[:-1]]
    return bool(spans) and not any(isinstance(span, Linear | Hold) for span in spans)


@_holds.register
def _(condition: Film, scene: Scene, did: Collection[str]) -> bool:
    blends = [shot.join for shot in scene.shots[1:] if isinstance(shot.join, Blend)]
    ways = [join for join in blends if not condition.way or join.way == condition.way]
    return len(scene.shots) >= condition.shots and len(ways) >= condition.blends


@_holds.register
def _(condition: Moves, scene: Scene, did: Collection[str]) -> bool:
    node = _node(scene, condition.node)
    return node is not None and any(_tag(mover) == condition.mover for mover in node.movers)


@_holds.register
def _(condition: Formats, scene: Scene, did: Collection[str]) -> bool:
    return len(scene.formats) >= condition.least


@_holds.register
def _(condition: Did, scene: Scene, did: Collection[str]) -> bool:
    return any(action in did for action in condition.actions)


def _node(scene: Scene, node_id: str) -> AnyNode | None:
    return next((node for node in scene.nodes if node.id == node_id), None)


def _channels(scene: Scene, node_id: str, name: str = "") -> list[Channel]:
    node = _node(scene, node_id)
    return [channel for channel in node.channels if not name or channel.name == name] if node is not None else []


def _tag(told: Bind | Mover) -> str:
    """What kind of bind or mover it is, as a scene file says."""
    return str(told.__struct_config__.tag)
