"""How long a curve is along its parameters, by itself and as it is seen through matrices that scale it unevenly."""

from collections.abc import Callable, Hashable
from functools import lru_cache
from typing import Protocol

import numpy as np

from ..arrays import Array, Rows
from .transform import length

# Gauss–Legendre of five points; NumPy's own are in a part of it that takes long to load.
_NODES = np.array([-0.906179845938664, -0.5384693101056831, 0.0, 0.5384693101056831, 0.906179845938664])
_WEIGHTS = (0.23692688505618928, 0.4786286704993663, 0.5688888888888887, 0.4786286704993663, 0.23692688505618928)
_AT_ONCE = 128
"""Matrices whose lengths are worked out together: more of them would not fit the processor's cache."""


class Way(Hashable, Protocol):
    """A curve that has parameters from 0 to 1, with samples in even steps between which it is told apart."""

    @property
    def samples(self) -> Array: ...

    def derivative(self, u: Array) -> Array:
        """Change of the point (…, 3) with the parameter, at parameters (…)."""
        ...


class PathLengths:
    """Lengths of a curve as it is seen through matrices (K, 3, 3), each row of what is asked through the one of its
    number; or, without matrices, as it is.

    All of it is worked out number by number, so that it does not depend on what else is asked for.
    """

    def __init__(self, way: Way, linear: Array | None = None) -> None:
        self._way, self._linear, self._u = way, linear, way.samples
        self._step = float(self._u[1] - self._u[0])
        nodes = self._u[:-1, None] + self._step * 0.5 * (1.0 + _NODES)
        speeds = _seen(None if linear is None else linear[:, None, None], way.derivative(nodes)[None])
        runs = np.cumsum(_sum(speeds) * (0.5 * self._step), axis=1)
        self.runs = np.concatenate([np.zeros((len(runs), 1)), runs], axis=1)
        """The length (K, S) from the start to each sample."""

    def parameter(self, share: Array, which: Rows) -> Array:
        """The parameters (N,) at shares (N,) of the length, by the table and Newton's method."""
        wanted = np.clip(share, 0.0, 1.0) * self.runs[which, -1]
        k = self._before(wanted, which)
        low = self.runs[which, k]
        piece = self.runs[which, k + 1] - low
        inside = np.where(piece > 0.0, (wanted - low) / np.where(piece > 0.0, piece, 1.0), 0.0)
        linear = None if self._linear is None else self._linear[which]
        for _ in range(3):
            # The length from the sample to here, by quadrature, against the one that is wanted.
            run = self._run(self._u[k], self._step * inside, linear)
            speed = _seen(linear, self._way.derivative(self._u[k] + self._step * inside)) * self._step
            moved = (run - (wanted - low)) / np.where(speed > 1e-12, speed, 1.0)
            inside = np.clip(np.where(speed > 1e-12, inside - moved, inside), 0.0, 1.0)
        return np.asarray(self._u[k] + self._step * inside)

    def share(self, u: Array, which: Rows) -> Array:
        """The share of the length (N,) that lies before parameters (N,)."""
        u = np.clip(u, 0.0, 1.0)
        k = np.clip(np.searchsorted(self._u, u, side="right") - 1, 0, len(self._u) - 2)
        linear = None if self._linear is None else self._linear[which]
        run = self.runs[which, k] + self._run(self._u[k], u - self._u[k], linear)
        return np.asarray(np.clip(run / np.maximum(self.runs[which, -1], 1e-12), 0.0, 1.0))

    def _before(self, wanted: Array, which: Rows) -> Rows:
        """The last samples (N,) that lie no farther along than lengths (N,)."""
        if len(self.runs) == 1:
            found = np.searchsorted(self.runs[0], wanted, side="right")
        else:
            found = (self.runs[which] <= wanted[:, None]).sum(axis=1)
        return np.clip(found - 1, 0, len(self._u) - 2)

    def _run(self, start: Array, step: Array, linear: Array | None) -> Array:
        """The length (N,) from parameters (N,) on over small steps (N,), by quadrature."""
        nodes = start[:, None] + step[:, None] * 0.5 * (1.0 + _NODES)
        speeds = _seen(None if linear is None else linear[:, None], self._way.derivative(nodes))
        return _sum(speeds) * (0.5 * step)


def _seen(linear: Array | None, way: Array) -> Array:
    """Lengths (…) of vectors (…, 3) seen through matrices (…, 3, 3)."""
    if linear is None:
        return length(way)
    # Not a matrix product, whose rounding depends on how many there are.
    x, y, z = (
        way[..., 0] * linear[..., k, 0] + way[..., 1] * linear[..., k, 1] + way[..., 2] * linear[..., k, 2]
        for k in range(3)
    )
    return np.asarray(np.sqrt(x * x + y * y + z * z))


def _sum(speeds: Array) -> Array:
    """Weighted sums (…) over the points of the quadrature (…, 5)."""
    total = speeds[..., 0] * _WEIGHTS[0]
    for k in range(1, 5):
        total = total + speeds[..., k] * _WEIGHTS[k]
    return np.asarray(total)


def parameters(way: Way, share: Array, linear: Array) -> Array:
    """The parameters (N,) at shares (N,) of the length that a curve has as it is seen through matrices (M, 3, 3).

    N and M are equal, or one of them is 1.
    """
    rows = max(len(share), len(linear))
    return _by_matrix(way, np.broadcast_to(share, (rows,)), linear, PathLengths.parameter)


def shares(way: Way, u: Array, linear: Array) -> Array:
    """The shares (N,) of the length that a curve has, seen through matrices (M, 3, 3), before parameters (N,)."""
    return _by_matrix(way, u, linear, PathLengths.share)


def plain(way: Way) -> PathLengths:
    """The lengths of a curve as it is."""
    return _lone(way, b"")


@lru_cache(maxsize=512)
def _lone(way: Way, linear: bytes) -> PathLengths:
    return PathLengths(way, np.frombuffer(linear).reshape(1, 3, 3) if linear else None)


def _by_matrix(way: Way, values: Array, linear: Array, ask: Callable[[PathLengths, Array, Rows], Array]) -> Array:
    """What lengths say of each of values (N,), seen through matrices (M, 3, 3)."""
    sizes = np.linalg.svd(linear, compute_uv=False)
    # Scaled evenly a share of the length is the same share. Rounded, so that a mere turn is the same matrix.
    even = sizes[:, 0] <= sizes[:, 2] * (1.0 + 1e-9)
    if even.all():
        return ask(plain(way), values, np.zeros(len(values), dtype=np.intp))
    gram = np.round(np.swapaxes(linear, 1, 2) @ linear / np.maximum(sizes[:, :1, None] ** 2, 1e-300), 12)
    if len(linear) == 1:
        return ask(_lone(way, _roots(gram).tobytes()), values, np.zeros(len(values), dtype=np.intp))
    out = np.empty(len(values))
    out[even] = ask(plain(way), values[even], np.zeros(int(even.sum()), dtype=np.intp))
    kinds, which = np.unique(gram[~even].reshape(-1, 9), axis=0, return_inverse=True)
    roots, uneven = _roots(kinds.reshape(-1, 3, 3)), np.flatnonzero(~even)
    for start in range(0, len(roots), _AT_ONCE):
        part = roots[start : start + _AT_ONCE]
        rows = np.flatnonzero((which >= start) & (which < start + len(part)))
        lengths = PathLengths(way, part) if len(roots) > 1 else _lone(way, part.tobytes())
        out[uneven[rows]] = ask(lengths, values[uneven[rows]], which[rows] - start)
    return out


def _roots(gram: Array) -> Array:
    """Matrices (K, 3, 3) that stretch as those whose transpose times themselves, (K, 3, 3), are given."""
    values, vectors = np.linalg.eigh(gram)
    return np.ascontiguousarray(np.sqrt(np.maximum(values, 0.0))[:, :, None] * np.swapaxes(vectors, 1, 2))
