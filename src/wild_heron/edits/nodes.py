"""Adding, changing, copying and removing nodes."""

import re
import unicodedata
from collections.abc import Iterable, Sequence
from typing import Any

import msgspec

from ..scene.binds import named_nodes, renamed, without
from ..scene.channel import Channel
from ..scene.dependencies import evaluation_order
from ..scene.errors import SceneError
from ..scene.film import settled, shots_without
from ..scene.formulas import with_nodes
from ..scene.links import check_links, without_lost_links
from ..scene.model import Scene
from ..scene.movers import renamed_nodes, without_nodes
from ..scene.nodes import AnyNode, Camera
from ..scene.output import has_output, with_some_output
from ..scene.specs import specs
from ..scene.takes import Take


def fresh_id(scene: Scene, name: str) -> str:
    """An id that is not taken, made from a name: “Far ridge” → ``far-ridge``, ``far-ridge-2`` …"""
    return free_id({node.id for node in scene.nodes}, name)


def free_id(taken: set[str], name: str) -> str:
    """The same beside ids that are taken."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:60] or "node"
    return _first_free(stem, "-", taken)


def fresh_name(scene: Scene, name: str) -> str:
    """The name, with a number behind it where it is taken."""
    return free_name({node.name for node in scene.nodes}, name)


def free_name(taken: set[str], name: str) -> str:
    """The same beside names that are taken."""
    name = name.strip()[:180] or "Node"
    if name not in taken:
        return name
    return _first_free(re.sub(r" \d+$", "", name), " ", taken)


def _first_free(stem: str, joint: str, taken: set[str]) -> str:
    if stem not in taken:
        return stem
    number = 2
    while f"{stem}{joint}{number}" in taken:
        number += 1
    return f"{stem}{joint}{number}"


def add_node(scene: Scene, node: AnyNode, index: int | None = None) -> Scene:
    """The scene with a node more, at the end or at ``index``. SceneError where the id is taken or a relation fails."""
    if node.id in scene:
        raise SceneError(f"There is a node “{node.id}” already.")
    at = len(scene.nodes) if index is None else index
    added = msgspec.structs.replace(scene, nodes=(*scene.nodes[:at], node, *scene.nodes[at:]))
    evaluation_order(added)
    if isinstance(node, Camera):
        added = with_some_output(added)
    return added


def add_nodes(scene: Scene, nodes: Sequence[AnyNode]) -> Scene:
    """The scene with nodes more, at the end. SceneError where an id is taken or a relation fails."""
    ids = [node.id for node in (*scene.nodes, *nodes)]
    if len(set(ids)) != len(ids):
        raise SceneError("There are two nodes of one id.")
    added = msgspec.structs.replace(scene, nodes=(*scene.nodes, *nodes))
    evaluation_order(added)
    return added


def change_node(scene: Scene, node_id: str, **fields: Any) -> Scene:
    """The scene with some fields of a node changed; a loop is refused.

    Where binds or dials go, their channels go with them, and nothing is driven by those any more.
    """
    node = msgspec.structs.replace(scene.node(node_id), **fields)
    if not fields.keys().isdisjoint(_WITH_CHANNELS):
        known = specs(node)
        node = msgspec.structs.replace(node, channels=tuple(each for each in node.channels if each.name in known))
    changed = scene.with_node(node)
    if not fields.keys().isdisjoint(("carrier", "binds", "movers")):
        evaluation_order(changed)
    if not fields.keys().isdisjoint(_WITH_CHANNELS):
        nodes = tuple(without_lost_links(changed, each) for each in changed.nodes)
        changed = changed if nodes == changed.nodes else msgspec.structs.replace(changed, nodes=nodes)
    if not fields.keys().isdisjoint(("channels", "dials", "movers", "take")):
        check_links(changed)
    return changed


_WITH_CHANNELS = ("binds", "dials", "movers", "take")
"""Fields of a node whose parts have channels of their own."""


def rename(scene: Scene, node_id: str, name: str) -> Scene:
    """The scene with a node renamed; a taken name gets a number."""
    name = name.strip()
    if not name:
        raise SceneError("A node needs a name.")
    if name == scene.node(node_id).name:
        return scene
    return change_node(scene, node_id, name=fresh_name(scene, name))


def duplicate(scene: Scene, node_ids: Iterable[str]) -> tuple[Scene, tuple[str, ...]]:
    """Copies of the nodes, each after its original. Carriers and aims inside the set point at the copies.

    Binds, links and formulas do as well. Returns the scene and the new ids in the order of the scene.
    """
    wanted = set(node_ids)
    copies: dict[str, AnyNode] = {}
    grown = scene
    for node in scene.nodes:
        if node.id in wanted:
            name = fresh_name(grown, node.name)
            copy = msgspec.structs.replace(node, id=fresh_id(grown, name), name=name)
            copies[node.id] = copy
            at = next(i for i, other in enumerate(grown.nodes) if other.id == node.id) + 1
            grown = msgspec.structs.replace(grown, nodes=(*grown.nodes[:at], copy, *grown.nodes[at:]))
    ids = {old: new.id for old, new in copies.items()}
    for copy in copies.values():
        fields = remapped(copy, ids)
        if copy.carrier in copies:
            fields["carrier"] = copies[copy.carrier].id
        if fields:
            grown = change_node(grown, copy.id, **fields)
    new_ids = {copy.id for copy in copies.values()}
    return grown, tuple(node.id for node in grown.nodes if node.id in new_ids)


def remapped(node: AnyNode, ids: dict[str, str]) -> dict[str, Any]:
    """The fields of a node in which other nodes are named, with new ids where there are any; its carrier apart."""
    fields: dict[str, Any] = {"channels": tuple(_relinked(channel, ids) for channel in node.channels)}
    if any(each in ids for bind in node.binds for each, _ in named_nodes(bind)):
        fields["binds"] = tuple(renamed(bind, ids) for bind in node.binds)
    if any(each in ids for mover in node.movers for each in mover.named()):
        fields["movers"] = renamed_nodes(node.movers, lambda each: ids.get(each, each))
    for field in node.named_nodes:
        fields[field] = tuple(ids.get(each, each) for each in getattr(node, field))
    return fields


def _relinked(channel: Channel, ids: dict[str, str]) -> Channel:
    """The channel driven by copies where there are any."""
    if not channel.has_inputs:
        return channel
    links = tuple(msgspec.structs.replace(link, node=ids.get(link.node, link.node)) for link in channel.links)
    return msgspec.structs.replace(channel, links=links, formula=with_nodes(channel.formula, ids))


def remove_nodes(scene: Scene, node_ids: Iterable[str]) -> Scene:
    """The scene without the nodes. What they carried goes to their own carrier, with its channels as they are."""
    gone = set(node_ids)

    def surviving_carrier(node: AnyNode) -> str | None:
        carrier = node.carrier
        while carrier is not None and carrier in gone:
            carrier = scene.node(carrier).carrier
        return carrier

    kept: list[AnyNode] = []
    for node in scene.nodes:
        if node.id in gone:
            continue
        fields: dict[str, Any] = {}
        if node.carrier in gone:
            fields["carrier"] = surviving_carrier(node)
        if any(each in gone for bind in node.binds for each, _ in named_nodes(bind)):
            left = (without(bind, gone) for bind in node.binds)
            fields["binds"] = tuple(bind for bind in left if bind is not None)
        if any(each in gone for mover in node.movers for each in mover.named()):
            fields["movers"] = without_nodes(node.movers, gone)
        for field in node.named_nodes:
            if gone.intersection(getattr(node, field)):
                fields[field] = tuple(each for each in getattr(node, field) if each not in gone)
        if "binds" in fields:
            known = specs(msgspec.structs.replace(node, **fields))
            channels = _numbered_anew(node, gone)
            fields["channels"] = tuple(channel for channel in channels if channel.name in known)
        kept.append(msgspec.structs.replace(node, **fields) if fields else node)
    left_over = msgspec.structs.replace(scene, nodes=tuple(kept))
    if has_output(scene):
        left_over = with_some_output(left_over)
    left_over = _film_without(left_over, gone)
    if gone.intersection(each.window for each in scene.formats):
        formats = (
            msgspec.structs.replace(each, window=None) if each.window in gone else each for each in scene.formats
        )
        left_over = msgspec.structs.replace(left_over, formats=tuple(formats))
    if gone.intersection(scene.checks.named()):
        left_over = msgspec.structs.replace(left_over, checks=scene.checks.without(gone))
    if any(take.node in gone for take in scene.takes):
        left_over = msgspec.structs.replace(left_over, takes=_takes_without(left_over, gone))
    return msgspec.structs.replace(left_over, nodes=tuple(without_lost_links(left_over, node) for node in kept))


def _numbered_anew(node: AnyNode, gone: set[str]) -> tuple[Channel, ...]:
    """The channels of a node, those of binds that number what they name with the numbers that are left."""
    names: dict[str, str] = {}
    for bind in node.binds:
        if bind.numbered:
            left = 0
            for number, each in enumerate(getattr(bind, bind.nodes[0]), 1):
                left += each not in gone
                stem = f"{bind.id}.{bind.numbered}."
                names[f"{stem}{number}"] = f"{stem}{left}" if each not in gone else ""
    renamed = (msgspec.structs.replace(each, name=names.get(each.name, each.name)) for each in node.channels)
    return tuple(sorted((each for each in renamed if each.name), key=lambda each: each.name))


def _takes_without(scene: Scene, gone: set[str]) -> tuple[Take, ...]:
    """The takes without those of nodes that are gone; one that another node uses is that node's from then on."""
    users = {node.take.take: node.id for node in reversed(scene.nodes) if node.take is not None}
    owned = (
        msgspec.structs.replace(take, node=users[take.id]) if take.node in gone and take.id in users else take
        for take in scene.takes
    )
    return tuple(take for take in owned if take.node not in gone)


def _film_without(scene: Scene, gone: set[str]) -> Scene:
    """The scene without the shots, rules, passes and events that would be about nodes that are gone."""
    if not (scene.shots or scene.rules or scene.events or scene.passes):
        return scene
    left = shots_without(scene.shots, [k for k, each in enumerate(scene.shots) if each.camera in gone])
    return msgspec.structs.replace(
        scene,
        shots=settled(left, scene.settings.rate),
        rules=tuple(each for each in scene.rules if gone.isdisjoint((each.before, each.after))),
        events=tuple(each for each in scene.events if gone.isdisjoint(each.named())),
        passes=tuple(each for each in scene.passes if gone.isdisjoint(shot.camera for shot in each.shots)),
    )


def move_in_list(scene: Scene, node_id: str, index: int) -> Scene:
    """The scene with a node moved to another place in the list."""
    node = scene.node(node_id)
    others = [other for other in scene.nodes if other.id != node_id]
    others.insert(max(0, min(index, len(others))), node)
    return msgspec.structs.replace(scene, nodes=tuple(others))
