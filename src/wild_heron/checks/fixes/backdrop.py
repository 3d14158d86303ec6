"""Finds the backmost layer, and scales or moves it until it covers a format's frame."""

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array
from ...evaluate import Evaluation, evaluate, output
from ...evaluate.extent import local_bounds
from ...scene import Format, Picture, Scene
from ...scene.channels import OPACITY
from ..edges import MARGIN
from ..finding import Finding
from ..format_windows import windows_of

_SLACK = 0.0015
"""Beyond the frame, in shares of it: the rim of a picture fades over a pixel."""
_REACH = 4.0
"""So many times as large as it is a layer may have to be, to count as lying behind."""
_FINE = 0.5
"""Frames between those that are looked at: an edge may be bare between two."""
_MOST_FRAMES = 4_001


class Backdrop:
    """The farthest layer that can be made to cover the frame at the frames of a finding, and that goes on doing so
    wherever it did, in every format."""

    def __init__(self, scene: Scene, finding: Finding, node: str) -> None:
        self.node, self._finding = node, finding
        count = int((finding.last - finding.first) / _FINE) + 1
        bare = np.linspace(finding.first, finding.last, max(count, 1))
        settings = scene.settings
        every = np.linspace(settings.first, settings.last, min(2 * settings.frame_count - 1, _MOST_FRAMES))
        self._frames = np.concatenate([bare, every])
        shapes = scene.formats_with_main()
        self._shape = next(k for k, each in enumerate(shapes) if each.name == finding.format)
        self._needed = self._covered(scene)
        self._needed[self._shape, : len(bare)] = True

    def _places(self, scene: Scene) -> Array:
        """Where the corners of each frame fall on the layer's plane (F, N, 4, 2), in its own units; NaN where they pass
        it by."""
        seen = output(scene, self._frames)
        here = evaluate(scene, self._frames, [self.node])
        rays = (self._rays(scene, shape, seen.focal_px) for shape in scene.formats_with_main())
        return np.stack([_on_plane(here, self.node, each, seen.pose) for each in rays])

    def _rays(self, scene: Scene, shape: Format, focal: Array) -> Array:
        """The directions (N, 4, 3) of a frame's corners, with its margin, in the lens's own axes."""
        settings = scene.settings
        grow = _SLACK + MARGIN.of(scene.checks)
        corners = windows_of(scene, self._frames, shape).corners(settings, grow)
        off = (corners - 0.5 * np.array([settings.width, settings.height])) * [1.0, -1.0]
        rays = np.empty((len(focal), 4, 3))
        rays[:, :, :2] = off / focal[:, None, None]
        rays[:, :, 2] = -1.0
        return rays

    def _covered(self, scene: Scene) -> NDArray[np.bool_]:
        low, high = _rectangle(scene, self.node)
        places = self._places(scene)
        with np.errstate(invalid="ignore"):
            return np.asarray(((places >= low) & (places <= high)).all(axis=(2, 3)))

    def covers(self, scene: Scene) -> bool:
        """Whether it covers the frame where it is to, and wherever it did before."""
        return bool(self._covered(scene)[self._needed].all())

    def least_move(self, scene: Scene) -> Array | None:
        """The shortest way (3,) in the world to move it so that it covers the frame; None where it is too small."""
        places, (low, high) = self._places(scene)[self._needed], _rectangle(scene, self.node)
        if not np.isfinite(places).all():
            return None
        lowest, highest = places.min(axis=(0, 1)), places.max(axis=(0, 1))
        if (highest - lowest > high - low).any():
            return None
        shift = np.where(highest > high, highest - high, np.where(lowest < low, lowest - low, 0.0))
        content = evaluate(scene, self._finding.at, [self.node]).content(self.node)[0]
        return np.asarray(content[:3, :2] @ shift)

    def lack(self, scene: Scene) -> float:
        """How many times as large it would have to be, infinite where its plane is not even before the frame."""
        places, (low, high) = self._places(scene)[self._needed], _rectangle(scene, self.node)
        if not np.isfinite(places).all():
            return float("inf")
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = np.where(places > 0.0, places / np.maximum(high, 1e-9), places / np.minimum(low, -1e-9))
        return float(ratio.max())


def _rectangle(scene: Scene, node_id: str) -> tuple[Array, Array]:
    low, high = local_bounds(scene.node(node_id), scene.settings)
    return low[:2], high[:2]


def _on_plane(here: Evaluation, node_id: str, rays: Array, pose: Array) -> Array:
    """Where rays (N, K, 3) of a lens fall on a layer's plane, (N, K, 2) in its own units."""
    back = np.linalg.inv(here.content(node_id))
    start = (back @ pose[:, :, 3, None])[:, None, :3, 0]
    along = rays @ (back[:, :3, :3] @ pose[:, :3, :3]).transpose(0, 2, 1)
    with np.errstate(all="ignore"):
        reach = -start[..., 2] / along[..., 2]
        spot = start + along * reach[..., None]
    return np.where((reach > 0.0)[..., None], spot[..., :2], np.nan)


def backdrop_of(scene: Scene, finding: Finding) -> Backdrop | None:
    """The farthest picture that is not much too small to cover the frame."""
    here = evaluate(scene, finding.at)
    seen = output(scene, finding.at)
    found: list[tuple[float, Backdrop]] = []
    for node in scene.nodes:
        if not isinstance(node, Picture) or node.hidden or here.value(node.id, OPACITY)[0] < 0.99:
            continue
        try:
            each = Backdrop(scene, finding, node.id)
            lack = each.lack(scene)
        except np.linalg.LinAlgError:
            continue
        if lack < _REACH:
            away = float((here.position(node.id)[0] - seen.position[0]) @ seen.axis[0])
            found.append((away, each))
    return max(found, key=lambda each: each[0])[1] if found else None
