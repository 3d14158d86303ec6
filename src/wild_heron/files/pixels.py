"""Resolves the file of a picture's pixels, and whether it is vector art."""

from pathlib import Path

from ..scene import Card, ImageFile, Layer, Movie, Picture, Sequence
from .artwork_files import resolve
from .formats import is_vector
from .sequences import sequence_file


def is_drawn(picture: Picture) -> bool:
    """Whether the picture is drawn anew at any size, rather than read from pixels."""
    artwork = picture.artwork
    if isinstance(artwork, Card):
        return not artwork.is_flat
    return isinstance(artwork, ImageFile | Layer) and is_vector(Path(artwork.source))


def file_of(picture: Picture, base: Path | None, index: int = 0) -> Path | None:
    """The file that frame ``index`` of a picture is read from; None for a card."""
    artwork = picture.artwork
    if isinstance(artwork, Sequence):
        return sequence_file(artwork, base, index)
    if isinstance(artwork, ImageFile | Layer | Movie):
        return resolve(base, artwork.source)
    return None
