"""Whether a step of a lesson is done."""

from collections.abc import Collection
from functools import singledispatch
from typing import NamedTuple

from ..scene import AnyNode, Bind, Blend, Channel, Hold, Linear, Mover, Scene
from .lesson import Bound, Carried, Changed, Condition, Did, Eased, Film, Formats, Has, Keyed, Moves, Seen, Shown


class Now(NamedTuple):
    """What a step is judged by: the scene, the actions that were used since it began, what is shown beside the scene,
    and the scene as it was when it began."""

    scene: Scene
    did: Collection[str] = ()
    seen: Collection[Shown] = ()
    before: Scene | None = None


def holds(condition: Condition, now: Now) -> bool:
    """Whether a condition holds."""
    return _holds(condition, now)


@singledispatch
def _holds(condition: Condition, now: Now) -> bool:
    raise TypeError(f"There is no condition {condition!r}.")


@_holds.register
def _(condition: Has, now: Now) -> bool:
    return sum(node.kind == condition.node for node in now.scene.nodes) >= condition.least


@_holds.register
def _(condition: Keyed, now: Now) -> bool:
    values = [key.value for channel in _channels(now.scene, condition.node, condition.channel) for key in channel.keys]
    return len(values) >= condition.least and max(values) - min(values) >= condition.apart


@_holds.register
def _(condition: Carried, now: Now) -> bool:
    node = _node(now.scene, condition.node)
    return node is not None and node.carrier is not None and now.scene.node(node.carrier).kind == condition.by


@_holds.register
def _(condition: Bound, now: Now) -> bool:
    node = _node(now.scene, condition.node)
    return node is not None and any(_tag(bind) == condition.bind for bind in node.binds)


@_holds.register
def _(condition: Eased, now: Now) -> bool:
    keyed = [channel for channel in _channels(now.scene, condition.node) if len(channel.keys) > 1]
    spans = [key.span for channel in keyed for key in channel.keys[:-1]]
    return bool(spans) and not any(isinstance(span, Linear | Hold) for span in spans)


@_holds.register
def _(condition: Film, now: Now) -> bool:
    blends = [shot.join for shot in now.scene.shots[1:] if isinstance(shot.join, Blend)]
    ways = [join for join in blends if not condition.way or join.way == condition.way]
    return len(now.scene.shots) >= condition.shots and len(ways) >= condition.blends


@_holds.register
def _(condition: Moves, now: Now) -> bool:
    node = _node(now.scene, condition.node)
    return node is not None and any(_tag(mover) == condition.mover for mover in node.movers)


@_holds.register
def _(condition: Formats, now: Now) -> bool:
    return len(now.scene.formats) >= condition.least


@_holds.register
def _(condition: Did, now: Now) -> bool:
    return any(action in now.did for action in condition.actions)


@_holds.register
def _(condition: Seen, now: Now) -> bool:
    return condition.what in now.seen


@_holds.register
def _(condition: Changed, now: Now) -> bool:
    return now.before is not None and now.scene != now.before


def _node(scene: Scene, node_id: str) -> AnyNode | None:
    return next((node for node in scene.nodes if node.id == node_id), None)


def _channels(scene: Scene, node_id: str, name: str = "") -> list[Channel]:
    node = _node(scene, node_id)
    return [channel for channel in node.channels if not name or channel.name == name] if node is not None else []


def _tag(told: Bind | Mover) -> str:
    """What kind of bind or mover it is, as a scene file says."""
    return str(told.__struct_config__.tag)
