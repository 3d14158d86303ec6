"""Triangle meshes, and the simple solids."""

from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..scene.solids import Box, Cone, Cylinder, Plane, Shape, Sphere, Torus

Floats = NDArray[np.float32]

_ROUND = 64
_RINGS = 32


class Mesh(NamedTuple):
    """Triangles: positions and normals (V, 3), texture coordinates (V, 2) with v from the top, faces (F, 3).

    Faces run counter-clockwise seen from outside.
    """

    positions: Floats
    normals: Floats
    uv: Floats
    faces: NDArray[np.uint32]

    def bounds(self) -> tuple[Floats, Floats]:
        """The lowest and highest corner (3,)."""
        if not len(self.positions):
            return np.zeros(3, np.float32), np.zeros(3, np.float32)
        return self.positions.min(axis=0), self.positions.max(axis=0)


def joined(meshes: list[Mesh]) -> Mesh:
    """One mesh of several."""
    starts = np.cumsum([0, *(len(mesh.positions) for mesh in meshes)])
    if not meshes:
        none = [np.zeros((0, width), np.float32) for width in (3, 3, 2)]
        return Mesh(none[0], none[1], none[2], np.zeros((0, 3), np.uint32))
    return Mesh(
        np.concatenate([mesh.positions for mesh in meshes]),
        np.concatenate([mesh.normals for mesh in meshes]),
        np.concatenate([mesh.uv for mesh in meshes]),
        np.concatenate([mesh.faces + np.uint32(start) for mesh, start in zip(meshes, starts, strict=False)]),
    )


def solid(shape: Shape) -> Mesh:
    """The mesh of a simple solid. ValueError for a file's contents, which have to be read."""
    match shape:
        case Plane(width, height):
            return _sheet(np.array([width, 0, 0.0]), np.array([0, height, 0.0]), np.zeros(3))
        case Box(width, height, depth):
            return _box(width, height, depth)
        case Sphere(radius):
            return _sphere(radius)
        case Cylinder(radius, height):
            return _spun([(0, height / 2), (radius, height / 2), (radius, -height / 2), (0, -height / 2)])
        case Cone(radius, height):
            return _spun([(0, height / 2), (radius, -height / 2), (0, -height / 2)])
        case Torus(radius, tube):
            return _torus(radius, tube)
    raise ValueError("a model file has to be read")


def _mesh(positions: object, normals: object, uv: object, faces: object) -> Mesh:
    return Mesh(
        np.asarray(positions, np.float32), np.asarray(normals, np.float32), np.asarray(uv, np.float32),
        np.asarray(faces, np.uint32),
    )  # fmt: skip


def _sheet(across: NDArray[np.float64], up: NDArray[np.float64], middle: NDArray[np.float64]) -> Mesh:
    """A parallelogram that faces across × up."""
    normal = np.cross(across, up)
    corners = [middle + sx * across / 2 + sy * up / 2 for sx, sy in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    normals = [normal / np.linalg.norm(normal)] * 4
    return _mesh(corners, normals, [(0, 1), (1, 1), (1, 0), (0, 0)], [(0, 1, 2), (0, 2, 3)])


def _box(width: float, height: float, depth: float) -> Mesh:
    x, y, z = (np.eye(3)[k] * size for k, size in enumerate((width, height, depth)))
    sides = [(x, y, z / 2), (-x, y, -z / 2), (-z, y, x / 2), (z, y, -x / 2), (x, -z, y / 2), (x, z, -y / 2)]
    return joined([_sheet(across, up, middle) for across, up, middle in sides])


def _grid_faces(rows: int, columns: int) -> NDArray[np.int64]:
    """Faces of a (rows + 1) × (columns + 1) grid of points, rows running downwards."""
    row, column = np.meshgrid(np.arange(rows), np.arange(columns), indexing="ij")
    a = (row * (columns + 1) + column).ravel()
    b, c, d = a + 1, a + columns + 1, a + columns + 2
    return np.concatenate([np.stack([a, c, d], axis=1), np.stack([a, d, b], axis=1)])


def _sphere(radius: float) -> Mesh:
    v, u = np.meshgrid(np.linspace(0, 1, _RINGS + 1), np.linspace(0, 1, _ROUND + 1), indexing="ij")
    polar, turn = v * np.pi, u * 2 * np.pi
    normals = np.stack([np.sin(polar) * np.sin(turn), np.cos(polar), np.sin(polar) * np.cos(turn)], axis=-1)
    return _mesh(
        normals.reshape(-1, 3) * radius, normals.reshape(-1, 3), np.stack([u, v], axis=-1).reshape(-1, 2),
        _grid_faces(_RINGS, _ROUND),
    )  # fmt: skip


def _spun(profile: list[tuple[float, float]]) -> Mesh:
    """A profile of (radius, height), from the top down, spun about Y; its corners stay sharp."""
    u = np.linspace(0, 1, _ROUND + 1)
    sine, cosine = np.sin(2 * np.pi * u), np.cos(2 * np.pi * u)
    lengths = np.hypot(*np.diff(np.array(profile), axis=0).T)
    along = np.concatenate([[0], np.cumsum(lengths)]) / lengths.sum()
    bands = []
    for k, ((r0, y0), (r1, y1)) in enumerate(pairwise(profile)):
        out, up = np.array([y0 - y1, r1 - r0]) / lengths[k]
        positions = [np.stack([r * sine, np.full_like(u, y), r * cosine], axis=1) for r, y in ((r0, y0), (r1, y1))]
        normal = np.stack([out * sine, np.full_like(u, up), out * cosine], axis=1)
        uv = [np.stack([u, np.full_like(u, along[k + row])], axis=1) for row in (0, 1)]
        bands.append(
            _mesh(np.concatenate(positions), np.concatenate([normal] * 2), np.concatenate(uv), _grid_faces(1, _ROUND))
        )
    return joined(bands)


def _torus(radius: float, tube: float) -> Mesh:
    v, u = np.meshgrid(np.linspace(0, 1, _RINGS + 1), np.linspace(0, 1, _ROUND + 1), indexing="ij")
    small, turn = v * 2 * np.pi, u * 2 * np.pi
    out = np.stack([np.cos(turn), np.sin(turn), np.zeros_like(turn)], axis=-1)
    normals = out * np.cos(small)[..., None] - np.array([0, 0, 1.0]) * np.sin(small)[..., None]
    return _mesh(
        (out * radius + normals * tube).reshape(-1, 3), normals.reshape(-1, 3),
        np.stack([u, v], axis=-1).reshape(-1, 2), _grid_faces(_RINGS, _ROUND),
    )  # fmt: skip


def smooth_normals(positions: Floats, faces: NDArray[np.uint32]) -> Floats:
    """Normals (V, 3) as means of the faces around each corner, by their area."""
    corners = positions[faces].astype(np.float64)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    total = np.zeros(positions.shape)
    for k in range(3):
        np.add.at(total, faces[:, k], normal)
    size = np.linalg.norm(total, axis=1, keepdims=True)
    return np.asarray(np.where(size > 1e-20, total / np.maximum(size, 1e-20), [0.0, 0.0, 1.0]), np.float32)


def fewer_faces(mesh: Mesh, cells: int = 56) -> NDArray[np.uint32]:
    """Faces of the same corners for when a mesh is seen small: corners in one cell of a grid, ``cells`` to its longest
    side, become one, and faces that vanish or repeat are left out (Rossignac and Borrel 1993).

    Corners of one cell whose normals face apart are kept apart, so that thin walls keep both sides.
    """
    low, high = mesh.bounds()
    size = max(float((high - low).max()), 1e-9) / cells
    cell = np.floor((mesh.positions - low) / size).astype(np.int64)
    side = (mesh.normals > 0.0).astype(np.int64) @ np.array([1, 2, 4])
    key = ((cell[:, 0] * (cells + 1) + cell[:, 1]) * (cells + 1) + cell[:, 2]) * 8 + side
    _, first, member = np.unique(key, return_index=True, return_inverse=True)
    faces = first[member.ravel()[mesh.faces]]
    kept = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 0] != faces[:, 2])
    return np.ascontiguousarray(np.unique(faces[kept], axis=0), dtype=np.uint32)
