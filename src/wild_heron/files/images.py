"""Reading pictures as premultiplied RGBA."""

import gzip
import io
import re
import warnings
import zlib
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import IO

import numpy as np
import resvg_py
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont, ImageOps, UnidentifiedImageError

from .deep_images import exr_size, read_deep, read_exr
from .errors import FileError, why
from .kinds import FONTS, is_vector
from .svg_guard import check_svg

Pixels = NDArray[np.uint8]

MAX_SIDE = 32_768
MAX_PIXELS = 300_000_000
MAX_SVG_BYTES = 64 * 1024 * 1024
_REMEDY = "Choose a PNG, JPEG, WebP, TIFF, EXR or SVG picture."


@dataclass(frozen=True)
class PictureInfo:
    """A picture's size in artwork pixels, and whether it is vector art."""

    width: int
    height: int
    vector: bool


def probe(path: Path) -> PictureInfo:
    """A picture's size without reading its pixels. FileError where it is no picture."""
    _check_file(path)
    if is_vector(path):
        raster = _decode(path, io.BytesIO(_rasterise(path, None)))
        return PictureInfo(raster.width, raster.height, True)
    if path.suffix.lower() == ".exr":
        return PictureInfo(*exr_size(path), False)
    image = _open(path)
    width, height = image.size
    if image.getexif().get(0x0112, 1) in (5, 6, 7, 8):
        width, height = height, width
    return PictureInfo(width, height, False)


def read_picture(path: Path, width: int | None = None, limit: int = MAX_SIDE) -> Pixels:
    """The picture as (H, W, 4) uint8, premultiplied. ``width`` is the raster width wanted of vector art; no side
    is longer than ``limit``. FileError where it cannot be read."""
    _check_file(path)
    if is_vector(path):
        wanted = max(1, min(width, limit)) if width else None
        image = _decode(path, io.BytesIO(_rasterise(path, wanted)))
    elif path.suffix.lower() == ".exr":
        return fitted(read_exr(path), limit)
    else:
        image = _open(path)
    return prepared(path, image, limit)


def read_stream(path: Path, stream: IO[bytes], limit: int = MAX_SIDE) -> Pixels:
    """The same from an open stream; ``path`` is what messages name."""
    return prepared(path, _decode(path, stream), limit)


def draw_svg(path: Path | None, text: str, width: int | None = None, limit: int = MAX_SIDE) -> Pixels:
    """SVG text drawn as (H, W, 4) uint8, premultiplied."""
    name = path or Path("card")
    return prepared(name, _decode(name, io.BytesIO(_drawn(name, text, width and max(1, min(width, limit))))), limit)


def fitted(pixels: Pixels, limit: int) -> Pixels:
    """The pixels, made smaller where a side is longer than ``limit``."""
    if max(pixels.shape[:2]) <= limit:
        return pixels
    image = Image.frombytes("RGBa", (pixels.shape[1], pixels.shape[0]), np.ascontiguousarray(pixels).tobytes())
    image.thumbnail((limit, limit), Image.Resampling.BOX)
    return np.asarray(image)


def prepared(path: Path, image: Image.Image, limit: int) -> Pixels:
    """A decoded picture turned upright, premultiplied, no side longer than ``limit``."""
    try:
        image = ImageOps.exif_transpose(image)
        if max(image.size) > limit:
            image.thumbnail((limit, limit), Image.Resampling.LANCZOS)
        if image.mode in ("I;16", "I;16B", "I", "F"):
            image = _to_eight_bits(image)
        # "RGBa" is Pillow's premultiplied RGBA.
        return np.asarray(image.convert("RGBA").convert("RGBa"))
    except (OSError, ValueError, SyntaxError, MemoryError) as problem:
        raise FileError(path, f"could not be decoded: {problem}.", _REMEDY) from problem


def _to_eight_bits(image: Image.Image) -> Image.Image:
    values = np.asarray(image, dtype=np.float64)
    scale = 1.0 if image.mode == "F" else 65_535.0
    return Image.fromarray(np.uint8(np.clip(np.nan_to_num(values / scale), 0.0, 1.0) * 255.0 + 0.5))


def _check_file(path: Path) -> None:
    # A device or a pipe could be read for ever.
    if not path.is_file():
        raise FileError(path, "was not found." if not path.exists() else "is not a plain file.", "Check the name.")


def _open(path: Path) -> Image.Image:
    try:
        if path.suffix.lower() in (".tif", ".tiff"):
            deep = read_deep(path)
            if deep is not None:
                return Image.fromarray(deep)
        return _decode(path, path.open("rb"))
    except OSError as error:
        raise FileError(path, f"could not be read: {why(error)}", _REMEDY) from error


def _decode(path: Path, stream: IO[bytes]) -> Image.Image:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", Image.DecompressionBombWarning)
        try:
            image = Image.open(stream)
        except UnidentifiedImageError:
            raise FileError(path, "is not a picture that can be read.", _REMEDY) from None
        except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as problem:
            raise FileError(path, f"could not be read: {problem}.", _REMEDY) from problem
    width, height = image.size
    if width < 1 or height < 1 or max(width, height) > MAX_SIDE or width * height > MAX_PIXELS:
        raise FileError(path, f"is {width} × {height} pixels, too large.", f"Sides up to {MAX_SIDE} work.")
    return image


def read_svg_text(path: Path) -> str:
    """An SVG file's text, unpacked where it is packed. FileError where it is too large or no text."""
    try:
        if path.stat().st_size > MAX_SVG_BYTES:
            raise FileError(path, "is too large for vector art.", "Simplify it, or use a PNG.")
        data = path.read_bytes()
        if path.suffix.lower() == ".svgz":
            with gzip.GzipFile(fileobj=io.BytesIO(data)) as packed:
                data = packed.read(MAX_SVG_BYTES)
        return data.decode("utf-8-sig")
    except FileError:
        raise
    except (ValueError, OSError, EOFError, OverflowError, zlib.error) as problem:
        raise FileError(path, f"could not be read: {problem}.", "Check it in a vector program.") from problem


def _rasterise(path: Path, width: int | None) -> bytes:
    return _drawn(path, read_svg_text(path), width)


def _drawn(path: Path, text: str, width: int | None) -> bytes:
    check_svg(path, text)
    try:
        # Drawn from its text, so that a stranger's file cannot pull in other files by relative links.
        text = _without_links(text)
        # Looking through the system's fonts takes a while, and only text has use for them.
        plain = "<text" not in text
        drawn = resvg_py.svg_to_bytes(
            svg_string=text, width=width, skip_system_fonts=plain, font_dirs=None if plain else [str(FONTS)]
        )
        return bytes(drawn)
    except (ValueError, OSError, OverflowError) as problem:
        raise FileError(path, f"could not be drawn: {problem}.", "Check it in a vector program.") from problem


def _without_links(text: str) -> str:
    """SVG text with references to other files taken out; embedded data and references inside the file stay."""
    return re.sub(r"""((?:xlink:)?href\s*=\s*)(["'])(?!\s*(?:#|data:))[^"']*\2""", r"\1\2\2", text)


def placeholder(name: str, width: int, height: int, note: str = "missing") -> Pixels:
    """A labelled stand-in, (H, W, 4) uint8 premultiplied, for a picture whose file is not there."""
    scale = min(1.0, 1024.0 / max(width, height))
    w, h = max(8, round(width * scale)), max(8, round(height * scale))
    image = Image.new("RGBA", (w, h), (224, 122, 79, 60))
    draw = ImageDraw.Draw(image)
    step = max(16, min(w, h) // 8)
    for x in range(-h, w, step):
        draw.line([(x, h), (x + h, 0)], fill=(224, 122, 79, 90), width=max(1, step // 8))
    draw.rectangle([0, 0, w - 1, h - 1], outline=(224, 122, 79, 255), width=max(1, min(w, h) // 100))
    label = f"{name}\n{note}"
    font = _font(max(8, min(h // 5, w * 2 // (max(len(name), len(note)) + 2))))
    box = draw.multiline_textbbox((w / 2, h / 2), label, font=font, anchor="mm", align="center")
    pad = (box[3] - box[1]) // 6
    draw.rectangle([box[0] - pad, box[1] - pad, box[2] + pad, box[3] + pad], fill=(28, 38, 43, 235))
    draw.multiline_text((w / 2, h / 2), label, font=font, anchor="mm", align="center", fill=(239, 232, 214, 255))
    return np.asarray(image.convert("RGBa"))


@lru_cache(maxsize=16)
def _font(size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(FONTS / "Inter-SemiBold.otf"), size)
