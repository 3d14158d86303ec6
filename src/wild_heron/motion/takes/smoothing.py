"""Smoothing without delay: penalised least squares (Whittaker 1923; Eilers, Anal. Chem. 75, 2003).

z minimises Σ w·(y − z)² + λ·Σ (Δ³z)²: what is smooth to the third order, such as a dolly that speeds up evenly, passes
unchanged, there is no delay, the ends need nothing beyond them, and samples of weight 0 are filled in.
"""

import numpy as np

from ...arrays import Array

_DIFFERENCE = np.array([-1.0, 3.0, -3.0, 1.0])


def smoothed(values: Array, step: float, cutoff: float, weights: Array | None = None) -> Array:
    """Values (N, C) at even steps in seconds, passed below a frequency in Hz: one at the cutoff comes through at half
    its height, others at 1 / (1 + (f / cutoff)⁶) of it. ``weights`` (N,), 0 to 1."""
    from scipy.linalg import solveh_banded

    count = len(values)
    if count < 5 or cutoff * step >= 0.5:
        return values.copy()
    strength = (2.0 * np.sin(np.pi * cutoff * step)) ** -6
    weight = np.ones(count) if weights is None else weights
    # DᵀD, whose rows are the autocorrelation of the difference but for the three at either end.
    bands = np.zeros((4, count))
    for k in range(4):
        products = _DIFFERENCE[: 4 - k] * _DIFFERENCE[k:]
        for shift, product in enumerate(products):
            # Difference number j uses samples j … j + 3.
            bands[3 - k, k + shift : count - 3 + shift + k] += product
    matrix = strength * bands
    matrix[3] += weight
    try:
        return np.asarray(solveh_banded(matrix, weight[:, None] * values, check_finite=False))
    except np.linalg.LinAlgError:
        # Hardly a sample counts: a trace of weight on all of them says enough.
        matrix[3] += 1e-9 * strength
        return np.asarray(solveh_banded(matrix, (weight[:, None] + 1e-9 * strength) * values, check_finite=False))
