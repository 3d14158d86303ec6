"""The pulse of an onset envelope: how long a beat is, of all the pulses that go together, and how sure that is."""

from typing import NamedTuple

import numpy as np

from ..arrays import Array, Rows

SLOWEST, FASTEST = 60.0, 200.0
"""Beats a minute."""
STEP = 0.01
"""Seconds between two values of an onset envelope."""
_LOCAL_SECONDS, _LOCAL_STEP = 12.0, 3.0
"""Over how long a stretch tempo is told, and how often."""
_SHORTEST = 0.14
"""Seconds of the quickest pulse that is looked for: the halves of a beat."""
_NEARLY = 0.8
"""A quicker pulse that repeats nearly as well as the best one is the one that others are multiples of."""
_CHANCES = 12
_BLOCK_SECONDS = 0.08, 0.25
_DEVIATIONS = 2.0


class Pulse(NamedTuple):
    """The time of a beat, in steps, at each moment (M,), and by how much the envelope repeats after it, more than it
    would by chance: 0 to 1."""

    periods: Array
    sure: float


def pulse_of(envelope: Array) -> Pulse:
    """The pulse of an onset envelope (M,), longer than two seconds."""
    starts, curves = _stretches(envelope)
    beat = _beat(envelope, starts, curves)
    periods, found = _followed(starts, curves, beat)
    chance = [_followed(*_stretches(each), beat)[1] for each in _shuffled(envelope)]
    usual, spread = float(np.mean(chance)), float(np.std(chance))
    sure = (found - usual - _DEVIATIONS * spread) / max(1.0 - usual - _DEVIATIONS * spread, 1e-9)
    return Pulse(_at_every_step(envelope, periods, starts), float(np.clip(sure, 0.0, 1.0)))


def _stretches(envelope: Array) -> tuple[Rows, Array]:
    """Where stretches (S,) of an envelope begin, and how alike each is to itself after lags (S, L), 1 after none."""
    from scipy import ndimage  # is seldom needed, and takes long to load

    lags = round(4.2 * 60.0 / SLOWEST / STEP)
    size = min(len(envelope), round(_LOCAL_SECONDS / STEP))
    starts = np.arange(0, max(len(envelope) - size, 0) + 1, round(_LOCAL_STEP / STEP))
    found = []
    for start in starts.tolist():
        piece = ndimage.gaussian_filter1d(envelope[start : start + size], 1.5)
        spectrum = np.fft.rfft(piece - piece.mean(), 2 * size)
        alike = np.fft.irfft(np.abs(spectrum) ** 2)[: min(lags, size)]
        alike = alike / np.maximum(size - np.arange(len(alike)), size // 4)
        found.append(np.pad(alike / max(float(alike[0]), 1e-12), (0, lags - len(alike))))
    return starts, np.array(found)


def _shuffled(envelope: Array) -> list[Array]:
    """The envelope in short pieces in another order: as much happens, as suddenly, and nothing repeats."""
    out = []
    for seed in range(_CHANCES):
        chance = np.random.default_rng(seed)
        sizes = chance.uniform(*_BLOCK_SECONDS, int(len(envelope) * STEP / _BLOCK_SECONDS[0]) + 2) / STEP
        pieces = np.split(envelope, np.cumsum(sizes).astype(int)[np.cumsum(sizes) < len(envelope)])
        out.append(np.concatenate([pieces[k] for k in chance.permutation(len(pieces))]))
    return out


def _followed(starts: Rows, curves: Array, beat: float) -> tuple[Array, float]:
    """The time of a beat in each stretch, around that of the whole by a fifth up or down, on the best path from stretch
    to stretch; and how well the envelope repeats after it on the whole."""
    choices = np.arange(max(2.0, 0.8 * beat), min(1.25 * beat, 0.5 * curves.shape[1] - 2.0), 0.25)
    once = np.array([np.interp(choices, np.arange(len(curve)), curve) for curve in curves])
    twice = np.array([np.interp(2.0 * choices, np.arange(len(curve)), curve) for curve in curves])
    scores = once + 0.5 * twice
    jump = -400.0 * np.log(choices[:, None] / choices[None, :]) ** 2
    total, back = scores[0], []
    for row in scores[1:]:
        whole = total[None, :] + jump
        back.append(whole.argmax(axis=1))
        total = whole.max(axis=1) + row
    at = [int(total.argmax())]
    for step in reversed(back):
        at.append(int(step[at[-1]]))
    path = np.array(at[::-1])
    rows = np.arange(len(path))
    return choices[path], float(0.5 * (once[rows, path] + twice[rows, path]).mean())


# Which pulse is the beat


def _beat(envelope: Array, starts: Rows, curves: Array) -> float:
    """The time of a beat in steps: the quickest even pulse where all of it is as strong; else a multiple of it.

    Where only some of the quick pulse is strong, it is what the beats are divided into: two of them make one, or three
    or four where only every third or fourth is strong.
    """
    quick = _quickest(curves.mean(axis=0))
    tempo = 60.0 / STEP / quick
    bars = _bars(envelope, _followed(starts, curves, quick)[0], starts)
    weakest = float((bars.min(axis=1) / np.maximum(bars.mean(axis=1), 1e-12)).mean()) if len(bars) else 1.0
    if tempo <= FASTEST and weakest >= np.clip(0.3 + 0.2 * (tempo - 110.0) / 30.0, 0.15, 0.6):
        return quick
    at, curve = np.arange(curves.shape[1]), curves.mean(axis=0)
    two, three = (float(np.interp(k * quick, at, curve) + np.interp(2 * k * quick, at, curve)) for k in (2, 3))
    if three > 1.4 * two:
        return _within(3.0 * quick)
    beat = 2.0 * quick
    return _within(2.0 * beat if 30.0 / STEP / beat >= SLOWEST and _alternation(bars) < 0.4 else beat)


def _within(beat: float) -> float:
    """A beat, or its half or double, that is neither too quick nor too slow."""
    while 60.0 / STEP / beat > FASTEST:
        beat *= 2.0
    while 60.0 / STEP / beat < SLOWEST:
        beat /= 2.0
    return beat


def _quickest(curve: Array) -> float:
    """The quickest pulse, in steps, whose multiples a curve of likeness peaks at, and falls off between."""
    lags = np.arange(_SHORTEST / STEP, 60.0 / SLOWEST / STEP + 1.0, 0.25)
    at = np.arange(len(curve))

    def mean_near(multiples: tuple[float, ...], pick: bool) -> Array:
        total = np.zeros(len(lags))
        for multiple in multiples:
            places = multiple * lags
            near = [np.interp(places * (1.0 + off), at, curve) for off in ((-0.02, 0.0, 0.02) if pick else (0.0,))]
            total += np.max(near, axis=0)
        return total / len(multiples)

    worth = mean_near((1.0, 2.0, 3.0, 4.0), True) - mean_near((0.5, 1.5, 2.5, 3.5), False)
    peaks = np.flatnonzero((worth[1:-1] >= worth[:-2]) & (worth[1:-1] >= worth[2:])) + 1
    best = float(worth[peaks].max(initial=0.0))
    if best <= 0.0:
        return float(lags[worth.argmax()])
    return float(lags[next(k for k in peaks.tolist() if worth[k] >= _NEARLY * best)])


_BAR = 8
_ROUNDS = 4


def _bars(envelope: Array, periods: Array, starts: Rows) -> Array:
    """How strong each of eight pulses in a row is (W, 8), on the whole of a few rounds, over and over."""
    found = tracked(envelope, _at_every_step(envelope, periods, starts)).astype(int)
    near = [np.take(envelope, found + k, mode="clip") for k in range(-3, 4)]
    strong = np.max(near, axis=0) if len(found) else np.zeros(0)
    size = _BAR * _ROUNDS if len(strong) >= _BAR * _ROUNDS else _BAR
    return np.asarray(strong[: len(strong) // size * size].reshape(-1, size // _BAR, _BAR).mean(axis=1))


def _alternation(bars: Array) -> float:
    """How strong the weaker of every two beats is, of the stronger, a beat being two pulses."""
    ratios = []
    for bar in bars:
        beats = max(bar[::2], bar[1::2], key=lambda each: float(each.sum()))
        low, high = sorted((float(beats[::2].sum()), float(beats[1::2].sum())))
        ratios.append(low / max(high, 1e-12))
    return float(np.mean(ratios)) if ratios else 1.0


_TIGHTNESS = 100.0


def tracked(envelope: Array, periods: Array) -> Array:
    """The steps (N,) that hold together best as pulses: on onsets, and a period (M,) apart (Ellis 2007)."""
    back = np.full(len(envelope), -1, dtype=np.int64)
    totals = np.array(envelope)
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
    tail = max(len(totals) - int(1.5 * periods[-1]), 0)
    found = [tail + int(totals[tail:].argmax())]
    while back[found[-1]] >= 0:
        found.append(int(back[found[-1]]))
    return np.array(found[::-1], dtype=np.float64)


def _at_every_step(envelope: Array, periods: Array, starts: Rows) -> Array:
    """Periods of stretches (S,) at each moment (M,)."""
    middles = starts + 0.5 * min(len(envelope), round(_LOCAL_SECONDS / STEP))
    return np.interp(np.arange(len(envelope)), middles, periods)
