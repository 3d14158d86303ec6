"""Positions of a frame's samples: in shutter time, on the lens, and inside a pixel."""

from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..scene import Exposure


def shutter_times(opens: float, closes: float, samples: int, exposure: Exposure = "box") -> Array:
    """Frames (n,) at the middles of n parts of the shutter's opening that let in equally much light.

    ``soft``: by a raised cosine, which is nothing at either end. A moment's share of the light up to there is
    x + sin(2πx) / 2π for x from −½ to ½.
    """
    share = (np.arange(samples) + 0.5) / samples - 0.5
    if exposure == "soft":
        share = _soft_moments(share)
    return np.asarray(0.5 * (opens + closes) + share * (closes - opens))


def _soft_moments(light: Array) -> Array:
    """Where in −½ to ½ a soft shutter has let in so much of its light (n,), told from −½ to ½."""
    low, high = np.full_like(light, -0.5), np.full_like(light, 0.5)
    for _ in range(54):
        middle = 0.5 * (low + high)
        less = middle + np.sin(2.0 * np.pi * middle) / (2.0 * np.pi) < light
        low, high = np.where(less, middle, low), np.where(less, high, middle)
    return 0.5 * (low + high)


class PixelParts(NamedTuple):
    """A pixel in n parts of one size: a place in each (n, 2), its middle (n, 2) and its sides (n, 2), in pixels from
    the pixel's middle."""

    places: Array
    middles: Array
    sides: Array


def pixel_parts(samples: int) -> PixelParts:
    """Columns, and rows in each of them, that fill a pixel; places in them by van der Corput's sequences."""
    columns = max(1, round(samples**0.5))
    middles, sides = [], []
    for i in range(samples):
        # Each row and each column gets moments from all of the time.
        column, turn = i % columns, i // columns
        counts = [samples // columns + (k < samples % columns) for k in range(column + 1)]
        count = counts[-1]
        row = (turn + column) % count
        middles.append(((sum(counts) - 0.5 * count) / samples - 0.5, (row + 0.5) / count - 0.5))
        sides.append((count / samples, 1.0 / count))
    centres, sizes = np.array(middles), np.array(sides)
    within = np.array([[_radical_inverse(i + 1, 2), _radical_inverse(i + 1, 3)] for i in range(samples)])
    inside = within - within.mean(axis=0) if samples > 1 else np.zeros((1, 2))
    return PixelParts(centres + inside * sizes, centres, sizes)


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
