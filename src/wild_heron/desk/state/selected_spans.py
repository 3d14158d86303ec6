"""The spans between selected keys."""

import numpy as np

from ...edits import KeyRef
from ...motion import evaluate_channel
from .document import Document


def selected_spans(document: Document) -> list[KeyRef]:
    """The keys at which the selected spans begin."""
    chosen = document.selection.keys
    by_channel: dict[tuple[str, str], set[float]] = {}
    for ref in chosen:
        by_channel.setdefault((ref.node, ref.channel), set()).add(ref.frame)
    found: list[KeyRef] = []
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


def outlines(document: Document, refs: list[KeyRef], most: int = 12) -> list[tuple[tuple[float, float], ...]]:
    """The curves of spans as shares of their time and change; of spans that change nothing there are none."""
    shares = np.linspace(0.0, 1.0, 41)
    found: list[tuple[tuple[float, float], ...]] = []
    for ref in refs:
        channel = document.scene.node(ref.node).channel(ref.channel)
        if channel is None:
            continue
        at = next((i for i, key in enumerate(channel.keys[:-1]) if key.frame == ref.frame), None)
        if at is None or channel.keys[at].value == channel.keys[at + 1].value:
            continue
        start, end = channel.keys[at], channel.keys[at + 1]
        frames = start.frame + shares * (np.nextafter(end.frame, -np.inf) - start.frame)
        values = (evaluate_channel(channel, frames) - start.value) / (end.value - start.value)
        outline = tuple(zip(shares.tolist(), np.clip(values, -3.0, 4.0).round(4).tolist(), strict=True))
        if outline not in found:
            found.append(outline)
        if len(found) == most:
            break
    return found
