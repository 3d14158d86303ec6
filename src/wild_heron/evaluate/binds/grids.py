"""The fixed grid of frames on which stateful binds and movers are simulated, so that results do not depend on the
frames asked for."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array
from ...scene import Settings

PRE_ROLL_SECONDS = 5.0
"""How long before the scene's first frame what remembers starts, at rest."""
_BLOCK = 120
BEYOND = 20_000
"""How many frames beyond the scene's last what remembers goes on; then it stays as it is."""


class Grid(NamedTuple):
    """Whole frames from ``start`` on."""

    start: int
    size: int

    @property
    def frames(self) -> Array:
        """The frames of its points (N,)."""
        return self.start + np.arange(self.size, dtype=np.float64)

    def cell(self, frames: Array) -> tuple[NDArray[np.int64], Array]:
        """The grid's frame at or before each of some frames (N,), and the share of the way to the next one. Before
        the grid it is its start, after it its end."""
        place = np.clip(frames - self.start, 0.0, self.size - 1.0)
        left = np.minimum(np.floor(place).astype(np.int64), self.size - 2)
        return left, place - left


def grid_for(settings: Settings, frames: Array) -> Grid:
    """The grid that covers the scene, the frames (N,) and some frames beyond it, in blocks, so that it is the same one
    for most."""
    start = settings.first - round(PRE_ROLL_SECONDS * settings.rate.fps)
    # A shutter or a reading just beyond the last frame is no reason for another grid.
    asked = min(float(np.ceil(frames.max(initial=settings.last))) + 2.0, float(settings.last + BEYOND))
    end = max(settings.last + 24.0, asked)
    blocks = int(np.ceil((end - start) / _BLOCK))
    return Grid(start, blocks * _BLOCK + 1)
