"""Cuts: shots that stand still where they are cut, jumps in speed, angles too alike, the line crossed, shots too short
to be read or too long to be watched."""

import numpy as np

from ..arrays import Array
from .case import CheckCase
from .check import Check
from .finding import Finding, Row, frames_in_words, runs
from .limit import CheckLimit
from .pace import CutPace, pace_at_cuts, shown_speed

NAME = "cuts"
DEAD = CheckLimit(
    "cuts.dead", "Frames that stand still at a cut", 3.0, "frames", 1.0, 100.0,
    "shorter is not noticed",
)  # fmt: skip
JUMP = CheckLimit(
    "cuts.jump", "Speed on one side of a cut to the other", 4.0, "×", 1.1, 100.0,
    "both sides being in motion",
)  # fmt: skip
ANGLE = CheckLimit(
    "cuts.angle", "Change of angle on one subject", 30.0, "°", 0.0, 90.0,
    "the thirty-degree rule of continuity editing",
)  # fmt: skip
SHORT = CheckLimit(
    "cuts.short", "Shortest shot", 0.3, "s", 0.02, 60.0,
    "what takes less is not read",
)  # fmt: skip
LONG = CheckLimit(
    "cuts.long", "Longest shot", 30.0, "s", 1.0, 3600.0,
    "longer runs want a change",
)  # fmt: skip
_AS_LARGE = 0.30
"""Change of a subject's size from which on a cut on the same angle is seen as one."""


def judge(case: CheckCase) -> tuple[Row, list[Finding]]:
    """Dead starts and ends (“dead”), jumps in speed (“jump”), too little change of angle (“angle”), crossing the line
    (“line”), shots too short (“short”) and too long (“long”)."""
    still, found = _by_speed(case)
    bad = np.zeros(len(case), dtype=bool)
    for row in case.cuts:
        if case.known[row - 1] and case.known[row]:
            found += [each for each in (_angle(case, row), _line(case, row)) if each is not None]
    found += _lengths(case)
    for each in found:
        bad |= (case.frames >= each.first) & (case.frames <= each.last)
    return Row(NAME, still, case.limit(DEAD), "frames still", bad), found


def _finding(
    case: CheckCase, kind: str, first: int, last: int, value: float, badness: float, title: str, detail: str
) -> Finding:  # fmt: skip
    frames = case.frames
    return Finding(
        kind, case.shape.name, float(frames[first]), float(frames[last]), float(frames[first]), value, badness,
        title, detail,
    )  # fmt: skip


def _by_speed(case: CheckCase) -> tuple[Array, list[Finding]]:
    """How many frames the picture has stood still, counted from a cut (N,), and dead starts, dead ends and jumps."""
    still, jump = case.limit(DEAD), case.limit(JUMP)
    speed = shown_speed(case.slide, case.subject_slide, case.side)
    count, found = pace_at_cuts(speed, case.cuts, case.known, still, jump)
    return count, [_of_pace(case, speed, each, jump if each.kind == "jump" else still) for each in found]


def _of_pace(case: CheckCase, speed: Array, pace: CutPace, limit: float) -> Finding:
    first, last, value = pace.first, pace.last, pace.value
    if pace.kind == "jump":
        how = "faster" if speed[last] > speed[first] else "slower"
        title, detail = f"Speed jumps at the cut, frame {case.frames[last]:g}", f"{value:.1f} times {how} after it"
        return _finding(case, "jump", first, last, value, value / limit, title, detail)
    if pace.kind == "start":
        title = f"Dead start at the cut, frame {case.frames[first]:g}"
    elif last + 1 < len(case):
        title = f"Dead end before the cut, frame {case.frames[last + 1]:g}"
    else:
        title = "Dead end"
    detail = f"stands still for {value:.0f} frames"
    return _finding(case, "dead", first, last, value, value / limit, title, detail)._replace(about=pace.kind)


def _direction(case: CheckCase, row: int) -> Array:
    """From what is looked at to the lens."""
    away = case.numbers.pose[row, :3, 3] - case.numbers.aim[row]
    return np.asarray(away / max(float(np.linalg.norm(away)), 1e-12))


def _angle(case: CheckCase, row: int) -> Finding | None:
    """The same subject from nearly the same side, nearly as large: it seems to jump."""
    aims = case.numbers.aim[[row - 1, row]]
    if not np.isfinite(aims).all():
        return None
    here, there = case.numbers.pose[row - 1, :3, 3], case.numbers.pose[row, :3, 3]
    distances = np.array([np.linalg.norm(here - aims[0]), np.linalg.norm(there - aims[1])])
    if np.linalg.norm(aims[1] - aims[0]) > 0.1 * float(distances.min()):
        return None
    sizes = case.numbers.focal_px[[row - 1, row]] / np.maximum(distances, 1e-9)
    if float(sizes.max() / sizes.min()) > 1.0 + _AS_LARGE:
        return None
    cosine = float(np.clip(_direction(case, row - 1) @ _direction(case, row), -1.0, 1.0))
    angle, limit = float(np.degrees(np.arccos(cosine))), case.limit(ANGLE)
    if angle >= limit or (angle < 0.5 and float(sizes.max() / sizes.min()) < 1.005):
        return None  # The picture goes on as it was: that is no cut to be seen.
    return _finding(
        case, "angle", row - 1, row, angle, limit / max(angle, 1.0),
        f"Hardly another angle at the cut, frame {case.frames[row]:g}",
        f"{angle:.0f}° on the same subject, of {limit:.0f}°, and nearly the same size",
    )  # fmt: skip


def _line(case: CheckCase, row: int) -> Finding | None:
    """The lens on the other side of the line between the two chosen nodes: left and right change places."""
    line = case.scene.checks.line
    if line is None:
        return None
    sides = []
    for each in (row - 1, row):
        sides.append(float(case.numbers.line_side[each]))
    if not np.isfinite(sides).all() or sides[0] * sides[1] >= 0.0:
        return None
    names = " and ".join(case.name_of(each) for each in line)
    return _finding(
        case, "line", row - 1, row, 1.0, 2.0, f"Crosses the line at the cut, frame {case.frames[row]:g}",
        f"{names} change sides in the picture",
    )  # fmt: skip


def _lengths(case: CheckCase) -> list[Finding]:
    """Stretches between cuts too short to be read, and longer than anybody watches. A blend is not a cut: the picture
    goes on."""
    found: list[Finding] = []
    if not case.scene.shots:
        return found
    for first, last in runs(np.ones(len(case), dtype=bool), case.segment):
        seconds = (last - first + 1) / case.fps
        name = case.shot_name(last)
        when = frames_in_words(float(case.frames[first]), float(case.frames[last]))
        short, long = case.limit(SHORT), case.limit(LONG)
        if seconds < short:
            found.append(
                _finding(case, "short", first, last, seconds, short / seconds, f"{name} is too short, {when}",
                         f"{seconds:.2f} s; it takes {short:.2f} s to read a picture")._replace(about=name)
            )  # fmt: skip
        elif seconds > long:
            found.append(
                _finding(case, "long", first, last, seconds, seconds / long, f"{name} is long, {when}",
                         f"{seconds:.0f} s without a cut")._replace(about=name)
            )  # fmt: skip
    return found


CHECK = Check(
    NAME, "Cuts", "frames that stand still at a cut", ("dead", "jump", "angle", "line", "short", "long"),
    (DEAD, JUMP, ANGLE, SHORT, LONG), judge, everywhere=("dead", "angle", "line", "short", "long"),
)  # fmt: skip
