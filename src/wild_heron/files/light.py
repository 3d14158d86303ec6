"""Image arithmetic in linear light."""

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import Pixels
from ..colour import to_display, to_light

_AT_ONCE = 500_000


@lru_cache(maxsize=1)
def _table() -> Pixels:
    """By alpha and a value that was multiplied by it as it is displayed (256 · 256): the value that is displayed where
    as much light is multiplied."""
    alpha, value = np.mgrid[0:256, 0:256].astype(float)
    own = np.minimum(value / np.maximum(alpha, 1.0), 1.0)
    return np.round(to_display(to_light(own) * alpha / 255.0) * 255.0).astype(np.uint8).ravel()


def as_light(pixels: Pixels) -> Pixels:
    """Premultiplied pixels (H, W, 4) so that what a display's values stand for, which is light, is multiplied."""
    alpha = pixels[..., 3].ravel()
    # Elsewhere both are the same.
    between = np.flatnonzero((alpha > 0) & (alpha < 255))
    if not len(between):
        return pixels
    out = pixels.copy()
    flat = out.reshape(-1, 4)
    for part in np.array_split(between, max(1, len(between) // _AT_ONCE)):
        found = flat[part]
        found[:, :3] = _table()[_places(found)]
        flat[part] = found
    return out


def light_of(pixels: Pixels) -> NDArray[np.float16]:
    """Premultiplied pixels (H, W, 4) as linear light from 0 to 1, premultiplied, to a thousandth of itself."""
    out = np.empty(pixels.shape, np.float16)
    rows = max(1, _AT_ONCE // max(pixels.shape[1], 1))
    for first in range(0, len(pixels), rows):
        part = pixels[first : first + rows]
        out[first : first + rows, :, :3] = np.take(_light(), _places(part), mode="clip")
        out[first : first + rows, :, 3] = part[..., 3] * np.float32(1.0 / 255.0)
    return out


def mean_light(pixels: Pixels, side: int) -> Pixels:
    """Premultiplied pixels (H, W, 4) made smaller, each the mean of the light of ``side`` × ``side``; as light
    mixes."""
    height, width = pixels.shape[:2]
    out = np.empty((-(-height // side), -(-width // side), 4), np.uint8)
    rows = max(1, _AT_ONCE // (side * width))
    for first in range(0, len(out), rows):
        part = pixels[first * side : (first + rows) * side]
        # What lies beyond the edges is as they are.
        gaps = [(0, -len(part) % side), (0, -width % side), (0, 0)]
        if gaps[0][1] or gaps[1][1]:
            part = np.pad(part, gaps, mode="edge")
        light = np.empty(part.shape, np.float32)
        if (part[..., 3] == 255).all():
            np.take(_light()[-256:], part, out=light, mode="clip")
        else:
            light[..., :3] = np.take(_light(), _places(part), mode="clip")
        light[..., 3] = part[..., 3]
        wide = np.add.reduce(light.reshape(-1, side, *part.shape[1:]), axis=1)
        # A few long sums are faster than many short ones.
        mean = sum(wide[:, k::side] for k in range(side)) / np.float32(side * side)
        shown = _shown()[(mean[..., :3] * (len(_shown()) - 1) + 0.5).astype(np.int32)]
        out[first : first + len(mean), :, :3] = shown
        out[first : first + len(mean), :, 3] = mean[..., 3] + 0.5
    return out


def _places(pixels: Pixels) -> NDArray[Any]:
    """Where in the tables the colours (…, 3) of pixels (…, 4) are."""
    found: NDArray[Any] = (pixels[..., 3:].astype(np.uint16) << 8) | pixels[..., :3]
    return found


@lru_cache(maxsize=1)
def _light() -> NDArray[np.float32]:
    """By alpha and premultiplied value (256 · 256): the light, multiplied, from 0 to 1."""
    alpha, value = np.mgrid[0:256, 0:256].astype(float)
    own = np.minimum(value / np.maximum(alpha, 1.0), 1.0)
    return (to_light(own) * alpha / 255.0).astype(np.float32).ravel()


@lru_cache(maxsize=1)
def _shown() -> Pixels:
    """By light in 65,535ths: what a display is sent."""
    return np.round(to_display(np.arange(65_536) / 65_535.0) * 255.0).astype(np.uint8)
