"""The pixels of any artwork."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ..scene import Gradient, ImageFile, Layer, Movie, Picture, Sequence, Solid, Text
from .artwork import resolve
from .cards import card_svg
from .images import draw_svg, read_picture
from .kinds import is_vector
from .layered import read_layer
from .moving import MovieReader, sequence_file

Pixels = NDArray[np.uint8]


def is_drawn(picture: Picture) -> bool:
    """Whether the picture is drawn anew at any size, rather than read from pixels."""
    artwork = picture.artwork
    if isinstance(artwork, Text | Gradient):
        return True
    return isinstance(artwork, ImageFile | Layer) and is_vector(Path(artwork.source))


def file_of(picture: Picture, base: Path | None, index: int = 0) -> Path | None:
    """The file that frame ``index`` of a picture is read from; None for a card."""
    artwork = picture.artwork
    if isinstance(artwork, Sequence):
        return sequence_file(artwork, base, index)
    if isinstance(artwork, ImageFile | Layer | Movie):
        return resolve(base, artwork.source)
    return None


def read_pixels(
    picture: Picture, base: Path | None, index: int, scale: float, limit: int, movie: MovieReader | None = None
) -> Pixels:
    """A picture's pixels as (H, W, 4) uint8, premultiplied.

    ``index`` is the frame of a moving picture; ``scale`` how large, in parts of its size in artwork pixels, what is
    drawn is wanted; no side is longer than ``limit``. FileError where it cannot be read.
    """
    artwork = picture.artwork
    width = max(1, round(picture.width * scale))
    if isinstance(artwork, Solid):
        tone = [int(artwork.colour[k : k + 2], 16) * artwork.strength for k in (1, 3, 5)]
        return np.full((4, 4, 4), [*tone, 255.0 * artwork.strength], dtype=np.float64).round().astype(np.uint8)
    if isinstance(artwork, Text | Gradient):
        return draw_svg(None, card_svg(artwork, picture.width, picture.height), width, limit)
    if isinstance(artwork, Movie):
        assert movie is not None
        return movie.frame(index)
    path = file_of(picture, base, index)
    assert path is not None
    if isinstance(artwork, Layer):
        return read_layer(path, artwork, width, limit)
    return read_picture(path, width if is_vector(path) else None, limit)
