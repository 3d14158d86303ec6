"""Filters over time that give the same result wherever they are looked at."""

import numpy as np

from ..arrays import Array

_LN2 = float(np.log(2.0))


def lagged(values: Array, half_life: Array) -> Array:
    """A first-order low-pass of values (N, C) on a grid of whole steps, starting at rest on the first one.

    ``half_life`` (N,) in steps is that of the step that ends at each value; 0 follows at once. Between the grid's
    points the values are taken to run straight, for which each step is exact: with decay a = 2^(−1/h) and time constant
    τ = h/ln 2, the error to the values goes e' = a·e − τ·(1 − a)·Δu.
    """
    out = values.copy()
    decay, gap = _step(half_life, 1.0)
    change = np.diff(values, axis=0)
    error = [0.0] * values.shape[1]
    for k, row in enumerate(change.tolist()):
        a, g = decay[k + 1], gap[k + 1]
        error = [float(a) * e - float(g) * d for e, d in zip(error, row, strict=True)]
        out[k + 1] += error
    return out


def lagged_between(left: Array, right: Array, lagged_left: Array, half_life: Array, share: Array) -> Array:
    """The lagged values (M, C) at a share (M,) of the step between two of the grid, given both values and the lagged
    one at its left end, (M, C) each, and the half-life (M,) of the step."""
    decay, gap = _step(half_life, share)
    change = right - left
    at = left + change * share[:, None]
    return at + (lagged_left - left) * decay[:, None] - change * gap[:, None]


def _step(half_life: Array, length: float | Array) -> tuple[Array, Array]:
    """Decay over a step of a length, and τ·(1 − decay)."""
    moving = half_life > 1e-9
    safe = np.where(moving, half_life, 1.0)
    decay = np.where(moving, np.exp2(-length / safe), 0.0)
    return decay, np.where(moving, safe / _LN2 * (1.0 - decay), 0.0)
