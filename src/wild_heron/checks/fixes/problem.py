"""The input of a fix, and what fixes share."""

from collections.abc import Callable, Iterator

import numpy as np

from ...arrays import Array
from ...edits.shifting import moved, with_all_values
from ...evaluate import evaluate, output
from ...evaluate.film import film_of
from ...scene import Scene, SceneError
from ...scene.channels import FOCAL
from ...scene.film import shot_at
from ...scene.output import lens_node
from ..finding import Finding
from .trial import Fix, Passes, is_put_right, smallest

MOST_FRAMES = 96.0
"""A move, or a shot, is made longer by so much at the most."""


PhotographLook = Callable[[Scene, float], tuple[float, float]]
"""Of a scene at a frame: how far a photograph is stretched, in pixels of the scene's frame to one of its own, and the
share of the picture that it misses."""


class Problem:
    """A finding in its scene, with what most fixes ask for: the camera, and the stretch between cuts that it is in."""

    def __init__(self, scene: Scene, finding: Finding, look: PhotographLook | None = None) -> None:
        self.scene, self.finding, self.look = scene, finding, look
        settings = scene.settings
        self.first, self.last = float(settings.first), float(settings.last)
        self.shot: int | None = None
        self.camera = lens_node(scene, None).id
        if scene.shots:
            self.shot = shot_at(scene.shots, finding.at)
            film = film_of(evaluate(scene, finding.at, []).evaluator, scene)
            self.camera = film.shots[int(film.number(np.array([finding.at]))[0])].camera
            low, high = film.segments.bounds(finding.at)
            self.first, self.last = max(self.first, low), min(self.last, np.ceil(high) - 1.0)
        self.passes: Passes = is_put_right(scene, finding, (self.first, self.last))

    @property
    def unit(self) -> float:
        """How far away what the camera is about is, in units."""
        seen = output(self.scene, self.finding.at)
        return float(np.linalg.norm(seen.subject()[0] - seen.position[0]))


Fixer = Callable[[Problem], Iterator[Fix]]


def lens(problem: Problem, passes: Passes, longer: bool, undo: str) -> Iterator[Fix]:
    camera, scene = problem.camera, problem.scene
    now = float(evaluate(scene, problem.finding.at, [camera]).value(camera, FOCAL)[0])

    def made_by(millimetres: float) -> Scene:
        focal = now + millimetres if longer else now - millimetres
        if focal < 4.0:
            raise SceneError("There is no such lens.")
        return with_all_values(scene, camera, FOCAL, lambda value: value * focal / now)

    made = smallest(made_by, passes, 0.05 * now, 2.0 * now if longer else 0.7 * now, 0.5)
    if made is not None:
        focal = now + made[0] if longer else now - made[0]
        word = "longer lens" if longer else "wider lens"
        yield Fix(f"{word}, {focal:.1f} mm", undo, made[1])


def moved_by(scene: Scene, node_id: str, way: Array, frame: float, by: float) -> Scene:
    """The scene with a node moved along a direction (3,) of the world, by so many units, as its carrier is at a
    frame."""
    return moved(scene, node_id, way * by, frame)


def frames(count: float) -> str:
    return "1 frame" if count == 1.0 else f"{count:.0f} frames"
