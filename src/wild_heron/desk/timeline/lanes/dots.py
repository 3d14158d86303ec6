"""The dots by the labels: a key at the playhead, put there or taken away by a click."""

from ....edits import KeyRef, remove_keys
from ...channels.field import channel_mark
from ...state.document import Document
from ...state.key_edits import edit_keys
from ...state.recording import key_now
from .shapes import Lane


def toggle(document: Document, lane: Lane) -> None:
    """Key the lane at the playhead at the value there is, or delete the key there; of a sum, every key."""
    if lane.is_sum:
        _toggle_all(document, lane)
        return
    label = document.label(lane.node, lane.channel)
    here = lane.data.key_at(document.playhead.frame)
    if here is not None and channel_mark(document, lane.node, lane.channel) != "pending":
        ref = KeyRef(lane.node, lane.channel, here.frame)
        edit_keys(document, f"Delete key of {label}", [ref], lambda scene: remove_keys(scene, [ref]))
    else:
        recorded = key_now(document.state, [(lane.node, lane.channel)], document.playhead.frame)
        document.recorder.apply(f"Key {label}", recorded)


def _toggle_all(document: Document, lane: Lane) -> None:
    """Key every keyed channel of a node at the playhead, or delete its keys there."""
    here = lane.refs(document.scene, document.playhead.frame)
    if here:
        edit_keys(document, f"Delete keys of {lane.label}", here, lambda scene: remove_keys(scene, here))
        return
    nodes = [document.scene.node(lane.node)] if lane.node else document.scene.nodes
    keyed = [(node.id, channel.name) for node in nodes for channel in node.channels if channel.keys]
    document.recorder.apply(f"Key {lane.label}", key_now(document.state, keyed, document.playhead.frame))
