"""Broadcasting of arrays that have N rows, or one where nothing changes."""

import numpy as np

from ..arrays import Array
from ..space.transform import length


def rows(*arrays: Array) -> tuple[Array, ...]:
    """The arrays (N, …) or (1, …) with as many rows as the longest."""
    size = max(len(each) for each in arrays)
    return tuple(each if len(each) == size else np.broadcast_to(each, (size, *each.shape[1:])) for each in arrays)


def moved_to(world: Array, position: Array) -> Array:
    """World matrices (N, 4, 4) with other positions (N, 3)."""
    world, position = rows(world, position)
    out = world.copy()
    out[:, :3, 3] = position
    return out


def with_rotation(world: Array, rotation: Array) -> Array:
    """World matrices (N, 4, 4) with other axes (N, 3, 3), as long as their own were."""
    world, rotation = rows(world, rotation)
    out = world.copy()
    scale = np.stack([length(world[:, :3, k]) for k in range(3)], axis=1)
    out[:, :3, :3] = rotation * scale[:, None, :]
    return out


def unit(vector: Array, fallback: tuple[float, float, float] = (0.0, 0.0, 1.0)) -> Array:
    """Vectors (N, 3) of length one; a vanished one is the fallback."""
    size = length(vector)[:, None]
    gone = size < 1e-12
    return np.where(gone, np.array(fallback), vector / np.where(gone, 1.0, size))


def dot(a: Array, b: Array) -> Array:
    """Dot products (N,), with sums in a fixed order."""
    return a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1] + a[..., 2] * b[..., 2]


def applied(matrices: Array, vectors: Array) -> Array:
    """Directions (N, 3) turned and scaled by matrices (N, 3, 3) or (N, 4, 4)."""
    return np.stack([dot(matrices[:, k, :3], vectors) for k in range(3)], axis=1)


def turned_axes(matrices: Array, worlds: Array) -> Array:
    """The axes (N, 3, 3) of world matrices (N, 4, 4), turned and scaled by others."""
    return np.stack([applied(matrices, worlds[:, :3, k]) for k in range(3)], axis=2)
