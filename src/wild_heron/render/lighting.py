"""Lights as the shaders take them, and the shadow map of the key light."""

from collections.abc import Callable
from typing import NamedTuple

import moderngl
import numpy as np

from ..arrays import Array
from ..colour import to_light
from ..evaluate import Evaluation
from ..scene import Distance, Light
from ..scene.channels import REACH, STRENGTH
from .shaders import MAX_LIGHTS

_MAP_SIDE = 2048
_KINDS = {"none": 0.0, "even": 1.0, "square": 2.0}
_WIDEST = np.radians(150.0)
SHADOW_UNIT = 1
_TAPS, _FEW_TAPS = 16, 6


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


def set_light(program: moderngl.Program, lights: Lighting, seen_from: Array, gloss: float) -> None:
    """Hand the lights to a program."""
    count = len(lights.place)
    program["ambient"] = tuple(lights.ambient)
    program["light_count"] = count
    for name, rows in (("light_place", lights.place), ("light_colour", lights.colour), ("light_kind", lights.kind)):
        padded = np.zeros((MAX_LIGHTS, 4), "f4")
        padded[:count] = rows
        program[name].write(padded)
    program["lit_from"] = tuple(seen_from)
    program["gloss"] = gloss
    program["shadow_map"] = SHADOW_UNIT


def set_haze(program: moderngl.Program, distance: Distance, seen_from: Array) -> None:
    """Hand the look of distance to a program."""
    program["seen_from"] = tuple(seen_from)
    program["haze_colour"] = tuple(int(distance.colour[k : k + 2], 16) / 255.0 for k in (1, 3, 5))
    program["haze"] = (distance.start, distance.end, distance.strength)


class ShadowMap:
    """What a light sees first, as depths."""

    def __init__(self, context: moderngl.Context) -> None:
        self._texture = context.depth_texture((_MAP_SIDE, _MAP_SIDE))
        self._texture.compare_func = "<="
        self._texture.filter = (moderngl.LINEAR, moderngl.LINEAR)
        self._texture.repeat_x = self._texture.repeat_y = False
        self._frame = context.framebuffer(depth_attachment=self._texture)
        self._drawn_for: bytes | None = None
        self.clip = np.eye(4)
        self.taps = _TAPS
        self._soft = (0.0, 0.0, 0.0, 0.0)

    def update(
        self,
        light: Light,
        world: Array,
        spheres: Array,
        state: bytes,
        final: bool,
        draw: Callable[[Array], None],
    ) -> None:
        """Draw the map unless it shows ``state`` already.

        ``spheres`` (n, 4) bound what casts and takes shadows; ``draw`` draws that with a clip matrix. Soft edges are
        coarser unless the frame is ``final``.
        """
        self.taps = _TAPS if final else _FEW_TAPS
        self.clip, extent, depth = _view(light, world, spheres)
        texel = extent / _MAP_SIDE
        touching = max(light.softness, 2.0 * texel) / depth
        self._soft = (0.5 * light.softness / extent, 0.5 * texel / depth + 1e-4, 1.5 * texel, touching)
        full = state + self.clip.tobytes()
        if self._drawn_for == full:
            return
        self._drawn_for = full
        self._frame.use()
        self._frame.clear(depth=1.0)
        draw(self.clip)

    def bind(self, program: moderngl.Program) -> None:
        self._texture.use(SHADOW_UNIT)
        program["shadow_clip"].write(np.ascontiguousarray(self.clip.T, "f4"))
        program["shadow_soft"] = self._soft
        program["shadow_taps"] = self.taps


def _view(light: Light, world: Array, spheres: Array) -> tuple[Array, float, float]:
    """The light's clip matrix, how wide in units the map is in the middle of what it shows, and how deep."""
    low, high = (spheres[:, :3] - spheres[:, 3:]).min(axis=0), (spheres[:, :3] + spheres[:, 3:]).max(axis=0)
    middle = 0.5 * (low + high)
    reach = np.linalg.norm(spheres[:, :3] - middle, axis=1) + spheres[:, 3]
    radius = max(float(reach.max()), 1e-3)
    if light.light == "directional":
        back = world[:3, 2] / max(float(np.linalg.norm(world[:3, 2])), 1e-12)
        eye = looking(middle + back * 2.0 * radius, -back)
        flat = np.diag([1.0 / radius, 1.0 / radius, -1.0 / radius, 1.0])
        flat[2, 3] = -2.0
        return flat @ eye, 2.0 * radius, 2.0 * radius
    place = world[:3, 3]
    toward = middle - place
    away = float(np.linalg.norm(toward))
    half = np.arcsin(radius / away) if away > radius * 1.05 else _WIDEST / 2
    eye = looking(place, toward / away if away > 1e-9 else np.array([0.0, -1.0, 0.0]))
    near, far = max(away - radius, 0.02 * radius), away + radius
    wide = 1.0 / np.tan(half)
    lens = np.array(
        [
            [wide, 0, 0, 0],
            [0, wide, 0, 0],
            [0, 0, -(far + near) / (far - near), -2 * far * near / (far - near)],
            [0, 0, -1, 0.0],
        ]
    )
    return lens @ eye, 2.0 * max(away, radius) / wide, 2.0 * radius


def looking(place: Array, direction: Array) -> Array:
    """World to eye (4, 4) of something at a place that looks along a unit direction."""
    up = np.array([0.0, 1.0, 0.0]) if abs(direction[1]) < 0.99 else np.array([0.0, 0.0, 1.0])
    side = np.cross(direction, up)
    side /= np.linalg.norm(side)
    out = np.eye(4)
    out[0, :3], out[1, :3], out[2, :3] = side, np.cross(side, direction), -direction
    out[:3, 3] = -out[:3, :3] @ place
    return out
