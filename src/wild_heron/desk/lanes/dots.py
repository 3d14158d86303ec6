"""The dots by the labels: a key at the playhead, put there or taken away by a click."""

from ...scene import SceneError
from ...scene.edits import KeyRef, remove_keys
from ..channel_field import channel_mark
from ..document import Document
from ..recording import key_now
from .shapes import Lane


def toggle(document: Document, lane: Lane) -> None:
    """Key the lane at the playhead at the value there is, or delete the key there; of a sum, every key."""
    if lane.is_sum:
        _toggle_all(document, lane)
        return
    label = document.label(lane.node, lane.channel)
    here = lane.data.key_at(document.frame)
    if here is not None and channel_mark(document, lane.node, lane.channel) != "pending":
        ref = KeyRef(lane.node, lane.channel, here.frame)
        document.edit(f"Delete key of {label}", lambda scene: remove_keys(scene, [ref]))
    else:
        value = document.value(lane.node, lane.channel)
        try:
            recorded = key_now(document.state, [(lane.node, lane.channel, value)], document.frame)
        except SceneError as problem:
            document.say(str(problem), True)
            return
        document.apply_recorded(f"Key {label}", recorded)


def _toggle_all(document: Document, lane: Lane) -> None:
    """Key every keyed channel of a node at the playhead, or delete its keys there."""
    here = lane.refs(document.scene, document.frame)
    if here:
        document.edit(f"Delete keys of {lane.label}", lambda scene: remove_keys(scene, here))
        return
    nodes = [document.scene.node(lane.node)] if lane.node else document.scene.nodes
    values = [(n.id, c.name, document.value(n.id, c.name)) for n in nodes for c in n.channels if c.keys]
    try:
        document.apply_recorded(f"Key {lane.label}", key_now(document.state, values, document.frame))
    except SceneError as problem:
        document.say(str(problem), True)
