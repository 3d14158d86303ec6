"""Nodes taken from one scene into another."""

from collections.abc import Iterable, Sequence
from typing import Any

import msgspec

from ..scene.dependencies import descendants
from ..scene.model import Scene
from ..scene.nodes import AnyNode
from ..scene.specs import specs
from .nodes import add_nodes, fresh_id, fresh_name, remapped, remove_nodes


def taken_out(scene: Scene, node_ids: Iterable[str]) -> Scene:
    """A scene of the nodes and what they carry alone; what they have to do with others is left out."""
    wanted = set(node_ids)
    for each in tuple(wanted):
        wanted |= descendants(scene, each)
    scene = msgspec.structs.replace(scene, shots=(), rules=(), events=(), passes=())
    return remove_nodes(scene, [node.id for node in scene.nodes if node.id not in wanted])


def put_in(scene: Scene, nodes: Sequence[AnyNode]) -> tuple[Scene, tuple[str, ...]]:
    """The scene with nodes of another more, under names and ids that are free, and those ids. SceneError where it does
    not hang together."""
    ids: dict[str, str] = {}
    named: list[AnyNode] = []
    grown = scene
    for node in nodes:
        name = fresh_name(grown, node.name)
        copy = msgspec.structs.replace(node, id=fresh_id(grown, name), name=name, carrier=None)
        ids[node.id] = copy.id
        named.append(copy)
        # Their relations come when all of them are there; until then only names are asked for.
        grown = msgspec.structs.replace(grown, nodes=(*grown.nodes, copy))
    added = []
    for node, copy in zip(nodes, named, strict=True):
        fields: dict[str, Any] = remapped(copy, ids)
        if node.carrier in ids:
            fields["carrier"] = ids[node.carrier]
        if copy.take is not None and all(take.id != copy.take.take for take in scene.takes):
            fields["take"] = None
        whole = msgspec.structs.replace(copy, **fields)
        known = specs(whole)
        added.append(msgspec.structs.replace(whole, channels=tuple(c for c in whole.channels if c.name in known)))
    return add_nodes(scene, added), tuple(ids.values())
