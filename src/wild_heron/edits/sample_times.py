"""Times at which motion is sampled before it is turned into keys."""

from collections.abc import Iterable

import numpy as np

from ..arrays import Array, ascending
from ..motion.thinning import SIDES
from ..scene import Scene
from ..scene.dependencies import final_stage, subscene

PER_FRAME = 10


def moments(scene: Scene, first: float, last: float, node_ids: Iterable[str]) -> Array:
    """Frames (N,): every tenth of a frame between two frames, both ends, and every key that decides where nodes are,
    with the moment just before it."""
    whole = np.arange(np.floor(first), np.ceil(last) + 1.0)
    tenths = (whole[:, None] + np.arange(PER_FRAME) / PER_FRAME).ravel()
    needed = subscene(scene, tuple(final_stage(scene.node(each)) for each in node_ids))
    keys = np.array([key.frame for node in needed.nodes for channel in node.channels for key in channel.keys])
    every = ascending(np.concatenate([[first, last], tenths, keys, keys - 0.5 * SIDES]))
    every = every[(every >= first) & (every <= last)]
    # Of two that nearly meet the later one stays: a key, rather than the tenth before it.
    return every[np.concatenate([np.diff(every) > 0.25 * SIDES, [True]])]
