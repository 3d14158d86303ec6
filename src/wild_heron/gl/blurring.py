"""Gaussian blur of pictures, at a size at which it is only a few texels wide."""

import math
from collections import OrderedDict
from functools import lru_cache

import moderngl
import numpy as np

from . import shaders
from .artwork_store import Artwork

_KEPT_BYTES = 256 * 1024 * 1024
_STEPS_PER_OCTAVE = 8
_LARGEST = 8000
_MOST_TAPS = 8
"""On either side; a step is a third of the deviation at the least, of which three are looked at."""
_RIM = 8.0
"""Steps about a blurred picture that stay empty: what is looked up beyond its edge goes on as its last texel is."""
LEAST = 0.25
"""A smaller radius, in artwork pixels, is no blur."""


class Blurring:
    """Blurred versions of textures, the ones that were not used for longest released."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._program = shaders.compiled(context, "whole_frame", "blur")
        self._square = context.buffer(np.array([0, 0, 1, 0, 0, 1, 1, 1], dtype="f4"))
        self._quad = context.vertex_array(self._program, [(self._square, "2f", "place")])
        self._kept: OrderedDict[tuple[int, int, float, float], Artwork] = OrderedDict()
        self._used: set[tuple[int, int, float, float]] = set()

    def get(self, artwork: Artwork, radius: float, width: int, height: int, scale: float) -> Artwork:
        """The artwork blurred by a radius in artwork pixels (two deviations of the Gaussian), of a picture of
        ``width`` × ``height``; it reaches beyond the picture's edges. ``scale``: how many pixels of the frame one of
        the artwork takes up at the most."""
        # In steps too small to see, so that a slow change does not blur anew in every frame.
        radius = 2.0 ** (round(math.log2(radius) * _STEPS_PER_OCTAVE) / _STEPS_PER_OCTAVE)
        per_texel = width / artwork.texture.width
        # In steps of a third of the deviation, which is all that is left to see, but none below a pixel, nor below half
        # of one in the frame.
        step = max(radius / 6.0, min(per_texel, 1.0), max(width, height) / _LARGEST, _half_pixel(scale))
        key = (id(artwork), artwork.texture.glo, radius, step)
        known = self._kept.get(key)
        if known is None:
            known = self._kept[key] = self._blurred(artwork, radius, width, height, step)
        self._kept.move_to_end(key)
        self._used.add(key)
        return known

    def tidy(self) -> None:
        """Between frames: release what exceeds the limit."""
        total = sum(artwork.size for artwork in self._kept.values())
        for key in [key for key in self._kept if key not in self._used]:
            if total <= _KEPT_BYTES and len(self._kept) < 128:
                break
            artwork = self._kept.pop(key)
            total -= artwork.size
            artwork.texture.release()
        self._used.clear()

    def _blurred(self, artwork: Artwork, radius: float, width: int, height: int, step: float) -> Artwork:
        source = artwork.texture
        per_texel = width / source.width
        deviation = 0.5 * radius
        level = max(0.0, math.log2(step / per_texel))
        pad = 3.0 * deviation + _RIM * step
        size = (math.ceil((width + 2 * pad) / step), math.ceil((height + 2 * pad) / step))
        part = (-pad / width, -pad / height, size[0] * step / width, size[1] * step / height)
        kind = "f4" if source.dtype == "f4" else "f2" if artwork.linear or source.dtype == "f2" else "f1"
        first, second = (self._context.texture(size, 4, dtype=kind) for _ in range(2))
        for texture in (first, second):
            texture.repeat_x = texture.repeat_y = False
        self._context.disable(moderngl.BLEND)
        self._context.disable(moderngl.DEPTH_TEST)
        self._pass(source, first, part, (step / width, 0.0), (step / width, step / height), deviation / step, level)
        self._pass(first, second, (0.0, 0.0, 1.0, 1.0), (0.0, 1.0 / size[1]), (0.0, 0.0), deviation / step, 0.0)
        first.release()
        second.build_mipmaps()
        second.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
        inside = (-part[0] / part[2], -part[1] / part[3], 1.0 / part[2], 1.0 / part[3])
        u0, v0, u1, v1 = artwork.bounds
        across, down = pad / width, pad / height
        bounds = (u0 - across, v0 - down, u1 + across, v1 + down)
        each = {"f1": 4, "f2": 8, "f4": 16}[kind]
        total = size[0] * size[1] * each * 4 // 3
        return Artwork(second, bounds, False, True, artwork.problem, total, inside, artwork.linear)

    def _pass(
        self,
        source: moderngl.Texture,
        target: moderngl.Texture,
        part: tuple[float, float, float, float],
        step: tuple[float, float],
        cell: tuple[float, float],
        deviation: float,
        level: float,
    ) -> None:
        frame = self._context.framebuffer([target])
        frame.use()
        source.use(0)
        program = self._program
        program["picture"] = 0
        own, taps = _taps(deviation)
        values = {"part": part, "step_uv": step, "cell": cell, "own": own, "count": len(taps), "level": level}
        for name, value in values.items():
            program[name] = value
        told = np.zeros((_MOST_TAPS, 2), "f4")
        told[: len(taps)] = np.reshape(taps, (-1, 2))
        program["taps"].write(told)
        self._quad.render(moderngl.TRIANGLE_STRIP, 4)
        frame.release()


@lru_cache(maxsize=256)
def _taps(deviation: float) -> tuple[float, list[tuple[float, float]]]:
    """How a Gaussian of so many steps is looked up: how much the middle counts, and for two steps at once how far away
    they are looked up, between them, and how much both count."""
    reach = math.ceil(3.0 * deviation)
    weights = [math.exp(-0.5 * (k / deviation) ** 2) for k in range(reach + 1)] + [0.0]
    total = weights[0] + 2.0 * sum(weights[1:])
    # Of a deviation far below a step nothing is left but the middle.
    pairs = [(k, weights[k], weights[k + 1]) for k in range(1, reach + 1, 2) if weights[k] > 0.0]
    return weights[0] / total, [(k + b / (a + b), (a + b) / total) for k, a, b in pairs]


def _half_pixel(scale: float) -> float:
    """Half a pixel of the frame in artwork pixels, or down to half of that: in octaves, so that a picture that comes
    nearer is not blurred anew in every frame."""
    return 2.0 ** math.floor(math.log2(0.5 / scale)) if scale > 0.0 else 0.0
