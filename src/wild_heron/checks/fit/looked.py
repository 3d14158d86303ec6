"""What is known of a move as it was put, from numbers and from pictures, as far as it was looked at."""

from collections.abc import Callable, Iterator

import numpy as np

from ...arrays import Rows
from ...edits.rigs import FrameRange
from ...scene import Scene
from ..case import CheckCase
from ..finding import Finding
from ..judging import CHECKS
from ..measures import Measures, Pictured

Look = Callable[[Scene, Measures, int], Pictured]
"""What pictures of a row of a scene's measures tell."""

ALL = ("edges", "comfort", "nearness")
"""The checks that a move is fitted to."""


class Looked:
    """What is known of a move as it was put, in one format."""

    def __init__(self, scene: Scene, span: FrameRange, which: int) -> None:
        self._scene, self._which = scene, which
        self._measures = Measures(scene)
        frames = self._measures.frames
        self.first = int(np.searchsorted(frames, span.first))
        self.last = min(int(np.searchsorted(frames, span.last)), len(frames) - 1)

    def row(self, share: float) -> int:
        return self.first + round(share * (self.last - self.first))

    def share(self, frame: float) -> float:
        row = int(np.searchsorted(self._measures.frames, frame))
        return (row - self.first) / max(self.last - self.first, 1)

    def measure(self, rows: Rows) -> None:
        fresh = rows[~self._measures.known[rows]]
        self._measures.measure(self._scene, fresh)

    def picture(self, row: int, look: Look) -> None:
        if not self._measures.pictured[row]:
            self._measures.put_picture(row, look(self._scene, self._measures, row))

    def _findings(self, names: tuple[str, ...]) -> Iterator[Finding]:
        case = CheckCase(self._scene, self._measures, self._which)
        low, high = self._measures.frames[[self.first, self.last]]
        for check in CHECKS:
            if check.name in names and check.name not in self._scene.checks.off:
                yield from (each for each in check.judge(case)[1] if low <= each.at <= high)

    def found(self, names: tuple[str, ...]) -> list[tuple[str, float]]:
        """Kinds and frames of what some checks find in the move's range."""
        return [(each.kind, each.at) for each in self._findings(names)]

    def titles(self) -> list[tuple[str, str]]:
        """What is found in words, without when, and its kind."""
        return [(each.title.rpartition(", ")[0], each.kind) for each in self._findings(ALL)]


def with_neighbours(rows: list[int], view: Looked) -> Rows:
    """Rows with those before and after them: speeds are told from frame to frame."""
    near = np.add.outer(np.array(rows), (-1, 0, 1)).ravel()
    return np.unique(np.clip(near, view.first, view.last))


def spread(count: int) -> list[int]:
    """The numbers of so many frames, in an order that soon has been everywhere."""
    bits = max(1, (count - 1).bit_length())
    order = (int(f"{k:0{bits}b}"[::-1], 2) for k in range(1 << bits))
    return [each for each in order if each < count]
