"""Adaptive sampling of a motion: more samples where something happens between two."""

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from .thinning import SIDES

_MOST = 400_000
"""Frames, whatever happens between them."""


def read_between(
    frames: Array,
    read: Callable[[Array], Array],
    least: Callable[[Array], Array],
    inside: NDArray[np.bool_] | None = None,
) -> Array:
    """The frames (N,), and as many more as it takes for what is read (N, K) to go from one to the next as those beside
    it let expect, but for no more than ``least`` (K,) of each, told from what is read at first: by halving. ``inside``
    (N − 1,): the intervals in which to look; None: in all.

    So a kink is found as closely as matters, and a jump is brought between two moments less than SIDES apart.
    """
    values = read(frames)
    most = least(values)
    waiting = np.ones(len(frames) - 1, dtype=bool) if inside is None else inside
    while len(frames) < _MOST:
        at = np.flatnonzero(waiting & (np.diff(frames) > SIDES))
        if not len(at):
            break
        middle = 0.5 * (frames[at] + frames[at + 1])
        seen = read(middle)
        met = np.zeros(seen.shape, dtype=np.intp)
        for guess in _expected(frames, values, at):
            met += np.abs(seen - guess) <= most
        # One of them may be right by chance. Where the third is not, beside a kink or a jump, the middle is told, too:
        # a line that is known at its ends alone looks like any curve to who fits one.
        bent = np.asarray((met < 2).any(axis=1))
        told = np.asarray((met < 3).any(axis=1))
        at, middle, seen, bent = at[told], middle[told], seen[told], bent[told]
        frames, values = np.insert(frames, at + 1, middle), np.insert(values, at + 1, seen, axis=0)
        waiting = np.zeros(len(frames) - 1, dtype=bool)
        left = at + np.arange(len(at))
        waiting[left] = waiting[left + 1] = bent
    return frames


def _expected(frames: Array, values: Array, at: NDArray[np.intp]) -> Iterator[Array]:
    """What should be in the middle of intervals, by number: on a line, and on the parabolas through the value before
    and the one after. Where a parabola is led astray, by a jump or a kink beyond, the other two are not."""
    low, high = values[at], values[at + 1]
    line = 0.5 * (low + high)
    yield line
    half = 0.5 * (frames[at + 1] - frames[at])
    for beside in (np.maximum(at - 1, 0), np.minimum(at + 2, len(frames) - 1)):
        # Newton's form: the second divided difference bends the line.
        first, second = frames[beside] - frames[at], frames[beside] - frames[at + 1]
        known = (np.abs(first) > 0.0) & (np.abs(second) > 0.0)
        slope = (high - low) / (2.0 * half)[:, None]
        far = np.where(known, first, 1.0)[:, None]
        bend = ((values[beside] - low) / far - slope) / np.where(known, second, 1.0)[:, None]
        yield np.where(known[:, None], line - bend * (half * half)[:, None], line)
