"""Camera matching: lens and pose from points and lines in a photograph.

From points whose place in the set and in the photograph are known, and from lines in the photograph that run along
the axes of the set: a closed form first, then least squares. The middle of the photograph is taken to be where the
lens pointed, and its pixels to be square.
"""

from typing import NamedTuple

import numpy as np

from ..arrays import Array
from .lens import world_to_pixel

_FOCAL_LENGTHS = 24
_TRIED = 12
_APART = 0.15
"""Starts differ by this much: in radians, in shares of the distance to the points, or in the logarithm of the focal
length."""
_TELLS = 5e-3
_CLOSE, _CLOSE_OF_FEW = 2.0, 0.02
"""A fit within this many pixels of what is given needs no new start; few points leave room for false fits."""
_FEW = 5


class LensMatch(NamedTuple):
    """A pose (4, 4) that looks down its −Z, a focal length in pixels, how far off each point is in pixels (N,), and how
    far off the ends of each line are (L,). It is ``loose`` where what is given fits a whole range of them."""

    pose: Array
    focal_px: float
    point_errors: Array
    line_errors: Array
    loose: bool = False

    @property
    def error(self) -> float:
        """Root mean square of all that is off, in pixels; 0 where nothing is given."""
        every = np.concatenate([self.point_errors, self.line_errors])
        return float(np.sqrt((every**2).mean())) if len(every) else 0.0


def from_vanishing_points(first: Array, second: Array, middle: Array) -> tuple[float, Array]:
    """Focal length in pixels, and the rotation (3, 3) whose first two columns are the directions, in a lens's own
    space, of the two perpendicular directions that vanish at two pixels (2,).

    f² = −(v₁ − p)·(v₂ − p) (Caprile and Torre 1990). ValueError where the points do not belong to perpendiculars.
    """
    a, b = first - middle, second - middle
    square = -float(a @ b)
    if not square > 0.0:
        raise ValueError("these lines do not run in two directions at right angles")
    focal = float(np.sqrt(square))
    # Down in the picture is down in the lens's space too: y is turned over.
    columns = [np.array([v[0], -v[1], -focal]) / np.sqrt(float(v @ v) + square) for v in (a, b)]
    third = np.cross(columns[0], columns[1])
    return focal, np.stack([*columns, third / np.linalg.norm(third)], axis=1)


def crossing(lines: Array) -> Array:
    """The homogeneous point (3,) nearest to where lines (L, 2, 2) of pixels cross, by least squares."""
    ends = np.concatenate([lines, np.ones((*lines.shape[:2], 1))], axis=-1)
    scale = max(float(np.abs(lines).max()), 1.0)
    ends[..., :2] /= scale
    normals = np.cross(ends[:, 0], ends[:, 1])
    normals /= np.linalg.norm(normals[:, :2], axis=1, keepdims=True)
    point = np.linalg.svd(normals)[2][-1]
    return np.asarray(point * np.array([scale, scale, 1.0]))


def solve(
    points: Array,
    pixels: Array,
    lines: Array,
    axes: Array,
    size: tuple[int, int],
    start: Array,
    focal_px: float,
) -> LensMatch:
    """The lens and pose that fit best.

    ``points`` (N, 3) in the world are seen at ``pixels`` (N, 2) of a photograph of ``size``; ``lines`` (L, 2, 2) are
    segments in it that run along the world directions ``axes`` (L, 3). What is given may be too little to fix
    everything: then what it leaves open stays as near to ``start`` and ``focal_px`` as it can.
    """
    problem = _Problem(points, pixels, lines, axes, size)
    fixed = 2 * len(points) + len(lines) >= 7 and len(points) >= 4
    starts = [(start, focal_px)]
    best = problem.refined(start, focal_px, fixed)
    few = 4 <= len(points) <= _FEW
    if best.error > (_CLOSE_OF_FEW if few else _CLOSE):
        if len(points) >= 4:
            starts = problem.closed_forms(focal_px)
        elif len(points) == 0 and len(lines) >= 4:
            starts = problem.from_lines(start)
        for pose, focal in starts:
            if best.error < _CLOSE_OF_FEW:
                break
            other = problem.refined(pose, focal, fixed)
            if other.error < best.error:
                best = other
    return best


class _Problem:
    """What is given, and how far a lens and pose are from it."""

    def __init__(self, points: Array, pixels: Array, lines: Array, axes: Array, size: tuple[int, int]) -> None:
        self.points = np.asarray(points, dtype=np.float64).reshape(-1, 3)
        self.pixels = np.asarray(pixels, dtype=np.float64).reshape(-1, 2)
        self.lines = np.asarray(lines, dtype=np.float64).reshape(-1, 2, 2)
        self.axes = np.asarray(axes, dtype=np.float64).reshape(-1, 3)
        self.size = size
        self.middle = 0.5 * np.array(size, dtype=np.float64)

    def point_offsets(self, pose: Array, focal: float) -> Array:
        """Seen less given pixels (N, 2); what is behind the lens is far off."""
        count = len(self.points)
        if not count:
            return np.zeros((0, 2))
        poses = np.broadcast_to(pose, (count, 4, 4))
        seen, _ = world_to_pixel(self.points, poses, np.full(count, focal), *self.size)
        return np.nan_to_num(seen - self.pixels, nan=10.0 * self.size[0])

    def line_offsets(self, pose: Array, focal: float) -> Array:
        """How far the end of each line (L,) is from the line through its middle to where its direction vanishes."""
        if not len(self.lines):
            return np.zeros(0)
        d = self.axes @ pose[:3, :3]
        ahead = -d[:, 2]
        vanishing = np.stack(
            [self.middle[0] * ahead + focal * d[:, 0], self.middle[1] * ahead - focal * d[:, 1], ahead], axis=1
        )
        middles = np.concatenate([self.lines.mean(axis=1), np.ones((len(self.lines), 1))], axis=1)
        normal = np.cross(middles, vanishing)
        size = np.maximum(np.linalg.norm(normal[:, :2], axis=1), 1e-12)
        return np.asarray((normal[:, :2] * self.lines[:, 0]).sum(axis=1) / size + normal[:, 2] / size)

    def refined(self, pose: Array, focal: float, fixed: bool) -> LensMatch:
        """Least squares from a start; unless all is ``fixed`` by what is given, with a slight pull towards it."""
        from scipy.optimize import least_squares
        from scipy.spatial.transform import Rotation

        away = max(float(np.linalg.norm(self.points - pose[:3, 3], axis=1).mean()), 1e-3) if len(self.points) else 1.0
        pull = 1e-3 * self.size[0]

        def moved(change: Array) -> tuple[Array, float]:
            out = pose.copy()
            out[:3, :3] = pose[:3, :3] @ Rotation.from_rotvec(change[:3]).as_matrix()
            out[:3, 3] = pose[:3, 3] + change[3:6] * away
            return out, focal * float(np.exp(np.clip(change[6], -4.0, 4.0)))

        def offsets(change: Array) -> Array:
            new, f = moved(change)
            parts = [self.point_offsets(new, f).ravel(), self.line_offsets(new, f)]
            return np.concatenate(parts if fixed else [*parts, pull * change])

        found = least_squares(offsets, np.zeros(7), method="lm", x_scale="jac", max_nfev=400)
        new, f = moved(found.x)
        # How far each combination of changes moves what is seen, in pixels for a change by one part in a thousand.
        count = 2 * len(self.points) + len(self.lines)
        moves = np.linalg.svd(found.jac[:count], compute_uv=False)
        loose = len(moves) < 7 or 1e-3 * float(moves[-1]) < _TELLS
        errors = np.linalg.norm(self.point_offsets(new, f), axis=1)
        return LensMatch(new, f, errors, np.abs(self.line_offsets(new, f)), loose)

    def closed_forms(self, focal: float) -> list[tuple[Array, float]]:
        """The best poses from three points each, over a range of focal lengths."""
        width = float(self.size[0])
        tried = np.concatenate([[focal], width * np.geomspace(0.3, 6.0, _FOCAL_LENGTHS)])
        found: list[tuple[float, Array, float]] = []
        for triple in self._triples():
            for f in tried:
                rays = self._rays(triple, float(f))
                for pose in pose_from_three(self.points[list(triple)], rays):
                    error = float(np.linalg.norm(self.point_offsets(pose, float(f)), axis=1).mean())
                    found.append((error, pose, float(f)))
        found.sort(key=lambda each: each[0])
        chosen: list[tuple[Array, float]] = []
        for _, pose, f in found:
            if all(self._differ(pose, f, other, g) for other, g in chosen):
                chosen.append((pose, f))
            if len(chosen) == _TRIED:
                break
        return chosen

    def _differ(self, pose: Array, focal: float, other: Array, other_focal: float) -> bool:
        """Whether two starts are far enough apart that they may lead to different fits."""
        away = max(float(np.linalg.norm(self.points.mean(axis=0) - pose[:3, 3])), 1e-6)
        turned = 0.5 * (float(np.trace(pose[:3, :3].T @ other[:3, :3])) - 1.0)
        return (
            turned < np.cos(_APART)
            or float(np.linalg.norm(pose[:3, 3] - other[:3, 3])) > _APART * away
            or abs(np.log(focal / other_focal)) > 2.0 * _APART
        )

    def _rays(self, triple: tuple[int, int, int], focal: float) -> Array:
        """Unit directions (3, 3), in the lens's own space, to three pixels."""
        offset = self.pixels[list(triple)] - self.middle
        rays = np.stack([offset[:, 0], -offset[:, 1], np.full(3, -focal)], axis=1)
        return np.asarray(rays / np.linalg.norm(rays, axis=1, keepdims=True))

    def _triples(self) -> list[tuple[int, int, int]]:
        """Two triples of points that span much of the photograph."""
        count = len(self.points)
        scored = []
        for i in range(count):
            for j in range(i + 1, count):
                for k in range(j + 1, count):
                    a, b = self.pixels[j] - self.pixels[i], self.pixels[k] - self.pixels[i]
                    scored.append((abs(float(a[0] * b[1] - a[1] * b[0])), (i, j, k)))
        scored.sort(reverse=True)
        return [triple for _, triple in scored[:2]]

    def from_lines(self, start: Array) -> list[tuple[Array, float]]:
        """The turn and focal length from two vanishing points, with the position kept."""
        groups: list[tuple[Array, Array]] = []
        for axis in np.unique(self.axes, axis=0):
            lines = self.lines[(self.axes == axis).all(axis=1)]
            if len(lines) >= 2:
                groups.append((axis, crossing(lines)))
        if len(groups) < 2 or any(abs(point[2]) < 1e-9 for _, point in groups[:2]):
            return []
        (first, a), (second, b) = groups[:2]
        try:
            focal, columns = from_vanishing_points(a[:2] / a[2], b[:2] / b[2], self.middle)
        except ValueError:
            return []
        found = []
        # A line does not say which way along it is forward.
        for sa in (1.0, -1.0):
            for sb in (1.0, -1.0):
                seen = np.stack(
                    [columns[:, 0] * sa, columns[:, 1] * sb, np.cross(columns[:, 0] * sa, columns[:, 1] * sb)], 1
                )
                world = np.stack([first, second, np.cross(first, second)], axis=1)
                pose = start.copy()
                pose[:3, :3] = world @ seen.T
                found.append((pose, focal))
        # Nearest to how it looked before.
        found.sort(key=lambda each: -float(np.trace(each[0][:3, :3].T @ start[:3, :3])))
        return found[:1]


def pose_from_three(points: Array, rays: Array) -> list[Array]:
    """Poses (4, 4), up to four, from which three points (3, 3) are seen along unit directions (3, 3) of a lens's own
    space: Grunert's solution, as in Haralick et al. 1994."""
    a2, b2, c2 = (float(((points[i] - points[j]) ** 2).sum()) for i, j in ((1, 2), (0, 2), (0, 1)))
    if min(a2, b2, c2) < 1e-18:
        return []
    alpha, beta, gamma = float(rays[1] @ rays[2]), float(rays[0] @ rays[2]), float(rays[0] @ rays[1])
    q, r = (a2 - c2) / b2, (a2 + c2) / b2
    coefficients = [
        (q - 1) ** 2 - 4 * c2 / b2 * alpha**2,
        4 * (q * (1 - q) * beta - (1 - r) * alpha * gamma + 2 * c2 / b2 * alpha**2 * beta),
        2 * (q**2 - 1 + 2 * q**2 * beta**2 + 2 * (b2 - c2) / b2 * alpha**2 - 4 * r * alpha * beta * gamma
             + 2 * (b2 - a2) / b2 * gamma**2),
        4 * (-q * (1 + q) * beta + 2 * a2 / b2 * gamma**2 * beta - (1 - r) * alpha * gamma),
        (1 + q) ** 2 - 4 * a2 / b2 * gamma**2,
    ]  # fmt: skip
    if not np.isfinite(coefficients).all():
        return []
    poses = []
    for root in np.roots(coefficients):
        if abs(root.imag) > 1e-6 * max(1.0, abs(root.real)) or root.real <= 0.0:
            continue
        v = float(root.real)
        below = 2 * (gamma - v * alpha)
        if abs(below) < 1e-12:
            continue
        u = ((q - 1) * v * v - 2 * q * beta * v + 1 + q) / below
        square = 1 + v * v - 2 * v * beta
        if u <= 0.0 or square <= 1e-15:
            continue
        s = float(np.sqrt(b2 / square))
        poses.append(_aligned(points, rays * np.array([s, u * s, v * s])[:, None]))
    return poses


def _aligned(world: Array, seen: Array) -> Array:
    """The pose (4, 4) that takes points of the lens's own space to points of the world (Kabsch 1976)."""
    middle, centre = world.mean(axis=0), seen.mean(axis=0)
    u, _, vt = np.linalg.svd((seen - centre).T @ (world - middle))
    flip = np.diag([1.0, 1.0, float(np.sign(np.linalg.det(vt.T @ u.T)))])
    pose = np.eye(4)
    pose[:3, :3] = vt.T @ flip @ u.T
    pose[:3, 3] = middle - pose[:3, :3] @ centre
    return pose
