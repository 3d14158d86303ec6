"""Which spans are meant by the keys that are selected."""

from ..scene.edits import KeyRef
from .document import Document


def selected_spans(document: Document) -> list[KeyRef]:
    """The keys at which the selected spans begin."""
    chosen = document.selected_keys
    by_channel: dict[tuple[str, str], set[float]] = {}
    for ref in chosen:
        by_channel.setdefault((ref.node, ref.channel), set()).add(ref.frame)
    found = []
    for (node, name), frames in by_channel.items():
        channel = document.scene.node(node).channel(name)
        if channel is None or len(channel.keys) < 2:
            continue
        indices = [i for i, key in enumerate(channel.keys) if key.frame in frames]
        last = len(channel.keys) - 1
        if len(indices) == 1:
            indices = [min(indices[0], last - 1)]
        else:
            # Between two selected keys; one at the end of the selection ends a span and begins none.
            indices = [i for i in indices if i + 1 in indices]
        found.extend(KeyRef(node, name, channel.keys[i].frame) for i in indices)
    return found
