"""Creates textures from arrays of pixels."""

from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

SRGB8_ALPHA8 = 0x8C43  # OpenGL 2.1


def by_processor(context: moderngl.Context) -> bool:
    """Whether OpenGL is drawn without a graphics card."""
    return any(name in context.info["GL_RENDERER"].lower() for name in ("llvmpipe", "softpipe", "swrast"))


def as_texture(context: moderngl.Context, pixels: NDArray[Any], linear: bool) -> moderngl.Texture:
    """Pixels (H, W, 4) on the graphics card. ``linear``: a look-up, and what is between texels, is linear light; floats
    are that already."""
    size = (pixels.shape[1], pixels.shape[0])
    data = np.ascontiguousarray(pixels).data
    if pixels.dtype != np.uint8:
        return context.texture(size, 4, data, alignment=1, dtype="f2" if pixels.dtype == np.float16 else "f4")
    if linear:
        return context.texture(size, 4, data, alignment=1, internal_format=SRGB8_ALPHA8)
    return context.texture(size, 4, data, alignment=1)
