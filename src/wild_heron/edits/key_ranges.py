"""Edits of keys on several channels at once that need to know their curves: every one is a step of its own.

Keys are given as references; what is not there is passed over, and what is locked is left alone.
"""

from collections.abc import Callable, Iterable, Sequence
from typing import Literal

import numpy as np
from msgspec.structs import replace

from ..motion import evaluate_channel
from ..motion.keys import by_hand, reversed_keys, stretched, with_key, with_slopes
from ..motion.sides import slopes_at
from ..scene import AnyNode, Channel, Family, Flow, Handles, Hold, Key, Scene, SceneError, Span, spec
from ..scene.inputs import ChannelRef
from . import SAME_FRAME, KeyRef, change_channels, change_keys, merge_keys
from .keys import Clip, Keys, moved_keys, shifted_keys, with_keys

SOFT_LANDING = Family("quint", "out")


def reshape(
    scene: Scene, refs: Iterable[KeyRef], change: Callable[[Keys, list[int]], Keys]
) -> tuple[Scene, tuple[KeyRef, ...]]:
    """Every channel's keys changed, given which of them are meant, and where those are now."""
    return change_keys(scene, refs, lambda node, channel, picked: with_keys(channel, change(channel.keys, picked)))


def reverse(scene: Scene, refs: Iterable[KeyRef]) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The keys of each channel run backwards between the first and last that is meant."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        return moved_keys(keys, picked, reversed_keys(tuple(keys[i] for i in picked)))

    return reshape(scene, refs, change)


def stretch(scene: Scene, refs: Iterable[KeyRef], about: float, factor: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The keys' times multiplied about a frame. SceneError for a factor that is not above 0."""
    if not factor > 0.0 or not np.isfinite(factor):
        raise SceneError("Keys can be stretched by a factor above 0.")
    return reshape(
        scene,
        refs,
        lambda keys, picked: moved_keys(keys, picked, stretched(tuple(keys[i] for i in picked), about, factor)),
    )


def extent(refs: Iterable[KeyRef]) -> tuple[float, float]:
    """The first and last frame of keys."""
    frames = [ref.frame for ref in refs]
    return (min(frames), max(frames)) if frames else (0.0, 0.0)


def ripple(scene: Scene, refs: Iterable[KeyRef], by: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """Keys moved, and every later key of their channels with them."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        moving = list(range(picked[0], len(keys)))
        return moved_keys(keys, moving, [replace(keys[i], frame=keys[i].frame + by) for i in moving])

    return reshape(scene, refs, change)


def put_on_frames(scene: Scene, refs: Iterable[KeyRef]) -> tuple[Scene, tuple[KeyRef, ...]]:
    """Keys between frames put on the nearest frame; where two meet, the one that was nearer stays."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        by_distance = sorted(picked, key=lambda i: -abs(keys[i].frame - round(keys[i].frame)))
        placed: dict[float, Key] = {}
        for i in by_distance:
            placed[float(round(keys[i].frame))] = replace(keys[i], frame=float(round(keys[i].frame)))
        return moved_keys(keys, picked, list(placed.values()))

    return reshape(scene, refs, change)


def hold_until(scene: Scene, channels: Iterable[ChannelRef], frame: float) -> Scene:
    """At a frame, the value of the key before repeated, and held until there, in one step."""

    def change(node: AnyNode, channel: Channel) -> Channel:
        before = [key for key in channel.keys if key.frame < frame - SAME_FRAME]
        if not before:
            return channel
        last, now = before[-1], channel.key_at(frame)
        new = [replace(last, span=Hold()), Key(frame, last.value, now.span if now else last.span)]
        return with_keys(channel, merge_keys(channel.keys, new))

    return change_channels(scene, channels, change)


def jump(scene: Scene, channels: Iterable[ChannelRef], frame: float) -> Scene:
    """The change of the span at a frame made all at once there: what was stays until the frame before."""

    def change(node: AnyNode, channel: Channel) -> Channel:
        at = sum(key.frame < frame - SAME_FRAME for key in channel.keys) - 1
        if at < 0 or at + 1 >= len(channel.keys):
            return channel
        left, right = channel.keys[at], channel.keys[at + 1]
        new = [replace(left, span=Hold())]
        if abs(right.frame - frame) > SAME_FRAME:
            new.append(Key(frame, right.value, Hold()))
        return with_keys(channel, merge_keys(channel.keys, new))

    return change_channels(scene, channels, change)


def insert(scene: Scene, channels: Iterable[ChannelRef], frame: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """A key more on each keyed channel at a frame, the curves unchanged."""
    added = []

    def change(node: AnyNode, channel: Channel) -> Channel:
        keys = with_key(channel.keys, frame)
        if keys == channel.keys:
            return channel
        added.append(KeyRef(node.id, channel.name, frame))
        return with_keys(channel, keys)

    return change_channels(scene, channels, change), tuple(added)


def paste_onto(
    scene: Scene, clip: Clip, channels: Sequence[ChannelRef], frame: float, offset: bool
) -> tuple[Scene, tuple[KeyRef, ...]]:
    """A clip's channels laid onto others, in turn, from a frame on. With ``offset`` they start from the value that the
    channel has there. SceneError where there are no channels, or of another unit."""
    if not clip or not channels:
        raise SceneError("Copy keys first, then choose the channels that take them.")
    sources = list(clip.items())
    given = {ref: sources[k % len(sources)] for k, ref in enumerate(channels)}
    pasted: list[KeyRef] = []

    def change(node: AnyNode, channel: Channel) -> Channel:
        (from_node, from_name), keys = given[node.id, channel.name]
        known = spec(node, channel.name)
        if from_node in scene and spec(scene.node(from_node), from_name).unit != known.unit:
            raise SceneError(f"{node.name} · {known.label} has another unit.")
        rise = float(evaluate_channel(channel, np.array([frame]))[0]) - keys[0].value if offset else 0.0
        new = [replace(key, value=min(max(key.value + rise, known.low), known.high)) for key in keys]
        placed = shifted_keys(new, frame)
        pasted.extend(KeyRef(node.id, channel.name, key.frame) for key in placed)
        return with_keys(channel, merge_keys(channel.keys, placed))

    return change_channels(scene, channels, change), tuple(pasted)


def paste_spans(scene: Scene, refs: Iterable[KeyRef], spans: Sequence[Span]) -> Scene:
    """Spans shaped by others, in turn on each channel."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        out = list(keys)
        for number, i in enumerate(picked):
            out[i] = replace(keys[i], span=spans[number % len(spans)])
        return tuple(out)

    return reshape(scene, refs, change)[0]


# The shape of a move


def match_speed(scene: Scene, refs: Iterable[KeyRef]) -> Scene:
    """At each key the speeds before and after it made one, their mean, so that the move does not stumble there."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        for i in picked:
            if 0 < i < len(keys) - 1:
                into, out = slopes_at(keys, i)
                mean = 0.5 * (into + out)
                keys = with_slopes(keys, i, mean, mean)
        return keys

    return reshape(scene, refs, change)[0]


def run_through(scene: Scene, refs: Iterable[KeyRef]) -> Scene:
    """The last span of what is meant on each channel arrives at full speed: it starts as it does and never slows."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        i = picked[-1] if picked[-1] > 0 else 1
        if i >= len(keys):
            return keys
        left, right = keys[i - 1], keys[i]
        length = right.frame - left.frame
        secant = (right.value - left.value) / length
        start = by_hand(keys, i - 1).out_slope
        # The parabola with this start: its slopes are even about the mean. It never turns back.
        start = float(np.clip(start, min(0.0, 2.0 * secant), max(0.0, 2.0 * secant)))
        span = Handles(start, 1.0 / 3.0, 2.0 * secant - start, 1.0 / 3.0)
        return (*keys[: i - 1], replace(left, span=span), *keys[i:])

    return reshape(scene, refs, change)[0]


def soft_landing(scene: Scene, refs: Iterable[KeyRef]) -> Scene:
    """The last span of what is meant starts fast and settles over a long tail."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        i = max(picked[-1], 1)
        return (*keys[: i - 1], replace(keys[i - 1], span=SOFT_LANDING), *keys[i:]) if i < len(keys) else keys

    return reshape(scene, refs, change)[0]


def change_speeds(scene: Scene, refs: Iterable[KeyRef], by: float) -> Scene:
    """Speeds at keys, in values per frame, changed on both sides by as much; the keys themselves stay."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        before = keys
        for i in picked:
            into, out = slopes_at(before, i)
            keys = with_slopes(keys, i, into + by, out + by)
        return keys

    return reshape(scene, refs, change)[0]


Style = Literal["flat", "smooth", "broken", "auto", "auto smooth"]


def set_style(scene: Scene, refs: Iterable[KeyRef], style: Style) -> Scene:
    """Handles at keys made flat, smooth (one slope, the mean) or broken (as they are, each by itself), or left to the
    flow: that never overshoots, or the smooth one."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        for i in picked:
            into, out = slopes_at(keys, i)
            if style == "flat":
                keys = with_slopes(keys, i, 0.0, 0.0)
            elif style == "smooth":
                keys = with_slopes(keys, i, 0.5 * (into + out), 0.5 * (into + out))
            elif style == "broken":
                keys = with_slopes(keys, i, into, out)
            else:
                flow = Flow("smooth" if style == "auto smooth" else "monotone")
                keys = tuple(replace(key, span=flow) if k in (i - 1, i) else key for k, key in enumerate(keys))
        return keys

    return reshape(scene, refs, change)[0]
