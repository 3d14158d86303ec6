"""Takes stretched, trimmed, joined, reversed, and put where another one is to begin."""

import numpy as np
from msgspec.structs import replace

from ...arrays import Array
from ...scene import TURN, SceneError, Take
from ...scene.channels import POSITION
from ...space.rotation import axis_quaternion, multiply, quaternion_to_matrix, slerp
from .mending import upright_columns
from .sampling import at_times, derived, even_step


def stretch(take: Take, factor: float) -> Take:
    """The take that lasts so many times as long."""
    if not 1e-3 <= factor <= 1e3:
        raise SceneError("A take can be stretched by a factor from 0.001 to 1000.")
    times = take.times
    slopes = take.slope_table()
    return derived(
        take, f"stretched {factor:g}×", times[0] + (times - times[0]) * factor, take.table()[:, 1:],
        None if slopes is None else slopes / factor,
    )  # fmt: skip


def trim(take: Take, start: float, end: float) -> Take:
    """The take between two of its times, with a sample at each of them."""
    times = take.times
    start, end = max(start, float(times[0])), min(end, float(times[-1]))
    if not start < end:
        raise SceneError(f"{take.name} has nothing between those times.")
    inside = times[(times > start + 1e-9) & (times < end - 1e-9)]
    kept = np.concatenate([[start], inside, [end]])
    marks = tuple(mark for mark in take.marks if mark.end > start and mark.start < end)
    return derived(take, "trimmed", kept, at_times(take, kept), marks=marks)


def reverse(take: Take) -> Take:
    """The take backwards."""
    times, slopes = take.times, take.slope_table()
    back = times[0] + times[-1] - times[::-1]
    return derived(
        take, "backwards", back, take.table()[::-1, 1:], None if slopes is None else -slopes[::-1]
    )  # fmt: skip


def start_here(take: Take, position: Array, forward: Array) -> Take:
    """The take moved and turned about the upright as a whole, so that its first sample is at a position (3,) and looks
    along the flat part of a direction (3,). Up stays up."""
    columns = upright_columns(take)
    turn = np.array([[0.0, 0.0, 0.0, 1.0]])
    if take.turns:
        at = [take.columns.index(name) for name in TURN]
        axis = -quaternion_to_matrix(columns[:1, at])[0, :, 2]
        turn = axis_quaternion(1, np.array([_heading(forward) - _heading(axis)]))
        columns[:, at] = multiply(np.repeat(turn, len(columns), axis=0), columns[:, at])
    if take.moves:
        at = [take.columns.index(name) for name in POSITION]
        off = columns[:, at] - columns[0, at]
        columns[:, at] = off @ quaternion_to_matrix(turn)[0].T + position
    return derived(take, "put here", take.times, columns, marks=take.marks)


def _heading(direction: Array) -> float:
    return float(np.arctan2(-direction[0], -direction[2]))


def join(first: Take, second: Take, seconds: float, go_on: bool = True) -> Take:
    """Two takes one after the other, over a blend of so many seconds. ``go_on``: the second is put where the first
    ends, facing the same way."""
    if set(first.columns) != set(second.columns):
        raise SceneError(f"{first.name} and {second.name} do not hold the same channels.")
    seconds = float(np.clip(seconds, 0.0, 0.9 * min(first.seconds, second.seconds)))
    step = min(even_step(first), even_step(second))
    begins = float(first.times[-1]) - seconds
    if go_on:
        second = _carried_on(first, second, begins)
    shift = begins - float(second.times[0])
    length = first.seconds + second.seconds - seconds
    times = first.times[0] + length * np.arange(max(round(length / step), 1) + 1) / max(round(length / step), 1)
    order = [second.columns.index(name) for name in first.columns]
    a = at_times(first, np.clip(times, first.times[0], first.times[-1]))
    b = at_times(second, np.clip(times - shift, second.times[0], second.times[-1]))[:, order]
    share = np.clip((times - begins) / max(seconds, 1e-9), 0.0, 1.0)
    share = share * share * (3.0 - 2.0 * share)
    made = a + (b - a) * share[:, None]
    if first.turns:
        at = [first.columns.index(name) for name in TURN]
        made[:, at] = slerp(a[:, at], b[:, at], share)
    return derived(first, f"joined with {second.name}", times, made)


def _carried_on(first: Take, second: Take, begins: float) -> Take:
    """The second take put where the first one is when the blend begins."""
    here = at_times(first, np.array([begins]))
    forward = np.array([0.0, 0.0, -1.0])
    if first.turns:
        turn = here[:, [first.columns.index(name) for name in TURN]]
        forward = -quaternion_to_matrix(turn)[0, :, 2]
    position = here[0, [first.columns.index(name) for name in POSITION]] if first.moves else np.zeros(3)
    return replace(start_here(second, position, forward), name=second.name)
