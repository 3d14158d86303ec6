"""Steadying: the shake of a hand taken out of a take, and as much of it put back as keeps it human."""

from typing import Literal

import numpy as np

from ...arrays import Array
from ...scene import TURN, Take
from ...scene.channels import POSITION
from .mending import upright_columns
from .sampling import at_times, derived, even_step, side_by_side
from .smoothing import smoothed

Grade = Literal["light", "firm", "strong"]
GRADES: dict[Grade, float] = {"light": 3.0, "firm": 1.2, "strong": 0.5}
"""Up to which frequency, in Hz, a motion is left as it is."""
_SWAY = 4.0
"""Hz: what a hand does on purpose, or by its weight, is slower; what is quicker is jitter."""
_SHAKE = 2.5
"""Hz: what is quicker counts as shake."""


def steady(take: Take, grade: Grade, sway: float = 0.0, jitter: float = 0.0) -> Take:
    """A take without what is quicker than its grade lets through, on even steps of time, not delayed.

    Human touch: ``sway`` and ``jitter`` say how much of what was smoothed away is mixed back, below and above 4 Hz.
    Marked stretches are not looked at, but bridged.
    """
    times, columns = _on_even_steps(take)
    step = even_step(take)
    weights = _weights(take, times)
    calm = smoothed(columns, step, GRADES[grade], weights)
    made = calm
    if sway or jitter:
        slow = smoothed(columns, step, max(_SWAY, GRADES[grade]), weights)
        made = calm + sway * (slow - calm) + jitter * np.where(weights[:, None] > 0.0, columns - slow, 0.0)
    if take.turns:
        at = [take.columns.index(name) for name in TURN]
        made[:, at] /= np.linalg.norm(made[:, at], axis=1, keepdims=True)
    return derived(take, f"steadied, {grade}", times, made)


def _on_even_steps(take: Take) -> tuple[Array, Array]:
    """Times a usual step apart, and the columns there."""
    times = take.times
    count = max(round(take.seconds / even_step(take)), 1)
    even = times[0] + take.seconds * np.arange(count + 1) / count
    even = np.clip(even, times[0], times[-1])
    if not take.slopes:
        # So near to a sample the straight way and the arc are the same.
        own = upright_columns(take)
        return even, np.stack([np.interp(even, times, own[:, k]) for k in range(own.shape[1])], axis=1)
    columns = at_times(take, even)
    if take.turns:
        at = [take.columns.index(name) for name in TURN]
        columns[:, at] = side_by_side(columns[:, at])
    return even, columns


def _weights(take: Take, times: Array) -> Array:
    """0 inside what is marked, 1 elsewhere."""
    weights = np.ones(len(times))
    for mark in take.marks:
        if mark.kind != "step":
            weights[(times > mark.start) & (times < mark.end)] = 0.0
    return weights


def shake_of(take: Take) -> float:
    """How much a take shakes: the root mean square, in units or, without a position, degrees, of all that is quicker
    than 2.5 Hz."""
    if take.count < 8:
        return 0.0
    times, columns = _on_even_steps(take)
    names = POSITION if take.moves else TURN if take.turns else take.columns
    at = [take.columns.index(name) for name in names]
    part = columns[:, at]
    quick = part - smoothed(part, float(times[1] - times[0]), _SHAKE)
    size = float(np.sqrt((quick * quick).sum(axis=1).mean()))
    return size if take.moves or not take.turns else float(np.degrees(2.0 * size))
