"""Binary space partition of flat pictures: back-to-front order, split where planes intersect.

A binary space partition (Fuchs, Kedem and Naylor 1980): each plane divides the rest into what lies before and behind
it, and what straddles it is cut along the line. It is built once for as long as the pictures stand still, and walked
from any viewpoint.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..arrays import Array

_RELATIVE_TOLERANCE = 1e-7


@dataclass(frozen=True)
class Piece:
    """A convex part of a picture: its number, corners in the world (K, 3) and in the picture (K, 2).

    ``cuts`` (C, 4) say where it ends within the picture: by (a, b, c, side), what has a·u + b·v + c ≥ 0 belongs to it
    on side 1, what has less on side −1. The two parts along a cut have the same numbers, so that every point of the
    picture, worked out alike, belongs to just one of them. ``cut_from`` is the whole.
    """

    picture: int
    corners: Array
    uv: Array
    cuts: Array = field(default_factory=lambda: np.zeros((0, 4)))
    cut_from: "Piece | None" = None

    @property
    def whole(self) -> "Piece":
        return self.cut_from or self

    @cached_property
    def spread(self) -> Array:
        """What a place (u, v, 1) in a whole picture is multiplied with for its place in the world: (3, 3), in rows.

        The corners are those of an upright rectangle in the picture.
        """
        (u, v), width, height = self.uv[0], self.uv[1, 0] - self.uv[0, 0], self.uv[3, 1] - self.uv[0, 1]
        across, down = (self.corners[1] - self.corners[0]) / width, (self.corners[3] - self.corners[0]) / height
        return np.stack([across, down, self.corners[0] - u * across - v * down])


@dataclass
class _Partition:
    normal: Array
    facing: tuple[float, float, float]
    offset: float
    level: list[Piece] = field(default_factory=list)
    front: "_Partition | None" = None
    back: "_Partition | None" = None


class DrawOrder:
    """Pieces sorted for drawing from any viewpoint."""

    def __init__(self, pieces: list[Piece]) -> None:
        flat = [piece for piece in pieces if _normal(piece.corners) is not None]
        points = np.concatenate([piece.corners for piece in flat]) if flat else np.zeros((1, 3))
        extent = float(np.ptp(points, axis=0).max())
        self._tolerance = max(extent, 1e-9) * _RELATIVE_TOLERANCE
        self._root: _Partition | None = None
        # Work waiting: pieces, and where the partition they make is to hang. No recursion: a deep stack of layers
        # would exhaust Python's.
        waiting: list[tuple[list[Piece], _Partition | None, bool]] = [(flat, None, True)] if flat else []
        while waiting:
            group, parent, in_front = waiting.pop()
            partition, front, back = self._divide(group)
            if parent is None:
                self._root = partition
            elif in_front:
                parent.front = partition
            else:
                parent.back = partition
            if front:
                waiting.append((front, partition, True))
            if back:
                waiting.append((back, partition, False))

    def _divide(self, pieces: list[Piece]) -> tuple[_Partition, list[Piece], list[Piece]]:
        # Layers usually come in order of depth: the middle one halves them.
        chosen = pieces[len(pieces) // 2]
        normal = _normal(chosen.corners)
        assert normal is not None
        x, y, z = normal.tolist()
        partition = _Partition(normal, (x, y, z), float(normal @ chosen.corners[0]))
        counts = np.array([len(piece.corners) for piece in pieces])
        sides = np.concatenate([piece.corners for piece in pieces]) @ normal - partition.offset
        starts = np.concatenate([[0], np.cumsum(counts)[:-1]])
        low, high = np.minimum.reduceat(sides, starts), np.maximum.reduceat(sides, starts)
        front: list[Piece] = []
        back: list[Piece] = []
        for i, piece in enumerate(pieces):
            if piece is chosen or (low[i] >= -self._tolerance and high[i] <= self._tolerance):
                partition.level.append(piece)
            elif low[i] >= -self._tolerance:
                front.append(piece)
            elif high[i] <= self._tolerance:
                back.append(piece)
            else:
                here = sides[starts[i] : starts[i] + counts[i]]
                line = piece.whole.spread @ normal - np.array([0.0, 0.0, partition.offset])
                line = line / max(float(np.abs(line).max()), 1e-300)
                for sign, side in ((1.0, front), (-1.0, back)):
                    part = _cut(piece, here * sign, np.array([*line, sign]))
                    if part is not None:
                        side.append(part)
        partition.level.sort(key=lambda piece: piece.picture)
        return partition, front, back

    def from_eye(self, eye: Array) -> Iterator[Piece]:
        """The pieces from the farthest to the nearest as seen from a point (3,). Pieces in one plane keep the order of
        their pictures."""
        # Plain numbers: an array for each of many partitions would take longer than all the rest.
        x, y, z = (float(value) for value in eye)
        stack: list[_Partition | list[Piece]] = [self._root] if self._root else []
        while stack:
            item = stack.pop()
            if isinstance(item, list):
                yield from item
                continue
            far, near = item.back, item.front
            nx, ny, nz = item.facing
            if nx * x + ny * y + nz * z < item.offset:
                far, near = near, far
            if near is not None:
                stack.append(near)
            stack.append(item.level)
            if far is not None:
                stack.append(far)


def _normal(corners: Array) -> Array | None:
    """Unit normal (3,) of a convex polygon, or None where it has no area."""
    first = corners[1] - corners[0]
    normal = np.cross(first, corners[2] - corners[0])
    for i in range(2, len(corners) - 1):
        other = np.cross(corners[i] - corners[0], corners[i + 1] - corners[0])
        if other @ other > normal @ normal:
            normal = other
    size = float(np.sqrt(normal @ normal))
    return None if not size > 1e-18 else normal / size


def _cut(piece: Piece, sides: Array, line: Array) -> Piece | None:
    """The part of a piece where ``sides`` (one per corner) is not negative: on the line's side of it."""
    corners: list[Array] = []
    uv: list[Array] = []
    count = len(sides)
    for i in range(count):
        j = (i + 1) % count
        a, b = float(sides[i]), float(sides[j])
        if a >= 0.0:
            corners.append(piece.corners[i])
            uv.append(piece.uv[i])
        if (a > 0.0 > b) or (a < 0.0 < b):
            # From the front corner to the back one whichever way round, so that both halves get the very same point.
            near, far = (i, j) if a > 0.0 else (j, i)
            share = abs(float(sides[near])) / (abs(a) + abs(b))
            if abs(float(sides[near])) > abs(float(sides[far])):
                near, far, share = far, near, abs(float(sides[far])) / (abs(a) + abs(b))
            corners.append(piece.corners[near] + share * (piece.corners[far] - piece.corners[near]))
            uv.append(piece.uv[near] + share * (piece.uv[far] - piece.uv[near]))
    if len(corners) < 3:
        return None
    cuts = np.concatenate([piece.cuts, line[None]])
    # Cuts that none of its sides lies along any more say nothing.
    away = (np.array(uv) @ cuts[:, :2].T + cuts[:, 2]) * cuts[:, 3]
    near = away.min(axis=0) < 1e-3 * np.maximum(away.max(axis=0), 1e-12)
    return Piece(piece.picture, np.array(corners), np.array(uv), cuts[near], piece.whole)
