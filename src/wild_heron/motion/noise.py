"""One-dimensional gradient noise (Perlin 1985, with the quintic fade of Perlin 2002)."""

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array


def _hashed(cells: NDArray[np.int64], seed: NDArray[np.uint64]) -> Array:
    """A slope from -1 to 1 for each whole number, by the mixing steps of SplitMix64 (Steele et al. 2014)."""
    z = cells.astype(np.uint64) + (seed * np.uint64(0x9E3779B97F4A7C15) + np.uint64(0x632BE59BD9B4E019))
    z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    z = z ^ (z >> np.uint64(31))
    return (z >> np.uint64(11)).astype(np.float64) * (2.0 / 2**53) - 1.0


def gradient_noise(x: Array, seed: int | NDArray[np.int64] = 0, cells: int = 0) -> Array:
    """Noise at x (…), within -1 to 1; zero at whole numbers, with a wave or so per unit. One seed, one curve.

    With ``cells`` it repeats after so many units. Seeds are whole numbers of 64 bits, one for all or as many as x; not
    finite where x is not.
    """
    x = np.clip(x, -1e15, 1e15)
    known = np.isfinite(x)
    x = np.where(known, x, 0.0)
    # As arrays, whose products wrap round at 64 bits.
    seeds = np.atleast_1d(np.asarray(seed, dtype=np.int64)).astype(np.uint64)
    cell = np.floor(x)
    inside = x - cell
    left = cell.astype(np.int64)
    right = left + 1
    if cells:
        left, right = left % cells, right % cells
    before = _hashed(left, seeds) * inside
    after = _hashed(right, seeds) * (inside - 1.0)
    fade = inside * inside * inside * (inside * (inside * 6.0 - 15.0) + 10.0)
    return np.where(known, 2.0 * (before + (after - before) * fade), np.nan)


def fractal_noise(
    seconds: Array, seed: int, period: float, octaves: int, persistence: float, loop: float = 0.0
) -> Array:
    """Octaves of noise at times (N,), each twice as quick and ``persistence`` times as strong as the one before, so
    scaled that together they stay within -1 to 1. ``loop``: it repeats after so many seconds."""
    total, weight, most = np.zeros(len(seconds)), 1.0, 0.0
    for octave in range(octaves):
        scale = 2.0**octave / period
        cells = 0
        if loop:
            # A whole number of cells goes into the loop.
            cells = max(1, round(loop * scale))
            scale = cells / loop
        # Octaves that begin together would all be zero together.
        shift = 0.37 + 0.61803 * octave
        total += weight * gradient_noise(seconds * scale + shift, seed * 64 + octave, cells)
        most += weight
        weight *= persistence
    return total / most


def peaked(values: Array, exponent: float) -> Array:
    """sign(n)·|n|^e: above 1 calm with rare peaks, below 1 restless."""
    return values if exponent == 1.0 else np.sign(values) * np.abs(values) ** exponent
