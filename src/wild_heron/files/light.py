"""Pixels as light mixes: alpha has to do with light rather than with the values that a display is sent."""

from functools import lru_cache

import numpy as np

from ..arrays import Pixels
from ..colour import to_display, to_light

_ROWS = 256


@lru_cache(maxsize=1)
def _table() -> Pixels:
    """By alpha and a value that was multiplied by it as it is displayed (256 · 256): the value that is displayed where
    as much light is multiplied."""
    alpha, value = np.mgrid[0:256, 0:256].astype(float)
    own = np.minimum(value / np.maximum(alpha, 1.0), 1.0)
    return np.round(to_display(to_light(own) * alpha / 255.0) * 255.0).astype(np.uint8).ravel()


def as_light(pixels: Pixels) -> Pixels:
    """Premultiplied pixels (H, W, 4) so that what a display's values stand for, which is light, is multiplied."""
    if int(pixels[..., 3].min(initial=255)) == 255:
        return pixels
    out = pixels.copy()
    table = _table()
    for first in range(0, len(out), _ROWS):
        rows = out[first : first + _ROWS]
        clear = rows[..., 3:].astype(np.uint16) << 8
        rows[..., :3] = table[clear | rows[..., :3]]
    return out
