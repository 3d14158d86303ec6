"""As few samples as keep to a take within tolerances, at all of its samples; between them it runs smoothly.

The longest cubic stretches one after the other are the fewest as long as part of a stretch that fits does too. Where a
take is noisy that is not so: there the fewest are the shortest way through all the stretches that fit.
"""

from collections.abc import Callable
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

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
    """The samples of a take, the slopes that a cubic may have there, and whether a stretch between two of them is one.

    Slopes (K, N, C) are those of lines through more and more samples about each: of a noisy take its own say little.
    """

    def __init__(self, take: Take, allowed: Closeness, pixels: Pixels | None = None) -> None:
        self.times, self.columns = take.times, upright_columns(take)
        self.slopes = np.stack([_slopes(self.times, self.columns, each) for each in _AROUND])
        self._allowed, self._pixels = allowed, pixels
        names = take.columns
        self._place = [names.index(name) for name in POSITION] if take.moves else []
        self._turn = [names.index(name) for name in TURN] if take.turns else []
        rest = [k for k in range(len(names)) if k not in (*self._place, *self._turn)]
        self._others = [(k, allowed.share * max(float(np.ptp(self.columns[:, k])), 1e-9)) for k in rest]

    def fits(self, start: int, end: int, slopes: int) -> bool:
        """Whether the cubic from one sample to another, with slopes of a number, keeps to all samples between."""
        if end - start < 2:
            return True
        times, given = self.times[start : end + 1], self.columns[start : end + 1]
        length = times[-1] - times[0]
        share = ((times - times[0]) / length)[:, None]
        out, into = self.slopes[slopes][start], self.slopes[slopes][end]
        return bool(self._keeps(_cubic(given[0], given[-1], out, into, length, share)[None], given[None])[0])

    def all_fit(self, length: int, first: int, last: int) -> NDArray[np.bool_]:
        """The same of every stretch of so many steps, (N − length,), with slopes of one number where it begins and of
        another where it ends."""
        count = len(self.times) - length
        if length < 2:
            return np.ones(max(count, 0), dtype=bool)
        given = np.lib.stride_tricks.sliding_window_view(self.columns, length + 1, axis=0).transpose(0, 2, 1)
        times = np.lib.stride_tricks.sliding_window_view(self.times, length + 1)
        out, into = self.slopes[first][:count, None], self.slopes[last][length:, None]

        def keeps(rows: NDArray[np.intp], inside: slice) -> NDArray[np.bool_]:
            ends, at = given[rows], times[rows]
            long = (at[:, -1] - at[:, 0])[:, None, None]
            share = (at[:, inside] - at[:, :1])[:, :, None] / long
            made = _cubic(ends[:, :1], ends[:, -1:], out[rows], into[rows], long, share)
            return self._keeps(made, ends[:, inside])

        # Most that do not fit stray in their middle.
        rows = np.flatnonzero(keeps(np.arange(count), slice(length // 2, length // 2 + 1)))
        found = np.zeros(count, dtype=bool)
        found[rows] = keeps(rows, slice(None))
        return found

    def _keeps(self, made: Array, given: Array) -> NDArray[np.bool_]:
        """Whether columns (S, M, C) keep to others, for each of S."""
        off = made - given
        good = np.ones(len(made), dtype=bool)
        if self._place:
            good &= (off[..., self._place] ** 2).sum(axis=2).max(axis=1) <= self._allowed.units**2
        if self._turn:
            turn = made[..., self._turn]
            size = np.sqrt((turn * turn).sum(axis=2))
            cosine = np.abs((turn * given[..., self._turn]).sum(axis=2)) / np.maximum(size, 1e-12)
            good &= cosine.min(axis=1) >= np.cos(np.radians(0.5 * self._allowed.degrees))
        for k, most in self._others:
            good &= np.abs(off[..., k]).max(axis=1) <= most
        if self._pixels is not None and good.any():
            flat = (int(good.sum()) * made.shape[1], made.shape[2])
            apart = self._pixels(made[good].reshape(flat), given[good].reshape(flat))
            good[good] = apart.reshape(-1, made.shape[1]).max(axis=1) <= self._allowed.pixels
        return good

    def farthest(self, start: int, slopes: int) -> int:
        """The last sample that one cubic from ``start`` reaches: steps that double, a search between, and a look
        further on, since a longer stretch may fit where a shorter one does not."""
        last = len(self.times) - 1
        good, step = start + 1, 1
        while good < last:
            trial = min(good + step, last)
            if not self.fits(start, trial, slopes):
                break
            good, step = trial, step * 2
        bad = min(good + step, last + 1)
        while bad - good > 1:
            middle = (good + bad) // 2
            if self.fits(start, middle, slopes):
                good = middle
            else:
                bad = middle
        for trial in range(min(good + 1 + (good - start) // 4, last), good, -1):
            if self.fits(start, trial, slopes):
                return trial
        return good


def _cubic(low: Array, high: Array, out: Array, into: Array, length: Array, share: Array) -> Array:
    rest = 1.0 - share
    run = low + (high - low) * share * share * (3.0 - 2.0 * share)
    return np.asarray(run + length * share * rest * (out * rest - into * share))


def fewest(take: Take, allowed: Closeness | None = None, pixels: Pixels | None = None) -> Take:
    """A take of few samples with slopes, which keeps to a given one within tolerances."""
    thinning = Thinning(take, allowed or Closeness(), pixels)
    chains = [_one_after_the_other(thinning, k) for k in range(len(_AROUND))]
    kept, slopes = _shortest_way(thinning, chains)
    made = thinning.slopes[slopes, kept]
    return derived(take, "fewest keys", thinning.times[kept], thinning.columns[kept], made)


def _one_after_the_other(thinning: Thinning, slopes: int) -> list[int]:
    kept = [0]
    while kept[-1] < len(thinning.times) - 1:
        kept.append(thinning.farthest(kept[-1], slopes))
    return kept


_AROUND = (1, 8)
"""So many samples to either side that a slope is told from."""
_LONGEST = 30
"""Steps of a stretch of which all are looked at; longer ones are those that were found one after the other."""
_AT_ONCE = 4_000_000


def _shortest_way(thinning: Thinning, chains: list[list[int]]) -> tuple[list[int], list[int]]:
    """The fewest samples from the first to the last, and the numbers of their slopes, over stretches of up to so many
    steps and those that were found one after the other, by dynamic programming."""
    count, kinds = len(thinning.times), len(chains)
    best = min(range(kinds), key=lambda k: len(chains[k]))
    usual = float(np.mean(np.diff(chains[best]))) if len(chains[best]) > 1 else 1.0
    longest = min(_LONGEST, max(round(3.0 * usual), 3), count - 1)
    if usual > 0.5 * _LONGEST or count * longest * thinning.columns.shape[1] > _AT_ONCE or len(chains[best]) < 3:
        return chains[best], [best] * len(chains[best])
    far_off = count + 1
    least = np.full((count, kinds), far_off, dtype=np.int64)
    least[0] = 0
    before = np.zeros((count, kinds, 2), dtype=np.intp)
    pairs = [(a, b) for a in range(kinds) for b in range(kinds)]
    reach = {
        pair: _ends([thinning.all_fit(length, *pair) for length in range(1, longest + 1)], count) for pair in pairs
    }
    ways = [dict(pairwise(chain)) for chain in chains]
    for start in range(count):
        for a, b in pairs:
            gone = least[start, a] + 1
            if gone >= far_off:
                continue
            ends = reach[a, b][start]
            if a == b and start in ways[a]:
                ends = np.append(ends, ways[a][start])
            better = ends[least[ends, b] > gone]
            least[better, b] = gone
            before[better, b] = start, a
    at = (count - 1, int(least[-1].argmin()))
    way = [at]
    while at[0]:
        at = int(before[at][0]), int(before[at][1])
        way.append(at)
    way.reverse()
    return [each for each, _ in way], [kind for _, kind in way]


def _ends(fit: list[NDArray[np.bool_]], count: int) -> list[NDArray[np.intp]]:
    """Where the stretches that fit end, by where they begin."""
    table = np.zeros((count, len(fit)), dtype=bool)
    for k, each in enumerate(fit):
        table[: len(each), k] = each
    return [start + 1 + np.flatnonzero(row) for start, row in enumerate(table)]


def every_nth(take: Take, n: int) -> Take:
    """A take with every n-th sample and the last, which runs smoothly through them."""
    columns = upright_columns(take)
    kept = list(range(0, len(columns), max(n, 1)))
    if kept[-1] != len(columns) - 1:
        kept.append(len(columns) - 1)
    times, columns = take.times[kept], columns[kept]
    return derived(take, f"every {n}.", times, columns, _slopes(times, columns))


def _slopes(times: Array, columns: Array, around: int = 1) -> Array:
    """How much each column changes a second at each sample: of the parabola through it and those beside it, or of the
    line that fits so many to either side best, as far as there are so many."""
    if len(times) < 2:
        return np.zeros_like(columns)
    out = np.asarray(np.gradient(columns, times, axis=0, edge_order=2 if len(times) > 2 else 1))
    size = 2 * around + 1
    if around > 1 and len(times) >= size:
        near = np.lib.stride_tricks.sliding_window_view(times, size)
        off = near - near.mean(axis=1, keepdims=True)
        given = np.lib.stride_tricks.sliding_window_view(columns, size, axis=0)
        out[around:-around] = (given * off[:, None, :]).sum(axis=2) / (off * off).sum(axis=1)[:, None]
    return out
