"""Beats found in sound: onsets by spectral flux, tempo by autocorrelation, beats by dynamic programming.

The steps follow Ellis, "Beat Tracking by Dynamic Programming", J. New Music Research 36 (2007), with the tempo found
anew along the piece, so that it may drift.
"""

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ..arrays import Array
from .pulse import STEP, pulse_of, tracked

LEAST_SURE = 0.1
"""Less than this is chance."""
_WINDOW_SECONDS = 0.046
_LEAST_RISE = 0.055
"""Of what is heard within half a second: what rises by less in a hundredth is no onset."""


class BeatsFound(NamedTuple):
    """Seconds of the beats (N,), beats a minute, and which of the first four begins a bar."""

    seconds: Array
    tempo: float
    downbeat: int
    sure: float
    """How much more it repeats than it would by chance, 0 to 1."""


_NONE = BeatsFound(np.zeros(0), 120.0, 0, 0.0)


def find_beats(samples: Array, rate: int) -> BeatsFound:
    """The beats of sound samples (N,) at ``rate`` a second. None where nothing is heard to happen, or nothing of it
    repeats more than it would by chance."""
    envelope, low = onsets(samples, rate)
    if len(envelope) < 2.0 / STEP or not envelope.any():
        return _NONE
    pulse = pulse_of(envelope)
    frames = _on_to_the_ends(tracked(envelope, pulse.periods), envelope)
    if pulse.sure < LEAST_SURE or len(frames) < 4:
        return _NONE._replace(sure=pulse.sure)
    seconds = _refined(envelope, frames) * STEP + _late(rate)
    tempo = 60.0 / float(np.median(np.diff(seconds)))
    return BeatsFound(seconds, tempo, _downbeat(low, frames), pulse.sure)


def onsets(samples: Array, rate: int) -> tuple[Array, Array]:
    """How much begins in each hundredth of a second, (M,), over all frequencies and below 180 Hz."""
    factor = max(1, rate // 16_000)
    used = samples[: len(samples) // factor * factor].reshape(-1, factor).mean(axis=1).astype(np.float32)
    slow = rate / factor
    hop = round(STEP * slow)
    size = 1 << round(np.log2(_WINDOW_SECONDS * slow))
    if len(used) < size:
        return np.zeros(0), np.zeros(0)
    # Each window is centred on its moment.
    padded = np.concatenate([np.zeros(size // 2, np.float32), used, np.zeros(size // 2, np.float32)])
    windows = np.lib.stride_tricks.sliding_window_view(padded, size)[::hop]
    shape = np.hanning(size + 1)[:-1].astype(np.float32)
    flux, low, level = np.zeros((3, len(windows)))
    edge = max(2, int(180.0 / slow * size))
    # By octaves rather than by hertz: a drum is worth more than the hiss of a cymbal.
    weights = (1.0 / (np.arange(size // 2 + 1) * slow / size + 200.0)).astype(np.float32)
    before = np.zeros(size // 2 + 1, np.float32)
    for start in range(0, len(windows), 4096):
        block = windows[start : start + 4096] * shape
        spectrum = np.sqrt(np.abs(np.fft.rfft(block, axis=1))).astype(np.float32)
        rise = np.maximum(np.diff(np.concatenate([before[None], spectrum]), axis=0), 0.0)
        flux[start : start + len(block)] = rise @ weights
        low[start : start + len(block)] = rise[:, :edge].sum(axis=1)
        level[start : start + len(block)] = spectrum @ weights
        before = spectrum[-1]
    flux[0] = low[0] = 0.0
    heard = flux > _LEAST_RISE * _loudest_near(level)
    return _standing_out(np.where(heard, flux, 0.0)), _standing_out(low)


def _loudest_near(level: Array) -> Array:
    from scipy import ndimage

    return np.asarray(ndimage.maximum_filter1d(level, round(0.5 / STEP)))


@lru_cache(maxsize=8)
def _late(rate: int) -> float:
    """How much later than in the envelope a click is, in seconds: a window hears it coming."""
    samples = np.zeros(rate)
    samples[rate // 2] = 1.0
    envelope, _ = onsets(samples, rate)
    at = float(_refined(envelope, np.array([float(envelope.argmax())]))[0])
    return 0.5 - at * STEP


def _standing_out(flux: Array) -> Array:
    """What stands out of its surroundings of half a second, scaled to a spread of one."""
    from scipy import ndimage  # is seldom needed, and takes long to load

    around = ndimage.uniform_filter1d(flux, round(0.5 / STEP))
    out = np.maximum(ndimage.gaussian_filter1d(flux, 1.0) - around, 0.0)
    spread = float(out.std())
    return np.asarray(out / spread) if spread > 1e-9 else np.zeros_like(out)


def _on_to_the_ends(beats: Array, envelope: Array) -> Array:
    """Beats that something is heard at; those before the first and after the last onset go."""
    loud = np.array([envelope[max(int(b) - 4, 0) : int(b) + 5].max() for b in beats])
    heard = np.flatnonzero(loud > 0.2 * np.median(loud))
    return beats[heard[0] : heard[-1] + 1] if len(heard) else beats[:0]


def _refined(envelope: Array, frames: Array) -> Array:
    """Beats moved onto the onset within 40 ms, between steps by a parabola; those without one lie between others."""
    out = frames.copy()
    for k, frame in enumerate(frames.astype(int).tolist()):
        low, high = max(frame - 4, 1), min(frame + 5, len(envelope) - 1)
        at = low + int(envelope[low:high].argmax())
        a, b, c = envelope[at - 1 : at + 2]
        if low < at < high - 1 or a < b > c:
            bend = a - 2.0 * b + c
            out[k] = at + (0.5 * (a - c) / bend if bend < 0.0 else 0.0)
    return out


def _downbeat(low: Array, frames: Array) -> int:
    """Which of four beats has the deepest sound."""
    at = frames.astype(int)
    deep = np.array([low[max(each - 3, 0) : each + 4].max(initial=0.0) for each in at.tolist()])
    means = [float(deep[k::4].mean()) if len(deep[k::4]) else 0.0 for k in range(4)]
    return int(np.argmax(means)) if max(means) > 1.1 * (sum(means) / 4 + 1e-12) else 0
