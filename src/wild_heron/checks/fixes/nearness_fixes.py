"""Fixes for what comes too near to the lens."""

from collections.abc import Iterator
from functools import partial

import numpy as np

from ...evaluate import evaluate, output
from .problem import Problem, moved_by
from .trial import Fix, smallest


def push_layer_away(problem: Problem) -> Iterator[Fix]:
    """The layer moved along its own normal, away from the lens."""
    scene, finding = problem.scene, problem.finding
    here = evaluate(scene, finding.at)
    normal = here.world(finding.about)[0, :3, 2]
    normal = normal / max(float(np.linalg.norm(normal)), 1e-12)
    side = float(np.sign((output(scene, finding.at).position[0] - here.position(finding.about)[0]) @ normal)) or 1.0
    name = scene.node(finding.about).name
    for way in (-side, side):
        away = normal * way
        made = smallest(
            partial(moved_by, scene, finding.about, away, finding.at), problem.passes, 0.1, 50.0, 0.05
        )  # fmt: skip
        if made is not None:
            yield Fix(f"move {name} {made[0]:.2f} away", f"Move {name} away from the lens", made[1])
            return
