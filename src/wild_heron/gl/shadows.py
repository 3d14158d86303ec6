"""The shadow map of the key light.

A light from afar, and a point that has the whole set before it, see it in one map; a point amid the set looks along
all six axes, each in a tile of one texture. Depths from a point are even in one over the distance, and everything that
is compared is reckoned in units of the world, so that no shadow depends on what else is in the set.
"""

from collections.abc import Callable

import moderngl
import numpy as np

from ..arrays import Array
from ..scene import Light

SHADOW_UNIT = 1
_TAPS, _FEW_TAPS = 16, 6
_SIDE, _TILE = 2048, 1024
_WIDEST = float(np.sin(np.radians(60.0)))
_FACE_TANGENT = 1.15
"""A face sees a little beyond 45°, for what lies beside a point on its edge."""
_NEAREST = 0.005
_FACES = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1.0]])


class ShadowMap:
    """Where shadows fall. ``taps`` is how many places of the map are asked about each point."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._maps: dict[int, tuple[moderngl.Texture, moderngl.Framebuffer]] = {}
        self._drawn_for: bytes | None = None
        self._clips = np.eye(4)[None]
        self._place = np.zeros(4)
        self._lens = (1.0, 1.0, 0.0, float(_SIDE))
        self.taps = _TAPS

    def _map(self, faces: int) -> tuple[moderngl.Texture, moderngl.Framebuffer]:
        if faces not in self._maps:
            texture = self._context.depth_texture((_SIDE, _SIDE) if faces == 1 else (3 * _TILE, 2 * _TILE))
            texture.compare_func = "<="
            texture.filter = (moderngl.LINEAR, moderngl.LINEAR)
            texture.repeat_x = texture.repeat_y = False
            self._maps[faces] = (texture, self._context.framebuffer(depth_attachment=texture))
        return self._maps[faces]

    def update(
        self, light: Light, world: Array, spheres: Array, state: bytes, final: bool, draw: Callable[[Array], None]
    ) -> None:
        """Draw the map unless it shows ``state`` already.

        ``spheres`` (n, 4) bound what casts and takes shadows; ``draw`` draws that with a clip matrix. Soft edges are
        coarser unless the frame is ``final``.
        """
        self.taps = _TAPS if final else _FEW_TAPS
        low, high = (spheres[:, :3] - spheres[:, 3:]).min(axis=0), (spheres[:, :3] + spheres[:, 3:]).max(axis=0)
        middle = 0.5 * (low + high)
        radius = max(float((np.linalg.norm(spheres[:, :3] - middle, axis=1) + spheres[:, 3]).max()), 1e-3)
        if light.light == "directional":
            self._see_from_afar(light, world, middle, radius)
        else:
            self._see_from_a_point(light, world[:3, 3], middle, radius)
        full = state + self._clips.tobytes()
        if self._drawn_for == full:
            return
        self._drawn_for = full
        _, frame = self._map(len(self._clips))
        frame.use()
        frame.clear(depth=1.0)
        for face, clip in enumerate(self._clips):
            if len(self._clips) > 1:
                frame.viewport = (face % 3 * _TILE, face // 3 * _TILE, _TILE, _TILE)
            draw(clip)

    def _see_from_afar(self, light: Light, world: Array, middle: Array, radius: float) -> None:
        back = world[:3, 2] / max(float(np.linalg.norm(world[:3, 2])), 1e-12)
        flat = np.diag([1.0 / radius, 1.0 / radius, -1.0 / radius, 1.0])
        flat[2, 3] = -2.0
        self._clips = (flat @ looking(middle + back * 2.0 * radius, -back))[None]
        self._place = np.zeros(4)
        self._lens = (0.5 / radius, 2.0 * radius / _SIDE, light.softness, float(_SIDE))

    def _see_from_a_point(self, light: Light, place: Array, middle: Array, radius: float) -> None:
        away = float(np.linalg.norm(middle - place))
        near, far = max(away - radius, _NEAREST * radius), away + radius
        outside = away * _WIDEST > radius
        tangent = radius / np.sqrt(away * away - radius * radius) if outside else _FACE_TANGENT
        directions = ((middle - place) / away)[None] if outside else _FACES
        lens = np.array(
            [
                [1.0 / tangent, 0, 0, 0],
                [0, 1.0 / tangent, 0, 0],
                [0, 0, -(far + near) / (far - near), -2 * far * near / (far - near)],
                [0, 0, -1, 0.0],
            ]
        )
        self._clips = np.stack([lens @ looking(place, direction) for direction in directions])
        self._place = np.array([*place, 1.0])
        side = _SIDE if outside else _TILE
        self._lens = (1.0 / (1.0 / near - 1.0 / far), 2.0 * tangent / side, light.softness, float(side))

    def bind(self, program: moderngl.Program, origin: Array) -> None:
        """Hand the map to a program whose places are told from a point (3,) of the world."""
        faces = len(self._clips)
        self._map(faces)[0].use(SHADOW_UNIT)
        shift = np.eye(4)
        shift[:3, 3] = origin
        clips = np.zeros((6, 4, 4), "f4")
        clips[:faces] = (self._clips @ shift).transpose(0, 2, 1)
        program["shadow_clip"].write(clips)
        program["shadow_faces"] = faces
        program["shadow_from"] = (*(self._place[:3] - origin), self._place[3])
        program["shadow_lens"] = self._lens
        program["shadow_taps"] = self.taps


def looking(place: Array, direction: Array) -> Array:
    """World to eye (4, 4) of something at a place that looks along a unit direction."""
    up = np.array([0.0, 1.0, 0.0]) if abs(direction[1]) < 0.99 else np.array([0.0, 0.0, 1.0])
    side = np.cross(direction, up)
    side /= np.linalg.norm(side)
    out = np.eye(4)
    out[0, :3], out[1, :3], out[2, :3] = side, np.cross(side, direction), -direction
    out[:3, 3] = -out[:3, :3] @ place
    return out
