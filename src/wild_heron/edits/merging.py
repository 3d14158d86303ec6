"""Three-way merge of scenes: a change worked out on one state, applied to another."""

from typing import Any

from msgspec.structs import replace

from ..scene.channel import Channel
from ..scene.errors import SceneError
from ..scene.model import Scene
from ..scene.nodes import AnyNode
from ..scene.validate import validate_change


def applied_to(now: Scene, base: Scene, changed: Scene) -> Scene:
    """The scene ``now`` with what a change made of ``base``, which became ``changed``: node by node, and of a node
    channel by channel. SceneError names what both have changed, or what is gone."""
    if now is base:
        return changed
    merged = replace(now, nodes=_nodes(now, base, changed))
    for name in Scene.__struct_fields__:
        if name != "nodes":
            value = _either(f"The scene's {name}", getattr(now, name), getattr(base, name), getattr(changed, name))
            merged = replace(merged, **{name: value})
    validate_change(now, merged)
    return merged


def _nodes(now: Scene, base: Scene, changed: Scene) -> tuple[AnyNode, ...]:
    """New nodes come after the one that they came after; where the change put them in another order, they are in it."""
    known = {node.id: node for node in base.nodes}
    made = {node.id: node for node in changed.nodes}
    out: list[AnyNode] = []
    for node in now.nodes:
        old, new = known.get(node.id), made.get(node.id)
        if old is None:
            out.append(node)
        elif new is None:
            if node != old:
                raise _at_odds(node.name)
        else:
            out.append(_node(node, old, new))
    there = {node.id for node in now.nodes}
    for old in base.nodes:
        if old.id not in there and old.id in made and made[old.id] != old:
            raise SceneError(f"{old.name} is gone, so the change does not fit any more. Do it again.")
    if _order(base, known.keys() & made.keys()) != _order(changed, known.keys() & made.keys()):
        if [node.id for node in now.nodes if node.id in known] != [node.id for node in base.nodes if node.id in there]:
            raise _at_odds("The order of the nodes")
        place = {node.id: number for number, node in enumerate(changed.nodes)}
        out.sort(key=lambda node: place.get(node.id, len(place)))
    before = ""
    for node in changed.nodes:
        if node.id not in known:
            if node.id in there:
                raise _at_odds(node.name)
            number = next((k for k, each in enumerate(out) if each.id == before), len(out) - 1)
            out.insert(number + 1, node)
        before = node.id
    return tuple(out)


def _order(scene: Scene, ids: Any) -> list[str]:
    return [node.id for node in scene.nodes if node.id in ids]


def _node(now: AnyNode, old: AnyNode, new: AnyNode) -> AnyNode:
    if new is old or new == old:
        return now
    if now is old or now == old:
        return new
    if type(now) is not type(new):
        raise _at_odds(now.name)
    fields = {
        name: _either(f"{now.name}'s {name}", getattr(now, name), getattr(old, name), getattr(new, name))
        for name in type(now).__struct_fields__
        if name != "channels"
    }
    return replace(now, **fields, channels=_channels(now, old, new))


def _channels(now: AnyNode, old: AnyNode, new: AnyNode) -> tuple[Channel, ...]:
    names = dict.fromkeys(channel.name for node in (now, new) for channel in node.channels)
    found = (_either(f"{now.name}'s {name}", now.channel(name), old.channel(name), new.channel(name)) for name in names)
    return tuple(channel for channel in found if channel is not None)


def _either(what: str, now: Any, old: Any, new: Any) -> Any:
    """Which of two is another one than before. SceneError where both are, and unlike."""
    if new is old or new == old or now == new:
        return now
    if now is old or now == old:
        return new
    raise _at_odds(what)


def _at_odds(what: str) -> SceneError:
    return SceneError(f"{what} was changed meanwhile, so the change does not fit any more. Do it again.")
