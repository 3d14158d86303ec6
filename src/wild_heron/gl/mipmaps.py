"""Mipmaps of small pictures, averaged here where the processor draws.

There the first mipmaps of each kind that OpenGL makes cost a seventh of a second, for code that it compiles anew in
every process; a small picture's own levels are made in a thousandth of that.
"""

import ctypes
from collections.abc import Callable, Iterator
from functools import cache
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from .textures import by_processor

_SMALL = 512 * 512
_TEXTURE_2D, _MAX_LEVEL, _RGBA = 0x0DE1, 0x813D, 0x1908
_KINDS = {"uint8": (0x8058, 0x1401), "float16": (0x881A, 0x140B), "float32": (0x8814, 0x1406)}
"""By the type of numbers, how OpenGL keeps them and what it calls them."""


def build_mipmaps(context: moderngl.Context, texture: moderngl.Texture, pixels: NDArray[Any], linear: bool) -> None:
    """Give a texture of pixels (H, W, 4) its smaller levels. ``linear``: bytes stand for display values, of which light
    is averaged."""
    is_light = linear and pixels.dtype == np.uint8
    here = not is_light and pixels.shape[0] * pixels.shape[1] <= _SMALL and by_processor(context)
    if not here or not _write_levels(texture, pixels):
        texture.build_mipmaps()


def levels_of(pixels: NDArray[Any]) -> Iterator[NDArray[Any]]:
    """The smaller levels (H, W, 4) of pixels, of OpenGL's sizes: each texel is the mean of what it covers of the level
    before."""
    level = pixels.astype(np.float32)
    while max(level.shape[:2]) > 1:
        level = _halved(_halved(level).swapaxes(0, 1)).swapaxes(0, 1)
        yield (np.rint(level) if pixels.dtype == np.uint8 else level).astype(pixels.dtype, order="C")


def _halved(level: NDArray[np.float32]) -> NDArray[np.float32]:
    """Half as many rows, rounded down: of an odd number each covers two and a part of a third."""
    count = len(level)
    if count == 1:
        return level
    half = count // 2
    if count % 2 == 0:
        return np.asarray((level[0::2] + level[1::2]) * np.float32(0.5))
    i = np.arange(half, dtype=np.float32)[:, None, None]
    parts = (half - i) * level[0:-1:2] + half * level[1::2] + (i + 1) * level[2::2]
    return np.asarray(parts * np.float32(1.0 / count))


def _write_levels(texture: moderngl.Texture, pixels: NDArray[Any]) -> bool:
    """Put the smaller levels in place; False where OpenGL cannot be asked."""
    image = _function("glTexImage2D", *[ctypes.c_int] * 8, ctypes.c_void_p)
    parameter = _function("glTexParameteri", *[ctypes.c_uint] * 3)
    if image is None or parameter is None:
        return False
    kept, told = _KINDS[pixels.dtype.name]
    texture.use(0)
    number = 0
    for number, level in enumerate(levels_of(pixels), 1):
        height, width = level.shape[:2]
        image(_TEXTURE_2D, number, kept, width, height, 0, _RGBA, told, level.ctypes.data)
    parameter(_TEXTURE_2D, _MAX_LEVEL, number)
    return True


@cache
def _function(name: str, *kinds: type) -> Callable[..., None] | None:
    """A function of OpenGL that moderngl does not offer."""
    try:
        find = ctypes.CDLL("libEGL.so.1").eglGetProcAddress
    except (OSError, AttributeError):
        return None
    find.restype, find.argtypes = ctypes.c_void_p, [ctypes.c_char_p]
    address = find(name.encode())
    return ctypes.CFUNCTYPE(None, *kinds)(address) if address else None
