"""Heights and slopes of grounds, and where a line meets a surface."""

import math
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene.grounds import HeightMap, Surface, Waves

if TYPE_CHECKING:
    from scipy.interpolate import RectBivariateSpline


_PROBES = 96
_PROBED_AT_ONCE = 4096
_BISECTIONS = 50


def height_map(share: Array, low: float, high: float, source: str = "") -> HeightMap:
    """A height map from numbers (rows, columns) that run from 0 for ``low`` to 1 for ``high``."""
    steps = np.round(np.clip(share, 0.0, 1.0) * 65535.0).astype("<u2")
    return HeightMap(share.shape[1], share.shape[0], steps.tobytes(), low, high, source)


class Field(NamedTuple):
    """A surface over a rectangle of this size in units."""

    surface: Surface
    width: float
    depth: float


class Relief(NamedTuple):
    """Heights and their slopes along x and z, (…) each."""

    height: Array
    along_x: Array
    along_z: Array


def relief(field: Field, x: Array, z: Array, seconds: Array, factor: Array | float = 1.0) -> Relief:
    """The surface at places (…) of the ground's own space and moments (…), heights multiplied by ``factor``.

    Waves go on without end; a height map keeps its edge's height beyond its edge.
    """
    if isinstance(field.surface, Waves):
        height, along_x, along_z = _waves(field.surface, x, z, seconds)
    else:
        height, along_x, along_z = _mapped(field, x, z)
    return Relief(height * factor, along_x * factor, along_z * factor)


def _waves(surface: Waves, x: Array, z: Array, seconds: Array) -> tuple[Array, Array, Array]:
    shape = np.broadcast_shapes(np.shape(x), np.shape(z), np.shape(seconds))
    height, along_x, along_z = np.zeros(shape), np.zeros(shape), np.zeros(shape)
    for wave in surface.waves:
        angle = np.radians(wave.direction)
        dx, dz = float(np.cos(angle)), float(-np.sin(angle))
        number = 2.0 * np.pi / wave.wavelength
        inside = number * (dx * x + dz * z - wave.speed * seconds) + np.radians(wave.phase)
        half = 0.5 * wave.height
        slope = half * number * np.cos(inside)
        height = height + half * np.sin(inside)
        along_x, along_z = along_x + slope * dx, along_z + slope * dz
    return height, along_x, along_z


@lru_cache(maxsize=64)
def _spline(surface: HeightMap) -> "RectBivariateSpline":
    from scipy.interpolate import RectBivariateSpline  # takes longer to load than the rest of the program

    raw = np.frombuffer(surface.heights, "<u2").reshape(surface.rows, surface.columns)
    heights = surface.low + raw * ((surface.high - surface.low) / 65535.0)
    # Two rows have no slope that the spline would give: a third in their middle changes nothing and has one.
    for axis in (0, 1):
        if heights.shape[axis] == 2:
            heights = np.insert(heights, 1, heights.mean(axis=axis), axis=axis)
    rows, columns = heights.shape
    z, x = np.linspace(0.0, 1.0, rows), np.linspace(0.0, 1.0, columns)
    return RectBivariateSpline(z, x, heights, kx=min(3, rows - 1), ky=min(3, columns - 1))


def _mapped(field: Field, x: Array, z: Array) -> tuple[Array, Array, Array]:
    assert isinstance(field.surface, HeightMap)
    spline = _spline(field.surface)
    u, v = np.broadcast_arrays(x / field.width + 0.5, z / field.depth + 0.5)
    cu, cv = np.clip(u, 0.0, 1.0), np.clip(v, 0.0, 1.0)
    height = spline.ev(cv, cu)
    along_x = np.where(u == cu, spline.ev(cv, cu, dy=1) / field.width, 0.0)
    along_z = np.where(v == cv, spline.ev(cv, cu, dx=1) / field.depth, 0.0)
    return height, along_x, along_z


def relief_at(field: Field, x: float, z: float, seconds: float, factor: float) -> tuple[float, float, float]:
    """Height and slopes along x and z at one place: the same as :func:`relief`, in plain numbers."""
    if not isinstance(field.surface, Waves):
        found = relief(field, np.array([x]), np.array([z]), np.array([seconds]), factor)
        return float(found.height[0]), float(found.along_x[0]), float(found.along_z[0])
    height = along_x = along_z = 0.0
    for wave in field.surface.waves:
        angle = math.radians(wave.direction)
        dx, dz, number = math.cos(angle), -math.sin(angle), 2.0 * math.pi / wave.wavelength
        inside = number * (dx * x + dz * z - wave.speed * seconds) + math.radians(wave.phase)
        half = 0.5 * wave.height
        slope = half * number * math.cos(inside)
        height += half * math.sin(inside)
        along_x, along_z = along_x + slope * dx, along_z + slope * dz
    return height * factor, along_x * factor, along_z * factor


class Hit(NamedTuple):
    """Where lines meet a surface: the distance along each (N,), not finite where it misses, and the normal (N, 3)."""

    distance: Array
    normal: Array


def intersect_field(field: Field, origin: Array, direction: Array, seconds: Array, factor: Array) -> Hit:
    """Where lines (N, 3) + s·(N, 3), s of any sign, meet a ground's surface in its own space, nearest to s = 0.

    Upright lines are solved exactly; others are probed over the ground's size, then bisected.
    """
    upright = (direction[:, 0] == 0.0) & (direction[:, 2] == 0.0)
    straight = relief(field, origin[:, 0], origin[:, 2], seconds, factor)
    distance = np.where(
        upright, (straight.height - origin[:, 1]) / np.where(direction[:, 1] == 0.0, np.nan, direction[:, 1]), 0.0
    )
    leaning = np.flatnonzero(~upright)
    if leaning.size:
        distance[leaning] = _probed(field, origin[leaning], direction[leaning], seconds[leaning], factor[leaning])
    at = origin + np.where(np.isfinite(distance), distance, 0.0)[:, None] * direction
    found = relief(field, at[:, 0], at[:, 2], seconds, factor)
    normal = np.stack([-found.along_x, np.ones_like(found.height), -found.along_z], axis=1)
    size = np.sqrt(normal[:, 0] ** 2 + 1.0 + normal[:, 2] ** 2)
    return Hit(distance, normal / size[:, None])


def _probed(field: Field, origin: Array, direction: Array, seconds: Array, factor: Array) -> Array:
    if len(origin) > _PROBED_AT_ONCE:
        parts = [slice(k, k + _PROBED_AT_ONCE) for k in range(0, len(origin), _PROBED_AT_ONCE)]
        return np.concatenate([_probed(field, origin[k], direction[k], seconds[k], factor[k]) for k in parts])
    reach = 2.0 * float(np.hypot(field.width, field.depth)) / np.sqrt((direction * direction).sum(axis=1))
    steps = np.linspace(-1.0, 1.0, 2 * _PROBES + 1)[None, :] * reach[:, None]

    def above(s: Array) -> Array:
        at = origin[:, None, :] + s[..., None] * direction[:, None, :]
        found = relief(field, at[..., 0], at[..., 2], seconds[:, None], factor[:, None])
        return np.asarray(at[..., 1] - found.height)

    side = above(steps)
    crossed = np.sign(side[:, :-1]) != np.sign(side[:, 1:])
    nearness = np.where(crossed, np.abs(0.5 * (steps[:, :-1] + steps[:, 1:])), np.inf)
    k = np.argmin(nearness, axis=1)
    rows = np.arange(len(origin))
    low, high, low_side = steps[rows, k], steps[rows, k + 1], side[rows, k]
    for _ in range(_BISECTIONS):
        middle = 0.5 * (low + high)
        same = np.sign(above(middle[:, None])[:, 0]) == np.sign(low_side)
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    return np.where(np.isfinite(nearness[rows, k]), 0.5 * (low + high), np.nan)


_CHUNK = 200_000


def intersect_mesh(corners: Array, origin: Array, direction: Array) -> Hit:
    """Where lines (N, 3) + s·(N, 3), s of any sign, meet triangles (F, 3, 3), highest against the direction: the
    surface that something coming from −direction lands on (Möller and Trumbore 1997)."""
    best = np.full(len(origin), np.inf)
    normal = np.zeros((len(origin), 3))
    a, ab, ac = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    across = np.cross(ab, ac)
    size = np.maximum(np.linalg.norm(across, axis=1), 1e-300)
    for start in range(0, len(origin), max(1, _CHUNK // max(len(corners), 1))):
        rows = slice(start, start + max(1, _CHUNK // max(len(corners), 1)))
        o, d = origin[rows, None], direction[rows, None]
        det = -(d * across[None]).sum(axis=2)
        good = np.abs(det) > 1e-12 * size[None]
        safe = np.where(good, det, 1.0)
        away = o - a[None]
        turned = np.cross(away, d)
        s = (away * across[None]).sum(axis=2) / safe
        u = (ac[None] * turned).sum(axis=2) / safe
        v = -(ab[None] * turned).sum(axis=2) / safe
        slack = 1e-9
        inside = good & (u >= -slack) & (v >= -slack) & (u + v <= 1.0 + slack)
        s = np.where(inside, s, np.inf)
        k = np.argmin(s, axis=1)
        best[rows] = s[np.arange(len(k)), k]
        found = across[k] / size[k, None]
        # The side that is met.
        facing = (found * direction[rows]).sum(axis=1) > 0.0
        normal[rows] = np.where(facing[:, None], -found, found)
    return Hit(np.where(np.isfinite(best), best, np.nan), normal)


def ground_mesh(field: Field, seconds: float, factor: float, fineness: int) -> tuple[Array, Array, NDArray[np.uint32]]:
    """The surface as a grid: positions and normals (V, 3), faces (F, 3), ``fineness`` cells to its longer side."""
    longer = max(field.width, field.depth)
    columns = max(2, round(fineness * field.width / longer))
    rows = max(2, round(fineness * field.depth / longer))
    x, z = np.meshgrid(
        np.linspace(-0.5, 0.5, columns + 1) * field.width, np.linspace(-0.5, 0.5, rows + 1) * field.depth
    )
    found = relief(field, x, z, np.array(seconds), factor)
    positions = np.stack([x, np.broadcast_to(found.height, x.shape), z], axis=-1).reshape(-1, 3)
    normals = np.stack([-found.along_x, np.ones_like(x), -found.along_z], axis=-1).reshape(-1, 3)
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    index = np.arange((rows + 1) * (columns + 1)).reshape(rows + 1, columns + 1)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    return positions, normals, faces.astype(np.uint32)
