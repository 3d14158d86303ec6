"""Decodes the pixels of any artwork but movies."""

from typing import Any

import numpy as np
from PIL import Image

from ...arrays import Pixels
from ...scene import Card, Layer, Movie, Picture
from ..contents import PixelsRead
from ..formats import is_vector
from ..light import as_light, light_of, mean_light
from ..stand_in import fitted
from .cards import card_pixels
from .depth import read_deep
from .images import read_picture
from .layered import read_layer
from .source import Source
from .vector import read as read_drawing


def read_pixels(
    picture: Picture, file: Source | None, scale: float, limit: int, level: int = 0, linear: bool = False,
    part: tuple[float, float, float, float] | None = None, exact: bool = False,
) -> PixelsRead:  # fmt: skip
    """A picture's pixels as (H, W, 4) uint8, premultiplied; where they are to be ``exact`` and the file has more than
    eight bits, as float32, and where they are to be exact and linear, as floats of light.

    ``scale`` is how large, in parts of its size in artwork pixels, what is drawn is wanted; no side is longer than
    ``limit``. A ``level`` below 0 makes it smaller by 2^−level; ``linear``: as light mixes (see ``files.light``).
    ``part`` (u0, v0, u1, v1; v from the top): only that of what is drawn. FileError where it cannot be read.
    """
    artwork = picture.artwork
    width = max(1, round(picture.width * scale * (1.0 if part is None else part[2] - part[0])))
    assert not isinstance(artwork, Movie)
    if isinstance(artwork, Card):
        drawn = card_pixels(artwork, (picture.width, picture.height), width, limit, part)
        return PixelsRead(_light(drawn.pixels, exact), drawn.problem) if linear else drawn
    assert file is not None
    if isinstance(artwork, Layer):
        pixels = read_layer(file, artwork, width, limit, part)
    elif is_vector(file.path):
        pixels = read_drawing(file, width, limit, part)
    else:
        deep = read_deep(file, limit, linear) if exact and level == 0 else None
        if deep is not None:
            return PixelsRead(deep)
        pixels = read_picture(file, None, limit)
    pixels = fitted(pixels, limit)
    if not linear:
        return PixelsRead(reduced(pixels, level))
    return PixelsRead(mean_light(pixels, 2**-level) if level < 0 else _light(pixels, exact))


def _light(pixels: Pixels, exact: bool) -> Any:
    return light_of(pixels) if exact else as_light(pixels)


def reduced(pixels: Pixels, level: int) -> Pixels:
    """Pixels (H, W, 4) made smaller by 2^−level, each the mean of those it stands for."""
    if level >= 0:
        return pixels
    height, width = pixels.shape[:2]
    image = Image.frombuffer("RGBa", (width, height), np.ascontiguousarray(pixels), "raw", "RGBa", 0, 1)
    return np.asarray(image.reduce(2**-level))
