"""Mixes sound samples, and computes waveform outlines."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene import Rate, Sound

RATE = 48_000
"""Samples a second, of all sound here; it is stereo."""
OUTLINE = 480
"""Samples to a value of an outline: a hundredth of a second."""

Samples = NDArray[np.int16]
"""(N, 2)."""


class Track(NamedTuple):
    """A sound and its samples (N, 2)."""

    sound: Sound
    samples: Samples


def mixed(tracks: list[Track], rate: Rate, start: float, count: int) -> NDArray[np.float32]:
    """What is heard from second ``start`` of the scene on, ``count`` samples (count, 2) between −1 and 1."""
    out = np.zeros((count, 2), np.float32)
    for track in tracks:
        sound = track.sound
        if not sound.on:
            continue
        begins = sound.start / rate.fps - sound.skip
        first = round((start - begins) * RATE)
        low, high = max(first, round(sound.skip * RATE)), min(first + count, len(track.samples))
        if high <= low:
            continue
        piece = track.samples[low:high].astype(np.float32) / 32768.0
        out[low - first : high - first] += piece * _loudness(sound, low, high, len(track.samples))[:, None]
    return np.clip(out, -1.0, 1.0)


def _loudness(sound: Sound, low: int, high: int, total: int) -> NDArray[np.float32]:
    """Gain and fades of samples ``low`` to ``high``."""
    seconds = np.arange(low, high) / RATE - sound.skip
    left = total / RATE - sound.skip - seconds
    fade = np.ones(high - low)
    if sound.fade_in > 0.0:
        fade *= np.clip(seconds / sound.fade_in, 0.0, 1.0)
    if sound.fade_out > 0.0:
        fade *= np.clip(left / sound.fade_out, 0.0, 1.0)
    return (fade * 10.0 ** (sound.gain / 20.0)).astype(np.float32)


def outline(samples: Samples) -> NDArray[np.float32]:
    """How loud each hundredth of a second is at its loudest, (N,) between 0 and 1."""
    whole = len(samples) // OUTLINE * OUTLINE
    if not whole:
        return np.zeros(0, np.float32)
    pieces = samples[:whole].reshape(-1, 2 * OUTLINE)
    loud = np.maximum(pieces.max(axis=1).astype(np.int32), -pieces.min(axis=1).astype(np.int32))
    return (loud / 32768.0).astype(np.float32)


def mono(samples: Samples) -> Array:
    """One channel (N,) of samples (N, 2), between −1 and 1."""
    return np.asarray(samples.astype(np.float32).mean(axis=1) / 32768.0, dtype=np.float64)
