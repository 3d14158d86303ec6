"""Bounding boxes of subjects in the frame."""

import numpy as np

from ..arrays import Array
from ..evaluate import CameraView, Evaluation
from ..evaluate.extent import local_bounds
from ..scene import Scene, Subject
from ..scene.dependencies import descendants


def nodes_of(scene: Scene, subject: Subject) -> tuple[str, ...]:
    """A subject's node and all that it carries which is seen."""
    ids = {subject.node, *descendants(scene, subject.node)}
    return tuple(node.id for node in scene.nodes if node.id in ids and node.serves_as("seen") and not node.hidden)


def subject_boxes(here: Evaluation, seen: CameraView, subjects: tuple[Subject, ...]) -> Array:
    """The boxes (N, S, 4) that subjects take up in the picture: left, top, right and bottom in its pixels; NaN at
    frames at which nothing of one is before the lens."""
    out = np.full((len(here), len(subjects), 4), np.nan)
    for k, subject in enumerate(subjects):
        points = subject_points(here, subject)
        places = np.empty((len(here), points.shape[1], 2))
        for j in range(points.shape[1]):
            places[:, j], _ = seen.pixels(points[:, j])
        whole = np.isfinite(places).all(axis=(1, 2))
        low, high = places[whole].min(axis=1), places[whole].max(axis=1)
        out[whole, k] = np.concatenate([low, high], axis=1)
    return out


def subject_points(here: Evaluation, subject: Subject) -> Array:
    """The corners (N, K, 3) of a subject in the world; where nothing of it is seen, its origin."""
    found = []
    scene = here.scene
    ids = nodes_of(scene, subject)
    left, top, right, bottom = subject.part if ids == (subject.node,) else (0.0, 0.0, 1.0, 1.0)
    for node_id in ids:
        low, high = local_bounds(scene.node(node_id), scene.settings)
        size = high - low
        if not (size > 0.0).any():
            continue
        # A part's shares go from the left and from the top; a node's y goes up.
        xs = (low[0] + left * size[0], low[0] + right * size[0])
        ys = (low[1] + (1.0 - bottom) * size[1], low[1] + (1.0 - top) * size[1])
        zs = (low[2], high[2]) if size[2] > 0.0 else (low[2],)
        local = np.array([(x, y, z) for x in xs for y in ys for z in zs])
        content = here.content(node_id)
        found.append(local @ content[:, :3, :3].transpose(0, 2, 1) + content[:, None, :3, 3])
    if not found:
        return here.position(subject.node)[:, None, :]
    return np.concatenate(found, axis=1)
