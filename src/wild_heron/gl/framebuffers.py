"""A pool of framebuffers by size and use."""

from typing import Literal

import moderngl

from ..gl.request import Precision

Use = Literal[
    "picture", "half picture", "full picture", "smooth", "half smooth", "full smooth", "sum", "aov", "bytes", "floats"
]  # fmt: skip

_KEPT = 12
_SMOOTH_SAMPLES = 4


class Framebuffers:
    """Framebuffers by size and use; the one that was not used for longest goes.

    picture: 8 bits a channel, with depth; half, full: the same with 16-bit and 32-bit floats. smooth: as these, with
    four samples to a pixel. aov: 32-bit floats with depth. sum, floats: without. bytes: as picture, without depth.
    """

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._kept: dict[tuple[int, int, Use], moderngl.Framebuffer] = {}
        self._samples = min(_SMOOTH_SAMPLES, int(context.max_samples))

    def get(self, width: int, height: int, use: Use) -> moderngl.Framebuffer:
        key = (width, height, use)
        frame = self._kept.pop(key, None)
        if frame is None:
            # What this very frame uses was used just now, so it is never the one that goes.
            if len(self._kept) >= _KEPT:
                _release(self._kept.pop(next(iter(self._kept))))
            frame = self._make((width, height), use)
        self._kept[key] = frame
        return frame

    def _make(self, size: tuple[int, int], use: Use) -> moderngl.Framebuffer:
        gl = self._context
        full = use in ("sum", "aov", "floats") or use.startswith("full")
        kind = "f4" if full else "f2" if use.startswith("half") else "f1"
        if use.endswith("smooth"):
            return gl.framebuffer(
                [gl.renderbuffer(size, 4, samples=self._samples, dtype=kind)],
                gl.depth_renderbuffer(size, samples=self._samples),
            )
        texture = gl.texture(size, 4, dtype=kind)
        texture.filter = (moderngl.NEAREST, moderngl.NEAREST)
        plain = use in ("sum", "floats", "bytes")
        return gl.framebuffer([texture], None if plain else gl.depth_renderbuffer(size))


def picture_use(precision: Precision, smooth: bool = False) -> Use:
    """What a picture is drawn into that is put together in bytes, half or full floats."""
    pictures: dict[Precision, tuple[Use, Use]] = {
        "bytes": ("picture", "smooth"),
        "half": ("half picture", "half smooth"),
        "full": ("full picture", "full smooth"),
    }
    return pictures[precision][smooth]


def _release(frame: moderngl.Framebuffer) -> None:
    for attachment in frame.color_attachments:
        attachment.release()
    if frame.depth_attachment is not None:
        frame.depth_attachment.release()
    frame.release()
