"""Pixel footprints: the area of a pixel, of shutter time and of the lens that one sample averages artwork over.

A frame that goes out is the mean of samples; artwork is averaged over all that each of them stands for, so that a few
samples do: a motion leaves a streak rather than a row of copies.
"""

from collections.abc import Callable
from typing import NamedTuple

import moderngl
import numpy as np

from ..arrays import Array
from ..scene import Picture

MOST_ALONG = 24
_ACROSS = 6.0
_FEWEST = 2.0
_JUMP = 4.0
_PLANE = (0, 1, 3)


class Footprint(NamedTuple):
    """``sides`` and ``shift``: the sides of its part of a pixel, and where the middle of that lies from where the
    sample is; ``middle``: where the pixel's is. What moves, or is out of focus, is averaged over all of the pixel.
    ``lens``: how large its part of the lens is, as pixels that it blurs over at a distance of one unit, where ``focus``
    is sharp. ``drift``: how a picture's matrix from u, v to the frame changes over its part of the time, (3, 3) to x, y
    and w, or None."""

    sides: tuple[float, float]
    shift: tuple[float, float]
    middle: tuple[float, float]
    lens: float
    focus: float
    drift: Callable[[Picture], Array | None]

    fewest: float = 0.0
    """How many places are looked up across it at least, where its sides do not say so."""

    @property
    def across(self) -> tuple[float, float]:
        """How many places are looked up across what it stands for, at least."""
        first, second = (self.fewest or max(_FEWEST, float(np.ceil(_ACROSS * side))) for side in self.sides)
        return first, second

    def spread(self, node: Picture, clip: Array, uv: Array, size: tuple[int, int]) -> tuple[float, float]:
        """How far in u and v something of a picture may be seen beyond the corners ``uv`` (4, 2) of it."""
        corners = np.concatenate([uv, np.zeros((4, 1)), np.ones((4, 1))], axis=1) @ clip.T
        depth = np.maximum(np.abs(corners[:, 3]), 1e-6)
        far = 0.5 * self.lens * np.abs(1.0 / depth - 1.0 / self.focus) * 3.0**0.5 + 1.0
        drift = self.drift(node)
        if drift is not None:
            change = np.concatenate([uv, np.ones((4, 1))], axis=1) @ drift.T
            way = (change[:, :2] - corners[:, :2] / depth[:, None] * change[:, 2:]) / depth[:, None] * 0.5 * size
            far = far + 0.6 * np.hypot(way[:, 0], way[:, 1])
        out = []
        for k in (0, 1):
            # How many pixels u, or v, takes up where it takes up the fewest.
            across = (clip[:2, k] * depth[:, None] - corners[:, :2] * clip[3, k]) / depth[:, None] ** 2 * 0.5 * size
            least = float(np.hypot(across[:, 0], across[:, 1]).min())
            out.append(min(float(far.max()) / max(least, 1e-6), 1.0))
        return out[0], out[1]

    def bind(self, program: moderngl.Program, node: Picture, clip: Array, size: tuple[int, int]) -> None:
        """Hand it to a program that draws a picture, whose u and v ``clip`` (4, 4) takes to a frame of some size."""
        plane = clip[np.ix_(_PLANE, _PLANE)]
        flat = abs(np.linalg.det(plane)) < 1e-12 * max(float(np.abs(plane).max()), 1e-30) ** 3
        # Seen along its edge, nothing of it is seen.
        back = np.zeros((3, 3)) if flat else np.linalg.inv(plane)
        program["back"].write(np.ascontiguousarray(back.T, "f4"))
        drift = self.drift(node)
        still = np.zeros((3, 3)) if drift is None else drift
        program["drift"].write(np.ascontiguousarray(still.T, "f4"))
        program["frame_size"] = size
        program["part_of_pixel"] = (*self.sides, *self.shift)
        program["middle_of_pixel"] = self.middle
        program["part_of_lens"] = (self.lens, 1.0 / self.focus)
        program["fewest"] = self.across


def change_between(before: Array | None, now: Array, after: Array | None) -> Array | None:
    """How something (…) changes over a sample's time, from its values at the samples beside it. None where it does not.

    Where it jumps on one side, the change on the other is taken: what jumps leaves no streak.
    """
    steps = [step for step in (None if before is None else now - before, None if after is None else after - now)
             if step is not None]  # fmt: skip
    if not steps:
        return None
    sizes = [float(np.abs(step).max()) for step in steps]
    if max(sizes) == 0.0:
        return None
    if len(steps) == 2 and max(sizes) > _JUMP * min(sizes):
        return steps[int(np.argmin(sizes))]
    return np.asarray(sum(steps) / len(steps))
