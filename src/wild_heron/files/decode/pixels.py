"""The pixels of any artwork but movies."""

import numpy as np
from PIL import Image

from ...arrays import Pixels
from ...scene import Card, Layer, Movie, Picture
from ..contents import PixelsRead
from ..formats import is_vector
from ..stand_in import fitted
from .cards import card_pixels
from .images import read_picture
from .layered import read_layer
from .source import Source


def read_pixels(picture: Picture, file: Source | None, scale: float, limit: int, level: int = 0) -> PixelsRead:
    """A picture's pixels as (H, W, 4) uint8, premultiplied.

    ``scale`` is how large, in parts of its size in artwork pixels, what is drawn is wanted; no side is longer than
    ``limit``. A ``level`` below 0 makes it smaller by 2^−level. FileError where it cannot be read.
    """
    artwork = picture.artwork
    width = max(1, round(picture.width * scale))
    assert not isinstance(artwork, Movie)
    if isinstance(artwork, Card):
        return card_pixels(artwork, (picture.width, picture.height), width, limit)
    assert file is not None
    if isinstance(artwork, Layer):
        pixels = read_layer(file, artwork, width, limit)
    else:
        pixels = read_picture(file, width if is_vector(file.path) else None, limit)
    return PixelsRead(reduced(fitted(pixels, limit), level))


def reduced(pixels: Pixels, level: int) -> Pixels:
    """Pixels made smaller by 2^−level, each the mean of those it stands for."""
    if level >= 0:
        return pixels
    height, width = pixels.shape[:2]
    image = Image.frombuffer("RGBa", (width, height), np.ascontiguousarray(pixels), "raw", "RGBa", 0, 1)
    return np.asarray(image.reduce(2**-level))
