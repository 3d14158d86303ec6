"""Where the samples of a frame lie: in time inside the shutter, on the lens, and inside a pixel."""

import numpy as np

from ..arrays import Array


def shutter_times(opens: float, closes: float, samples: int) -> Array:
    """Frames (n,) at the middles of n equal parts of the shutter's opening."""
    share = (np.arange(samples) + 0.5) / samples - 0.5
    return np.asarray(0.5 * (opens + closes) + share * (closes - opens))


def pixel_offsets(samples: int) -> Array:
    """Offsets (n, 2) inside a pixel, −½ to ½: its centre for one sample, else Halton points in bases 2 and 3."""
    if samples == 1:
        return np.zeros((1, 2))
    points = np.array([[_radical_inverse(i + 1, 2), _radical_inverse(i + 1, 3)] for i in range(samples)])
    return points - points.mean(axis=0)


def lens_points(samples: int) -> Array:
    """Points (n, 2) on the unit disc: its middle for one sample, else Vogel's spiral about it, evenly spread.

    They come in an order that has nothing to do with time, so that early samples do not all lie on one side.
    """
    if samples == 1:
        return np.zeros((1, 2))
    order = np.argsort([_radical_inverse(i + 1, 5) for i in range(samples)], kind="stable")
    radius = np.sqrt((np.arange(samples) + 0.5) / samples)
    angle = np.arange(samples) * np.pi * (3.0 - np.sqrt(5.0))
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1)
    return (points - points.mean(axis=0))[order]


def _radical_inverse(number: int, base: int) -> float:
    result, digit = 0.0, 1.0 / base
    while number:
        number, remainder = divmod(number, base)
        result += remainder * digit
        digit /= base
    return result
