"""Keys and handles dragged in the curves: previews of the running gesture."""

from typing import NamedTuple

from PyQt6.QtCore import QPointF

from ....edits import KeyRef, key_ranges, move_keys
from ....edits.keys import Keys
from ....motion.keys import with_lengths, with_slopes
from ....motion.sides import slopes_at
from ....scene.inputs import ChannelRef
from ...state.document import Document
from ...state.key_edits import drag_keys
from .scale import ShownChannel


class HandleSpot(NamedTuple):
    """A handle of a key: which side, and where its bead is."""

    ref: KeyRef
    side: str
    at: QPointF


class GrabbedCurve(NamedTuple):
    """The keys that are dragged, the frame of the one under the pointer, and the curve that it is on."""

    frame: float
    refs: frozenset[KeyRef]
    shown: ShownChannel


def drag_speeds(document: Document, refs: frozenset[KeyRef], by: float) -> None:
    """The speeds at keys changed by as much, in units per second; the keys stay."""
    fps = document.settings.rate.fps
    drag_keys(document, "Change speeds", refs, lambda scene: key_ranges.change_speeds(scene, refs, by / fps))


def drag_curve(
    document: Document, grabbed: GrabbedCurve, step: tuple[float, float], units: dict[ChannelRef, float], free: bool
) -> None:
    """Keys moved by frames, unless ``free`` to whole ones, and by a value times the unit of each channel."""
    refs = grabbed.refs
    frames = step[0] if free else round(grabbed.frame + step[0]) - grabbed.frame
    rises = {(ref.node, ref.channel): step[1] * units.get((ref.node, ref.channel), 1.0) for ref in refs}
    drag_keys(document, "Move keys", refs, lambda scene: move_keys(scene, refs, frames, rises))


def drag_handle(document: Document, handle: HandleSpot, frames: float, rise: float, broken: bool) -> None:
    """A handle's bead put so many frames and units from its key: slope and length of that side; the other side follows
    where both were of one slope, unless it is broken."""
    side = -1.0 if handle.side == "in" else 1.0
    reach = max(frames * side, 1e-3)
    slope = rise * side / reach

    def change(keys: Keys, picked: list[int]) -> Keys:
        index = picked[0]
        into, out = slopes_at(keys, index)
        smooth = not broken and abs(into - out) <= 1e-3 * max(abs(into), abs(out), 1e-3)
        other = slope if smooth else None
        keys = with_slopes(keys, index, slope if side < 0 else other, slope if side > 0 else other)
        first = index - 1 if side < 0 else index
        share = reach / (keys[first + 1].frame - keys[first].frame)
        return with_lengths(keys, index, share if side < 0 else None, share if side > 0 else None)

    drag_keys(
        document, "Shape the curve", [handle.ref], lambda scene: key_ranges.reshape(scene, [handle.ref], change)[0]
    )
