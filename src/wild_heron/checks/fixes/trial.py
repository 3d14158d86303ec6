"""Searches for the smallest change after which a check passes."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from ...scene import Scene, SceneError
from ..case import CheckCase
from ..changes import other_frames
from ..finding import Finding
from ..judging import CHECKS, judged
from ..measures import Measures

_HALVINGS = 7
_GROWTH = 2.0


_LESSER = {"through": ("near",)}
"""What is left of a finding that is put right by halves."""


class Fix(NamedTuple):
    """A change that puts a finding right: what it says on its pill, what undo calls it, and the scene with it."""

    label: str
    undo: str
    scene: Scene


Make = Callable[[float], Scene | None]
Passes = Callable[[Scene], bool]


def smallest(make: Make, passes: Passes, first: float, most: float, step: float) -> tuple[float, Scene] | None:
    """The least amount, in whole ``step``s, from which on a change passes, and the scene with it; None where none up to
    ``most`` does. Amounts of more are taken to pass where one does, as far as they can be made at all: where there is
    no room for so much (SceneError, None), the most that there is room for is looked for."""

    def made(amount: float) -> Scene | None:
        try:
            return make(amount)
        except SceneError:
            return None

    def trial(amount: float) -> Scene | None:
        scene = made(amount)
        return scene if scene is not None and passes(scene) else None

    low, high = 0.0, min(first, most)
    while True:
        scene = made(high)
        if scene is None:
            found = _before_the_room_ends(made, passes, low, high, step)
            if found is None:
                return None
            best, best_scene = found
            break
        if passes(scene):
            best, best_scene = high, scene
            break
        if high >= most:
            return None
        low, high = high, min(high * _GROWTH, most)
    for _ in range(_HALVINGS):
        if best - low <= step:
            break
        middle = 0.5 * (low + best)
        tried = trial(middle)
        if tried is None:
            low = middle
        else:
            best, best_scene = middle, tried
    whole = float(np.ceil(round(best / step, 6))) * step
    for amount in (whole - step, whole):
        rounded = trial(amount) if amount > 0.0 else None
        if rounded is not None:
            return amount, rounded
    return best, best_scene


def _before_the_room_ends(
    made: Make, passes: Passes, low: float, high: float, step: float
) -> tuple[float, Scene] | None:
    """An amount that passes between one that can be made and does not, and one for which there is no room."""
    while high - low > 0.5 * step:
        middle = 0.5 * (low + high)
        scene = made(middle)
        if scene is None:
            high = middle
        elif passes(scene):
            return middle, scene
        else:
            low = middle
    return None


def is_put_right(scene: Scene, finding: Finding, around: tuple[float, float]) -> Passes:
    """Whether another scene has all findings of the same kind about the same but this one, between two frames, and no
    others, nor any that are less of it; the stretch is measured anew."""
    check = next(each for each in CHECKS if each.name == finding.check)

    def found_in(changed: Scene) -> list[Finding]:
        measures = Measures(changed)
        rows = np.flatnonzero((measures.frames >= around[0]) & (measures.frames <= around[1]))
        measures.measure(changed, rows)
        which = next(k for k, shape in enumerate(measures.formats) if shape.name == finding.format)
        _, found = check.judge(CheckCase(changed, measures, which))
        kinds = (finding.kind, *_LESSER.get(finding.kind, ()))
        return [each for each in found if each.kind in kinds and each.about == finding.about]

    others = [each for each in found_in(scene) if not _overlap(each, finding)]

    def passes(changed: Scene) -> bool:
        return all(any(_overlap(each, other) for other in others) for each in found_in(changed))

    return passes


def new_findings(before: Scene, after: Scene) -> list[Finding]:
    """What all checks find in another scene, in every format, at the frames at which it differs, and did not before, as
    far as numbers tell."""
    old, new = Measures(before), Measures(after)
    alike = old.is_like(after) and old.formats == new.formats and before.formats == after.formats
    rows = other_frames(before, after, new.frames)[0] if alike else np.arange(len(new))
    found = []
    for scene, measures in ((before, old), (after, new)):
        measures.measure(scene, rows)
    for which in range(len(new.formats)):
        known = judged(before, old, which).findings
        for each in judged(after, new, which).findings:
            same = (other for other in known if (other.kind, other.about) == (each.kind, each.about))
            if not each.accepted and not any(_overlap(each, other) for other in same):
                found.append(each)
    return found


def _overlap(a: Finding, b: Finding) -> bool:
    return a.last >= b.first - 1.0 and a.first <= b.last + 1.0
