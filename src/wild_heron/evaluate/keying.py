"""Edits of keys on several channels at once that need to know their curves: every one is a step of its own.

Keys are given as references; what is not there is passed over.
"""

from collections.abc import Callable, Iterable, Sequence
from typing import Literal

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from ..motion import evaluate_channel
from ..motion.keys import by_hand, reversed_keys, slopes_at, stretched, with_key, with_slopes
from ..scene import Family, Flow, Handles, Hold, Key, Scene, SceneError, channel_or_default
from ..scene.edits import SAME_FRAME, KeyRef, merge_keys, set_channel
from ..scene.edits.keys import Clip

Array = NDArray[np.float64]
Keys = tuple[Key, ...]
Place = tuple[str, str]

SOFT_LANDING = Family("quint", "out")


def grouped(scene: Scene, refs: Iterable[KeyRef]) -> dict[Place, list[int]]:
    """The numbers of the keys that are meant, by channel."""
    frames: dict[Place, list[float]] = {}
    for ref in refs:
        frames.setdefault((ref.node, ref.channel), []).append(ref.frame)
    found: dict[Place, list[int]] = {}
    for (node, name), wanted in frames.items():
        channel = scene.node(node).channel(name) if node in scene else None
        if channel is None:
            continue
        starts = np.array([key.frame for key in channel.keys])
        hits = {int(np.abs(starts - frame).argmin()) for frame in wanted if len(starts)}
        kept = sorted(k for k in hits if min(abs(starts[k] - f) for f in wanted) <= SAME_FRAME)
        if kept:
            found[node, name] = kept
    return found


def _each(
    scene: Scene, refs: Iterable[KeyRef], change: Callable[[Keys, list[int]], Keys]
) -> tuple[Scene, tuple[KeyRef, ...]]:
    """Every channel's keys changed, given which of them are meant; returns the scene and where they are now, where
    ``change`` moved only those."""
    meant: list[KeyRef] = []
    for (node, name), picked in grouped(scene, refs).items():
        channel = channel_or_default(scene.node(node), name)
        if channel.locked or scene.node(node).locked:
            continue
        keys = change(channel.keys, picked)
        scene = set_channel(scene, node, replace(channel, keys=keys))
        old = {key.frame for i, key in enumerate(channel.keys) if i not in picked}
        meant += [KeyRef(node, name, key.frame) for key in keys if key.frame not in old]
    return scene, tuple(meant)


def _moved(keys: Keys, picked: list[int], new: Sequence[Key]) -> Keys:
    """Some keys replaced by others, which win where they land on one that stays."""
    return merge_keys([key for i, key in enumerate(keys) if i not in picked], new)


def reverse(scene: Scene, refs: Iterable[KeyRef]) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The keys of each channel run backwards between the first and last that is meant."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        return _moved(keys, picked, reversed_keys(tuple(keys[i] for i in picked)))

    return _each(scene, refs, change)


def stretch(scene: Scene, refs: Iterable[KeyRef], about: float, factor: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The keys' times multiplied about a frame. SceneError for a factor that is not above 0."""
    if not factor > 0.0 or not np.isfinite(factor):
        raise SceneError("Keys can be stretched by a factor above 0.")
    return _each(
        scene, refs, lambda keys, picked: _moved(keys, picked, stretched(tuple(keys[i] for i in picked), about, factor))
    )


def shift(scene: Scene, refs: Iterable[KeyRef], by: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """The keys moved in time."""
    return _each(
        scene,
        refs,
        lambda keys, picked: _moved(keys, picked, [replace(keys[i], frame=keys[i].frame + by) for i in picked]),
    )


def extent(refs: Iterable[KeyRef]) -> tuple[float, float]:
    """The first and last frame of keys."""
    frames = [ref.frame for ref in refs]
    return (min(frames), max(frames)) if frames else (0.0, 0.0)


def ripple(scene: Scene, refs: Iterable[KeyRef], by: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """Keys moved, and every later key of their channels with them."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        moving = list(range(picked[0], len(keys)))
        return _moved(keys, moving, [replace(keys[i], frame=keys[i].frame + by) for i in moving])

    return _each(scene, refs, change)


def put_on_frames(scene: Scene, refs: Iterable[KeyRef]) -> tuple[Scene, tuple[KeyRef, ...]]:
    """Keys between frames put on the nearest frame; where two meet, the one that was nearer stays."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        by_distance = sorted(picked, key=lambda i: -abs(keys[i].frame - round(keys[i].frame)))
        placed: dict[float, Key] = {}
        for i in by_distance:
            placed[float(round(keys[i].frame))] = replace(keys[i], frame=float(round(keys[i].frame)))
        return _moved(keys, picked, list(placed.values()))

    return _each(scene, refs, change)


def hold_until(scene: Scene, places: Iterable[Place], frame: float) -> Scene:
    """At a frame, the value of the key before repeated, and held until there, in one step."""
    for node, name in places:
        channel = channel_or_default(scene.node(node), name)
        before = [key for key in channel.keys if key.frame < frame - SAME_FRAME]
        if not before or channel.locked:
            continue
        last = before[-1]
        here = channel.key_at(frame)
        span = here.span if here else last.span
        new = [replace(last, span=Hold()), Key(frame, last.value, span)]
        scene = set_channel(scene, node, replace(channel, keys=merge_keys(channel.keys, new)))
    return scene


def jump(scene: Scene, places: Iterable[Place], frame: float) -> Scene:
    """The change of the span at a frame made all at once there: what was stays until the frame before."""
    for node, name in places:
        channel = channel_or_default(scene.node(node), name)
        at = sum(key.frame < frame - SAME_FRAME for key in channel.keys) - 1
        if at < 0 or at + 1 >= len(channel.keys) or channel.locked:
            continue
        left, right = channel.keys[at], channel.keys[at + 1]
        new = [replace(left, span=Hold())]
        if abs(right.frame - frame) > SAME_FRAME:
            new.append(Key(frame, right.value, Hold()))
        scene = set_channel(scene, node, replace(channel, keys=merge_keys(channel.keys, new)))
    return scene


def insert(scene: Scene, places: Iterable[Place], frame: float) -> tuple[Scene, tuple[KeyRef, ...]]:
    """A key more on each keyed channel at a frame, the curves unchanged."""
    added = []
    for node, name in places:
        channel = channel_or_default(scene.node(node), name)
        keys = with_key(channel.keys, frame)
        if keys != channel.keys and not channel.locked:
            scene = set_channel(scene, node, replace(channel, keys=keys))
            added.append(KeyRef(node, name, frame))
    return scene, tuple(added)


def paste_onto(
    scene: Scene, clip: Clip, places: Sequence[Place], frame: float, offset: bool
) -> tuple[Scene, tuple[KeyRef, ...]]:
    """A clip's channels laid onto others, in turn, from a frame on. With ``offset`` they start from the value that the
    channel has there. SceneError where there are no channels, or of another unit."""
    from ..scene import spec

    if not clip or not places:
        raise SceneError("Copy keys first, then choose the channels that take them.")
    pasted = []
    for k, (node, name) in enumerate(places):
        (from_node, from_name), keys = list(clip.items())[k % len(clip)]
        target = scene.node(node)
        if from_node in scene and spec(scene.node(from_node), from_name).unit != spec(target, name).unit:
            raise SceneError(f"{target.name} · {spec(target, name).label} is counted in another unit.")
        channel = channel_or_default(target, name)
        here = float(evaluate_channel(channel, np.array([frame]))[0])
        shift = here - keys[0].value if offset else 0.0
        known = spec(target, name)
        new = [
            replace(key, frame=key.frame + frame, value=min(max(key.value + shift, known.low), known.high))
            for key in keys
        ]
        scene = set_channel(scene, node, replace(channel, keys=merge_keys(channel.keys, new)))
        pasted += [KeyRef(node, name, key.frame) for key in new]
    return scene, tuple(pasted)


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

    return _each(scene, refs, change)[0]


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

    return _each(scene, refs, change)[0]


def soft_landing(scene: Scene, refs: Iterable[KeyRef]) -> Scene:
    """The last span of what is meant starts fast and settles over a long tail."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        i = max(picked[-1], 1)
        return (*keys[: i - 1], replace(keys[i - 1], span=SOFT_LANDING), *keys[i:]) if i < len(keys) else keys

    return _each(scene, refs, change)[0]


def change_speeds(scene: Scene, refs: Iterable[KeyRef], by: float) -> Scene:
    """Speeds at keys, in values per frame, changed on both sides by as much; the keys themselves stay."""

    def change(keys: Keys, picked: list[int]) -> Keys:
        before = keys
        for i in picked:
            into, out = slopes_at(before, i)
            keys = with_slopes(keys, i, into + by, out + by)
        return keys

    return _each(scene, refs, change)[0]


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

    return _each(scene, refs, change)[0]
