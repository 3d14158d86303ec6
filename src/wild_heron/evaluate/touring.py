"""What a camera sees on its tour from framing to framing."""

import msgspec
import numpy as np

from ..arrays import Array, Rows
from ..scene import AnyNode, Format, Tour, View, is_moved
from .cameras import CameraView, Scenery, own_view
from .mixing import Course, chosen, course_of, mixed, put_together, rows_of

_WHOLE = 1e-9


def legs(node: AnyNode, bind: Tour, frames: Array, place: Array) -> tuple[Rows, Rows, Array]:
    """From which to which framing (N,) a node goes at frames (N,), and the share (N,) of the leg it has gone.

    Between two keys on whole numbers it goes directly from the one to the other; else from the whole number below to
    the one above.
    """
    low = np.floor(place)
    start, end = low, low + 1.0
    channel = node.channel(f"{bind.id}.place")
    if channel is not None and len(channel.keys) > 1 and not (channel.has_inputs or is_moved(node, channel.name)):
        times = np.array([key.frame for key in channel.keys])
        values = np.array([key.value for key in channel.keys])
        whole = np.abs(values - np.round(values)) < _WHOLE
        at = np.clip(np.searchsorted(times, frames, side="right") - 1, 0, len(times) - 2)
        inside = (frames >= times[0]) & (frames <= times[-1]) & whole[at] & whole[at + 1]
        direct = inside & (values[at] != values[at + 1])
        # A hold between two keys of one value stays where it is.
        still = inside & (values[at] == values[at + 1])
        start = np.where(direct | still, np.round(values[at]), start)
        end = np.where(direct, np.round(values[at + 1]), np.where(still, start + 1.0, end))
    share = (place - start) / (end - start)
    # At a key it is there, whatever an ease rounds to.
    nearest = np.round(share)
    share = np.where(np.abs(share - nearest) < _WHOLE, nearest, share)
    count = len(bind.framings)
    return np.mod(start, count).astype(np.intp), np.mod(end, count).astype(np.intp), share


def tour_view(
    there: Scenery, node: AnyNode, bind: Tour, output: Format | None = None, size: tuple[int, int] | None = None
) -> CameraView:
    """What the framings of a tour show at its place between them."""
    frames = there.frames
    place = np.broadcast_to(there.number(node, f"{bind.id}.place"), frames.shape)
    start, end, share = legs(node, bind, frames, place)
    views: dict[int, CameraView] = {}

    def view(number: int) -> CameraView:
        if number not in views:
            framing = there.node(bind.framings[number])
            assert isinstance(framing, View)
            views[number] = own_view(there, framing, output, size)
        return views[number]

    parts = []
    for a, b in sorted(set(zip(start.tolist(), end.tolist(), strict=True))):
        rows = np.flatnonzero((start == a) & (end == b))
        part = share[rows]
        if a == b or (part == 0.0).all():
            parts.append((rows, rows_of(view(a), rows)))
        elif (part == 1.0).all():
            parts.append((rows, rows_of(view(b), rows)))
        else:
            before, after = rows_of(view(a), rows), rows_of(view(b), rows)
            parts.append((rows, mixed(before, after, part, _course(there, bind, a, b, before, after))))
    return put_together(frames, parts)


def _course(there: Scenery, bind: Tour, a: int, b: int, before: CameraView, after: CameraView) -> Course:
    """How a leg goes. It is told from where both stand still, if they do, else from each frame by itself: so it is told
    by what they aim at, not by where they are."""
    still = there.is_still(bind.framings[a]) and there.is_still(bind.framings[b])
    first, second = there.node(bind.framings[a]).aim, there.node(bind.framings[b]).aim
    same = first is not None and second is not None and first.targets == second.targets and bool(first.targets)
    way = bind.way
    if way == "auto" and same:
        way = "round"
    elif way == "auto" and not still:
        way = "straight"
    if not still:
        return Course(way)
    one = np.zeros(1, dtype=np.intp)
    return course_of(rows_of(before, one), rows_of(after, one), way, same)


def with_tour(
    there: Scenery, node: View, own: CameraView, output: Format | None, size: tuple[int, int] | None
) -> CameraView:
    """A camera's own picture with the lens and focus of its tour, as far as that is in force; its pose is its own, as
    binds have made it."""
    tour = next((bind for bind in node.binds if isinstance(bind, Tour) and bind.on), None)
    if tour is None:
        return own
    strength = np.broadcast_to(there.number(node, f"{tour.id}.strength"), there.frames.shape)
    toured = tour_view(there, node, tour, output, size)
    if (strength == 1.0).all() and node.binds[-1] is tour and not node.movers:
        return toured  # Bit for bit: its own matrix has been made rigid once more.
    seen = msgspec.structs.replace(toured, pose=own.pose, aim=toured.aim if own.aim is None else own.aim)
    if (strength == 1.0).all():
        return seen
    part = mixed(own, seen, strength, Course("straight"))
    return chosen(msgspec.structs.replace(part, pose=own.pose), own, strength == 0.0)
