"""``Move``: a sampled scene for export, with binds, movers and formulas baked."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array
from ...evaluate import CameraView
from ...evaluate.film_output import output
from ...motion.takes.sampling import side_by_side
from ...scene import (
    AnyNode,
    Camera,
    Format,
    Null,
    Scene,
    UnknownNodeError,
)
from ...scene.output import has_output, lens_node
from ...space.transform import compose, decompose
from .fewest import Tolerances, fewest
from .move_sampling import (
    SHIFT,
    MoveSource,
    Sample,
    Within,
    alone,
    close_enough,
    in_world,
    is_skewed,
    lens_numbers,
    sampled,
    source_of,
    with_sound_parents,
    within,
)

JUST_BEFORE = 1e-3
"""How many frames before a cut the picture before it is told once more."""


def is_told(node: AnyNode) -> bool:
    """Whether other programs have something of its kind."""
    return isinstance(node, Null) or node.serves_as("seen") or node.serves_as("light")


class Poses(NamedTuple):
    """Positions (K, 3), quaternions (K, 4; x, y, z, w) and scales (K, 3) at frames (K,), in the space of what carries
    it, or the world; one where nothing changes. ``skewed`` are matrices (K, 4, 4) that these cannot tell."""

    frames: Array
    position: Array
    quaternion: Array
    scale: Array
    skewed: Array | None = None

    @property
    def still(self) -> bool:
        return len(self.frames) == 1

    def matrices(self) -> Array:
        """(K, 4, 4)."""
        return compose(self.position, self.quaternion, self.scale)


class MovedNode(NamedTuple):
    """A node with the matrices of its contents, and its opacity or strength (K,) at frames (K,); one where it does not
    change. ``parent`` is the number of what carries it among the nodes before it, or −1."""

    node: AnyNode
    poses: Poses
    level: tuple[Array, Array]
    parent: int = -1


class MovedCamera(NamedTuple):
    """What is seen at frames (N,), where a camera is, and its lens at fewer frames where that is enough."""

    name: str
    view: CameraView
    poses: Poses
    lens: NDArray[np.int64]
    """The numbers among ``view``'s frames at which the lens is told: one where it does not change."""
    parent: int = -1


class Move(NamedTuple):
    scene: Scene
    base: Path | None
    frames: Array
    camera: MovedCamera | None
    nodes: tuple[MovedNode, ...]
    left: tuple[AnyNode, ...]
    """What was asked for and has nothing of its kind elsewhere."""

    def seconds(self, frames: Array) -> Array:
        """Seconds (N,) of frames (N,) from the first."""
        return (frames - self.frames[0]) / self.scene.settings.rate.fps

    @property
    def metres(self) -> float:
        """How many a unit has."""
        return self.scene.settings.mm_per_unit / 1000.0


class Wanted(NamedTuple):
    """What of a scene becomes a move: which frames; ``camera``: which one (None: the output); ``nodes``: which others
    (None: all that can be told); ``few``: keys only where they are needed to keep within tolerances, on frames and
    between; through the window of a format; ``carried``: nodes stay on what carries them where their spaces allow it.
    """

    frames: Sequence[float]
    camera: str | None = None
    nodes: Sequence[str] | None = None
    few: Tolerances | None = None
    shape: Format | None = None
    carried: bool = True


def move_of(scene: Scene, base: Path | None, wanted: Wanted, step: Callable[[], None] = lambda: None) -> Move:
    """Sample a scene. ``step`` is called now and then, and may raise. UnknownNodeError where a node is not there."""
    frames, camera, nodes, few, shape, carried = wanted
    array = np.asarray(frames, dtype=np.float64)
    if camera is not None and not isinstance(scene.node(camera), Camera):
        raise UnknownNodeError(camera)
    shown = [node for node in scene.nodes if is_told(node) and not node.hidden]
    chosen: list[AnyNode] = [*shown] if nodes is None else [scene.node(each) for each in nodes]
    asked = chosen if nodes is not None else [node for node in scene.nodes if node.placed and not node.hidden]
    told = [node for node in chosen if is_told(node)]
    seen = camera is not None or has_output(scene)
    source = source_of(scene, told, camera, shape, seen)
    array = _with_cuts(scene, array, camera, shape) if seen else array
    there = in_world(source, array)
    source = with_sound_parents(source, there) if carried else alone(source)
    sample = sampled(source, there)
    allowed = None
    if few is not None:
        allowed = within(source, sample, few)
        sample = sampled(source, in_world(source, close_enough(source, array, allowed, step)))
    moved = tuple(_node(source, sample, k, allowed) for k in range(len(source.nodes)))
    return Move(
        scene, base, array, _camera(source, sample, camera, allowed), moved,
        tuple(node for node in asked if not is_told(node) and not isinstance(node, Camera)),
    )  # fmt: skip


def _with_cuts(scene: Scene, frames: Array, camera: str | None, shape: Format | None) -> Array:
    """The frames, with cuts and those just before them among them."""
    if camera is not None:
        return frames
    # Where the cuts are does not depend on which frames are asked for.
    cuts = [cut for cut in output(scene, frames[:1], shape).segments.starts if frames[0] < cut <= frames[-1]]
    return np.union1d(frames, np.concatenate([np.array(cuts) - JUST_BEFORE, cuts]))


def _node(source: MoveSource, sample: Sample, k: int, allowed: Within | None) -> MovedNode:
    poses = _poses(sample.frames, sample.matrices[:, k], _tolerances(allowed, k))
    return MovedNode(source.nodes[k], poses, _level(sample.frames, sample.levels[:, k], allowed), source.parents[k])


def _camera(source: MoveSource, sample: Sample, camera: str | None, allowed: Within | None) -> MovedCamera | None:
    if sample.view is None:
        return None
    scene = source.scene
    name = "Film" if camera is None and scene.shots else lens_node(scene, camera).name
    poses = _poses(sample.frames, sample.pose, _tolerances(allowed, len(source.nodes)))
    return MovedCamera(name, sample.view, poses, _lens_moments(sample.view, allowed), source.lens_parent)


def _tolerances(allowed: Within | None, k: int) -> Tolerances | None:
    if allowed is None:
        return None
    return Tolerances(float(allowed.units[k]), float(np.degrees(allowed.radians[k])), allowed.share)


def _poses(frames: Array, matrices: Array, few: Tolerances | None) -> Poses:
    """Matrices (N, 4, 4) as places, turns and scales, and whether they are more than these."""
    if (matrices == matrices[:1]).all():
        frames, matrices = frames[:1], matrices[:1]
    position, quaternion, scale = decompose(matrices)
    quaternion = side_by_side(quaternion)
    skewed = matrices if is_skewed(matrices) else None
    if few is not None and len(frames) > 1 and skewed is None:
        kept = fewest(frames, position, quaternion, scale, few)
        frames, position, quaternion, scale = frames[kept], position[kept], quaternion[kept], scale[kept]
    return Poses(frames, position, quaternion, scale, skewed)


def _level(frames: Array, values: Array, allowed: Within | None) -> tuple[Array, Array]:
    if (values == values[0]).all():
        return frames[:1], values[:1]
    if allowed is None:
        return frames, values
    kept = fewest(frames, values[:, None], None, None, Tolerances(units=allowed.share))
    return frames[kept], values[kept]


def _lens_moments(view: CameraView, allowed: Within | None) -> NDArray[np.int64]:
    columns = lens_numbers(view)
    if (columns == columns[:1]).all():
        return np.zeros(1, dtype=np.int64)
    if allowed is None:
        return np.arange(len(view), dtype=np.int64)
    lens, shift = columns[:, :-2], columns[:, -2:]
    return fewest(view.frames, shift, None, np.maximum(np.abs(lens), 1e-9), Tolerances(SHIFT, share=allowed.share))
