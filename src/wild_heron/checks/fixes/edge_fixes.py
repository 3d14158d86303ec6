"""Fixes for what is bare: what lies behind, made to cover the frame."""

from collections.abc import Iterator

import numpy as np

from ...edits.shifting import dollied, moved, scaled, with_all_values
from ...evaluate import evaluate
from ...scene import SceneError
from ...scene.channels import FAR
from .backdrop import Backdrop, backdrop_of
from .problem import Problem, lens
from .trial import Fix, Passes, smallest

_MOST_SCALE = 3.0


def _behind(problem: Problem) -> tuple[Backdrop, Passes]:
    found = backdrop_of(problem.scene, problem.finding)
    if found is None:
        raise SceneError("Nothing lies behind.")
    return found, found.covers


def scale_backdrop(problem: Problem) -> Iterator[Fix]:
    back, covers = _behind(problem)
    made = smallest(
        lambda more: scaled(problem.scene, back.node, 1.0 + more), covers, 0.1, _MOST_SCALE - 1.0, 0.01
    )  # fmt: skip
    if made is not None:
        name = problem.scene.node(back.node).name
        yield Fix(f"scale {name} to {100.0 * (1.0 + made[0]):.0f} %", f"Scale {name} over the edges", made[1])


def move_backdrop(problem: Problem) -> Iterator[Fix]:
    back, covers = _behind(problem)
    by = back.least_move(problem.scene)
    if by is None or float(np.linalg.norm(by)) < 1e-6:
        return
    made = smallest(
        lambda share: moved(problem.scene, back.node, by * share, problem.finding.at), covers, 1.0, 1.5, 0.01
    )  # fmt: skip
    if made is not None:
        name = problem.scene.node(back.node).name
        yield Fix(f"move {name} {made[0] * float(np.linalg.norm(by)):.2f}", f"Move {name} over the edges", made[1])


def dolly_in(problem: Problem) -> Iterator[Fix]:
    _, covers = _behind(problem)
    made = smallest(
        lambda by: dollied(problem.scene, problem.camera, by, problem.finding.at), covers, 0.05 * problem.unit,
        0.6 * problem.unit, 0.01,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"dolly in {made[0]:.2f}", "Dolly in to cover the edges", made[1])


def longer_lens(problem: Problem) -> Iterator[Fix]:
    _, covers = _behind(problem)
    yield from lens(problem, covers, longer=True, undo="Use a longer lens to cover the edges")


def far_plane(problem: Problem) -> Iterator[Fix]:
    camera, far = problem.camera, 0.0
    far = float(evaluate(problem.scene, problem.finding.at, [camera]).value(camera, FAR)[0])
    made = smallest(
        lambda more: with_all_values(problem.scene, camera, FAR, lambda value: value + more), problem.passes,
        0.1 * far, 1e5, 0.1,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"far clip plane at {far + made[0]:.1f}", "Move the far clip plane", made[1])
