"""Rotations: Euler angles in any order, unit quaternions, matrices. Radians inside; quaternions are [x, y, z, w].

Sums are written out rather than given to a matrix product, so that a frame's result has the same bits whether it is
evaluated alone or among others.
"""

import numpy as np

from ..arrays import Array

AXES = "xyz"


def axis_quaternion(axis: int, angle: Array) -> Array:
    """The turn by ``angle`` (…) about a coordinate axis: (…, 4)."""
    # A copy is contiguous: the sine of strided numbers may differ in the last bit.
    half = 0.5 * np.array(angle, dtype=np.float64)
    out = np.zeros((*half.shape, 4))
    out[..., axis] = np.sin(half)
    out[..., 3] = np.cos(half)
    return out


def multiply(a: Array, b: Array) -> Array:
    """Quaternion product (…, 4): the rotation b followed by a."""
    ax, ay, az, aw = (a[..., i] for i in range(4))
    bx, by, bz, bw = (b[..., i] for i in range(4))
    return np.stack(
        [
            aw * bx + ax * bw + ay * bz - az * by,
            aw * by - ax * bz + ay * bw + az * bx,
            aw * bz + ax * by - ay * bx + az * bw,
            aw * bw - ax * bx - ay * by - az * bz,
        ],
        axis=-1,
    )


def euler_to_quaternion(angles: Array, order: str) -> Array:
    """Angles (N, 3) about x, y, z, unlimited, in radians → (N, 4). ``order`` "yxz" means R = Ry·Rx·Rz."""
    turns = [axis_quaternion(AXES.index(axis), angles[..., AXES.index(axis)]) for axis in order]
    return multiply(multiply(turns[0], turns[1]), turns[2])


def quaternion_to_matrix(q: Array) -> Array:
    """Unit quaternions (…, 4) → rotation matrices (…, 3, 3)."""
    x, y, z, w = (q[..., i] for i in range(4))
    out = np.empty((*q.shape[:-1], 3, 3))
    out[..., 0, 0] = 1.0 - 2.0 * (y * y + z * z)
    out[..., 0, 1] = 2.0 * (x * y - z * w)
    out[..., 0, 2] = 2.0 * (x * z + y * w)
    out[..., 1, 0] = 2.0 * (x * y + z * w)
    out[..., 1, 1] = 1.0 - 2.0 * (x * x + z * z)
    out[..., 1, 2] = 2.0 * (y * z - x * w)
    out[..., 2, 0] = 2.0 * (x * z - y * w)
    out[..., 2, 1] = 2.0 * (y * z + x * w)
    out[..., 2, 2] = 1.0 - 2.0 * (x * x + y * y)
    return out


def matrix_to_quaternion(m: Array) -> Array:
    """Rotation matrices (…, 3, 3) → unit quaternions (…, 4) with w ≥ 0 (Shepperd 1978, largest pivot)."""
    trace = m[..., 0, 0] + m[..., 1, 1] + m[..., 2, 2]
    pivots = np.stack([m[..., 0, 0], m[..., 1, 1], m[..., 2, 2], trace], axis=-1)
    choice = np.argmax(pivots, axis=-1)
    candidates = np.empty((*m.shape[:-2], 4, 4))
    for i, j, k in ((0, 1, 2), (1, 2, 0), (2, 0, 1)):
        candidates[..., i, i] = 1.0 + 2.0 * m[..., i, i] - trace
        candidates[..., i, j] = m[..., j, i] + m[..., i, j]
        candidates[..., i, k] = m[..., k, i] + m[..., i, k]
        candidates[..., i, 3] = m[..., k, j] - m[..., j, k]
        candidates[..., 3, i] = m[..., k, j] - m[..., j, k]
    candidates[..., 3, 3] = 1.0 + trace
    q = np.take_along_axis(candidates, choice[..., None, None], axis=-2)[..., 0, :]
    length = np.sqrt(q[..., 0] * q[..., 0] + q[..., 1] * q[..., 1] + q[..., 2] * q[..., 2] + q[..., 3] * q[..., 3])
    q = q / length[..., None]
    return np.where(q[..., 3:] < 0.0, -q, q)


def matrix_to_euler(m: Array, order: str) -> Array:
    """Rotation matrices (…, 3, 3) → angles (…, 3) about x, y, z in radians, the middle one within ±90°.

    Where the middle angle is ±90° the last angle is 0 (the other two turn about the same line).
    """
    i, j, k = (AXES.index(axis) for axis in order)
    sign = 1.0 if (j - i) % 3 == 1 else -1.0
    middle = np.arcsin(np.clip(sign * m[..., i, k], -1.0, 1.0))
    locked = np.abs(m[..., i, k]) > 1.0 - 1e-12
    first = np.where(
        locked,
        np.arctan2(sign * m[..., k, j], m[..., j, j]),
        np.arctan2(-sign * m[..., j, k], m[..., k, k]),
    )
    last = np.where(locked, 0.0, np.arctan2(-sign * m[..., i, j], m[..., i, i]))
    out = np.empty(m.shape[:-1])
    out[..., i], out[..., j], out[..., k] = first, middle, last
    return out


def euler_near(m: Array, order: str, near: Array) -> Array:
    """The angles (3,) of one rotation matrix (3, 3) that lie nearest to ``near`` (3,), whole turns kept."""
    i, j, k = (AXES.index(axis) for axis in order)
    first = matrix_to_euler(m, order)
    second = first.copy()
    second[i], second[j], second[k] = first[i] + np.pi, np.pi - first[j], first[k] + np.pi
    if abs(m[i, k]) > 1.0 - 1e-12:
        # Only the sum or difference of the outer angles is determined: leave the last where it is.
        sign = 1.0 if (j - i) % 3 == 1 else -1.0
        tilt = float(np.sign(sign * m[i, k]))
        first[k] = near[k]
        first[i] = first[i] - sign * tilt * near[k]
        second = first
    turn = 2.0 * np.pi
    options = [angles + turn * np.round((near - angles) / turn) for angles in (first, second)]
    return min(options, key=lambda angles: float(np.sum((angles - near) ** 2)))


def eulers_near(m: Array, order: str, near: Array) -> Array:
    """The angles (N, 3) of rotation matrices (N, 3, 3) that each lie nearest to ``near`` (N, 3), whole turns kept."""
    i, j, k = (AXES.index(axis) for axis in order)
    first = matrix_to_euler(m, order)
    second = first.copy()
    second[:, i], second[:, j], second[:, k] = first[:, i] + np.pi, np.pi - first[:, j], first[:, k] + np.pi
    locked = np.abs(m[:, i, k]) > 1.0 - 1e-12
    if locked.any():
        sign = 1.0 if (j - i) % 3 == 1 else -1.0
        tilt = np.sign(sign * m[:, i, k])
        first[:, i] = np.where(locked, first[:, i] - sign * tilt * near[:, k], first[:, i])
        first[:, k] = np.where(locked, near[:, k], first[:, k])
        second = np.where(locked[:, None], first, second)
    turn = 2.0 * np.pi
    options = [angles + turn * np.round((near - angles) / turn) for angles in (first, second)]
    off = [
        (each[:, 0] - near[:, 0]) ** 2 + (each[:, 1] - near[:, 1]) ** 2 + (each[:, 2] - near[:, 2]) ** 2
        for each in options
    ]
    return np.where((off[0] <= off[1])[:, None], options[0], options[1])


def quaternion_to_vector(q: Array) -> Array:
    """Unit quaternions (N, 4) as axis times angle (N, 3) in radians, the short way: no longer than π."""
    q = np.where(q[..., 3:] < 0.0, -q, q)
    sine = np.sqrt(q[..., 0] ** 2 + q[..., 1] ** 2 + q[..., 2] ** 2)
    angle = 2.0 * np.arctan2(sine, q[..., 3])
    small = sine < 1e-9
    return q[..., :3] * np.where(small, 2.0, angle / np.where(small, 1.0, sine))[..., None]


def vector_to_quaternion(vector: Array) -> Array:
    """Unit quaternions (N, 4) of turns given as axis times angle (N, 3), in radians."""
    angle = np.sqrt(vector[..., 0] ** 2 + vector[..., 1] ** 2 + vector[..., 2] ** 2)
    half = 0.5 * angle
    # sin(θ/2)/θ, which is ½ at 0.
    ratio = np.where(angle > 1e-9, np.sin(half) / np.where(angle > 1e-9, angle, 1.0), 0.5)
    return np.concatenate([vector * ratio[..., None], np.cos(half)[..., None]], axis=-1)


def conjugate(q: Array) -> Array:
    """Unit quaternions (…, 4) that turn back."""
    return q * np.array([-1.0, -1.0, -1.0, 1.0])


def angle_between(a: Array, b: Array) -> Array:
    """How far apart unit quaternions (N, 4) are, (N,) in radians, 0 to π."""
    off = multiply(a, conjugate(b))
    sine = np.sqrt(off[..., 0] ** 2 + off[..., 1] ** 2 + off[..., 2] ** 2)
    return np.asarray(2.0 * np.arctan2(sine, np.abs(off[..., 3])))


def euler_rates_to_spin(angles: Array, rates: Array, order: str) -> Array:
    """Angular velocities (N, 3) in the axes outside, of angles (N, 3) about x, y, z that change at ``rates`` (N, 3)."""
    first, second, third = (AXES.index(axis) for axis in order)
    outer = axis_quaternion(first, angles[..., first])
    both = multiply(outer, axis_quaternion(second, angles[..., second]))
    return np.asarray(
        np.eye(3)[first] * rates[..., first, None]
        + quaternion_to_matrix(outer)[..., :, second] * rates[..., second, None]
        + quaternion_to_matrix(both)[..., :, third] * rates[..., third, None]
    )


def slerp(a: Array, b: Array, share: Array | np.float64) -> Array:
    """Unit quaternions (N, 4) a share (N,) of the short way from a to b (Shoemake 1985)."""
    cosine = a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1] + a[..., 2] * b[..., 2] + a[..., 3] * b[..., 3]
    b = np.where(cosine[..., None] < 0.0, -b, b)
    angle = np.arccos(np.clip(np.abs(cosine), 0.0, 1.0))
    sine = np.sin(angle)
    near = sine < 1e-7
    safe = np.where(near, 1.0, sine)
    first = np.where(near, 1.0 - share, np.sin((1.0 - share) * angle) / safe)
    second = np.where(near, share, np.sin(share * angle) / safe)
    out = a * first[..., None] + b * second[..., None]
    size = np.sqrt(out[..., 0] ** 2 + out[..., 1] ** 2 + out[..., 2] ** 2 + out[..., 3] ** 2)
    return out / size[..., None]


def turn_onto(a: Array, b: Array) -> Array:
    """The smallest turn (N, 4) that takes unit vectors a (N, 3) to b (N, 3)."""
    dot = a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1] + a[..., 2] * b[..., 2]
    opposed = dot < -1.0 + 1e-12
    out = np.stack(
        [
            a[..., 1] * b[..., 2] - a[..., 2] * b[..., 1],
            a[..., 2] * b[..., 0] - a[..., 0] * b[..., 2],
            a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0],
            1.0 + dot,
        ],
        axis=-1,
    )
    # Half a turn about whatever is square to a.
    side = np.where(np.abs(a[..., :1]) < 0.7, np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    across = np.stack(
        [
            a[..., 1] * side[..., 2] - a[..., 2] * side[..., 1],
            a[..., 2] * side[..., 0] - a[..., 0] * side[..., 2],
            a[..., 0] * side[..., 1] - a[..., 1] * side[..., 0],
            np.zeros_like(dot),
        ],
        axis=-1,
    )
    out = np.where(opposed[..., None], across, out)
    size = np.sqrt(out[..., 0] ** 2 + out[..., 1] ** 2 + out[..., 2] ** 2 + out[..., 3] ** 2)
    return out / size[..., None]
