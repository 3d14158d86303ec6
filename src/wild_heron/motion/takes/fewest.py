"""As few samples as keep to a take within tolerances: the longest cubic stretches, one after the other."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from ...arrays import Array
from ...scene import TURN, Take
from ...scene.channels import POSITION
from .mending import upright_columns
from .sampling import derived


class Closeness(NamedTuple):
    """How far a thinned take may be from the one it was made of, at its samples: units, degrees, pixels, and a share of
    the range of any other column."""

    units: float = 0.01
    degrees: float = 0.1
    pixels: float = 0.5
    share: float = 0.005


Pixels = Callable[[Array, Array], Array]
"""How far apart a subject is in the picture, in pixels (N,), for two versions of the columns (N, C)."""


class Thinning:
    """The samples of a take, their slopes, and whether a stretch between two of them is one cubic."""

    def __init__(self, take: Take, allowed: Closeness, pixels: Pixels | None = None) -> None:
        self.times, self.columns = take.times, upright_columns(take)
        self.slopes = _slopes(self.times, self.columns)
        self._allowed, self._pixels = allowed, pixels
        names = take.columns
        self._place = [names.index(name) for name in POSITION] if take.moves else []
        self._turn = [names.index(name) for name in TURN] if take.turns else []
        rest = [k for k in range(len(names)) if k not in (*self._place, *self._turn)]
        self._others = [(k, allowed.share * max(float(np.ptp(self.columns[:, k])), 1e-9)) for k in rest]

    def curve(self, start: int, end: int) -> Array:
        """The columns (M, C) of the cubic from one sample to another, at those between."""
        times = self.times[start : end + 1]
        length = times[-1] - times[0]
        share = ((times - times[0]) / length)[:, None]
        rest = 1.0 - share
        low, high = self.columns[start], self.columns[end]
        made = low + (high - low) * share * share * (3.0 - 2.0 * share)
        return np.asarray(made + length * share * rest * (self.slopes[start] * rest - self.slopes[end] * share))

    def fits(self, start: int, end: int) -> bool:
        """Whether the cubic keeps to all samples between."""
        if end - start < 2:
            return True
        made, given = self.curve(start, end), self.columns[start : end + 1]
        off = made - given
        if self._place:
            square = (off[:, self._place] ** 2).sum(axis=1)
            if float(square.max()) > self._allowed.units**2:
                return False
        if self._turn:
            turn = made[:, self._turn]
            size = np.sqrt((turn * turn).sum(axis=1))
            cosine = np.abs((turn * given[:, self._turn]).sum(axis=1)) / np.maximum(size, 1e-12)
            if float(cosine.min()) < np.cos(np.radians(0.5 * self._allowed.degrees)):
                return False
        if any(float(np.abs(off[:, k]).max()) > most for k, most in self._others):
            return False
        return self._pixels is None or float(self._pixels(made, given).max()) <= self._allowed.pixels

    def farthest(self, start: int) -> int:
        """The last sample that one cubic from ``start`` reaches: steps that double, a search between, and a look
        further on, since a longer stretch may fit where a shorter one does not."""
        last = len(self.times) - 1
        good, step = start + 1, 1
        while good < last:
            trial = min(good + step, last)
            if not self.fits(start, trial):
                break
            good, step = trial, step * 2
        bad = min(good + step, last + 1)
        while bad - good > 1:
            middle = (good + bad) // 2
            if self.fits(start, middle):
                good = middle
            else:
                bad = middle
        for trial in range(min(good + 1 + (good - start) // 4, last), good, -1):
            if self.fits(start, trial):
                return trial
        return good


def fewest(take: Take, allowed: Closeness | None = None, pixels: Pixels | None = None) -> Take:
    """A take of few samples with slopes, which keeps to a given one within tolerances."""
    thinning = Thinning(take, allowed or Closeness(), pixels)
    kept = [0]
    while kept[-1] < len(thinning.times) - 1:
        kept.append(thinning.farthest(kept[-1]))
    return derived(take, "fewest keys", thinning.times[kept], thinning.columns[kept], thinning.slopes[kept])


def every_nth(take: Take, n: int) -> Take:
    """A take with every n-th sample and the last, which runs smoothly through them."""
    columns = upright_columns(take)
    kept = list(range(0, len(columns), max(n, 1)))
    if kept[-1] != len(columns) - 1:
        kept.append(len(columns) - 1)
    times, columns = take.times[kept], columns[kept]
    return derived(take, f"every {n}.", times, columns, _slopes(times, columns))


def _slopes(times: Array, columns: Array) -> Array:
    """How much each column changes a second at each sample: of the parabola through it and those beside it."""
    if len(times) < 2:
        return np.zeros_like(columns)
    return np.asarray(np.gradient(columns, times, axis=0, edge_order=2 if len(times) > 2 else 1))
