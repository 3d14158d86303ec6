"""Channels' values, keys and spans."""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Mapping
from functools import lru_cache
from math import isfinite
from operator import attrgetter
from typing import Literal, NamedTuple

import msgspec

from ..scene.channel import SAME_FRAME, Channel, Key
from ..scene.errors import SceneError
from ..scene.inputs import ChannelRef
from ..scene.lookup import nodes_by_id
from ..scene.model import Scene
from ..scene.nodes import AnyNode
from ..scene.spans import Beyond, Span
from ..scene.specs import channel_or_default, spec, specs
from .locks import check_unlocked, is_locked

_frame = attrgetter("frame")
Side = Literal["before", "after"]
SIDES: tuple[Side, Side] = ("before", "after")


class KeyRef(NamedTuple):
    """Where a key is."""

    node: str
    channel: str
    frame: float


def with_channel(node: AnyNode, channel: Channel) -> AnyNode:
    """The node with a channel stored, or left out where there is nothing to it but its default."""
    others = [other for other in node.channels if other.name != channel.name]
    stored = others if channel == Channel(channel.name, spec(node, channel.name).default) else [*others, channel]
    return msgspec.structs.replace(node, channels=tuple(sorted(stored, key=lambda each: each.name)))


def set_channel(scene: Scene, node_id: str, channel: Channel) -> Scene:
    """The scene with one channel of one node replaced."""
    return scene.with_node(with_channel(scene.node(node_id), channel))


def _checked(node: AnyNode, name: str, value: float) -> float:
    known = spec(node, name)
    if not isfinite(value):
        raise SceneError(f"{node.name} · {known.label} needs a finite number.")
    return float(min(max(value, max(known.low, -1e9)), min(known.high, 1e9)))


def set_value(scene: Scene, node_id: str, name: str, value: float) -> Scene:
    """The scene with an unkeyed channel at another value (kept inside its range). SceneError where it has keys, or is
    locked."""
    node = scene.node(node_id)
    channel = channel_or_default(node, name)
    check_unlocked(node, [name])
    if channel.keys:
        raise SceneError(f"{node.name} · {spec(node, name).label} has keys: set a key instead.")
    return set_channel(scene, node_id, msgspec.structs.replace(channel, value=_checked(node, name, value)))


def set_key(scene: Scene, node_id: str, name: str, frame: float, value: float, span: Span | None = None) -> Scene:
    """The scene with a key at ``frame``. A key that is there keeps its span unless one is given; a new one takes
    the span it falls into, or the default. SceneError where the channel is locked."""
    node = scene.node(node_id)
    check_unlocked(node, [name])
    if not isfinite(frame):
        raise SceneError("A key needs a finite frame.")
    channel = channel_or_default(node, name)
    keys = list(channel.keys)
    at = bisect_left(keys, frame - SAME_FRAME, key=_frame)
    value = _checked(node, name, value)
    if at < len(keys) and abs(keys[at].frame - frame) <= SAME_FRAME:
        keys[at] = Key(keys[at].frame, value, span or keys[at].span)
    else:
        inherited = keys[at - 1].span if at else (keys[0].span if keys else scene.settings.new_keys)
        keys.insert(at, Key(float(frame), value, span or inherited))
    return set_channel(scene, node_id, msgspec.structs.replace(channel, keys=tuple(keys)))


Keys = tuple[Key, ...]


def change_channels(
    scene: Scene, channels: Iterable[ChannelRef], change: Callable[[AnyNode, Channel], Channel]
) -> Scene:
    """The scene with channels changed, the one way in which several are. Those that are locked, or not there, stay."""
    nodes, changed = nodes_by_id(scene), dict[str, AnyNode]()
    for node_id, name in channels:
        node = changed.get(node_id) or nodes.get(node_id)
        if node is None or name not in specs(node) or is_locked(node, name):
            continue
        channel = channel_or_default(node, name)
        made = change(node, channel)
        if made is not channel:
            changed[node_id] = with_channel(node, made)
    if not changed:
        return scene
    return msgspec.structs.replace(scene, nodes=tuple(changed.get(node.id, node) for node in scene.nodes))


def change_keys(
    scene: Scene, refs: Iterable[KeyRef], change: Callable[[AnyNode, Channel, list[int]], Channel]
) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The same, given the numbers of the keys that are meant, on channels that have any of them. Also where those keys
    are now, where ``change`` moved only them."""
    frames = by_channel(refs)
    moved: list[KeyRef] = []

    def changed(node: AnyNode, channel: Channel) -> Channel:
        picked = sorted(picked_keys(channel, frames[node.id, channel.name]))
        if not picked:
            return channel
        made = change(node, channel, picked)
        meant = set(picked)
        stayed = {key.frame for i, key in enumerate(channel.keys) if i not in meant}
        moved.extend([KeyRef(node.id, channel.name, key.frame) for key in made.keys if key.frame not in stayed])
        return made

    return change_channels(scene, frames, changed), tuple(moved)


def by_channel(refs: Iterable[KeyRef]) -> Mapping[ChannelRef, list[float]]:
    """The frames of keys, by channel."""
    # A drag asks for the same ones at every step.
    return _known_by_channel(refs) if isinstance(refs, frozenset) else _by_channel(refs)


def _by_channel(refs: Iterable[KeyRef]) -> Mapping[ChannelRef, list[float]]:
    grouped: dict[ChannelRef, list[float]] = {}
    for node, name, frame in refs:
        grouped.setdefault((node, name), []).append(frame)
    return grouped


_known_by_channel = lru_cache(maxsize=4)(_by_channel)


def picked_keys(channel: Channel, frames: Iterable[float]) -> set[int]:
    """Numbers of the channel's keys that sit at the given frames."""
    starts = [key.frame for key in channel.keys]
    exact = {frame: i for i, frame in enumerate(starts)}
    frames = set(frames)
    found = {exact[frame] for frame in frames & exact.keys()}
    for frame in frames - exact.keys():
        at = bisect_left(starts, frame - SAME_FRAME)
        if at < len(starts) and abs(starts[at] - frame) <= SAME_FRAME:
            found.add(at)
    return found


def with_keys(channel: Channel, keys: Iterable[Key]) -> Channel:
    """The channel with other keys."""
    return msgspec.structs.replace(channel, keys=tuple(keys))


def moved_keys(keys: Keys, picked: Iterable[int], new: Iterable[Key]) -> Keys:
    """Some keys replaced by others, which win where they land on one that stays."""
    meant = set(picked)
    return merge_keys([key for i, key in enumerate(keys) if i not in meant], new)


def remove_keys(scene: Scene, refs: Iterable[KeyRef]) -> Scene:
    """The scene without these keys. A channel that loses its last key keeps that key's value."""

    def change(node: AnyNode, channel: Channel, picked: list[int]) -> Channel:
        kept = moved_keys(channel.keys, picked, ())
        value = channel.value if kept else channel.keys[picked[-1]].value
        return msgspec.structs.replace(channel, keys=kept, value=value)

    return change_keys(scene, refs, change)[0]


def move_keys(
    scene: Scene, refs: Iterable[KeyRef], frames_by: float, values_by: Mapping[ChannelRef, float] | None = None
) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The scene with these keys moved in time, and by a value of each channel, and where they are now. A key that lands
    on another replaces it; values stay inside their ranges."""
    if frames_by == 0.0 and not values_by:
        return scene, tuple(refs)

    def change(node: AnyNode, channel: Channel, picked: list[int]) -> Channel:
        rise = (values_by or {}).get((node.id, channel.name), 0.0)
        moved = [channel.keys[i] for i in picked]
        if rise:
            known = spec(node, channel.name)
            moved = [Key(k.frame, min(max(k.value + rise, known.low), known.high), k.span) for k in moved]
        moved = [Key(key.frame + frames_by, key.value, key.span) for key in moved]
        return with_keys(channel, moved_keys(channel.keys, picked, moved))

    return change_keys(scene, refs, change)


def merge_keys(under: Iterable[Key], over: Iterable[Key]) -> tuple[Key, ...]:
    """Both lists in order of frame; where two share a frame, the one from ``over`` stays."""
    over = _apart(sorted(over, key=_frame))
    frames = [key.frame for key in over]
    first, last = (frames[0] - SAME_FRAME, frames[-1] + SAME_FRAME) if frames else (0.0, 0.0)

    def free(key: Key) -> bool:
        if not first <= key.frame <= last:
            return True
        at = bisect_left(frames, key.frame - SAME_FRAME)
        return at == len(frames) or abs(frames[at] - key.frame) > SAME_FRAME

    return tuple(sorted([*filter(free, under), *over], key=_frame))


def _apart(keys: list[Key]) -> list[Key]:
    """Keys in order of frame; of several on one frame the last stays."""
    return [key for i, key in enumerate(keys) if i + 1 == len(keys) or keys[i + 1].frame - key.frame > SAME_FRAME]


def set_spans(scene: Scene, refs: Iterable[KeyRef], span: Span) -> Scene:
    """The scene with the spans that start at these keys shaped by ``span``."""

    def change(node: AnyNode, channel: Channel, picked: list[int]) -> Channel:
        keys = list(channel.keys)
        for i in picked:
            keys[i] = msgspec.structs.replace(keys[i], span=span)
        return with_keys(channel, keys)

    return change_keys(scene, refs, change)[0]


Clip = Mapping[ChannelRef, Keys]
"""Copied keys by node and channel, with frames counted from the earliest of all."""


def copy_keys(scene: Scene, refs: Iterable[KeyRef]) -> Clip:
    """The keys as a clip whose earliest key is at frame 0."""
    clip: dict[ChannelRef, Keys] = {}
    for (node_id, name), frames in by_channel(refs).items():
        channel = channel_or_default(scene.node(node_id), name)
        clip[node_id, name] = tuple(channel.keys[i] for i in sorted(picked_keys(channel, frames)))
    start = min((keys[0].frame for keys in clip.values() if keys), default=0.0)
    return {ref: shifted_keys(keys, -start) for ref, keys in clip.items()}


def shifted_keys(keys: Iterable[Key], by: float) -> Keys:
    """Keys moved in time."""
    return tuple(Key(key.frame + by, key.value, key.span) for key in keys)


def paste_keys(scene: Scene, clip: Clip, frame: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The scene with a clip's keys laid down from ``frame`` on, and where they are. Missing nodes are left out."""
    pasted: list[KeyRef] = []

    def change(node: AnyNode, channel: Channel) -> Channel:
        new = shifted_keys(clip[node.id, channel.name], frame)
        pasted.extend(KeyRef(node.id, channel.name, key.frame) for key in new)
        return with_keys(channel, merge_keys(channel.keys, new))

    return change_channels(scene, clip, change), tuple(pasted)


def set_beyond(scene: Scene, channels: Iterable[ChannelRef], how: Beyond, sides: Iterable[Side] = SIDES) -> Scene:
    """The scene with channels going on in another way before their first key, after their last, or both."""
    fields = dict.fromkeys(sides, how)
    return change_channels(scene, channels, lambda node, channel: msgspec.structs.replace(channel, **fields))


def lock_channel(scene: Scene, node_id: str, name: str, locked: bool) -> Scene:
    """The scene with a channel locked: nothing keys or drags it."""
    channel = channel_or_default(scene.node(node_id), name)
    return set_channel(scene, node_id, msgspec.structs.replace(channel, locked=locked))


def neighbouring_key_frames(scene: Scene, node_ids: Iterable[str], frame: float) -> tuple[float | None, float | None]:
    """The nearest key frames before and after ``frame`` on any channel of the nodes."""
    wanted = set(node_ids)
    frames = sorted(
        {key.frame for node in scene.nodes if node.id in wanted for channel in node.channels for key in channel.keys}
    )
    before = bisect_left(frames, frame - SAME_FRAME)
    after = bisect_right(frames, frame + SAME_FRAME)
    return (frames[before - 1] if before else None, frames[after] if after < len(frames) else None)
