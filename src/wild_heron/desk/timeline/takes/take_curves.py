"""What is drawn and said of a take: its largest motion as a curve, and how it compares with what it was made from."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ....arrays import Array
from ....motion.takes.closeness import worst_apart
from ....motion.takes.sampling import between
from ....motion.takes.steadying import shake_of
from ....scene import TURN, Take
from ....scene.channels import POSITION


@lru_cache(maxsize=64)
def largest(take: Take) -> tuple[str, ...]:
    """The column that moves most, or of a rotation all four."""
    if take.moves:
        spans = np.ptp(take.column(*POSITION), axis=0)
        return (POSITION[int(np.argmax(spans))],)
    return TURN if take.turns else (take.columns[0],)


@lru_cache(maxsize=64)
def detail(take: Take, column: tuple[str, ...], bins: int) -> tuple[Array, Array]:
    """The lowest and highest values (B,), (B,) of a column in even parts of a take: so that jitter shows at any
    size."""
    seconds = np.linspace(take.times[0], take.times[-1], bins * 4 + 1)
    values = between(take, column, seconds)
    # Of a rotation how far it has turned from where it began.
    line = values[:, 0] if len(column) == 1 else 2.0 * np.arccos(np.clip(np.abs(values @ values[0]), 0.0, 1.0))
    own = take.table()[:, 1 + take.columns.index(column[0])] if len(column) == 1 and not take.slopes else line[:0]
    low, high = _folded(line[:-1].reshape(bins, 4))
    if len(own):
        at = np.clip(((take.times - take.times[0]) / max(take.seconds, 1e-9) * bins).astype(int), 0, bins - 1)
        np.minimum.at(low, at, own)
        np.maximum.at(high, at, own)
    return low, high


def _folded(parts: Array) -> tuple[Array, Array]:
    return parts.min(axis=1).copy(), parts.max(axis=1).copy()


class TakeComparison(NamedTuple):
    """A take against what it was made from: worst error in pixels on the subject (NaN: it cannot be said), samples of
    both, and what is left of the shake, as a share."""

    pixels: float
    before: int
    after: int
    shake: float


@lru_cache(maxsize=64)
def compared(take: Take, source: Take, distance: float, focal_px: float) -> TakeComparison:
    """How a take compares with another one."""
    shakes = shake_of(source)
    left = shake_of(take) / shakes if shakes > 1e-9 else 0.0
    return TakeComparison(worst_apart(take, source, distance, focal_px), source.count, take.count, left)


def in_words(take: Take) -> str:
    """How long a take is, and what is wrong with it."""
    words = f"{take.seconds:.2f} s · {take.count} samples"
    gaps = sum(mark.kind == "gap" for mark in take.marks)
    jumps = len(take.marks) - gaps
    if gaps:
        words += f" · {gaps} gap{'s' * (gaps > 1)}"
    if jumps:
        words += f" · {jumps} jump{'s' * (jumps > 1)}"
    return words


def compared_in_words(found: TakeComparison) -> str:
    """The same in words, as short as they go."""
    parts = [f"{found.before} → {found.after}", f"{found.shake * 100:.0f} % shake"]
    if found.pixels == found.pixels:
        parts.insert(0, f"{found.pixels:.1f} px")
    return " · ".join(parts)
