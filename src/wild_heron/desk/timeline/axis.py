"""The time axis that the ruler and the lanes share. Free of Qt."""

import msgspec
import numpy as np
from numpy.typing import NDArray

# The label column, the ruler and a row, in pixels.
LABELS = 250
RULER = 34
ROW = 32

_STEPS = (1, 2, 5, 10, 12, 24, 48, 96, 120, 240, 480, 1200, 2400, 4800, 12_000, 24_000, 48_000, 120_000)


class TimeAxis(msgspec.Struct, frozen=True):
    """Frames across pixels: ``left`` is the x of frame ``start``."""

    left: float
    width: float
    start: float
    end: float

    @property
    def pixels_per_frame(self) -> float:
        return self.width / max(self.end - self.start, 1e-9)

    def x(self, frame: float) -> float:
        return self.left + (frame - self.start) * self.pixels_per_frame

    def frame(self, x: float) -> float:
        return self.start + (x - self.left) / self.pixels_per_frame

    def are_closer(self, frames: NDArray[np.float64], pixels: float) -> bool:
        """Whether most of some frames (N,), in order, lie closer to each other than so many pixels."""
        if len(frames) < 2:
            return False
        # What NumPy has for a median loads its masked arrays first, which takes a tenth of a second.
        return float(np.sort(np.diff(frames))[(len(frames) - 1) // 2]) * self.pixels_per_frame < pixels

    def xs(self, frames: NDArray[np.float64]) -> NDArray[np.float64]:
        """Where frames (N,) lie, in pixels (N,)."""
        return self.left + (frames - self.start) * self.pixels_per_frame

    def zoomed(self, factor: float, about: float) -> "TimeAxis":
        """Seen ``factor`` times as wide, the frame ``about`` kept in place."""
        length = min(max((self.end - self.start) / factor, 4.0), 2e6)
        share = (about - self.start) / max(self.end - self.start, 1e-9)
        start = about - share * length
        return msgspec.structs.replace(self, start=start, end=start + length)

    def moved(self, frames: float) -> "TimeAxis":
        return msgspec.structs.replace(self, start=self.start + frames, end=self.end + frames)

    def tick_step(self, least_pixels: float = 56.0) -> int:
        """Frames between labelled ticks, so that labels do not touch."""
        return next((step for step in _STEPS if step * self.pixels_per_frame >= least_pixels), _STEPS[-1])
