"""Light and haze uniforms."""

from typing import NamedTuple

import moderngl
import numpy as np

from ..arrays import Array
from ..colour import to_light
from ..evaluate import Evaluation
from ..scene import Distance, Light
from ..scene.channels import REACH, STRENGTH
from .shaders import MAX_LIGHTS
from .shadows import SHADOW_UNIT

_KINDS = {"none": 0.0, "even": 1.0, "square": 2.0}


class Lighting(NamedTuple):
    """Ambient light (3,), and per light where it is or where it lies (n, 4), its colour and reach (n, 4), and its
    falloff and whether it casts shadows (n, 4). ``key`` is the shadow's light, or None."""

    ambient: Array
    place: Array
    colour: Array
    kind: Array
    key: Light | None


# With no light in the scene, models are seen by a soft light from the upper left, so that their form reads.
_STUDIO = Lighting(
    np.full(3, 0.32),
    np.array([[-0.42, 0.62, 0.66, 0.0]]),
    np.array([[0.78, 0.78, 0.78, 1.0]]),
    np.zeros((1, 4)),
    None,
)


def linear(colour: str) -> Array:
    """#rrggbb as linear light (3,)."""
    return to_light(np.array([int(colour[k : k + 2], 16) for k in (1, 3, 5)]) / 255.0)


def lighting(evaluation: Evaluation, i: int, hidden: set[str]) -> Lighting:
    """The lights of sample ``i``; the strongest ``MAX_LIGHTS`` where there are more."""
    lights = [node for node in evaluation.scene.nodes if isinstance(node, Light) and node.id not in hidden]
    if not lights:
        return _STUDIO
    ambient = np.zeros(3)
    rows: list[tuple[float, Array, Array, Array]] = []
    key: Light | None = None
    for light in lights:
        strength = float(evaluation.value(light.id, STRENGTH)[i])
        colour = linear(light.tint) * strength
        world = evaluation.world(light.id)[i]
        if light.light == "ambient":
            ambient = ambient + colour
            continue
        casts = light.shadow and key is None and strength > 0.0
        key = light if casts else key
        if light.light == "directional":
            back = world[:3, 2] / max(float(np.linalg.norm(world[:3, 2])), 1e-12)
            place = np.array([*back, 0.0])
        else:
            place = np.array([*world[:3, 3], 1.0])
        reach = float(evaluation.value(light.id, REACH)[i])
        kind = np.array([_KINDS[light.falloff], float(casts), 0.0, 0.0])
        rows.append((strength, place, np.array([*colour, reach]), kind))
    rows.sort(key=lambda row: -row[0])
    rows = rows[:MAX_LIGHTS]
    if not rows:
        return Lighting(ambient, np.zeros((0, 4)), np.zeros((0, 4)), np.zeros((0, 4)), None)
    place, tint, kind = (np.array([row[k] for row in rows]) for k in (1, 2, 3))
    return Lighting(ambient, place, tint, kind, key)


def set_light(program: moderngl.Program, lights: Lighting, seen_from: Array, origin: Array, gloss: float) -> None:
    """Hand the lights, and the point (3,) it is seen from, to a program whose places are told from ``origin`` (3,)."""
    count = len(lights.place)
    place = lights.place.copy()
    place[:, :3] -= place[:, 3:] * origin
    program["ambient"] = tuple(lights.ambient)
    program["light_count"] = count
    for name, rows in (("light_place", place), ("light_colour", lights.colour), ("light_kind", lights.kind)):
        padded = np.zeros((MAX_LIGHTS, 4), "f4")
        padded[:count] = rows
        program[name].write(padded)
    program["lit_from"] = tuple(seen_from - origin)
    program["gloss"] = gloss
    program["shadow_map"] = SHADOW_UNIT


def mixed(colour: str, linear: bool) -> tuple[float, float, float]:
    """#rrggbb as it is mixed: as linear light, or as display values."""
    red, green, blue = (int(colour[k : k + 2], 16) / 255.0 for k in (1, 3, 5))
    if linear:
        red, green, blue = to_light(np.array([red, green, blue])).tolist()
    return red, green, blue


def set_haze(
    program: moderngl.Program, distance: Distance, seen_from: Array, origin: Array, linear: bool = False
) -> None:
    """Hand the look of distance to a program whose places are told from ``origin`` (3,)."""
    program["seen_from"] = tuple(seen_from - origin)
    program["haze_colour"] = mixed(distance.colour, linear)
    program["haze"] = (distance.start, distance.end, distance.strength)
