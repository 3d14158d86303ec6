"""Framebuffers, kept for as long as they are in use."""

from typing import Literal

import moderngl

Use = Literal["picture", "light", "sum", "smooth", "smooth light", "facts", "bytes", "floats"]

_KEPT = 12
_SMOOTH_SAMPLES = 4


class Frames:
    """Framebuffers by size and use; the one that was not used for longest goes.

    picture: 8 bits a channel, with depth. light: the same with 16-bit floats. smooth, smooth light: as these, with four
    samples to a pixel. facts: 32-bit floats with depth. sum, floats: without. bytes: as picture, without depth.
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
        kind = "f2" if use.endswith("light") else "f4" if use in ("sum", "facts", "floats") else "f1"
        if use.startswith("smooth"):
            return gl.framebuffer(
                [gl.renderbuffer(size, 4, samples=self._samples, dtype=kind)],
                gl.depth_renderbuffer(size, samples=self._samples),
            )
        texture = gl.texture(size, 4, dtype=kind)
        texture.filter = (moderngl.NEAREST, moderngl.NEAREST)
        plain = use in ("sum", "floats", "bytes")
        return gl.framebuffer([texture], None if plain else gl.depth_renderbuffer(size))


def _release(frame: moderngl.Framebuffer) -> None:
    for attachment in frame.color_attachments:
        attachment.release()
    if frame.depth_attachment is not None:
        frame.depth_attachment.release()
    frame.release()
