"""Which node is under a pixel of the Overview."""

import numpy as np

from ...arrays import Array
from ...scene import Picture
from ..state.document import Document
from .free_view import Eye
from .shapes import body_corners, hull

_PICK = 11.0


def node_at(document: Document, eye: Eye, size: tuple[int, int], pointer: Array) -> str | None:
    """An origin near a pixel (2,), else the nearest body that covers it."""
    scene, here = document.views.shown, document.evaluations.here
    ids = [node.id for node in scene.nodes if node.placed and not node.hidden and not node.locked]
    best: tuple[float, str] | None = None
    for node_id in ids:
        if scene.node(node_id).serves_as("seen"):
            continue
        pixel = eye.project(here.position(node_id), *size)[0][0]
        distance = float(np.linalg.norm(pixel - pointer))
        if distance < _PICK and (best is None or distance < best[0]):
            best = (distance, node_id)
    if best:
        return best[1]
    covering = []
    for node_id in ids:
        node = scene.node(node_id)
        if node.serves_as("seen"):
            outline, depth = eye.project(body_corners(node, scene, here), *size)
            if not isinstance(node, Picture) and np.isfinite(outline).all():
                outline = hull(outline)
            if np.isfinite(outline).all() and _covers(outline, pointer):
                # A ground lies under everything, and takes no click that something else could have.
                covering.append(
                    (node.serves_as("ground") and not node.serves_as("receiver"), float(depth.mean()), node_id)
                )
    return min(covering)[2] if covering else None


def _covers(outline: np.ndarray, pointer: np.ndarray) -> bool:
    """Whether a convex polygon (N, 2) has a point inside."""
    edges = np.roll(outline, -1, axis=0) - outline
    to = pointer - outline
    side = edges[:, 0] * to[:, 1] - edges[:, 1] * to[:, 0]
    return bool((side >= 0).all() or (side <= 0).all())
