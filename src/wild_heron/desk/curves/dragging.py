"""Keys and handles dragged in the curves: previews of the running gesture."""

from typing import NamedTuple

from msgspec.structs import replace
from PyQt6.QtCore import QPointF

from ...evaluate import keying
from ...motion.keys import slopes_at, with_lengths, with_slopes
from ...scene import Channel, Scene, SceneError, channel_or_default, spec
from ...scene.edits import KeyRef, merge_keys, set_channel
from ..document import Document
from .scale import Shown

Place = tuple[str, str]


class HandleSpot(NamedTuple):
    """A handle of a key: which side, and where its bead is."""

    ref: KeyRef
    side: str
    at: QPointF


class Grabbed(NamedTuple):
    """The keys that are dragged, the frame of the one under the pointer, and the curve that it is on."""

    frame: float
    refs: frozenset[KeyRef]
    shown: Shown


def drag_speeds(document: Document, refs: frozenset[KeyRef], by: float) -> None:
    """The speeds at keys changed by as much, in units per second; the keys stay."""
    document.begin("Change speeds")
    base = document.gesture_base
    fps = document.settings.rate.fps
    document.preview(base.with_scene(keying.change_speeds(base.scene, refs, by / fps)))


def drag_keys(
    document: Document, grabbed: Grabbed, step: tuple[float, float], units: dict[Place, float], free: bool
) -> None:
    """Keys moved by frames, unless ``free`` to whole ones, and by a value times the unit of each channel."""
    document.begin("Move keys")
    base = document.gesture_base
    frames = step[0] if free else round(grabbed.frame + step[0]) - grabbed.frame
    scene, moved = base.scene, list[KeyRef]()
    by_place: dict[Place, set[float]] = {}
    for each in grabbed.refs:
        by_place.setdefault((each.node, each.channel), set()).add(each.frame)
    for (node, name), picked in by_place.items():
        channel = _unlocked(document, scene, node, name)
        known, rise = spec(scene.node(node), name), step[1] * units.get((node, name), 1.0)
        new = [
            replace(key, frame=key.frame + frames, value=min(max(key.value + rise, known.low), known.high))
            for key in channel.keys
            if key.frame in picked
        ]
        rest = [key for key in channel.keys if key.frame not in picked]
        scene = set_channel(scene, node, replace(channel, keys=merge_keys(rest, new)))
        moved += [KeyRef(node, name, key.frame) for key in new]
    document.preview(base.with_scene(scene))
    document.select_keys(moved)


def drag_handle(document: Document, handle: HandleSpot, frames: float, rise: float, broken: bool) -> None:
    """A handle's bead put so many frames and units from its key: slope and length of that side; the other side follows
    where both were of one slope, unless it is broken."""
    document.begin("Shape the curve")
    base = document.gesture_base
    node, name, frame = handle.ref
    channel = _unlocked(document, base.scene, node, name)
    keys = channel.keys
    index = next(i for i, key in enumerate(keys) if key.frame == frame)
    side = -1.0 if handle.side == "in" else 1.0
    reach = max(frames * side, 1e-3)
    slope = rise * side / reach
    into, out = slopes_at(keys, index)
    smooth = not broken and abs(into - out) <= 1e-3 * max(abs(into), abs(out), 1e-3)
    other = slope if smooth else None
    keys = with_slopes(keys, index, slope if side < 0 else other, slope if side > 0 else other)
    first = index - 1 if side < 0 else index
    share = reach / (keys[first + 1].frame - keys[first].frame)
    keys = with_lengths(keys, index, share if side < 0 else None, share if side > 0 else None)
    document.preview(base.with_scene(set_channel(base.scene, node, replace(channel, keys=keys))))


def _unlocked(document: Document, scene: Scene, node: str, name: str) -> Channel:
    channel = channel_or_default(scene.node(node), name)
    if channel.locked or scene.node(node).locked:
        raise SceneError(f"{document.label(node, name)} is locked. Unlock it first.")
    return channel
