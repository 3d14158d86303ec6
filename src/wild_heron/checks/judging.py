"""The list of checks, and a film judged by all of them."""

from ..scene import Scene
from . import comfort, cuts, edges, framing, nearness
from .case import CheckCase
from .finding import Judged
from .measures import Measures

CHECKS = (edges.CHECK, framing.CHECK, comfort.CHECK, cuts.CHECK, nearness.CHECK)
LIMITS = {limit.name: limit for check in CHECKS for limit in check.limits}


def judged(scene: Scene, measures: Measures, which: int = 0) -> Judged:
    """A scene in the format of number ``which``, by the checks that are not off. What is not measured yet is passed
    over."""
    case = CheckCase(scene, measures, which)
    rows, found = [], []
    for check in CHECKS:
        if check.name in scene.checks.off:
            continue
        row, findings = check.judge(case)
        rows.append(row)
        found += [each._replace(check=check.name, everywhere=each.kind in check.everywhere) for each in findings]
    marked = (each.marked(scene.checks) for each in found)
    ordered = sorted(marked, key=lambda each: (each.accepted, -each.badness))
    return Judged(case.shape.name, tuple(rows), tuple(ordered), comfort.figures(case))
