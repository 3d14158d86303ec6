"""Where a subject is, and how large: what a move is told relative to."""

from typing import NamedTuple

import numpy as np

from ...arrays import Array
from ...evaluate.evaluation import evaluate
from ...evaluate.extent import EXTENTS, corners
from ...evaluate.windows import windows_at
from ...scene import Format, Scene, SceneError
from ...scene.dependencies import descendants
from ...scene.lookup import nodes_by_id

_LEAST = 1e-6
_TURNED_UP = 0.3
_SHAPE = 9.0 / 16.0
"""A height counts as it fills a frame of this shape, whatever the frame."""


class SubjectPlace(NamedTuple):
    """The middle (3,) of a subject, by how many degrees its front is turned about the vertical from +Z, and its size in
    units: its height, or so much of its width as fills the frame as far."""

    middle: Array
    turn: float
    size: float

    @property
    def world(self) -> Array:
        """The matrix (4, 4) from the move's space to the world."""
        angle = np.radians(self.turn)
        c, s = float(np.cos(angle)), float(np.sin(angle))
        out = np.eye(4)
        out[:3, :3] = np.array([[c, 0.0, s], [0.0, 1.0, 0.0], [-s, 0.0, c]]) * self.size
        out[:3, 3] = self.middle
        return out


def subject_place(
    scene: Scene, node_id: str, frame: float, shape: Format | None = None, reach: float | None = None
) -> SubjectPlace:
    """A subject at a frame, in the scene's own frame or as large as a format shows it.

    What has no extent of its own counts as the box round what it carries; where there is none either, ``reach`` says
    how large it is. SceneError where it has no size.
    """
    node = nodes_by_id(scene)[node_id]
    parts = [node_id] if type(node) in EXTENTS else []
    parts += [each for each in descendants(scene, node_id) if type(nodes_by_id(scene)[each]) in EXTENTS and not parts]
    here = evaluate(scene, frame, [node_id, *parts])
    pose = here.world(node_id)[0]
    turn = _heading(pose)
    if not parts:
        if reach is None:
            raise SceneError(
                f"{node.name} has no size of its own: say how high the subject is, or choose something that is seen."
            )
        return SubjectPlace(pose[:3, 3].copy(), turn, max(reach, _LEAST))
    points = np.concatenate([corners(here, each) for each in parts])
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    back = np.array([[c, 0.0, -s], [0.0, 1.0, 0.0], [s, 0.0, c]])
    own = points @ back.T
    low, high = own.min(axis=0), own.max(axis=0)
    width, height, _ = high - low
    settings = scene.settings
    across, down = _shown(scene, shape, frame)
    size = reach or max(_SHAPE * width / across, _SHAPE * height / down * settings.width / settings.height)
    if not np.isfinite(size) or size < _LEAST:
        raise SceneError(f"{node.name} has no size at frame {frame:g}: it is scaled to nothing there.")
    return SubjectPlace(back.T @ (0.5 * (low + high)), turn, float(size))


def _shown(scene: Scene, shape: Format | None, frame: float) -> tuple[float, float]:
    """How much of the camera's picture a format shows, across and down."""
    if shape is None:
        return 1.0, 1.0
    settings = scene.settings
    size = windows_at(evaluate(scene, frame, []), settings, shape).size[0]
    return min(float(size[0]) / settings.width, 1.0), min(float(size[1]) / settings.height, 1.0)


def _heading(pose: Array) -> float:
    """By how many degrees a pose (4, 4) is turned about the vertical. What lies on its back is told by its right."""
    right, front = pose[:3, 0], pose[:3, 2]
    right, front = right / max(float(np.linalg.norm(right)), 1e-12), front / max(float(np.linalg.norm(front)), 1e-12)
    if np.hypot(front[0], front[2]) >= _TURNED_UP or np.hypot(right[0], right[2]) < _TURNED_UP:
        return float(np.degrees(np.arctan2(front[0], front[2])))
    return float(np.degrees(np.arctan2(-right[2], right[0])))
