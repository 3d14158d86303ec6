"""Binds, dials, links and formulas given to nodes and taken from them."""

from typing import Any

import msgspec

from ..scene.binds import AimAt, Bind
from ..scene.errors import SceneError
from ..scene.formulas import FormulaError, parsed, references, with_nodes
from ..scene.inputs import Dial, Link
from ..scene.links import check_links, missing_reference
from ..scene.model import Scene
from ..scene.nodes import AnyNode
from ..scene.specs import channel_or_default, spec
from .keys import set_channel
from .nodes import change_node, free_id


def add_bind(scene: Scene, node_id: str, bind: Bind) -> tuple[Scene, str]:
    """The scene with a bind more, and its id. One that moves the node comes before those that only turn it.

    Raises LoopError where the other node depends on this one.
    """
    node = scene.node(node_id)
    bind = msgspec.structs.replace(bind, id=free_id({each.id for each in node.binds}, bind.id))
    at = len(node.binds)
    if bind.moves:
        while at and not node.binds[at - 1].moves:
            at -= 1
    return change_node(scene, node_id, binds=(*node.binds[:at], bind, *node.binds[at:])), bind.id


def find_bind(node: AnyNode, bind_id: str) -> Bind:
    """The bind with this id; SceneError where the node has none."""
    for bind in node.binds:
        if bind.id == bind_id:
            return bind
    raise SceneError(f"{node.name} has no bind “{bind_id}”.")


def change_bind(scene: Scene, node_id: str, bind_id: str, **fields: Any) -> Scene:
    """The scene with some fields of a bind changed. Numbers that it has no more go."""
    node = scene.node(node_id)
    changed = msgspec.structs.replace(find_bind(node, bind_id), **fields)
    return change_node(scene, node_id, binds=tuple(changed if each.id == bind_id else each for each in node.binds))


def remove_bind(scene: Scene, node_id: str, bind_id: str) -> Scene:
    """The scene without a bind, and without its channels."""
    node = scene.node(node_id)
    return change_node(scene, node_id, binds=tuple(each for each in node.binds if each.id != bind_id))


def move_bind(scene: Scene, node_id: str, bind_id: str, by: int) -> Scene:
    """The scene with a bind moved in the node's list."""
    node = scene.node(node_id)
    at = [each.id for each in node.binds].index(bind_id)
    others = [each for each in node.binds if each.id != bind_id]
    others.insert(min(max(at + by, 0), len(others)), node.binds[at])
    return change_node(scene, node_id, binds=tuple(others))


def set_aim(scene: Scene, node_id: str, aim: AimAt | None) -> Scene:
    """The scene with a node aimed anew in place of its first aim, or with that taken away."""
    node = scene.node(node_id)
    present = node.aim
    if present is None:
        return scene if aim is None else add_bind(scene, node_id, aim)[0]
    if aim is None:
        return remove_bind(scene, node_id, present.id)
    return change_bind(scene, node_id, present.id, targets=aim.targets, up=aim.up, on=aim.on)


def add_dial(scene: Scene, node_id: str, dial: Dial) -> tuple[Scene, str]:
    """The scene with a dial more on a node, and the name of its channel."""
    node = scene.node(node_id)
    dial = msgspec.structs.replace(dial, id=free_id({each.id for each in node.dials}, dial.id)[:40])
    return change_node(scene, node_id, dials=(*node.dials, dial)), dial.channel


def change_dial(scene: Scene, node_id: str, dial_id: str, **fields: Any) -> Scene:
    """The scene with some fields of a dial changed; its values and keys stay inside its range."""
    node = scene.node(node_id)
    dials = tuple(msgspec.structs.replace(each, **fields) if each.id == dial_id else each for each in node.dials)
    scene = change_node(scene, node_id, dials=dials)
    name = f"dial.{dial_id}"
    node = scene.node(node_id)
    channel, known = node.channel(name), spec(node, name)
    if channel is None:
        return scene

    def inside(value: float) -> float:
        return min(max(value, known.low), known.high)

    keys = tuple(msgspec.structs.replace(key, value=inside(key.value)) for key in channel.keys)
    return set_channel(scene, node_id, msgspec.structs.replace(channel, value=inside(channel.value), keys=keys))


def remove_dial(scene: Scene, node_id: str, dial_id: str) -> Scene:
    """The scene without a dial; nothing is driven by it any more."""
    node = scene.node(node_id)
    return change_node(scene, node_id, dials=tuple(each for each in node.dials if each.id != dial_id))


def set_links(scene: Scene, node_id: str, name: str, links: tuple[Link, ...]) -> Scene:
    """The scene with other links to a channel. LoopError where the channel would drive itself."""
    channel = msgspec.structs.replace(channel_or_default(scene.node(node_id), name), links=links)
    linked = set_channel(scene, node_id, channel)
    check_links(linked)
    return linked


def link_between(scene: Scene, source: tuple[str, str], target: tuple[str, str]) -> Link:
    """A link that a drag from one channel to another makes.

    Between like units one to one; from a dial its whole range, to an end range of one nudge a hundredth of it.
    """
    (node_id, name), (to_node, to_name) = source, target
    given, taken = spec(scene.node(node_id), name), spec(scene.node(to_node), to_name)
    low, high = (given.low, given.high) if abs(given.low) < 1e5 and abs(given.high) < 1e5 else (0.0, 1.0)
    if given.unit == taken.unit:
        return Link(node_id, name, low, high, low, high, clamp=False)
    reach = (taken.low, taken.high) if abs(taken.low) < 1e5 and abs(taken.high) < 1e5 else (0.0, 100.0 * taken.nudge)
    return Link(node_id, name, low, high, *reach)


def set_formula(scene: Scene, node_id: str, name: str, formula: str) -> Scene:
    """The scene with another formula on a channel ("" for none), nodes in it named by id.

    FormulaError, with the place, where it cannot be used or names what is not there; LoopError where the channel
    would drive itself.
    """
    node = scene.node(node_id)
    formula = formula.strip()
    if formula:
        parsed(formula)
        names = {each.name: each.id for each in reversed(scene.nodes)} | {each.id: each.id for each in scene.nodes}
        formula = with_nodes(formula, names)
        missing = missing_reference(scene, node, formula)
        if missing is not None:
            raise FormulaError(missing, next((each.start for each in references(formula)), 0))
    channel = msgspec.structs.replace(channel_or_default(node, name), formula=formula)
    changed = set_channel(scene, node_id, channel)
    check_links(changed)
    return changed


def readable(scene: Scene, formula: str) -> str:
    """A formula with nodes named as people call them, where that is clear."""
    names = [node.name for node in scene.nodes]
    clear = {node.id: node.name for node in scene.nodes if names.count(node.name) == 1 and '"' not in node.name}
    return with_nodes(formula, clear)
