"""Where formats lie in the camera's picture over time."""

import numpy as np

from ..arrays import Array
from ..evaluate import evaluate
from ..evaluate.windows import Windows, windows_at
from ..scene import Format, Scene


def windows_of(scene: Scene, frames: Array, shape: Format) -> Windows:
    """A format's windows at frames (N,)."""
    return windows_at(evaluate(scene, frames, [] if shape.window is None else [shape.window]), scene.settings, shape)


def reach(scene: Scene, frames: Array) -> float:
    """How many frames wide the picture about the same middle must be, to hold all formats at frames (N,)."""
    settings, most = scene.settings, 1.0
    for shape in scene.formats_with_main():
        windows = windows_of(scene, frames if shape.window is not None else frames[:1], shape)
        off = np.abs(windows.corners(settings) - 0.5 * np.array([settings.width, settings.height]))
        most = max(most, float((off / (0.5 * np.array([settings.width, settings.height]))).max()))
    return most
