"""Framing: chosen subjects that leave their area, are too small to be read, or are hidden by what is nearer."""

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array, ascending
from ..scene import Subject
from ..scene.checks import AREAS
from .case import CheckCase
from .check import Check
from .finding import Finding, Row, least_in, runs
from .limit import CheckLimit
from .shots import matters

NAME = "framing"
HIDDEN = CheckLimit(
    "framing.hidden", "Hidden part of a subject", 0.6, "%", 0.05, 1.0,
    "seen for less than two fifths it is not recognised", 100.0,
)  # fmt: skip
_MOST_OF_A_SHOT = 0.5
"""A subject matters in a shot in which it is wholly or partly in the frame for this share of it, where nothing else is
said."""
_OUT = 1e-4


def judge(case: CheckCase) -> tuple[Row, list[Finding]]:
    """Subjects out of their area (“out”), smaller than asked for (“small”), hidden (“hidden”)."""
    places = case.places()
    worst_out, bad = np.full(len(case), np.nan), np.zeros(len(case), dtype=bool)
    found: list[Finding] = []
    for k, subject in enumerate(case.measures.subjects):
        box = places[:, k]
        wanted = _where_it_matters(case, subject, case.numbers.boxes[:, k])
        out = np.where(wanted, overshoot(box, AREAS[subject.area]), np.nan)
        worst_out = np.fmax(worst_out, np.where(wanted, np.maximum(out, 0.0), np.nan))
        with np.errstate(invalid="ignore"):
            leaves = wanted & (np.nan_to_num(out, nan=1.0) > _OUT)
            small = wanted & ((box[:, 3] - box[:, 1]) < subject.least)
            hidden = wanted & ((1.0 - case.measures.seen[:, k]) > case.limit(HIDDEN))
        found += [_left(case, subject, out, first, last) for first, last in runs(leaves, case.segment)]
        found += [_small(case, subject, box, first, last) for first, last in runs(small, case.segment)]
        found += [
            _hidden(case, subject, case.measures.seen[:, k], first, last) for first, last in runs(hidden, case.segment)
        ]
        bad |= leaves | small | hidden
    return Row(NAME, worst_out * 100.0, 0.0, "%", bad), found


def overshoot(box: Array, area: float) -> Array:
    """How far boxes (N, 4), in shares of the frame, reach out of its middle ``area``, in shares of its sides (N,):
    negative where there is room."""
    rim = 0.5 * (1.0 - area)
    return np.asarray(np.max([rim - box[:, 0], rim - box[:, 1], box[:, 2] - 1.0 + rim, box[:, 3] - 1.0 + rim], axis=0))


def _where_it_matters(case: CheckCase, subject: Subject, box: Array) -> NDArray[np.bool_]:
    """Frames (N,) at which a subject is looked for, from its boxes in the camera's picture: the shots that are
    named, or whole stretches between cuts."""
    out = np.zeros(len(case), dtype=bool)
    wide, high = case.measures.frame_size
    with np.errstate(invalid="ignore"):
        touched = (box[:, 2] > 0.0) & (box[:, 0] < wide) & (box[:, 3] > 0.0) & (box[:, 1] < high)
    named = matters(case.scene, subject, case.frames)
    if named is not None:
        return named & case.known
    for number in ascending(case.segment):
        rows = case.segment == number
        if touched[rows].mean() > _MOST_OF_A_SHOT:
            out |= rows
    return out & case.known


def _left(case: CheckCase, subject: Subject, out: Array, first: int, last: int) -> Finding:
    part = np.nan_to_num(out[first : last + 1], nan=np.inf)
    worst = first + int(np.argmax(part))
    most = float(part.max())
    where = {"frame": "frame", "action": "action area", "title": "title area"}[subject.area]
    if not np.isfinite(most):
        said, most = "behind the lens", 1.0
    else:
        said = f"worst at {case.frames[worst]:g}: {most * case.shape.width:.0f} px out"
    return case.finding(
        "out", (first, last), worst, most * 100.0, 1.0 + most / 0.05,
        f"{case.name_of(subject.node)} leaves the {where}", said, subject.node,
    )  # fmt: skip


def _small(case: CheckCase, subject: Subject, box: Array, first: int, last: int) -> Finding:
    high = box[:, 3] - box[:, 1]
    worst = least_in(high, first, last)
    least = float(high[worst])
    return case.finding(
        "small", (first, last), worst, least * 100.0, subject.least / max(least, 1e-6),
        f"{case.name_of(subject.node)} is too small",
        f"{least * 100.0:.1f} % of the frame high, of {subject.least * 100.0:.0f} % asked for", subject.node,
    )  # fmt: skip


def _hidden(case: CheckCase, subject: Subject, seen: Array, first: int, last: int) -> Finding:
    worst = least_in(seen, first, last)
    hidden = 1.0 - float(seen[worst])
    limit = case.limit(HIDDEN)
    return case.finding(
        "hidden", (first, last), worst, hidden * 100.0, hidden / limit,
        f"{case.name_of(subject.node)} is hidden",
        f"up to {hidden * 100.0:.0f} % of it lies behind what is nearer", subject.node,
    )  # fmt: skip


CHECK = Check(
    NAME, "Framing", "subjects out of their area", ("out", "small", "hidden"),
    (HIDDEN,), judge,
)  # fmt: skip
