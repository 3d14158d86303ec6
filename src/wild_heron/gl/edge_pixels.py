"""Draws single pixels of a frame larger: what lies elsewhere is hidden before it is drawn, by its depth."""

import moderngl
import numpy as np
from numpy.typing import NDArray

from . import shaders

NEAREST_DEPTH = 2.0**-20
"""No nearer does anything come in the depth buffer but what hides the rest."""


class EdgePixels:
    """Pixels (H, W) of a frame that are drawn ``times`` larger, from the one at ``first`` (x, y) on."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        square = context.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], dtype="f4"))
        self._hiding, self._mean = (
            context.vertex_array(shaders.compiled(context, "whole_frame", name), [(square, "2f", "place")])
            for name in ("hidden", "chosen")
        )
        self._wanted: moderngl.Texture | None = None
        self.times, self.first = 1, (0, 0)

    def choose(self, pixels: NDArray[np.bool_], times: int, first: tuple[int, int]) -> None:
        """From now on it is about these."""
        self.times, self.first = times, first
        height, width = pixels.shape
        if self._wanted is None or self._wanted.size != (width, height):
            if self._wanted is not None:
                self._wanted.release()
            self._wanted = self._context.texture((width, height), 1, alignment=1)
            self._wanted.filter = (moderngl.NEAREST, moderngl.NEAREST)
        self._wanted.write(np.where(pixels, 255, 0).astype(np.uint8))

    def hide_the_rest(self) -> None:
        """Keep what is drawn from now on into the framebuffer in use, which was cleared, from all other pixels."""
        gl = self._context
        frame = gl.fbo
        self._bind(self._hiding.program)
        gl.disable(moderngl.BLEND)
        gl.enable(moderngl.DEPTH_TEST)
        gl.depth_func = "<"
        frame.color_mask, frame.depth_mask = (False,) * 4, True
        gl.depth_clamp_range = (0.0, 0.0)
        self._hiding.render(moderngl.TRIANGLE_STRIP, 4)
        gl.depth_clamp_range = (NEAREST_DEPTH, 1.0)
        frame.color_mask = (True,) * 4

    def put(self, source: moderngl.Framebuffer, target: moderngl.Framebuffer) -> None:
        """Put the pixels, each the mean of what was drawn for it, where they belong in a frame."""
        gl, (height, width) = self._context, (source.height // self.times, source.width // self.times)
        target.use()
        target.viewport = (*self.first, width, height)
        gl.disable(moderngl.DEPTH_TEST)
        gl.disable(moderngl.BLEND)
        source.color_attachments[0].use(1)
        program = self._mean.program
        self._bind(program)
        program["sample_frame"], program["first"] = 1, self.first
        self._mean.render(moderngl.TRIANGLE_STRIP, 4)
        target.viewport = (0, 0, *target.size)

    def _bind(self, program: moderngl.Program) -> None:
        assert self._wanted is not None
        self._wanted.use(0)
        program["wanted"], program["times"] = 0, self.times
