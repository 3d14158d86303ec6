"""Pictures that Pillow reads, as premultiplied RGBA."""

import warnings
from typing import IO

import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from ...arrays import Pixels
from ..contents import PictureInfo
from ..errors import FileError, why
from .deep_images import read_deep
from .source import Source

MAX_SIDE = 32_768
MAX_PIXELS = 100_000_000
_REMEDY = "Choose a PNG, JPEG, WebP, TIFF, EXR or SVG picture."
_BROKEN = (ValueError, SyntaxError, EOFError, LookupError, TypeError, ArithmeticError)
_FORMATS = ("PNG", "JPEG", "WEBP", "TIFF", "BMP", "GIF")
"""Pillow would open many more, some of them with the help of other programs."""


def size(file: Source) -> PictureInfo:
    """A picture's size without reading its pixels. FileError where it is no picture."""
    image = _open(file)
    width, height = image.size
    if image.getexif().get(0x0112, 1) in (5, 6, 7, 8):
        width, height = height, width
    return PictureInfo(width, height)


def read(file: Source, width: int | None, limit: int) -> Pixels:
    """The picture as (H, W, 4) uint8, premultiplied, no side longer than ``limit``."""
    return prepared(file, _open(file), limit)


def read_stream(file: Source, stream: IO[bytes], limit: int = MAX_SIDE) -> Pixels:
    """The same (H, W, 4) from an open stream; ``file`` is what messages name."""
    return prepared(file, opened(file, stream), limit)


def prepared(file: Source | None, image: Image.Image, limit: int) -> Pixels:
    """A decoded picture (H, W, 4), turned upright, premultiplied, no side longer than ``limit``."""
    try:
        if image.format == "JPEG" and max(image.size) > limit:
            image.draft("RGB", (limit, limit))
        image = ImageOps.exif_transpose(image)
        if max(image.size) > limit:
            image.thumbnail((limit, limit), Image.Resampling.LANCZOS)
        if image.mode in ("I;16", "I;16B", "I", "F"):
            image = _to_eight_bits(image)
        # "RGBa" is Pillow's premultiplied RGBA.
        return np.asarray((image if image.mode == "RGBA" else image.convert("RGBA")).convert("RGBa"))
    except (OSError, *_BROKEN) as problem:
        raise FileError(_name(file), f"could not be decoded: {problem}.", _REMEDY) from problem


def _name(file: Source | None) -> str:
    return "card" if file is None else str(file.path)


def _to_eight_bits(image: Image.Image) -> Image.Image:
    values = np.asarray(image, dtype=np.float32)
    scale = 1.0 if image.mode == "F" else 65_535.0
    return Image.fromarray(np.uint8(np.clip(np.nan_to_num(values / scale), 0.0, 1.0) * 255.0 + 0.5))


def _open(file: Source) -> Image.Image:
    if file.suffix in (".tif", ".tiff"):
        deep = read_deep(file, MAX_PIXELS)
        if deep is not None:
            return Image.fromarray(deep)
    return opened(file, file.open())


def opened(file: Source | None, stream: IO[bytes]) -> Image.Image:
    """A picture of one of the kinds that are read, not decoded yet. FileError where it is none, or too large."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            image = Image.open(stream, formats=_FORMATS)
        except UnidentifiedImageError:
            raise FileError(_name(file), "is not a picture that can be read.", _REMEDY) from None
        except OSError as problem:
            raise FileError(_name(file), f"could not be read: {why(problem)}", _REMEDY) from problem
        except (*_BROKEN, Image.DecompressionBombError) as problem:
            raise FileError(_name(file), f"could not be read: {problem}.", _REMEDY) from problem
    width, height = image.size
    if width < 1 or height < 1 or max(width, height) > MAX_SIDE or width * height > MAX_PIXELS:
        raise FileError(
            _name(file),
            f"is {width} × {height} pixels, too large.",
            f"Sides up to {MAX_SIDE} and {MAX_PIXELS // 1_000_000} megapixels work.",
        )
    return image
