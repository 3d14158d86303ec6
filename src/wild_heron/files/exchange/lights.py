"""Lights in the units of physics, as other programs have them.

Here a surface that faces a light of strength 1 has its own colour; a matte one that sends back as much as it gets is as
bright under π lux.
"""

import numpy as np

from ...arrays import Array


def lux(strength: Array) -> Array:
    """Of a light from afar."""
    return np.pi * strength


def candela(strength: Array, falloff: str, reach: float) -> Array:
    """Of a light at a place: as bright as here at half its reach (in the file's unit), from where it fades with the
    square of the distance."""
    fade = {"none": 1.0, "even": 0.5, "square": (1.0 - 0.25) ** 2}[falloff]
    return np.pi * strength * fade * (0.5 * reach) ** 2
