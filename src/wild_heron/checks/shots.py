"""Names of what is shown at a frame."""

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..evaluate import Evaluation
from ..evaluate.film import film_of
from ..scene import Scene, Subject


def shown_name(scene: Scene, frame: float) -> str:
    """The name of what is shown at a frame; "" in a scene without shots."""
    if not scene.shots:
        return ""
    film = film_of(Evaluation.evaluator, scene)
    return film.shots[int(film.number(np.array([frame]))[0])].name


def matters(scene: Scene, subject: Subject, frames: Array) -> NDArray[np.bool_] | None:
    """At which frames (N,) a subject is looked for; None: where it is in the picture for most of what is shown."""
    if not subject.shots or not scene.shots:
        return None
    film = film_of(Evaluation.evaluator, scene)
    chosen = np.array([shot.name in subject.shots for shot in film.shots])
    return np.asarray(chosen[film.number(frames)])
