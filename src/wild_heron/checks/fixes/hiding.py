"""Finds flat artwork, taken as opaque all over, that hides a subject from the lens."""

import numpy as np

from ...arrays import Array
from ...edits.shifting import moved, with_all_values
from ...evaluate import Evaluation, evaluate, output
from ...evaluate.extent import local_bounds
from ...scene import Picture, Scene
from ...scene.channels import OPACITY
from ..finding import Finding
from ..layers import checked_layers
from ..subjects import nodes_of, subject_points

_GRID = 13
"""Lines of sight along either side of a subject's box."""
_SEEN = 0.3
"""Opacity below which a layer hides nothing."""
_STEP = 2.0
_CLOSER = 0.98
"""A subject is brought so much nearer than what hid it."""


class Sight:
    """Lines of sight from the lens to a subject at the frames of a finding."""

    def __init__(self, scene: Scene, finding: Finding) -> None:
        self.subject = next(each for each in scene.checks.subjects if each.node == finding.about)
        count = int((finding.last - finding.first) / _STEP) + 1
        self._frames = np.unique(np.append(np.linspace(finding.first, finding.last, count), finding.at))
        self._own = set(nodes_of(scene, self.subject))

    def hidden(self, scene: Scene) -> float:
        """The largest share of the lines that a layer crosses, of all frames."""
        crossed = [each for _, each in self._crossings(scene)]
        return float(np.any(crossed, axis=0).mean(axis=1).max()) if crossed else 0.0

    def hiders(self, scene: Scene) -> list[str]:
        """The layers that cross lines, the worst first."""
        shares = {node_id: float(each.mean(axis=1).max()) for node_id, each in self._crossings(scene)}
        return sorted((each for each, share in shares.items() if share > 0.0), key=lambda each: -shares[each])

    def _crossings(self, scene: Scene) -> list[tuple[str, np.ndarray]]:
        """Of each layer which lines it crosses, (N, K)."""
        here, seen = evaluate(scene, self._frames), output(scene, self._frames)
        start, ends = seen.position, self._ends(here)
        out = []
        for node_id in checked_layers(scene):
            if node_id in self._own:
                continue
            opaque = np.broadcast_to(here.value(node_id, OPACITY), (len(self._frames),)) >= _SEEN
            crossed = _crossed(here, scene, node_id, start, ends) & opaque[:, None]
            if crossed.any():
                out.append((node_id, crossed))
        return out

    def _ends(self, here: Evaluation) -> Array:
        """Points (N, K, 3) all over the subject: between the corners of its parts."""
        corners = subject_points(here, self.subject)
        if corners.shape[1] % 4:
            return corners
        share = (np.arange(_GRID) + 0.5) / _GRID
        across, up = (each.ravel() for each in np.meshgrid(share, share))
        weights = np.stack([(1 - across) * (1 - up), (1 - across) * up, across * (1 - up), across * up], axis=1)
        parts = corners.reshape(len(corners), -1, 4, 3)
        return np.asarray((weights[None, None] @ parts).reshape(len(corners), -1, 3))


def _crossed(here: Evaluation, scene: Scene, node_id: str, start: Array, ends: Array) -> np.ndarray:
    """Which lines from ``start`` (N, 3) to ``ends`` (N, K, 3) a layer's rectangle lies across, (N, K)."""
    low, high = local_bounds(scene.node(node_id), scene.settings)
    try:
        back = np.linalg.inv(here.content(node_id))
    except np.linalg.LinAlgError:
        return np.zeros(ends.shape[:2], dtype=bool)
    first = (back[:, :3, :3] @ start[:, :, None])[:, None, :, 0] + back[:, None, :3, 3]
    last = ends @ back[:, :3, :3].transpose(0, 2, 1) + back[:, None, :3, 3]
    with np.errstate(all="ignore"):
        share = first[..., 2] / (first[..., 2] - last[..., 2])
        spot = first + share[..., None] * (last - first)
        inside = ((spot[..., :2] >= low[:2]) & (spot[..., :2] <= high[:2])).all(axis=-1)
        return np.asarray(inside & (share > 0.0) & (share < 1.0 - 1e-6))


def in_front_of(scene: Scene, finding: Finding, camera: str, hider: str) -> Scene | None:
    """The subject brought along the line of sight before what hides it, and as much smaller, so that it is seen as
    large; None where it stands nearer already, or has no size to change."""
    here, seen = evaluate(scene, finding.at), output(scene, finding.at)
    place, lens = here.position(finding.about)[0], seen.position[0]
    if not isinstance(scene.node(finding.about), Picture):
        return None
    to_subject = place - lens
    content = here.content(hider)[0]
    normal = content[:3, 2]
    along = float(to_subject @ normal)
    if abs(along) < 1e-9:
        return None
    share = float((content[:3, 3] - lens) @ normal) / along * _CLOSER
    if not 0.02 < share < 1.0:
        return None
    made = moved(scene, finding.about, to_subject * (share - 1.0), finding.at)
    for name in ("scale.x", "scale.y"):
        made = with_all_values(made, finding.about, name, lambda value: value * share)
    return made
