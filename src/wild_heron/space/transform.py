"""Affine transforms: position, rotation and scale as 4×4 matrices acting on column vectors."""

import numpy as np

from ..arrays import Array
from .rotation import matrix_to_quaternion, quaternion_to_matrix


def compose(position: Array, quaternion: Array, scale: Array) -> Array:
    """T·R·S from (N, 3), (N, 4), (N, 3): (N, 4, 4)."""
    out = np.zeros((len(position), 4, 4))
    out[:, :3, :3] = quaternion_to_matrix(quaternion) * scale[:, None, :]
    out[:, :3, 3] = position
    out[:, 3, 3] = 1.0
    return out


def product(a: Array, b: Array) -> Array:
    """Matrix product (…, 4, 4) with its sums in a fixed order, so that results do not depend on the batch."""
    return (
        a[..., :, 0:1] * b[..., 0:1, :]
        + a[..., :, 1:2] * b[..., 1:2, :]
        + a[..., :, 2:3] * b[..., 2:3, :]
        + a[..., :, 3:4] * b[..., 3:4, :]
    )


def apply(matrix: Array, point: Array) -> Array:
    """Points (…, 3) carried by matrices (…, 4, 4)."""
    return (
        matrix[..., :3, 0] * point[..., 0:1]
        + matrix[..., :3, 1] * point[..., 1:2]
        + matrix[..., :3, 2] * point[..., 2:3]
        + matrix[..., :3, 3]
    )


def invert(matrix: Array) -> Array:
    """The inverse of affine matrices (…, 4, 4); a carrier scaled to nothing has none and gives LinAlgError."""
    return np.asarray(np.linalg.inv(matrix), dtype=np.float64)


def length(vector: Array) -> Array:
    """Lengths (…) of vectors (…, 3), with sums in a fixed order."""
    return np.sqrt(vector[..., 0] * vector[..., 0] + vector[..., 1] * vector[..., 1] + vector[..., 2] * vector[..., 2])


def rigid(matrix: Array) -> Array:
    """The matrices (N, 4, 4) without scale and shear: the frame of a lens carried by them.

    The Z axis keeps its direction and Y stays in the plane of Y and Z; a vanished axis falls back to the world's.
    """
    z = _unit(matrix[:, :3, 2], (0.0, 0.0, 1.0))
    x = _unit(cross(matrix[:, :3, 1], z), (1.0, 0.0, 0.0))
    # A mirrored carrier would turn the picture's sides; a lens is never mirrored.
    y = cross(z, x)
    x = cross(y, z)
    return frame(x, y, z, matrix[:, :3, 3])


def unrigid(linear: Array, turned: Array) -> Array:
    """The rotations (N, 3, 3) under carriers' matrices (N, 3, 3), scaled in any way, of which ``rigid`` makes others.

    Z is what the carrier brings onto the given Z; Y is square to it in the plane that it brings onto that of Y and Z.
    """
    back = invert(linear)
    y, z = (applied(back, turned[:, :, k]) for k in (1, 2))
    z = _unit(z, (0.0, 0.0, 1.0))
    along = (y[:, 0] * z[:, 0] + y[:, 1] * z[:, 1] + y[:, 2] * z[:, 2])[:, None]
    y = _unit(y - z * along, (0.0, 1.0, 0.0))
    return np.stack([cross(y, z), y, z], axis=2)


def applied(linear: Array, vector: Array) -> Array:
    """Vectors (N, 3) turned and scaled by matrices (N, 3, 3)."""
    return linear[:, :, 0] * vector[:, 0:1] + linear[:, :, 1] * vector[:, 1:2] + linear[:, :, 2] * vector[:, 2:3]


def frame(x: Array, y: Array, z: Array, origin: Array) -> Array:
    """Matrices (N, 4, 4) from axes and origin (N, 3)."""
    out = np.zeros((len(z), 4, 4))
    out[:, :3, 0], out[:, :3, 1], out[:, :3, 2], out[:, :3, 3] = x, y, z, origin
    out[:, 3, 3] = 1.0
    return out


def cross(a: Array, b: Array) -> Array:
    """Cross products (N, 3)."""
    return np.stack(
        [
            a[..., 1] * b[..., 2] - a[..., 2] * b[..., 1],
            a[..., 2] * b[..., 0] - a[..., 0] * b[..., 2],
            a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0],
        ],
        axis=-1,
    )


def _unit(vector: Array, fallback: tuple[float, float, float]) -> Array:
    size = length(vector)[..., None]
    gone = size < 1e-12
    return np.where(gone, np.array(fallback), vector / np.where(gone, 1.0, size))


def decompose(matrix: Array) -> tuple[Array, Array, Array]:
    """Position (N, 3), unit quaternion (N, 4) and scale (N, 3) of affine matrices (N, 4, 4).

    Where carriers of uneven scale shear a node, the rotation is that of its orthogonalised axes; a mirrored node has
    a negative z scale.
    """
    position = matrix[:, :3, 3].copy()
    x, y, z = matrix[:, :3, 0], matrix[:, :3, 1], matrix[:, :3, 2]
    sx = length(x)
    ux = _unit(x, (1.0, 0.0, 0.0))
    along = (ux[:, 0] * y[:, 0] + ux[:, 1] * y[:, 1] + ux[:, 2] * y[:, 2])[:, None]
    flat_y = y - ux * along
    uy = _unit(flat_y, (0.0, 1.0, 0.0))
    uz = _unit(cross(ux, uy), (0.0, 0.0, 1.0))
    uy = cross(uz, ux)
    sy = length(y)
    side = uz[:, 0] * z[:, 0] + uz[:, 1] * z[:, 1] + uz[:, 2] * z[:, 2]
    sz = np.where(side < 0.0, -length(z), length(z))
    quaternion = matrix_to_quaternion(np.stack([ux, uy, uz], axis=2))
    return position, quaternion, np.stack([sx, sy, sz], axis=1)
