"""AOVs: depth, motion vectors, and which nodes cover each pixel. See ``FrameRequest.passes``."""

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..gl.request import PASS_NUMBERS, RANKS

NOTHING = 1e10
"""The depth of what is not there."""

Numbers = NDArray[np.float32]


class Aov(NamedTuple):
    """``depth`` (H, W) along the axis in units, ``NOTHING`` where there is nothing. ``motion`` (H, W, 2) in pixels a
    frame, right and down. ``nodes`` and ``shares`` (H, W, RANKS): the numbers of the nodes in a pixel, the most of it
    first, and how much of it they cover; a node's number is its place in the scene, counted from 1; 0 for none."""

    depth: Numbers
    motion: Numbers
    nodes: Numbers
    shares: Numbers

    def packed(self) -> Numbers:
        """All of them as one array (H, W, PASS_NUMBERS)."""
        parts = (self.depth[..., None], self.motion, self.nodes, self.shares)
        return np.ascontiguousarray(np.concatenate(parts, axis=-1, dtype=np.float32))

    @classmethod
    def unpacked(cls, numbers: Numbers) -> "Aov":
        assert numbers.shape[-1] == PASS_NUMBERS
        return cls(numbers[..., 0], numbers[..., 1:3], numbers[..., 3 : 3 + RANKS], numbers[..., 3 + RANKS :])


def aov_of(middle: Numbers, samples: Iterator[Numbers], count: int) -> Aov:
    """From what was drawn (H, W, 4): depth, motion and number, in the middle of each pixel, and at ``count``
    samples in it."""
    there = middle[..., 3] > 0.0
    depth = np.where(there, middle[..., 0], np.float32(NOTHING))
    motion = np.where(there[..., None], middle[..., 1:3], np.float32(0.0))
    nodes, shares = ranked(np.stack([each[..., 3] for each in samples], axis=-1), count)
    return Aov(depth, motion, nodes, shares)


def ranked(numbers: Numbers, count: int) -> tuple[Numbers, Numbers]:
    """The numbers that come most often along the last axis (…, n) and their share of ``count``, (…, RANKS) each."""
    ordered = np.sort(numbers, axis=-1)
    begins = np.ones(ordered.shape, dtype=bool)
    begins[..., 1:] = ordered[..., 1:] != ordered[..., :-1]
    # How long each run is, told where it begins.
    place = np.arange(count)
    ends = np.where(begins, place, count)
    following = np.full(ordered.shape, count)
    following[..., :-1] = np.minimum.accumulate(ends[..., ::-1], axis=-1)[..., ::-1][..., 1:]
    length = np.where(begins & (ordered > 0.0), following - place, 0)
    first = np.argsort(-length, axis=-1, kind="stable")[..., :RANKS]
    often = np.take_along_axis(length, first, axis=-1)
    found = np.where(often > 0, np.take_along_axis(ordered, first, axis=-1), 0.0)
    short = RANKS - found.shape[-1]
    if short > 0:
        wide = [(0, 0)] * (found.ndim - 1) + [(0, short)]
        found, often = np.pad(found, wide), np.pad(often, wide)
    return found.astype(np.float32), (often / count).astype(np.float32)
