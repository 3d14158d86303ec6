"""Changes channels together with all their keys, camera places and lenses, and keys in time."""

from collections.abc import Callable

import msgspec
import numpy as np

from ..arrays import Array
from ..evaluate import evaluate
from ..motion.keys import affine
from ..scene import AnyNode, Channel, Scene, SceneError, spec
from ..scene.channels import POSITION
from ..space.transform import invert
from . import SAME_FRAME, KeyRef, change_channels, move_keys
from .key_ranges import stretch
from .matched_cuts import rig_of


def with_all_values(scene: Scene, node_id: str, name: str, change: Callable[[float], float]) -> Scene:
    """A channel's value and those of all its keys changed, by a factor, a sum, or both: slopes set by hand go with
    them. SceneError where it is locked, or something drives it."""
    factor = change(1.0) - change(0.0)

    def changed(node: AnyNode, channel: Channel) -> Channel:
        known = spec(node, name)

        def within(value: float) -> float:
            return float(min(max(change(value), known.low), known.high))

        sloped = affine(channel.keys, factor)
        keys = tuple(
            msgspec.structs.replace(scaled, value=within(key.value))
            for key, scaled in zip(channel.keys, sloped, strict=True)
        )
        return msgspec.structs.replace(channel, value=within(channel.value), keys=keys)

    made = change_channels(scene, [(node_id, name)], changed)
    if made is scene:
        raise SceneError(f"{scene.node(node_id).name} · {name} cannot be changed.")
    return made


def plus(by: float) -> Callable[[float], float]:
    """A change by a constant."""
    return lambda value: value + by


def scaled(scene: Scene, node_id: str, factor: float) -> Scene:
    """A layer so many times as large."""
    for name in ("scale.x", "scale.y"):
        scene = with_all_values(scene, node_id, name, lambda value: value * factor)
    return scene


def moved(scene: Scene, node_id: str, by: Array, frame: float) -> Scene:
    """A node moved by a vector (3,) in the world, as its carrier is at a frame; all its keys with it."""
    carrier = scene.node(node_id).carrier
    turn = np.eye(3)
    if carrier is not None:
        turn = invert(evaluate(scene, frame, [carrier]).world(carrier)[0])[:3, :3]
    for name, shift in zip(POSITION, (turn @ by).tolist(), strict=True):
        if abs(shift) > 1e-9:
            scene = with_all_values(scene, node_id, name, plus(shift))
    return scene


def dollied(scene: Scene, camera: str, by: float, frame: float) -> Scene:
    """A camera moved along its axis at a frame, forwards by so many units; all its keys with it."""
    pose = evaluate(scene, frame, [camera]).world(camera)[0]
    axis = -pose[:3, 2] / max(float(np.linalg.norm(pose[:3, 2])), 1e-12)
    return moved(scene, camera, axis * by, frame)


def keys_between(scene: Scene, camera: str, first: float, last: float) -> tuple[KeyRef, ...]:
    """The keys of a camera, and of what moves it, between two frames."""
    return tuple(
        KeyRef(node_id, channel.name, key.frame)
        for node_id in rig_of(scene, camera)
        for channel in scene.node(node_id).channels
        for key in channel.keys
        if first - SAME_FRAME <= key.frame <= last + SAME_FRAME
    )


def moving_span(scene: Scene, camera: str, frame: float) -> tuple[float, float] | None:
    """The frames of the keys before and after a frame between which a camera's rig moves, of whichever channel changes
    most; None where nothing is keyed there."""
    best: tuple[float, tuple[float, float]] | None = None
    for node_id in rig_of(scene, camera):
        for channel in scene.node(node_id).channels:
            before = [key for key in channel.keys if key.frame <= frame]
            after = [key for key in channel.keys if key.frame > frame]
            if not before or not after:
                continue
            change = abs(after[0].value - before[-1].value) / max(abs(before[-1].value), 1.0)
            if change > 1e-9 and (best is None or change > best[0]):
                best = (change, (before[-1].frame, after[0].frame))
    return best[1] if best is not None else None


def landing_later(scene: Scene, camera: str, span: tuple[float, float], by: float, until: float) -> Scene | None:
    """The move that ends at a span's last key ending so many frames later, what comes within reach of it pressed
    together. None where there is no room before ``until``."""
    end = span[1]
    if end + by > until:
        return None
    own = keys_between(scene, camera, end, end)
    later = [ref for ref in keys_between(scene, camera, end + SAME_FRAME * 2.0, until) if ref.frame > end + SAME_FRAME]
    if later:
        room = min(ref.frame for ref in later) - end
        if by >= room - 1.0:
            return None
    return move_keys(scene, own, by)[0]


def starting_earlier(scene: Scene, camera: str, span: tuple[float, float], by: float, since: float) -> Scene | None:
    """The same at the other end: the move begins so many frames earlier."""
    start, _ = span
    if start - by < since:
        return None
    own = keys_between(scene, camera, start, start)
    earlier = [ref for ref in keys_between(scene, camera, since, start) if ref.frame < start - SAME_FRAME]
    if earlier and by >= start - max(ref.frame for ref in earlier) - 1.0:
        return None
    return move_keys(scene, own, -by)[0]


def slowed(scene: Scene, camera: str, first: float, last: float, factor: float) -> Scene | None:
    """Everything keyed of a camera's rig between two frames stretched about the first of them."""
    refs = keys_between(scene, camera, first, last)
    if len({ref.frame for ref in refs}) < 2:
        return None
    return stretch(scene, refs, first, factor)[0]
