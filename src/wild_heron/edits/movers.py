"""Movers given to nodes, changed, put in another order and taken from them; takes kept, and put to use."""

from collections.abc import Iterable
from typing import Any

import msgspec

from ..scene.errors import SceneError
from ..scene.model import Scene
from ..scene.movers import Mover, NamedMovers
from ..scene.nodes import AnyNode
from ..scene.specs import specs
from ..scene.takes import Take, TakeUse
from .nodes import change_node, free_id


def add_movers(scene: Scene, node_id: str, movers: Iterable[Mover]) -> tuple[Scene, tuple[str, ...]]:
    """The scene with movers more at the end of a node's list, and their ids. They act only on channels that the node
    has; one that would act on none is left out. SceneError where it cannot act there."""
    node = scene.node(node_id)
    own = actable(node)
    taken = {each.id for each in (*node.binds, *node.movers)}
    added: list[Mover] = []
    for mover in movers:
        targets = tuple(each for each in mover.targets if each.channel in own)
        if mover.targets and not targets:
            continue
        fresh = free_id(taken, mover.id)
        taken.add(fresh)
        added.append(msgspec.structs.replace(mover, id=fresh, targets=targets))
    if not added:
        raise SceneError(f"{node.name} has none of the channels that it acts on.")
    changed = change_node(scene, node_id, movers=(*node.movers, *added))
    return changed, tuple(each.id for each in added)


def actable(node: AnyNode) -> tuple[str, ...]:
    """The channels of a node that movers can act on: all but those of movers and takes."""
    return tuple(specs(msgspec.structs.replace(node, movers=(), take=None)))


def find_mover(node: AnyNode, mover_id: str) -> Mover:
    """The mover with this id; SceneError where the node has none."""
    for mover in node.movers:
        if mover.id == mover_id:
            return mover
    raise SceneError(f"{node.name} has no mover “{mover_id}”.")


def change_mover(scene: Scene, node_id: str, mover_id: str, **fields: Any) -> Scene:
    """The scene with some fields of a mover changed. SceneError where they do not go together, or make a loop."""
    node = scene.node(node_id)
    try:
        changed = msgspec.structs.replace(find_mover(node, mover_id), **fields)
    except ValueError as problem:
        raise SceneError(f"{node.name}: {problem}.") from problem
    return change_node(scene, node_id, movers=tuple(changed if each.id == mover_id else each for each in node.movers))


def remove_mover(scene: Scene, node_id: str, mover_id: str) -> Scene:
    """The scene without a mover, and without its strength."""
    node = scene.node(node_id)
    return change_node(scene, node_id, movers=tuple(each for each in node.movers if each.id != mover_id))


def move_mover(scene: Scene, node_id: str, mover_id: str, place: int) -> Scene:
    """The scene with a mover at another place in the node's list."""
    node = scene.node(node_id)
    mover = find_mover(node, mover_id)
    others = [each for each in node.movers if each.id != mover_id]
    others.insert(min(max(place, 0), len(others)), mover)
    return change_node(scene, node_id, movers=tuple(others))


def keep_movers(scene: Scene, named: NamedMovers) -> Scene:
    """The scene with movers kept by name; those of the same name are replaced."""
    others = tuple(each for each in scene.movers if each.name != named.name)
    return msgspec.structs.replace(scene, movers=(*others, named))


# Takes


def add_take(scene: Scene, take: Take) -> tuple[Scene, str]:
    """The scene with a take more, and its id. A taken name gets a number."""
    fresh = free_id({each.id for each in scene.takes} | {"take"}, take.id)[:40]
    names = {each.name for each in scene.takes if each.node == take.node}
    name, number = take.name, 2
    while name in names:
        name, number = f"{take.name} {number}", number + 1
    added = msgspec.structs.replace(take, id=fresh, name=name)
    return msgspec.structs.replace(scene, takes=(*scene.takes, added)), fresh


def find_take(scene: Scene, take_id: str) -> Take:
    """The take with this id; SceneError where there is none."""
    for take in scene.takes:
        if take.id == take_id:
            return take
    raise SceneError(f"There is no take “{take_id}”.")


def remove_take(scene: Scene, take_id: str) -> Scene:
    """The scene without a take; nodes that use it go back to their keys. What was made from it stays."""
    for node in scene.nodes:
        if node.take is not None and node.take.take == take_id:
            scene = change_node(scene, node.id, take=None)
    left = (each for each in scene.takes if each.id != take_id)
    freed = (msgspec.structs.replace(each, source=None) if each.source == take_id else each for each in left)
    return msgspec.structs.replace(scene, takes=tuple(freed))


def rename_take(scene: Scene, take_id: str, name: str) -> Scene:
    """The scene with a take renamed."""
    if not name.strip():
        raise SceneError("A take needs a name.")
    takes = (msgspec.structs.replace(each, name=name.strip()) if each.id == take_id else each for each in scene.takes)
    return msgspec.structs.replace(scene, takes=tuple(takes))


def use_take(scene: Scene, node_id: str, use: TakeUse | None) -> Scene:
    """The scene with a node that uses a take, or none. SceneError where the node has none of its channels."""
    node = scene.node(node_id)
    if use is not None:
        given = find_take(scene, use.take).channels
        own = actable(node)
        channels = tuple(name for name in use.channels if name in given and name in own)
        if not channels:
            raise SceneError(f"{node.name} has none of the channels that the take gives.")
        use = msgspec.structs.replace(use, channels=channels)
    return change_node(scene, node_id, take=use)
