"""Trying changes of growing size until a check passes, and the smallest of them that does."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from ...scene import Scene, SceneError
from ..case import Case
from ..finding import Finding
from ..judging import CHECKS
from ..measures import Measures

_HALVINGS = 7
_GROWTH = 2.0


class Fix(NamedTuple):
    """A change that puts a finding right: what it says on its pill, what undo calls it, and the scene with it."""

    label: str
    undo: str
    scene: Scene


Make = Callable[[float], Scene | None]
Passes = Callable[[Scene], bool]


def smallest(make: Make, passes: Passes, first: float, most: float, step: float) -> tuple[float, Scene] | None:
    """The least amount, in whole ``step``s, from which on a change passes, and the scene with it; None where none up to
    ``most`` does. Amounts of more are taken to pass where one does. What cannot be made (SceneError, None) fails."""

    def trial(amount: float) -> Scene | None:
        try:
            made = make(amount)
            return made if made is not None and passes(made) else None
        except SceneError:
            return None

    high, found = min(first, most), None
    while (found := trial(high)) is None:
        if high >= most:
            return None
        high = min(high * _GROWTH, most)
    low, best = 0.0, high
    for _ in range(_HALVINGS):
        if best - low <= step:
            break
        middle = 0.5 * (low + best)
        made = trial(middle)
        if made is None:
            low = middle
        else:
            best, found = middle, made
    whole = float(np.ceil(round(best / step, 6))) * step
    rounded = trial(whole)
    return (whole, rounded) if rounded is not None else (best, found)


def is_put_right(scene: Scene, finding: Finding, around: tuple[float, float]) -> Passes:
    """Whether another scene has all findings of the same kind about the same but this one, between two frames, and no
    others; the stretch is measured anew."""
    check = next(each for each in CHECKS if each.name == finding.check)

    def found_in(changed: Scene) -> list[Finding]:
        measures = Measures(changed)
        rows = np.flatnonzero((measures.frames >= around[0]) & (measures.frames <= around[1]))
        measures.measure(changed, rows)
        which = next(k for k, shape in enumerate(measures.formats) if shape.name == finding.format)
        _, found = check.judge(Case(changed, measures, which))
        return [each for each in found if (each.kind, each.about) == (finding.kind, finding.about)]

    others = [each for each in found_in(scene) if not _overlap(each, finding)]

    def passes(changed: Scene) -> bool:
        return all(any(_overlap(each, other) for other in others) for each in found_in(changed))

    return passes


def _overlap(a: Finding, b: Finding) -> bool:
    return a.last >= b.first - 1.0 and a.first <= b.last + 1.0
