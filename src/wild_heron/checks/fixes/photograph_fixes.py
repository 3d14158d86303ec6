"""Fixes for projected photographs that are stretched too far, or do not reach: what only pictures tell, so each change
is looked at."""

from collections.abc import Iterator

import numpy as np

from ...edits.shifting import dollied
from ...scene import Scene, SceneError
from ..format_windows import windows_of
from ..nearness import MISSED, STRETCH
from .problem import Problem, lens
from .trial import Fix, Passes, smallest

_MOST_LOOKS = 9
_RIM = 0.98
"""Of a limit: frames between those that are looked at may be a little beyond them."""


def _looked(problem: Problem) -> Passes:
    """Whether a scene's photographs pass at frames all over the finding."""
    look, finding = problem.look, problem.finding
    if look is None:
        raise SceneError("Nobody looks.")
    count = min(_MOST_LOOKS, int(finding.last - finding.first) + 1)
    frames = np.unique(np.append(np.round(np.linspace(finding.first, finding.last, count)), finding.at))
    # Where it is worst is looked at first.
    order = sorted(frames.tolist(), key=lambda frame: abs(frame - finding.at))
    shape = next(each for each in problem.scene.plain_formats() if each.name == finding.format)
    limit = STRETCH.of(problem.scene.checks)

    def passes(scene: Scene) -> bool:
        for frame in order:
            stretch, missing = look(scene, frame)
            if finding.kind == "missing":
                if missing > MISSED * _RIM:
                    return False
            elif stretch * float(windows_of(scene, np.array([frame]), shape).scale[0]) > limit * _RIM:
                return False
        return True

    return passes


def wider_lens(problem: Problem) -> Iterator[Fix]:
    yield from lens(problem, _looked(problem), longer=False, undo="Use a wider lens for the photograph")


def longer_lens(problem: Problem) -> Iterator[Fix]:
    yield from lens(problem, _looked(problem), longer=True, undo="Use a longer lens for the photograph")


def pull_back(problem: Problem) -> Iterator[Fix]:
    yield from _dolly(problem, -1.0, 2.0, "pull the camera back", "Pull the camera back for the photograph")


def dolly_in(problem: Problem) -> Iterator[Fix]:
    yield from _dolly(problem, 1.0, 0.6, "dolly in", "Dolly in for the photograph")


def _dolly(problem: Problem, way: float, most: float, label: str, undo: str) -> Iterator[Fix]:
    passes, unit = _looked(problem), problem.unit
    made = smallest(
        lambda by: dollied(problem.scene, problem.camera, way * by, problem.finding.at), passes, 0.1 * unit,
        most * unit, 0.02,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"{label} {made[0]:.2f}", undo, made[1])
