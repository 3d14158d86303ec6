"""Gaps and jumps of a recording: found by a robust score of its acceleration, filled by splines, or cut out."""

from typing import Literal

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from ...arrays import Array
from ...scene import TURN, Mark, Take
from ...space.rotation import multiply
from .sampling import derived, even_step, side_by_side

_GAP = 2.5
"""Of the usual time between samples: from so much on samples are missing."""
_SCORE = 9.0
"""From which robust score on an acceleration is a jump's: of 10⁷ samples of plain noise fewer than one has it."""
_LONGEST = 1.5
"""Seconds after which a jump away is no more paired with one back."""
_CONJUGATE = np.array([-1.0, -1.0, -1.0, 1.0])
_BESIDE = 0.15
"""Seconds on either side of a hole from which its slopes are taken."""


def find_marks(take: Take) -> tuple[Mark, ...]:
    """Where samples are missing, and where the tracking jumped: away and back, or once and for all (step)."""
    times = take.times
    if len(times) < 8:
        return ()
    usual = even_step(take)
    gaps = [
        Mark(float(times[i]), float(times[i + 1]), "gap")
        for i in np.flatnonzero(np.diff(times) > _GAP * usual).tolist()
    ]
    return tuple(sorted((*gaps, *_jumps(take)), key=lambda mark: mark.start))


def mark(take: Take) -> Take:
    """The same recording, with what is wrong marked."""
    return replace(take, marks=find_marks(take))


def upright_columns(take: Take) -> Array:
    """All columns (N, C), quaternions each on the side of the one before."""
    columns = take.table()[:, 1:].copy()
    if take.turns:
        at = [take.columns.index(name) for name in TURN]
        columns[:, at] = side_by_side(columns[:, at])
    return columns


def _steps(take: Take) -> Array:
    """From one sample to the next, (N − 1, K): what columns change by, and a rotation as twice the vector part of the
    turn between, which for small turns is the angle about each axis."""
    columns = upright_columns(take)
    plain = [k for k, name in enumerate(take.columns) if name not in TURN]
    steps = np.diff(columns[:, plain], axis=0)
    if take.turns:
        turn = columns[:, [take.columns.index(name) for name in TURN]]
        steps = np.concatenate([steps, 2.0 * multiply(turn[:-1] * _CONJUGATE, turn[1:])[:, :3]], axis=1)
    return steps


def acceleration_scores(times: Array, steps: Array) -> Array:
    """How unlike the usual the acceleration is at each sample, column by column (N, K), given the steps (N − 1, K)
    between them: robust z-scores, 0.6745·(a − median) / MAD (Iglewicz and Hoaglin 1993)."""
    dt = np.diff(times)
    speed = steps / dt[:, None]
    acceleration = np.diff(speed, axis=0) / (0.5 * (dt[1:] + dt[:-1]))[:, None]
    middle = np.median(acceleration, axis=0)
    spread = np.median(np.abs(acceleration - middle), axis=0)
    # What no tracker can tell apart is no jump: a hundredth of a millimetre or degree, as units go.
    floor = 1e-4 / np.median(dt) ** 2
    scores = 0.6745 * (acceleration - middle) / np.maximum(spread, floor)
    edge = np.zeros((1, scores.shape[1]))
    return np.concatenate([edge, scores, edge])


def _jumps(take: Take) -> list[Mark]:
    times, steps = take.times, _steps(take)
    signed = acceleration_scores(times, steps)
    scores = np.abs(signed).max(axis=1)
    # A jump speeds up and brakes again at once; a hand that changes its mind does only one of both.
    braked = (signed[:-1] * signed[1:]).sum(axis=1) < -0.3 * np.linalg.norm(signed[:-1], axis=1) * np.linalg.norm(
        signed[1:], axis=1
    )
    # Across a missing stretch an acceleration says little.
    wide = np.diff(times) > _GAP * even_step(take)
    both = np.minimum(scores[:-1], scores[1:]) * (braked & ~wide)
    found = _strongest(np.flatnonzero(both > _SCORE).tolist(), scores)
    # Once it leapt, less will do to see it leap back.
    half = _strongest(np.flatnonzero(both > 0.4 * _SCORE).tolist(), scores)
    scale = np.maximum(np.median(np.abs(steps), axis=0), 1e-6)
    # A jump may begin or end unseen, while samples are missing.
    every = sorted({*found, *half, *np.flatnonzero(wide).tolist()})
    leaps = {i: _leap(times, steps, i) / scale for i in every}

    marks: list[Mark] = []
    done = -1
    for k, i in enumerate(every):
        if i <= done:
            continue
        back = _back(times, every[k:], leaps, set(found))
        if back is not None:
            marks.append(Mark(float(times[i]), float(times[back + 1]), "jump"))
            done = back
        elif i in found:
            marks.append(Mark(float(times[i]), float(times[i + 1]), "step"))
    return marks


def _back(times: Array, steps: list[int], leaps: dict[int, Array], loud: set[int]) -> int | None:
    """With which step a tracking that leapt at the first of them is back where it was, if it is before long: when all
    leaps since, of which there may be several, add up to little of the largest."""
    first_loud = next((j for j in steps if j in loud), None)
    if first_loud is None or np.linalg.norm(leaps[steps[0]]) < 0.5 * np.linalg.norm(leaps[first_loud]):
        return None
    away = leaps[steps[0]].copy()
    largest, seen = float(np.linalg.norm(away)), steps[0] in loud
    for j in steps[1:]:
        if times[j] - times[steps[0]] > _LONGEST:
            return None
        then = away + leaps[j]
        if j not in loud and np.linalg.norm(then) > 0.7 * np.linalg.norm(away):
            continue  # A gap in which nothing leapt.
        away, seen = then, seen or j in loud
        largest = max(largest, float(np.linalg.norm(leaps[j])))
        if seen and float(np.linalg.norm(away)) < 0.4 * largest:
            return j
    return None


def _strongest(steps: list[int], scores: Array) -> list[int]:
    """Of steps that follow each other at once, the one between the two loudest samples."""
    out: list[int] = []
    for i in steps:
        if out and i - out[-1] == 1:
            if scores[i] + scores[i + 1] > scores[out[-1]] + scores[out[-1] + 1]:
                out[-1] = i
        else:
            out.append(i)
    return out


def _leap(times: Array, steps: Array, i: int) -> Array:
    """By how much step number i is more than what the motion before it would have made: the middle of the speeds of a
    few steps, so that no other jump among them counts."""
    first = max(i - 7, 0)
    if first == i:
        return steps[i].copy()
    speeds = steps[first:i] / np.diff(times[first : i + 1])[:, None]
    return np.asarray(steps[i] - np.median(speeds, axis=0) * (times[i + 1] - times[i]))


def mend(take: Take, how: Literal["fill", "cut"] = "fill") -> Take:
    """A take in which what is marked is gone: filled by a curve that goes on from either side, or left out.

    What came after a tracking that jumped once and for all goes on from where it was before.
    """
    marks = take.marks or find_marks(take)
    times, columns = take.times.copy(), upright_columns(take)
    for each in marks:
        if each.kind == "step" and how == "fill":
            columns = _without_step(take, times, columns, each)
    keep = np.ones(len(times), dtype=bool)
    for each in marks:
        if each.kind == "jump":
            keep &= ~((times > each.start) & (times < each.end))
    times, columns = times[keep], columns[keep]
    if how == "fill":
        times, columns = _filled(times, columns, even_step(take))
    if take.turns:
        at = [take.columns.index(name) for name in TURN]
        columns[:, at] /= np.linalg.norm(columns[:, at], axis=1, keepdims=True)
    word = "mended" if how == "fill" else "cut"
    return derived(take, word, times, columns)


def _without_step(take: Take, times: Array, columns: Array, step: Mark) -> Array:
    """What comes after a step goes on from before it: places moved, turns turned."""
    i = int(np.searchsorted(times, step.start, side="right")) - 1
    after = np.flatnonzero(times > step.start)
    out = columns.copy()
    plain = np.array([k for k, name in enumerate(take.columns) if name not in TURN], dtype=np.intp)
    out[after[:, None], plain] -= _leap(times, np.diff(columns, axis=0), i)[plain]
    if take.turns:
        at = [take.columns.index(name) for name in TURN]
        back = multiply(columns[i, at][None], columns[i + 1, at][None] * _CONJUGATE)
        out[after[:, None], at] = multiply(np.repeat(back, len(after), axis=0), columns[after][:, at])
    return out


def _filled(times: Array, columns: Array, usual: float) -> tuple[Array, Array]:
    """Holes filled with samples at the usual distance, on cubic Hermite curves."""
    holes = np.flatnonzero(np.diff(times) > _GAP * usual)
    if not len(holes):
        return times, columns
    new_times, new_columns = [times], [columns]
    for i in holes.tolist():
        start, end = times[i], times[i + 1]
        count = max(round((end - start) / usual) - 1, 1)
        at = start + (end - start) * np.arange(1, count + 1) / (count + 1)
        out, into = _slope(times, columns, i, -1), _slope(times, columns, i + 1, 1)
        length = end - start
        share = ((at - start) / length)[:, None]
        rest = 1.0 - share
        low, high = columns[i], columns[i + 1]
        curve = low + (high - low) * share * share * (3.0 - 2.0 * share)
        new_columns.append(curve + length * share * rest * (out * rest - into * share))
        new_times.append(at)
    every = np.concatenate(new_times)
    order = np.argsort(every, kind="stable")
    return every[order], np.concatenate(new_columns)[order]


def _slope(times: Array, columns: Array, i: int, side: int) -> Array:
    """How fast columns change at the edge of a hole: the slope there of a parabola through what lies beside it."""
    near = np.abs(times - times[i]) <= _BESIDE
    near &= (times <= times[i]) if side < 0 else (times >= times[i])
    where: NDArray[np.intp] = np.flatnonzero(near)
    if len(where) < 2:
        return np.zeros(columns.shape[1])
    degree = min(2, len(where) - 1)
    basis = np.vander(times[where] - times[i], degree + 1, increasing=True)
    fit, *_ = np.linalg.lstsq(basis, columns[where], rcond=None)
    return np.asarray(fit[1])
