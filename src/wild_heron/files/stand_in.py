"""Placeholder pictures for missing files, and downscaling."""

from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from ..arrays import Pixels
from .formats import FONTS


def fitted(pixels: Pixels, limit: int) -> Pixels:
    """The pixels (H, W, 4), made smaller where a side is longer than ``limit``."""
    if max(pixels.shape[:2]) <= limit:
        return pixels
    image = Image.frombytes("RGBa", (pixels.shape[1], pixels.shape[0]), np.ascontiguousarray(pixels).tobytes())
    image.thumbnail((limit, limit), Image.Resampling.BOX)
    return np.asarray(image)


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
