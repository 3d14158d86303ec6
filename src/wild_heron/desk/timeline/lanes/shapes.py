"""Lanes as shapes: a span is drawn as the filled outline of its own values."""

from collections.abc import Sequence
from functools import lru_cache

import msgspec
import numpy as np
from numpy.typing import NDArray

from ....arrays import Array
from ....edits import KeyRef
from ....motion import evaluate_channel
from ....scene import AnyNode, Channel, Key, Scene, specs
from ..axis import TimeAxis

_SAMPLE_PIXELS = 2.0
_MANY = 3
"""From how many keyed nodes on a row sums all of them up."""


SUM = ""
"""What stands for the channel of a row that sums a node up."""


class Lane(msgspec.Struct, frozen=True):
    """A row: one keyed channel of one node, or (``channel`` is SUM) all of a node's keys at once: the value
    of such a key is how many keys it stands for."""

    node: str
    channel: str
    label: str
    colour: str
    data: Channel
    folded: bool = False
    under: bool = False
    """Whether it stands under a row that sums its node up."""

    @property
    def is_sum(self) -> bool:
        return self.channel == SUM

    def refs(self, scene: Scene, frame: float) -> set[KeyRef]:
        """The keys that a pin of the row at a frame stands for."""
        if not self.is_sum:
            return {KeyRef(self.node, self.channel, frame)}
        nodes = [scene.node(self.node)] if self.node else scene.nodes
        return {
            KeyRef(node.id, each.name, frame)
            for node in nodes
            for each in node.channels
            if each.key_at(frame) is not None
        }


def lanes_of(
    scene: Scene, only: tuple[str, ...] | None = None, folded: frozenset[str] = frozenset(), named: str = ""
) -> list[Lane]:
    """Every keyed channel, in the order of the scene; or those of some nodes, or with some words in their names.

    A node of several has a row over them that sums them up; folded, that is all there is of it.
    """
    rows: list[Lane] = []
    words = tuple(named.lower().split())
    for node in scene.nodes:
        if only is None or node.id in only:
            rows += _rows_of(node, words, node.id in folded)
    if only is None and not words and len({lane.node for lane in rows}) >= _MANY:
        shut = all(lane.folded for lane in rows if lane.is_sum)
        parts = [_counts_of(_keyed(node)) for node in scene.nodes if _keyed(node)]
        rows.insert(0, Lane("", SUM, "All keys", "", _summed(_added(parts)), shut))
    return rows


@lru_cache(maxsize=4096)
def _keyed(node: AnyNode) -> tuple[Channel, ...]:
    """The channels of a node that have keys, in their order."""
    return tuple(each for name in specs(node) if (each := node.channel(name)) is not None and each.keys)


@lru_cache(maxsize=4096)
def _rows_of(node: AnyNode, words: tuple[str, ...], shut: bool) -> tuple[Lane, ...]:
    known = specs(node)
    keyed = _keyed(node)
    lanes = [Lane(node.id, each.name, f"{node.name} · {known[each.name].label}", node.colour, each) for each in keyed]
    shown = [lane for lane in lanes if all(word in lane.label.lower() for word in words)]
    if len(shown) < 2:
        return tuple(shown)
    places, counts = _counts_of(keyed)
    if len(shown) < len(lanes):
        here = np.isin(places, np.concatenate([_frames(lane.data) for lane in shown]))
        places, counts = places[here], counts[here]
    total = Lane(node.id, SUM, node.name, node.colour, _summed((places, counts)), shut)
    under = [msgspec.structs.replace(lane, label=known[lane.channel].label, under=True) for lane in shown]
    return (total,) if shut else (total, *under)


Counts = tuple[Array, Array]
"""Frames (K,) and how many keys there are on each (K,)."""


def _added(parts: Sequence[Counts]) -> Counts:
    frames, counts = (np.concatenate(each) for each in zip(*parts, strict=True))
    order = np.argsort(frames, kind="stable")
    frames, counts = frames[order], counts[order]
    first = _changes(frames)
    return frames[first], np.add.reduceat(counts, np.flatnonzero(first))


def _changes(ordered: Array) -> NDArray[np.bool_]:
    """Where another number begins."""
    return np.concatenate([[True], ordered[1:] != ordered[:-1]])


def distinct(values: Array) -> Array:
    """The different values of (N,) in order. NumPy's own way of it loads a part of NumPy that takes a window's time to
    load."""
    ordered = np.sort(values)
    return ordered[_changes(ordered)]


@lru_cache(maxsize=8192)
def _counts(channel: Channel) -> Counts:
    frames = _frames(channel)
    return frames, np.ones(len(frames))


@lru_cache(maxsize=4096)
def _counts_of(channels: tuple[Channel, ...]) -> Counts:
    return _added([_counts(each) for each in channels])


def _summed(counts: Counts) -> Channel:
    """A channel with a key on each frame, whose value is how many keys it stands for."""
    places, here = counts
    return Channel("sum", keys=tuple(map(Key, places.tolist(), here.tolist())))


@lru_cache(maxsize=8192)
def _frames(channel: Channel) -> Array:
    return np.array([key.frame for key in channel.keys])


@lru_cache(maxsize=4096)
def value_range(channel: Channel) -> tuple[float, float]:
    """Lowest and highest value of the lane, with whatever overshoots its keys."""
    first, last = channel.keys[0].frame, channel.keys[-1].frame
    values = (
        evaluate_channel(channel, np.linspace(first, last, 129)) if last > first else np.array([channel.keys[0].value])
    )
    keyed = [key.value for key in channel.keys]
    return min(float(values.min()), *keyed), max(float(values.max()), *keyed)


def heights(values: Array, low: float, high: float) -> Array:
    """Values (N,) as shares 0–1 of the lane's height; a lane that never changes sits low."""
    return (values - low) / (high - low) if high - low > 1e-12 else np.full(len(values), 0.25)


def outline(channel: Channel, axis: TimeAxis, low: float, high: float) -> tuple[Array, Array]:
    """Pixels x (M,) and shares of height (M,) of a lane's curve between its first and last key, as far as it is in
    view. Each key in view is a sample, and so is the very end of the span before it."""
    keyed = _frames(channel)
    start, end = max(keyed[0], axis.start - 1.0), min(keyed[-1], axis.end + 1.0)
    if end <= start:
        return np.zeros(0), np.zeros(0)
    count = int(np.clip((end - start) * axis.pixels_per_frame / _SAMPLE_PIXELS, 2, 2000))
    inside = keyed[(keyed >= start) & (keyed <= end)]
    ends = np.nextafter(inside[inside > start], -np.inf)
    frames = distinct(np.concatenate([np.linspace(start, end, count), inside, ends]))
    if end == keyed[-1]:
        # What comes after the last key is not of the curve between keys.
        frames = frames[:-1]
    return axis.xs(frames), heights(evaluate_channel(channel, frames), low, high)


def beyond_outline(channel: Channel, side: str, axis: TimeAxis, low: float, high: float) -> tuple[Array, Array]:
    """Pixels x (M,) and shares of height (M,) of what a channel does before its first or after its last key, as far as
    it is in view; empty where it holds."""
    how = channel.before if side == "before" else channel.after
    start, end = (axis.start, channel.keys[0].frame) if side == "before" else (channel.keys[-1].frame, axis.end)
    if how == "hold" or end <= start or len(channel.keys) < 2:
        return np.zeros(0), np.zeros(0)
    count = int(np.clip((end - start) * axis.pixels_per_frame / _SAMPLE_PIXELS, 2, 2000))
    frames = np.linspace(start, end, count)
    return axis.xs(frames), np.clip(heights(evaluate_channel(channel, frames), low, high), -0.1, 1.1)
