"""What a check finds: what, where, when, and how bad it is."""

from typing import Any, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene import Accepted, ChecksOfScene


class Finding(NamedTuple):
    """``kind``, in the format called ``format``, from frame ``first`` to ``last``, the worst at ``at`` (in the unit of
    the check: ``worst``). ``about`` is the id of a node, or the side of a frame. ``check`` is told by what judges.

    ``title`` and ``detail`` say it in words. ``badness`` is how often the limit goes into it: 1 and more is beyond.
    """

    kind: str
    format: str
    first: float
    last: float
    at: float
    worst: float
    badness: float
    title: str
    detail: str
    about: str = ""
    note: str = ""
    """Why it was accepted; "" for one that was not."""
    accepted: bool = False
    everywhere: bool = False
    """Whether it does not depend on where the frame lies: accepted in one format, it is in all."""
    check: str = ""

    @property
    def key(self) -> tuple[str, str, str, float]:
        """What stays the same of it while frames are still being looked at."""
        return self.kind, self.format, self.about, self.first

    @property
    def here(self) -> Accepted:
        """The finding as something to accept, in the format that it was found in."""
        return Accepted(self.kind, self.first, self.last, self.worst, self.format, self.about)

    def acceptance(self, note: str = "") -> Accepted:
        """What a scene keeps of a finding that is as it should be."""
        shape = "" if self.everywhere else self.format
        return msgspec.structs.replace(self.here, format=shape, note=note)

    def marked(self, checks: ChecksOfScene) -> "Finding":
        """The same, accepted where the scene says so."""
        for each in checks.accepted:
            if each.covers(self.here):
                return self._replace(note=each.note, accepted=True)
        return self


class Row(NamedTuple):
    """A check over time: a value a frame (N,), NaN where it is not known yet or does not apply, and the most that is
    well; ``bad`` (N,) are the frames of its findings."""

    check: str
    values: Array
    limit: float
    unit: str
    bad: NDArray[np.bool_]


class Judged(NamedTuple):
    """A film in one format: a row for each check, what was found, worst first, and figures for the whole."""

    format: str
    rows: tuple[Row, ...]
    findings: tuple[Finding, ...]
    figures: dict[str, float]

    @property
    def open(self) -> tuple[Finding, ...]:
        """Findings that were not accepted."""
        return tuple(each for each in self.findings if not each.accepted)


def runs(bad: NDArray[np.bool_], apart: NDArray[Any] | None = None, gap: int = 2) -> list[tuple[int, int]]:
    """First and last number of each stretch of True in (N,), those with up to ``gap`` between them as one; what differs
    in ``apart`` (N,) is never one stretch."""
    at = np.flatnonzero(bad)
    if not len(at):
        return []
    parted = np.diff(at) > gap + 1
    if apart is not None:
        parted |= apart[at[1:]] != apart[at[:-1]]
    ends = np.flatnonzero(parted)
    firsts, lasts = np.concatenate([[0], ends + 1]), np.concatenate([ends, [len(at) - 1]])
    return [(int(at[a]), int(at[b])) for a, b in zip(firsts, lasts, strict=True)]


def most_in(values: Array, first: int, last: int) -> int:
    """The number of the greatest of values (N,) from ``first`` to ``last``. What is not known yet is NaN, and passed
    over: short gaps between what is bad belong to a stretch."""
    return first + int(np.nanargmax(values[first : last + 1]))


def least_in(values: Array, first: int, last: int) -> int:
    """The number of the least of values (N,), likewise."""
    return first + int(np.nanargmin(values[first : last + 1]))


def frames_in_words(first: float, last: float) -> str:
    """“frame 66”, “frames 66–94”."""
    return f"frame {first:g}" if first == last else f"frames {first:g}–{last:g}"
