"""Decodes any picture, by the decoder of its format."""

from importlib import import_module
from types import ModuleType

from ...arrays import Pixels
from ..contents import PictureInfo
from ..formats import format_of
from .bitmaps import MAX_SIDE
from .source import Source


def _decoder(file: Source) -> ModuleType:
    return import_module(f"{__package__}.{format_of(file.path).decoder or 'bitmaps'}")


def probe(file: Source) -> PictureInfo:
    """A picture's size. FileError where it is no picture."""
    found: PictureInfo = _decoder(file).size(file)
    return found


def read_picture(file: Source, width: int | None = None, limit: int = MAX_SIDE) -> Pixels:
    """The picture as (H, W, 4) uint8, premultiplied. ``width`` is the raster width wanted of vector art; no side
    is longer than ``limit``. FileError where it cannot be read."""
    found: Pixels = _decoder(file).read(file, width, limit)
    return found
