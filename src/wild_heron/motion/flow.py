"""Slopes for flow spans: monotone piecewise cubic interpolation."""

import numpy as np

from ..arrays import Array


def monotone_slopes(frames: Array, values: Array) -> Array:
    """Slopes at each key so that the cubic through the keys never overshoots them.

    Fritsch and Carlson (1980), with the weighted harmonic mean of Fritsch and Butland (1984) inside and the
    shape-preserving three-point formula at the ends. Takes and returns (K,), K ≥ 2; slopes in values per frame.
    """
    gaps = np.diff(frames)
    secants = np.diff(values) / gaps
    if len(frames) == 2:
        return np.array([secants[0], secants[0]])
    slopes = np.zeros_like(values)
    left, right = secants[:-1], secants[1:]
    same_way = left * right > 0.0
    w1 = 2.0 * gaps[1:] + gaps[:-1]
    w2 = gaps[1:] + 2.0 * gaps[:-1]
    safe_left = np.where(same_way, left, 1.0)
    safe_right = np.where(same_way, right, 1.0)
    with np.errstate(over="ignore"):  # A secant that is next to nothing gives a slope of 0, as it should.
        slopes[1:-1] = np.where(same_way, (w1 + w2) / (w1 / safe_left + w2 / safe_right), 0.0)
    slopes[0] = _end_slope(gaps[0], gaps[1], secants[0], secants[1])
    slopes[-1] = _end_slope(gaps[-1], gaps[-2], secants[-1], secants[-2])
    return slopes


def smooth_slopes(frames: Array, values: Array) -> Array:
    """Slopes (K,) of the smooth curve through the keys: at each that of the parabola through it and its neighbours
    (Catmull-Rom for uneven gaps), at the ends the secant's."""
    gaps = np.diff(frames)
    secants = np.diff(values) / gaps
    slopes = np.empty_like(values)
    slopes[0], slopes[-1] = secants[0], secants[-1]
    slopes[1:-1] = (secants[:-1] * gaps[1:] + secants[1:] * gaps[:-1]) / (gaps[1:] + gaps[:-1])
    return slopes


def _end_slope(gap: float, next_gap: float, secant: float, next_secant: float) -> float:
    slope = ((2.0 * gap + next_gap) * secant - gap * next_secant) / (gap + next_gap)
    if slope * secant <= 0.0:
        return 0.0
    if secant * next_secant <= 0.0 and abs(slope) > 3.0 * abs(secant):
        return 3.0 * secant
    return slope
