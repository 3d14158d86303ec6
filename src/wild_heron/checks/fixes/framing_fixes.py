"""Fixes for subjects that leave their area, are too small, or hidden."""

from collections.abc import Iterator
from functools import partial

import numpy as np

from ...edits.shifting import dollied
from ...evaluate import evaluate
from ...scene import SceneError
from ..framing import HIDDEN
from ..solving import follow_subjects
from .centring import centred
from .hiding import Sight, in_front_of
from .problem import Problem, lens, moved_by
from .trial import Fix, Passes, smallest

_EXPLAINED = 0.15
"""By so much of a subject more may be hidden than flat artwork tells."""
_RIM = 0.02


def follow(problem: Problem) -> Iterator[Fix]:
    """A format that is not the camera's own picture follows its subjects."""
    name = problem.finding.format
    if name == problem.scene.plain_formats()[0].name:
        return
    made, _ = follow_subjects(problem.scene, name)
    if problem.passes(made):
        yield Fix(f"let {name} follow", f"{name} follows its subjects", made)


def aim_off(problem: Problem) -> Iterator[Fix]:
    """The smallest constant offset of the aim, or of the turn of a camera without one, that brings it back in."""
    made = centred(problem.scene, problem.finding, problem.camera, (problem.first, problem.last))
    if made is None or not problem.passes(made[1]):
        return
    (across, up), scene = made
    words = []
    if abs(across) >= 5e-4:
        words.append(f"{100.0 * abs(across):.1f} % {'right' if across > 0.0 else 'left'}")
    if abs(up) >= 5e-4:
        words.append(f"{100.0 * abs(up):.1f} % {'up' if up > 0.0 else 'down'}")
    yield Fix("aim " + " and ".join(words), "Aim so that it stays in", scene)


def wider_lens(problem: Problem) -> Iterator[Fix]:
    yield from lens(problem, problem.passes, longer=False, undo="Use a wider lens")


def longer_to_read(problem: Problem) -> Iterator[Fix]:
    yield from lens(problem, problem.passes, longer=True, undo="Use a longer lens")


def pull_back(problem: Problem) -> Iterator[Fix]:
    made = smallest(
        lambda by: dollied(problem.scene, problem.camera, -by, problem.finding.at), problem.passes,
        0.05 * problem.unit, 3.0 * problem.unit, 0.01,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"pull the camera back {made[0]:.2f}", "Pull the camera back", made[1])


def push_in(problem: Problem) -> Iterator[Fix]:
    made = smallest(
        lambda by: dollied(problem.scene, problem.camera, by, problem.finding.at), problem.passes,
        0.05 * problem.unit, 0.8 * problem.unit, 0.01,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"push the camera in {made[0]:.2f}", "Push the camera in", made[1])


def _sight(problem: Problem) -> tuple[Sight, str, Passes]:
    """The lines of sight to a hidden subject, the layer that hides most of it, and whether little enough is hidden."""
    sight, limit = Sight(problem.scene, problem.finding), HIDDEN.of(problem.scene.checks)
    # Where something else than flat artwork hides it, nothing is known of what would help.
    if sight.hidden(problem.scene) < 0.01 * problem.finding.worst - _EXPLAINED:
        raise SceneError("It is not flat artwork that hides it.")
    return sight, sight.hiders(problem.scene)[0], lambda scene: sight.hidden(scene) < limit - _RIM


def move_hider(problem: Problem) -> Iterator[Fix]:
    """The layer that hides a subject moved in its own plane, the shortest of four ways."""
    _, hider, passes = _sight(problem)
    scene, at = problem.scene, problem.finding.at
    axes = evaluate(scene, at, [hider]).world(hider)[0, :3, :2].T
    ways = [sign * axis / max(float(np.linalg.norm(axis)), 1e-12) for axis in axes for sign in (1.0, -1.0)]
    found = [smallest(partial(moved_by, scene, hider, way, at), passes, 0.1, 30.0, 0.05) for way in ways]
    made = min((each for each in found if each is not None), key=lambda each: each[0], default=None)
    if made is not None:
        name = scene.node(hider).name
        yield Fix(f"move {name} {made[0]:.2f} aside", f"Move {name} aside", made[1])


def bring_forward(problem: Problem) -> Iterator[Fix]:
    _, hider, passes = _sight(problem)
    made = in_front_of(problem.scene, problem.finding, problem.camera, hider)
    if made is not None and passes(made):
        names = (problem.scene.node(each).name for each in (problem.finding.about, hider))
        yield Fix("bring {} before {}".format(*names), "Bring it forward", made)
