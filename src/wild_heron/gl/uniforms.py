"""Uniforms shared by everything in one sample: lights, shadow, haze, mattes and passes."""

from collections.abc import Callable
from typing import NamedTuple

import moderngl
import numpy as np

from ..arrays import Array
from ..scene import AnyNode, Distance, Ground, Logo, Model, Picture
from .footprints import Footprint
from .lighting import Lighting
from .shadows import ShadowMap

_Drawn = Picture | Logo | Model | Ground


class PassUniforms(NamedTuple):
    """What passes are worked out by: the matrices (4, 4) of the frame half a frame before and after, as far as the
    scene goes there; how many frames lie between them; the alpha from which on something is there; and each node's
    number. ``moved`` gives a node's matrices of its contents at both moments."""

    before: Array
    after: Array
    frames: float
    least: float
    numbers: dict[str, int]
    moved: Callable[[AnyNode], tuple[Array, Array]]

    def bind(self, program: moderngl.Program, node: AnyNode, own: Array, size: tuple[int, int]) -> None:
        """Hand them to a program that draws a node. ``own`` (4, 4) takes what is drawn into the node's contents."""
        first, last = self.moved(node)
        program["clip_before"].write(np.ascontiguousarray((self.before @ first @ own).T, "f4"))
        program["clip_after"].write(np.ascontiguousarray((self.after @ last @ own).T, "f4"))
        program["to_pixels"] = (0.5 * size[0] / self.frames, 0.5 * size[1] / self.frames)
        program["least"] = self.least
        program["number"] = float(self.numbers[node.id])


class Uniforms(NamedTuple):
    """``drafts``: what is seen small may be drawn coarsely."""

    lights: Lighting
    shadow: ShadowMap | None
    distance: Distance | None
    drafts: bool = False
    pixels_per_unit: float = 100.0
    linear: bool = False
    """Whether colours are mixed as linear light."""
    footprint: Footprint | None = None
    """What artwork is averaged over, in frames that go out."""
    aov: PassUniforms | None = None
    """In place of colours: how what is seen lies, and what it is."""
    mattes: dict[str, Distance] | None = None
    """By node id, the colour that it has in a matte, told as haze that leaves nothing else; all others are black."""

    def haze_on(self, node: _Drawn) -> Distance | None:
        """What fades a node; None for nothing."""
        if self.aov is not None:
            return None
        if self.mattes is not None:
            return self.mattes.get(node.id, _BLACK)
        return self.distance if node.takes_haze else None

    def lights_on(self, node: _Drawn) -> bool:
        """Whether light shades a node."""
        return self.mattes is None and self.aov is None and node.takes_light


def matte(red: float, green: float, blue: float) -> Distance:
    """Haze that leaves nothing of a node but one colour, told in shares."""
    return Distance(f"#{round(255 * red):02x}{round(255 * green):02x}{round(255 * blue):02x}", -2.0, -1.0, 1.0)


_BLACK = matte(0.0, 0.0, 0.0)
