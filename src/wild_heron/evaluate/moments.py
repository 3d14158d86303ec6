"""The frames at which a motion is read before it is turned into keys: close enough that nothing happens in between."""

from collections.abc import Callable, Iterable

import numpy as np

from ..arrays import Array
from ..scene import Scene
from ..scene.dependencies import final_stage, subscene

PER_FRAME = 10
_BEFORE = 1e-3
"""How long before a key a motion is read too, so that a jump at it takes no longer than this."""
_HALVINGS = 7
_SUDDEN = 8.0


def moments(scene: Scene, first: float, last: float, node_ids: Iterable[str]) -> Array:
    """Every tenth of a frame between two frames, both ends, and every key that decides where nodes are, with the moment
    just before it."""
    whole = np.arange(np.floor(first), np.ceil(last) + 1.0)
    tenths = (whole[:, None] + np.arange(PER_FRAME) / PER_FRAME).ravel()
    needed = subscene(scene, tuple(final_stage(scene.node(each)) for each in node_ids))
    keys = np.array([key.frame for node in needed.nodes for channel in node.channels for key in channel.keys])
    every = np.unique(np.concatenate([[first, last], tenths, keys, keys - _BEFORE]))
    every = every[(every >= first) & (every <= last)]
    return every[np.concatenate([[True], np.diff(every) > 1e-5])]


def with_jumps(frames: Array, read: Callable[[Array], Array]) -> Array:
    """The frames (N,), and the two between which each sudden change of what is read (N, K) takes place.

    A change is sudden where it is much larger than those before and after it; it is found by halving.
    """
    values = read(frames)
    steps = np.abs(np.diff(values, axis=0)) / np.maximum(np.ptp(values, axis=0), 1e-9)
    gone = np.concatenate([[0.0], steps.max(axis=1, initial=0.0), [0.0]])
    sudden = (gone[1:-1] > _SUDDEN * np.maximum(gone[:-2], gone[2:])) & (gone[1:-1] > 1e-4)
    at = np.flatnonzero(sudden & (np.diff(frames) > 2.0 * _BEFORE))
    if not len(at):
        return frames
    low, high = frames[at], frames[at + 1]
    before, after = values[at], values[at + 1]
    for _ in range(_HALVINGS):
        middle = 0.5 * (low + high)
        seen = read(middle)
        early = np.abs(seen - before).max(axis=1) > np.abs(after - seen).max(axis=1)
        high, after = np.where(early, middle, high), np.where(early[:, None], seen, after)
        low, before = np.where(early, low, middle), np.where(early[:, None], before, seen)
    return np.unique(np.concatenate([frames, low, high]))
