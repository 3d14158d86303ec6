"""Converts lights to the physical units of glTF and OpenUSD.

Here a surface that faces a light of strength 1 has its own colour; a matte one that sends back as much as it gets is as
bright under π lux.
"""

from typing import Literal, NamedTuple

import numpy as np

from ...arrays import Array
from ...colour import to_light
from ...evaluate import evaluate
from ...scene import Light
from ...scene.artwork import rgb
from ...scene.channels import REACH
from .move import Move, MovedNode


class LightTold(NamedTuple):
    """A light's kind and colour (linear), and at frames (K,) its strength (K,): lux from afar, candela (in units) at a
    place, and of ambient light the share of its own colour that a surface has. ``reach`` is in units."""

    kind: Literal["ambient", "directional", "point"]
    colour: list[float]
    frames: Array
    strength: Array
    reach: float
    shadow: bool


def light_of(move: Move, moved: MovedNode) -> LightTold | None:
    """What a node shines, or None where it is no light."""
    node, (frames, strength) = moved.node, moved.level
    if not isinstance(node, Light):
        return None
    reach = float(evaluate(move.scene, move.frames[:1], [node.id]).value(node.id, REACH)[0])
    if node.light == "directional":
        strength = np.pi * strength
    elif node.light == "point":
        # As bright as here at half the reach, from where it fades with the square of the distance.
        fade = {"none": 1.0, "even": 0.5, "square": (1.0 - 0.25) ** 2}[node.falloff]
        strength = np.pi * strength * fade * (0.5 * reach) ** 2
    colour = to_light(np.array(rgb(node.tint))).tolist()
    return LightTold(node.light, colour, frames, strength, reach, node.shadow)
