"""The frames at which a motion is read before it is turned into keys: close enough that nothing happens in between."""

from collections.abc import Callable, Iterable

import numpy as np

from ..arrays import Array
from ..motion.thinning import SIDES
from ..scene import Scene
from ..scene.dependencies import final_stage, subscene

PER_FRAME = 10
_MOST = 400_000
"""Frames, whatever happens between them."""


def moments(scene: Scene, first: float, last: float, node_ids: Iterable[str]) -> Array:
    """Every tenth of a frame between two frames, both ends, and every key that decides where nodes are, with the moment
    just before it."""
    whole = np.arange(np.floor(first), np.ceil(last) + 1.0)
    tenths = (whole[:, None] + np.arange(PER_FRAME) / PER_FRAME).ravel()
    needed = subscene(scene, tuple(final_stage(scene.node(each)) for each in node_ids))
    keys = np.array([key.frame for node in needed.nodes for channel in node.channels for key in channel.keys])
    every = np.unique(np.concatenate([[first, last], tenths, keys, keys - 0.5 * SIDES]))
    every = every[(every >= first) & (every <= last)]
    # Of two that nearly meet the later one stays: a key, rather than the tenth before it.
    return every[np.concatenate([np.diff(every) > 0.25 * SIDES, [True]])]


def read_between(frames: Array, read: Callable[[Array], Array], least: Callable[[Array], Array]) -> Array:
    """The frames (N,), and as many more as it takes for what is read (N, K) to run straight from one to the next, but
    for no more than ``least`` (K,) of each, told from what is read at first: by halving.

    So a kink is found as closely as matters, and a jump is brought between two moments less than SIDES apart.
    """
    values = read(frames)
    most = least(values)
    low, high, before, after = frames[:-1], frames[1:], values[:-1], values[1:]
    found = [frames]
    total = len(frames)
    while total < _MOST:
        open_ = high - low > SIDES
        low, high, before, after = low[open_], high[open_], before[open_], after[open_]
        if not len(low):
            break
        middle = 0.5 * (low + high)
        seen = read(middle)
        bent = (np.abs(seen - 0.5 * (before + after)) > most).any(axis=1)
        found.append(middle[bent])
        total += int(bent.sum())
        low, middle, high = low[bent], middle[bent], high[bent]
        before, seen, after = before[bent], seen[bent], after[bent]
        low, high = np.concatenate([low, middle]), np.concatenate([middle, high])
        before, after = np.concatenate([before, seen]), np.concatenate([seen, after])
    return np.unique(np.concatenate(found))
