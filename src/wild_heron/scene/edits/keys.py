"""Channels' values, keys and spans."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Mapping
from math import isfinite
from typing import NamedTuple

import msgspec

from ..channels import channel_or_default, spec
from ..errors import SceneError
from ..model import AnyNode, Channel, Key, Scene
from ..spans import Span
from .nodes import replace_node

SAME_FRAME = 1e-6


class KeyRef(NamedTuple):
    """Where a key is."""

    node: str
    channel: str
    frame: float


def with_channel(node: AnyNode, channel: Channel) -> AnyNode:
    """The node with a channel stored, or left out where it sits unkeyed and unlocked at its default."""
    others = [other for other in node.channels if other.name != channel.name]
    is_default = (
        not channel.keys
        and not channel.locked
        and not channel.is_fed
        and channel.value == spec(node, channel.name).default
    )
    stored = others if is_default else [*others, channel]
    return msgspec.structs.replace(node, channels=tuple(sorted(stored, key=lambda each: each.name)))


def set_channel(scene: Scene, node_id: str, channel: Channel) -> Scene:
    """The scene with one channel of one node replaced."""
    return replace_node(scene, with_channel(scene.node(node_id), channel))


def _checked(node: AnyNode, name: str, value: float) -> float:
    known = spec(node, name)
    if not isfinite(value):
        raise SceneError(f"{node.name} · {known.label} needs a finite number.")
    return float(min(max(value, max(known.low, -1e9)), min(known.high, 1e9)))


def set_value(scene: Scene, node_id: str, name: str, value: float) -> Scene:
    """The scene with an unkeyed channel at another value (kept inside its range). SceneError where it has keys."""
    node = scene.node(node_id)
    channel = channel_or_default(node, name)
    if channel.keys:
        raise SceneError(f"{node.name} · {spec(node, name).label} has keys: set a key instead.")
    return set_channel(scene, node_id, msgspec.structs.replace(channel, value=_checked(node, name, value)))


def set_key(scene: Scene, node_id: str, name: str, frame: float, value: float, span: Span | None = None) -> Scene:
    """The scene with a key at ``frame``. A key that is there keeps its span unless one is given; a new one takes
    the span it falls into, or the default."""
    node = scene.node(node_id)
    if not isfinite(frame):
        raise SceneError("A key needs a finite frame.")
    channel = channel_or_default(node, name)
    keys = list(channel.keys)
    at = bisect_left(keys, frame - SAME_FRAME, key=lambda key: key.frame)
    value = _checked(node, name, value)
    if at < len(keys) and abs(keys[at].frame - frame) <= SAME_FRAME:
        keys[at] = Key(keys[at].frame, value, span or keys[at].span)
    else:
        inherited = keys[at - 1].span if at else (keys[0].span if keys else scene.settings.new_keys)
        keys.insert(at, Key(float(frame), value, span or inherited))
    return set_channel(scene, node_id, msgspec.structs.replace(channel, keys=tuple(keys)))


def _by_channel(refs: Iterable[KeyRef]) -> dict[tuple[str, str], list[float]]:
    grouped: dict[tuple[str, str], list[float]] = {}
    for ref in refs:
        grouped.setdefault((ref.node, ref.channel), []).append(ref.frame)
    return grouped


def _picked(channel: Channel, frames: Iterable[float]) -> set[int]:
    """Indices of the channel's keys that sit at the given frames."""
    starts = [key.frame for key in channel.keys]
    exact = {frame: i for i, frame in enumerate(starts)}
    frames = set(frames)
    found = {exact[frame] for frame in frames & exact.keys()}
    for frame in frames - exact.keys():
        at = bisect_left(starts, frame - SAME_FRAME)
        if at < len(starts) and abs(starts[at] - frame) <= SAME_FRAME:
            found.add(at)
    return found


def remove_keys(scene: Scene, refs: Iterable[KeyRef]) -> Scene:
    """The scene without these keys. A channel that loses its last key keeps that key's value."""
    for (node_id, name), frames in _by_channel(refs).items():
        channel = channel_or_default(scene.node(node_id), name)
        picked = _picked(channel, frames)
        if not picked:
            continue
        kept = tuple(key for i, key in enumerate(channel.keys) if i not in picked)
        value = channel.value if kept else channel.keys[max(picked)].value
        scene = set_channel(scene, node_id, msgspec.structs.replace(channel, keys=kept, value=value))
    return scene


def move_keys(scene: Scene, refs: Iterable[KeyRef], frames_by: float) -> Scene:
    """The scene with these keys moved in time. A key that lands on another replaces it."""
    if frames_by == 0:
        return scene
    for (node_id, name), frames in _by_channel(refs).items():
        channel = channel_or_default(scene.node(node_id), name)
        picked = _picked(channel, frames)
        moved = [Key(key.frame + frames_by, key.value, key.span) for i, key in enumerate(channel.keys) if i in picked]
        rest = [key for i, key in enumerate(channel.keys) if i not in picked]
        scene = set_channel(scene, node_id, msgspec.structs.replace(channel, keys=merge_keys(rest, moved)))
    return scene


def merge_keys(under: Iterable[Key], over: Iterable[Key]) -> tuple[Key, ...]:
    """Both lists in order of frame; where two share a frame, the one from ``over`` stays."""
    over = _apart(sorted(over, key=lambda key: key.frame))
    frames = [key.frame for key in over]
    first, last = (frames[0] - SAME_FRAME, frames[-1] + SAME_FRAME) if frames else (0.0, 0.0)

    def free(key: Key) -> bool:
        if not first <= key.frame <= last:
            return True
        at = bisect_left(frames, key.frame - SAME_FRAME)
        return at == len(frames) or abs(frames[at] - key.frame) > SAME_FRAME

    return tuple(sorted([*filter(free, under), *over], key=lambda key: key.frame))


def _apart(keys: list[Key]) -> list[Key]:
    """Keys in order of frame; of several on one frame the last stays."""
    return [key for i, key in enumerate(keys) if i + 1 == len(keys) or keys[i + 1].frame - key.frame > SAME_FRAME]


def set_spans(scene: Scene, refs: Iterable[KeyRef], span: Span) -> Scene:
    """The scene with the spans that start at these keys shaped by ``span``."""
    for (node_id, name), frames in _by_channel(refs).items():
        channel = channel_or_default(scene.node(node_id), name)
        picked = _picked(channel, frames)
        keys = tuple(
            msgspec.structs.replace(key, span=span) if i in picked else key for i, key in enumerate(channel.keys)
        )
        scene = set_channel(scene, node_id, msgspec.structs.replace(channel, keys=keys))
    return scene


Clip = Mapping[tuple[str, str], tuple[Key, ...]]
"""Copied keys by node and channel, with frames counted from the earliest of all."""


def copy_keys(scene: Scene, refs: Iterable[KeyRef]) -> Clip:
    """The keys as a clip whose earliest key is at frame 0."""
    clip: dict[tuple[str, str], tuple[Key, ...]] = {}
    for (node_id, name), frames in _by_channel(refs).items():
        channel = channel_or_default(scene.node(node_id), name)
        clip[node_id, name] = tuple(channel.keys[i] for i in sorted(_picked(channel, frames)))
    start = min((keys[0].frame for keys in clip.values() if keys), default=0.0)
    return {
        place: tuple(msgspec.structs.replace(key, frame=key.frame - start) for key in keys)
        for place, keys in clip.items()
    }


def paste_keys(scene: Scene, clip: Clip, frame: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The scene with a clip's keys laid down from ``frame`` on, and where they are. Missing nodes are left out."""
    pasted: list[KeyRef] = []
    for (node_id, name), keys in clip.items():
        if node_id not in scene:
            continue
        node = scene.node(node_id)
        channel = channel_or_default(node, name)
        shifted = [msgspec.structs.replace(key, frame=key.frame + frame) for key in keys]
        merged = merge_keys(channel.keys, shifted)
        scene = set_channel(scene, node_id, msgspec.structs.replace(channel, keys=merged))
        pasted.extend(KeyRef(node_id, name, key.frame) for key in shifted)
    return scene, tuple(pasted)


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
