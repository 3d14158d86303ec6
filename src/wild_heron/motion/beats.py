"""Beats found in sound: onsets by spectral flux, tempo by autocorrelation, beats by dynamic programming.

The steps follow Ellis, "Beat Tracking by Dynamic Programming", J. New Music Research 36 (2007), with the tempo found
anew along the piece, so that it may drift.
"""

from typing import NamedTuple

import numpy as np

from ..arrays import Array

SLOWEST, FASTEST = 60.0, 200.0
"""Beats a minute."""
_STEP = 0.01
"""Seconds between two values of the onset envelope."""
_WINDOW_SECONDS = 0.046
_LOCAL_SECONDS, _LOCAL_STEP = 12.0, 3.0
"""Over how long a stretch tempo is told, and how often."""
_TIGHTNESS = 100.0
_ALMOST = 0.86
"""A quicker pulse that repeats nearly as well as the best one is the beat."""


class BeatsFound(NamedTuple):
    """Seconds of the beats (N,), beats a minute, and which of the first four begins a bar."""

    seconds: Array
    tempo: float
    downbeat: int


def find_beats(samples: Array, rate: int) -> BeatsFound:
    """The beats of sound samples (N,) at ``rate`` a second. No beats where nothing is heard to happen."""
    envelope, low = onsets(samples, rate)
    if len(envelope) < 2.0 / _STEP or not envelope.any():
        return BeatsFound(np.zeros(0), 120.0, 0)
    periods = _periods(envelope)
    frames = _track(envelope, periods)
    if len(frames) < 2:
        return BeatsFound(np.zeros(0), 120.0, 0)
    seconds = _refined(envelope, frames) * _STEP
    tempo = 60.0 / float(np.median(np.diff(seconds)))
    return BeatsFound(seconds, tempo, _downbeat(low, frames))


def onsets(samples: Array, rate: int) -> tuple[Array, Array]:
    """How much begins in each hundredth of a second, (M,), over all frequencies and below 180 Hz."""
    factor = max(1, rate // 16_000)
    used = samples[: len(samples) // factor * factor].reshape(-1, factor).mean(axis=1).astype(np.float32)
    slow = rate / factor
    hop = round(_STEP * slow)
    size = 1 << round(np.log2(_WINDOW_SECONDS * slow))
    if len(used) < size:
        return np.zeros(0), np.zeros(0)
    # Each window is centred on its moment.
    padded = np.concatenate([np.zeros(size // 2, np.float32), used, np.zeros(size // 2, np.float32)])
    windows = np.lib.stride_tricks.sliding_window_view(padded, size)[::hop]
    shape = np.hanning(size + 1)[:-1].astype(np.float32)
    flux, low = np.zeros(len(windows)), np.zeros(len(windows))
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
        before = spectrum[-1]
    flux[0] = low[0] = 0.0
    return _standing_out(flux), _standing_out(low)


def _standing_out(flux: Array) -> Array:
    """What stands out of its surroundings of half a second, scaled to a spread of one."""
    from scipy import ndimage  # is seldom needed, and takes long to load

    around = ndimage.uniform_filter1d(flux, round(0.5 / _STEP))
    out = np.maximum(ndimage.gaussian_filter1d(flux, 1.0) - around, 0.0)
    spread = float(out.std())
    return np.asarray(out / spread) if spread > 1e-9 else np.zeros_like(out)


def _periods(envelope: Array) -> Array:
    """The time of a beat, in steps, at each moment (M,): told from stretches by autocorrelation, smooth over time."""
    from scipy import ndimage

    low, high = 60.0 / FASTEST / _STEP, 60.0 / SLOWEST / _STEP
    lags = np.arange(int(2.2 * high) + 3)
    size = min(len(envelope), round(_LOCAL_SECONDS / _STEP))
    starts = np.arange(0, max(len(envelope) - size, 0) + 1, round(_LOCAL_STEP / _STEP))
    strength = []
    for start in starts.tolist():
        piece = ndimage.gaussian_filter1d(envelope[start : start + size], 1.5)
        spectrum = np.fft.rfft(piece - piece.mean(), 2 * size)
        found = np.fft.irfft(np.abs(spectrum) ** 2)[: min(len(lags), size)]
        counts = np.maximum(size - np.arange(len(found)), size // 4)
        found = np.pad(found / counts, (0, len(lags) - len(found)))
        strength.append(found / max(float(found[0]), 1e-12))
    curves = np.array(strength)
    tempo = _best_period(curves.mean(axis=0), low, high)
    # Around the tempo of the whole, by a fifth up or down, the best path from stretch to stretch.
    choices = np.arange(max(2.0, 0.8 * tempo), min(1.25 * tempo, len(lags) - 2.0), 0.25)
    scores = np.array([_repeats(curve, choices) for curve in curves])
    jump = -400.0 * np.log(choices[:, None] / choices[None, :]) ** 2
    total, back = scores[0], []
    for row in scores[1:]:
        whole = total[None, :] + jump
        back.append(whole.argmax(axis=1))
        total = whole.max(axis=1) + row
    at = [int(total.argmax())]
    for step in reversed(back):
        at.append(int(step[at[-1]]))
    middles = starts + 0.5 * size
    return np.interp(np.arange(len(envelope)), middles, choices[at[::-1]])


def _repeats(curve: Array, lags: Array) -> Array:
    """How well a curve repeats after lags (K,), once and twice."""
    at = np.arange(len(curve))
    return np.asarray(np.interp(lags, at, curve) + 0.5 * np.interp(2.0 * lags, at, curve))


def _best_period(curve: Array, low: float, high: float) -> float:
    lags = np.arange(low, high, 0.25)
    worth = _repeats(curve, lags)
    peaks = np.flatnonzero((worth[1:-1] >= worth[:-2]) & (worth[1:-1] >= worth[2:])) + 1
    if not len(peaks):
        return float(lags[worth.argmax()])
    best = worth[peaks].max()
    return float(lags[next(k for k in peaks.tolist() if worth[k] >= _ALMOST * best)])


def _track(envelope: Array, periods: Array) -> Array:
    """The steps (N,) that hold together best as beats: on onsets, and a period apart."""
    score = envelope.tolist()
    back = np.full(len(envelope), -1, dtype=np.int64)
    totals = np.array(score)
    for t in range(len(envelope)):
        period = periods[t]
        first, last = t - int(2.0 * period), t - int(0.5 * period)
        if last <= 0:
            continue
        first = max(first, 0)
        apart = t - np.arange(first, last)
        options = totals[first:last] - _TIGHTNESS * np.log(apart / period) ** 2
        best = int(options.argmax())
        if options[best] > 0.0:
            totals[t] += options[best]
            back[t] = first + best
    tail = len(totals) - int(1.5 * periods[-1])
    at = max(tail, 0) + int(totals[max(tail, 0) :].argmax())
    found = [at]
    while back[found[-1]] >= 0:
        found.append(int(back[found[-1]]))
    return _on_to_the_ends(np.array(found[::-1], dtype=np.float64), envelope, periods)


def _on_to_the_ends(beats: Array, envelope: Array, periods: Array) -> Array:
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
