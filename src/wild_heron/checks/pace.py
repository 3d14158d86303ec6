"""Finds stops and jumps in the picture's speed at cuts."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array

STILL = 0.02
"""Of the fastest in its shot: slower is standing still."""
MOVES = 0.03
"""Frames a second, by their longer side, that a shot must reach somewhere, to be one that moves."""


class CutPace(NamedTuple):
    """What is wrong beside a cut, from one row of frames to another: how many stand still, or how many times as fast
    the one side is as the other."""

    kind: Literal["start", "end", "jump"]
    first: int
    last: int
    value: float


def shown_speed(slide: Array, subject: Array, side: Array | float) -> Array:
    """Frames a second by their longer ``side`` (N,): of the middle of the picture, or of what is looked at, whichever
    is faster; both in pixels a second."""
    return np.asarray(np.fmax(slide, np.nan_to_num(subject, nan=0.0)) / side)


def pace_at_cuts(
    speed: Array, cuts: Sequence[int], known: NDArray[np.bool_], most_still: float, most_jump: float
) -> tuple[Array, list[CutPace]]:
    """How many frames the picture has stood still, counted from a cut (N,), and what is too much, of speeds in frames a
    second (N,). ``cuts`` are the rows of first frames after one; ``known`` where the speed was measured."""
    count, found = np.zeros(len(speed)), []
    count[~known] = np.nan
    edges = [0, *cuts, len(speed)]
    for k, (start, end) in enumerate(pairwise(edges)):
        if not known[start:end].all() or end - start < 3:
            continue
        part = speed[start:end]
        peak = float(np.nanmax(part, initial=0.0))
        if peak < MOVES:
            continue  # It never moves, and that is no fault.
        slow = part < STILL * peak
        # A film may begin and end at rest: only what is cut at counts.
        if k > 0:
            ahead = int(np.argmin(slow)) if not slow.all() else len(slow)
            count[start : start + ahead] = np.arange(ahead, 0, -1)
            if ahead > most_still:
                found.append(CutPace("start", start, start + ahead - 1, float(ahead)))
        if k < len(edges) - 2:
            behind = int(np.argmin(slow[::-1])) if not slow.all() else 0
            count[end - behind : end] = np.arange(1, behind + 1)
            if behind > most_still:
                found.append(CutPace("end", end - behind, end - 1, float(behind)))
    for row in cuts:
        if known[row - 1] and known[row]:
            slower, faster = sorted((float(speed[row - 1]), float(speed[row])))
            # Both sides in motion, one much faster than the other.
            if slower > MOVES and faster / slower > most_jump:
                found.append(CutPace("jump", row - 1, row, faster / slower))
    return count, found
