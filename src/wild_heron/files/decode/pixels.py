"""The pixels of any artwork but movies."""

import numpy as np
from PIL import Image

from ...arrays import Pixels
from ...scene import Gradient, Layer, Movie, Picture, Solid, Text
from ..contents import PixelsRead
from ..formats import is_vector
from ..stand_in import fitted
from .cards import card_svg
from .images import read_picture
from .layered import read_layer
from .lettering import lettering
from .source import Source
from .vector import draw_svg


def read_pixels(picture: Picture, file: Source | None, scale: float, limit: int, level: int = 0) -> PixelsRead:
    """A picture's pixels as (H, W, 4) uint8, premultiplied.

    ``scale`` is how large, in parts of its size in artwork pixels, what is drawn is wanted; no side is longer than
    ``limit``. A ``level`` below 0 makes it smaller by 2^−level. FileError where it cannot be read.
    """
    artwork = picture.artwork
    width = max(1, round(picture.width * scale))
    assert not isinstance(artwork, Movie)
    if isinstance(artwork, Solid):
        tone = [int(artwork.colour[k : k + 2], 16) * artwork.strength for k in (1, 3, 5)]
        flat = np.full((4, 4, 4), [*tone, 255.0 * artwork.strength], dtype=np.float64).round().astype(np.uint8)
        return PixelsRead(flat)
    if isinstance(artwork, Text | Gradient):
        pixels = draw_svg(None, card_svg(artwork, picture.width, picture.height), width, limit)
        return PixelsRead(pixels, lettering(artwork).problem if isinstance(artwork, Text) else "")
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
