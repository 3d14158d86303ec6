"""Colours: display values and linear light (sRGB, IEC 61966-2-1)."""

import numpy as np
from numpy.typing import ArrayLike

from .arrays import Array


def to_display(light: ArrayLike) -> Array:
    """Linear light 0–1 as display values 0–1, of any shape (…)."""
    light = np.asarray(light)
    return np.where(light <= 0.0031308, light * 12.92, 1.055 * np.maximum(light, 1e-9) ** (1 / 2.4) - 0.055)


def to_light(shown: ArrayLike) -> Array:
    """Display values 0–1 as linear light 0–1, of any shape (…)."""
    shown = np.asarray(shown)
    return np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)
