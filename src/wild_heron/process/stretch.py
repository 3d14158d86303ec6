"""Measures how far projected photographs are stretched, or missing, over a move."""

from collections.abc import Callable
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..gl.request import FrameRequest, ThroughLens
from ..scene import Scene
from .stream import FrameStream

_WIDTH = 480
_NICENESS = 10


class Stretch(msgspec.Struct, frozen=True):
    """Frames (N,), and for each how large a part of all receivers in the picture is stretched beyond the factor (N,)
    or receives no photograph (N,), and the factor that one pixel in a hundred exceeds (N,)."""

    frames: Array
    beyond: Array
    missing: Array
    high: Array

    @property
    def worst(self) -> int:
        """The place of the frame where most is stretched or missing."""
        return int(np.argmax(self.beyond + self.missing))


def factors(pixels: NDArray[np.uint8]) -> tuple[Array, NDArray[np.bool_], NDArray[np.bool_]]:
    """Of a stretch picture (H, W, 4): output pixels to a photograph pixel (H, W), where the photograph is received, and
    where there is a receiver."""
    factor = 2.0 ** ((pixels[..., 0] / 255.0 - 0.5) * 8.0)
    receiver = pixels[..., 3] > 127
    return factor, receiver & (pixels[..., 1] > 127), receiver


def measure(
    scene: Scene,
    base: Path | None,
    camera: str,
    frames: Array,
    factor: float,
    progress: Callable[[int, int], None] = lambda done, total: None,
    cancelled: Callable[[], bool] = lambda: False,
    size: tuple[int, int] | None = None,
) -> Stretch | None:
    """Measure frames (N,) through a camera; None where it was cancelled.

    Frames are drawn small; what is measured is scaled to the scene's own frame, or to ``size``.
    """
    full = size or (scene.settings.width, scene.settings.height)
    small = (_WIDTH, max(16, round(_WIDTH * full[1] / full[0])))
    scale = full[0] / small[0]
    rows: list[tuple[float, float, float]] = []
    picture = FrameRequest(0.0, ThroughLens(camera, stretch=True), *small)
    with FrameStream(scene, base, picture, niceness=_NICENESS) as stream:
        for pixels in stream.frames([float(frame) for frame in frames], cancelled):
            found, received, receiver = factors(pixels)
            total = int(receiver.sum())
            beyond = int((received & (found * scale > factor)).sum())
            high = float(np.quantile(found[received], 0.99)) * scale if received.any() else 0.0
            share = max(total, 1)
            rows.append((beyond / share, int((receiver & ~received).sum()) / share, high))
            progress(len(rows), len(frames))
    if len(rows) < len(frames):
        return None
    table = np.array(rows).reshape(-1, 3)
    return Stretch(np.asarray(frames, dtype=np.float64), table[:, 0], table[:, 1], table[:, 2])
