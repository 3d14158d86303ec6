"""The pixels of any artwork but movies."""

import numpy as np
from PIL import Image

from ...arrays import Pixels
from ...colour import to_display, to_light
from ...scene import Card, Layer, Movie, Picture
from ..contents import PixelsRead
from ..formats import is_vector
from ..light import as_light
from ..stand_in import fitted
from .cards import card_pixels
from .images import read_picture
from .layered import read_layer
from .source import Source
from .vector import read as read_drawing

_AT_ONCE = 4_000_000


def read_pixels(
    picture: Picture, file: Source | None, scale: float, limit: int, level: int = 0, linear: bool = False,
    part: tuple[float, float, float, float] | None = None,
) -> PixelsRead:  # fmt: skip
    """A picture's pixels as (H, W, 4) uint8, premultiplied.

    ``scale`` is how large, in parts of its size in artwork pixels, what is drawn is wanted; no side is longer than
    ``limit``. A ``level`` below 0 makes it smaller by 2^−level; ``linear``: as light mixes (see ``files.light``).
    ``part`` (u0, v0, u1, v1; v from the top): only that of what is drawn. FileError where it cannot be read.
    """
    artwork = picture.artwork
    width = max(1, round(picture.width * scale * (1.0 if part is None else part[2] - part[0])))
    assert not isinstance(artwork, Movie)
    if isinstance(artwork, Card):
        drawn = card_pixels(artwork, (picture.width, picture.height), width, limit, part)
        return PixelsRead(as_light(drawn.pixels), drawn.problem) if linear else drawn
    assert file is not None
    if isinstance(artwork, Layer):
        pixels = read_layer(file, artwork, width, limit, part)
    elif is_vector(file.path):
        pixels = read_drawing(file, width, limit, part)
    else:
        pixels = read_picture(file, None, limit)
    pixels = fitted(pixels, limit)
    return PixelsRead(reduced_as_light(pixels, level) if linear else reduced(pixels, level))


def reduced(pixels: Pixels, level: int) -> Pixels:
    """Pixels made smaller by 2^−level, each the mean of those it stands for."""
    if level >= 0:
        return pixels
    height, width = pixels.shape[:2]
    image = Image.frombuffer("RGBa", (width, height), np.ascontiguousarray(pixels), "raw", "RGBa", 0, 1)
    return np.asarray(image.reduce(2**-level))


def reduced_as_light(pixels: Pixels, level: int) -> Pixels:
    """Pixels as light mixes, made smaller by 2^−level: each the mean of the light of those it stands for."""
    if level >= 0:
        return as_light(pixels)
    side = 2**-level
    height, width = pixels.shape[:2]
    out = np.empty((-(-height // side), -(-width // side), 4), np.uint8)
    light = to_light(np.arange(256) / 255.0).astype(np.float32)
    rows = max(1, _AT_ONCE // (side * width))
    for first in range(0, len(out), rows):
        part = pixels[first * side : (first + rows) * side]
        alpha = part[..., 3:].astype(np.float32)
        own = np.minimum(part[..., :3] * (255.0 / np.maximum(alpha, 1.0)) + 0.5, 255.0).astype(np.uint8)
        values = np.concatenate([light[own] * alpha, alpha], axis=-1)
        # What lies beyond the edges is as they are.
        gaps = [(0, -len(values) % side), (0, -width % side), (0, 0)]
        values = np.pad(values, gaps, mode="edge")
        mean = values.reshape(-1, side, values.shape[1] // side, side, 4).mean(axis=(1, 3))
        shown = to_display(np.minimum(mean[..., :3] / 255.0, 1.0)) * 255.0
        out[first : first + len(mean)] = np.concatenate([shown, mean[..., 3:]], axis=-1) + 0.5
    return out
