"""Every check, told once, and a film judged by all of them."""

from collections.abc import Callable
from typing import NamedTuple

from ..scene import Scene
from . import comfort, cuts, edges, framing, nearness
from .case import Case
from .finding import Finding, Judged, Row
from .measures import Measures


class Check(NamedTuple):
    """``name`` in a scene, what it is called, what its row shows, the kinds of findings that it has, and how it judges
    a film."""

    name: str
    label: str
    about: str
    kinds: tuple[str, ...]
    judge: Callable[[Case], tuple[Row, list[Finding]]]


CHECKS = (
    Check("edges", "Edges", "bare part of the frame", ("bare", "hole", "margin", "clipped"), edges.judge),
    Check("framing", "Framing", "subjects out of their area", ("out", "small", "hidden"), framing.judge),
    Check("comfort", "Comfort", "picture speed against what eyes follow",
          ("fast", "busy", "shake", "strobe", "roll"), comfort.judge),
    Check("cuts", "Cuts", "frames that stand still at a cut",
          ("dead", "jump", "angle", "line", "short", "long"), cuts.judge),
    Check("nearness", "Nearness", "artwork above its own pixels",
          ("through", "near", "soft", "stretched", "missing", "words"), nearness.judge),
)  # fmt: skip


def judged(scene: Scene, measures: Measures, which: int = 0) -> Judged:
    """A scene in the format of number ``which``, by the checks that are not off. What is not measured yet is passed
    over."""
    case = Case(scene, measures, which)
    rows, found = [], []
    for check in CHECKS:
        if check.name in scene.checks.off:
            continue
        row, findings = check.judge(case)
        rows.append(row)
        found += findings
    marked = (each.marked(scene.checks) for each in found)
    ordered = sorted(marked, key=lambda each: (each.accepted, -each.badness))
    return Judged(case.shape.name, tuple(rows), tuple(ordered), comfort.figures(case))
