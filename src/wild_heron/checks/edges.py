"""Edges: the part of each frame that no artwork covers, the margin beyond it, holes within, and the far clip plane."""

import numpy as np

from ..arrays import Array
from ..scene.channels import FARTHEST_CLIP
from .case import CheckCase
from .check import Check
from .coverage import SIDES
from .finding import Finding, Row, least_in, most_in, runs
from .limit import CheckLimit

NAME = "edges"
BARE = CheckLimit(
    "edges.bare", "Bare part of the frame", 0.0005, "%", 0.0, 1.0,
    "a strip of one pixel in 1,920 is 0.05 %", 100.0,
)  # fmt: skip
MARGIN = CheckLimit(
    "edges.margin", "Margin beyond the frame", 0.0, "%", 0.0, 0.1,
    "0: covered is enough; more, for movers and reframing later", 100.0,
)  # fmt: skip
_HOLE = 0.0002
"""Of the frame: smaller holes are a matter of smooth edges."""


def judge(case: CheckCase) -> tuple[Row, list[Finding]]:
    """Bare edges (“bare”), too little beyond them (“margin”), holes (“hole”), layers beyond the far clip plane
    (“clipped”)."""
    covered = case.measures.coverage[:, case.which]
    bare, hole, margins = covered[:, 0], covered[:, 1], covered[:, 2:]
    limit, least = case.limit(BARE), case.limit(MARGIN)
    with np.errstate(invalid="ignore"):
        outer = bare - np.where(hole > _HOLE, hole, 0.0)
        is_bare, is_hole = outer > limit, hole > max(limit, _HOLE)
        narrow = ~is_bare & (margins < least).any(axis=1) if least > 0.0 else np.zeros(len(case), dtype=bool)
    found = []
    for first, last in runs(is_bare, case.segment):
        worst = most_in(outer, first, last)
        sides = _sides(margins[worst])
        side = sides[0]
        depth = -float(margins[worst][SIDES.index(side)])
        across = case.shape.width if side in ("left", "right") else case.shape.height
        found.append(
            case.finding(
                "bare", (first, last), worst, float(outer[worst]) * 100.0, float(outer[worst]) / max(limit, 1e-6),
                f"Bare {_at(sides)}", f"up to {_percent(outer[worst])} of the frame, {depth * across:.0f} px deep",
                side,
            )
        )  # fmt: skip
    for first, last in runs(is_hole, case.segment):
        worst = most_in(hole, first, last)
        found.append(
            case.finding(
                "hole", (first, last), worst, float(hole[worst]) * 100.0,
                float(hole[worst]) / max(limit, _HOLE), "A hole in the picture",
                f"up to {_percent(hole[worst])} of the frame shows the background between layers",
            )
        )  # fmt: skip
    for first, last in runs(narrow, case.segment):
        worst = least_in(margins.min(axis=1), first, last)
        side = SIDES[int(np.argmin(margins[worst]))]
        lowest = float(margins[worst].min())
        found.append(
            case.finding(
                "margin", (first, last), worst, lowest * 100.0,
                1.0 + (least - lowest) / max(least, 1e-6), f"Little margin at the {side}",
                f"{_percent(lowest)} beyond the frame, of {_percent(least)} asked for", side,
            )
        )  # fmt: skip
    found += _clipped(case)
    bad = is_bare | is_hole | narrow
    return Row(NAME, bare * 100.0, limit * 100.0, "%", bad), found


def _sides(margins: Array) -> list[str]:
    """The sides that are bare, the deepest first."""
    order = np.argsort(margins)
    deep = [SIDES[k] for k in order if margins[k] < -0.001 and margins[k] < 0.25 * margins[order[0]]]
    return deep or [SIDES[int(order[0])]]


def _at(sides: list[str]) -> str:
    if len(sides) == 3:
        return "everywhere but at the " + next(side for side in SIDES if side not in sides)
    return "all round" if len(sides) == 4 else "at the " + " and the ".join(sides)


def _percent(share: float) -> str:
    percent = 100.0 * float(share)
    return f"{percent:.1f} %" if abs(percent) >= 0.1 else f"{percent:.2f} %"


def _clipped(case: CheckCase) -> list[Finding]:
    """Layers in the frame of which a part lies beyond a far clip plane that was set."""
    numbers = case.numbers
    found: list[Finding] = []
    set_near = numbers.far < FARTHEST_CLIP
    if not set_near.any():
        return found
    for k, node_id in enumerate(case.measures.layers):
        with np.errstate(invalid="ignore"):
            beyond = set_near & (numbers.shown[:, k] > 0.0) & (numbers.front[:, k] > numbers.far)
        for first, last in runs(beyond, case.segment):
            over = numbers.front[:, k] - numbers.far
            worst = most_in(over, first, last)
            found.append(
                case.finding(
                    "clipped", (first, last), worst, float(over[worst]), 1.0 + float(over[worst]),
                    f"{case.name_of(node_id)} lies beyond the far clip plane",
                    f"{float(over[worst]):.2f} units too far to be seen", node_id,
                )
            )  # fmt: skip
    return found


CHECK = Check(
    NAME, "Edges", "bare part of the frame", ("bare", "hole", "margin", "clipped"),
    (BARE, MARGIN), judge, everywhere=("clipped",),
)  # fmt: skip
