"""Beats of the music in frames, and frames in beats."""

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene import Beats, Rate

_TEMPO = 120.0
"""Where no beats are known, they are this many a minute from frame 0 on."""


def beat_frames(beats: Beats | None, rate: Rate, first: float, last: float) -> tuple[Array, NDArray[np.bool_]]:
    """The frames of the beats between two frames, (N,), and whether each begins a bar."""
    if beats is None:
        return np.zeros(0), np.zeros(0, dtype=bool)
    if beats.at:
        frames = np.array(beats.at)
        numbers = np.arange(len(frames))
    else:
        step = 60.0 / beats.tempo * rate.fps
        numbers = np.arange(np.ceil((first - beats.first) / step), np.floor((last - beats.first) / step) + 1.0)
        frames = beats.first + numbers * step
    inside = (frames >= first) & (frames <= last)
    bars = (numbers.astype(np.int64) - beats.downbeat) % beats.bar == 0
    return frames[inside], bars[inside]


def beat_numbers(beats: Beats | None, rate: Rate, frames: Array) -> Array:
    """How many beats after the first each frame (N,) lies, between beats too. Without beats there are 120 a minute."""
    if beats is not None and len(beats.at) > 1:
        at = np.array(beats.at)
        step = (at[-1] - at[0]) / (len(at) - 1)
        inside = np.interp(frames, at, np.arange(len(at), dtype=np.float64))
        early, late = np.minimum(frames - at[0], 0.0), np.maximum(frames - at[-1], 0.0)
        return inside + (early + late) / step
    tempo, first = (beats.tempo, beats.first) if beats is not None else (_TEMPO, 0.0)
    return (frames - first) * tempo / (60.0 * rate.fps)
