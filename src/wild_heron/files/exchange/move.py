"""A scene's move as other programs have it: sampled, in world space, free of binds, movers and formulas."""

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array
from ...evaluate import CameraView, Evaluation, evaluate
from ...evaluate.output import output
from ...motion.takes.sampling import side_by_side
from ...scene import (
    AnyNode,
    Camera,
    Format,
    Ground,
    Logo,
    Model,
    Movie,
    Null,
    Picture,
    Scene,
    UnknownNodeError,
    moved_channels,
)
from ...scene import (
    Sequence as PictureSequence,
)
from ...scene.channels import OPACITY
from ...scene.output import has_output, lens_node
from ...space.rotation import quaternion_to_matrix
from ...space.transform import compose, decompose
from .fewest import Tolerances, fewest

JUST_BEFORE = 1e-3
"""How many frames before a cut the picture before it is told once more."""
_SKEWED = 1e-4

Carried = Null | Picture | Model | Logo | Ground


class Poses(NamedTuple):
    """Positions (K, 3), quaternions (K, 4; x, y, z, w) and scales (K, 3) at frames (K,); one where nothing changes."""

    frames: Array
    position: Array
    quaternion: Array
    scale: Array

    @property
    def still(self) -> bool:
        return len(self.frames) == 1

    def matrices(self) -> Array:
        """(K, 4, 4)."""
        return compose(self.position, self.quaternion, self.scale)


class MovedNode(NamedTuple):
    """A node with the matrices of its contents, and its opacity (K,) at frames (K,); one where it does not change."""

    node: Carried
    poses: Poses
    opacity: tuple[Array, Array]


class MovedCamera(NamedTuple):
    """What is seen at frames (N,), where a camera is, and its lens at fewer frames where that is enough."""

    name: str
    view: CameraView
    poses: Poses
    lens: NDArray[np.int64]
    """The numbers among ``view``'s frames at which the lens is told: one where it does not change."""


class Move(NamedTuple):
    scene: Scene
    base: Path | None
    frames: Array
    camera: MovedCamera | None
    nodes: tuple[MovedNode, ...]
    notes: tuple[str, ...]
    """What other programs get otherwise than it is here, a sentence each."""

    def seconds(self, frames: Array) -> Array:
        """Seconds from the first frame."""
        return (frames - self.frames[0]) / self.scene.settings.rate.fps


def move_of(
    scene: Scene,
    base: Path | None,
    frames: Iterable[float],
    camera: str | None = None,
    nodes: Sequence[str] | None = None,
    few: Tolerances | None = None,
    shape: Format | None = None,
) -> Move:
    """Sample a scene. ``camera``: which one (None: the output); ``nodes``: which others (None: all that can be told);
    ``few``: keys only where they are needed to keep within tolerances. UnknownNodeError where a node is not there."""
    array = np.asarray(list(frames), dtype=np.float64)
    seen, array = _seen(scene, array, camera, shape)
    shown = [node for node in scene.nodes if isinstance(node, Carried) and not node.hidden]
    wanted: list[AnyNode] = [*shown] if nodes is None else [scene.node(each) for each in nodes]
    told = [node for node in wanted if isinstance(node, Carried)]
    evaluation = evaluate(scene, array, [node.id for node in told]) if told else None
    moved = []
    skewed = []
    for node in told:
        assert evaluation is not None
        poses, is_skewed = _poses(array, evaluation.content(node.id), evaluation.is_still(node.id), few)
        if is_skewed:
            skewed.append(node.name)
        moved.append(MovedNode(node, poses, _opacity(array, evaluation, node, few)))
    view = None
    if seen is not None:
        name, lens = seen
        poses, _ = _poses(array, lens.pose, False, few)
        view = MovedCamera(name, lens, poses, _lens_moments(lens, few))
    return Move(scene, base, array, view, tuple(moved), _notes(scene, wanted, skewed))


def _seen(
    scene: Scene, frames: Array, camera: str | None, shape: Format | None
) -> tuple[tuple[str, CameraView] | None, Array]:
    """What is seen and its name, and the frames with cuts and those just before them among them."""
    if camera is None and not has_output(scene):
        return None, frames
    if camera is not None:
        if not isinstance(scene.node(camera), Camera):
            raise UnknownNodeError(camera)
        seen = evaluate(scene, frames, [camera]).camera(camera, shape)
        return (scene.node(camera).name, seen), frames
    # Where the cuts are does not depend on which frames are asked for.
    cuts = [cut for cut in output(scene, frames[:1], shape).segments.starts if frames[0] < cut <= frames[-1]]
    frames = np.union1d(frames, np.concatenate([np.array(cuts) - JUST_BEFORE, cuts]))
    seen = output(scene, frames, shape)
    name = "Film" if scene.shots else lens_node(scene, None).name
    return (name, seen), frames


def _poses(frames: Array, matrices: Array, still: bool, few: Tolerances | None) -> tuple[Poses, bool]:
    """Matrices (N, 4, 4) as places, turns and scales, and whether they are skewed, which these cannot tell."""
    if still or (matrices == matrices[:1]).all():
        frames, matrices = frames[:1], matrices[:1]
    position, quaternion, scale = decompose(matrices)
    quaternion = side_by_side(quaternion)
    rebuilt = quaternion_to_matrix(quaternion) * scale[:, None, :]
    size = max(float(np.abs(matrices[:, :3, :3]).max()), 1e-12)
    skewed = bool(np.abs(rebuilt - matrices[:, :3, :3]).max() > _SKEWED * size)
    if few is not None and len(frames) > 1:
        kept = fewest(frames, position, quaternion, scale, few)
        frames, position, quaternion, scale = frames[kept], position[kept], quaternion[kept], scale[kept]
    return Poses(frames, position, quaternion, scale), skewed


def _opacity(frames: Array, evaluation: Evaluation, node: Carried, few: Tolerances | None) -> tuple[Array, Array]:
    if isinstance(node, Null):
        return frames[:1], np.ones(1)
    values = np.clip(np.broadcast_to(evaluation.value(node.id, OPACITY), frames.shape), 0.0, 1.0)
    if (values == values[0]).all():
        return frames[:1], values[:1]
    if few is not None:
        kept = fewest(frames, values[:, None], None, None, few._replace(units=few.share))
        return frames[kept], values[kept]
    return frames, values


def _lens_moments(view: CameraView, few: Tolerances | None) -> NDArray[np.int64]:
    # Some formats go straight from one focal length to the next, others from one angle to the next.
    angles = 2.0 * np.arctan(0.5 * view.height / view.focal_px)
    columns = np.stack([view.focal_px, view.focal_mm, view.focus, view.f_stop, view.shutter, angles], axis=1)
    columns = np.where(np.isfinite(columns), columns, 0.0)
    if (columns == columns[:1]).all() and (view.shift is None or (view.shift == view.shift[:1]).all()):
        return np.zeros(1, dtype=np.int64)
    everything = np.arange(len(view), dtype=np.int64)
    if few is None or view.shift is not None:
        return everything
    parts = columns / np.maximum(np.abs(columns).max(axis=0), 1e-12)
    return fewest(view.frames, parts, None, None, few._replace(units=few.share))


def _notes(scene: Scene, wanted: list[AnyNode], skewed: list[str]) -> tuple[str, ...]:
    """What is baked or left out."""
    notes = []
    if any(moved_channels(node) for node in scene.nodes) or scene.takes:
        notes.append("Movers and takes are baked into the keys.")
    if any(node.binds for node in scene.nodes):
        notes.append("Binds and carriers are baked: every node stands in the world by itself.")
    if any(channel.formula or channel.links for node in scene.nodes for channel in node.channels):
        notes.append("Formulas and links are baked into the keys.")
    if skewed:
        notes.append(
            f"{_names(skewed)} {'is' if len(skewed) == 1 else 'are'} skewed by what carries it, which is left out."
        )
    left = [node.name for node in wanted if not isinstance(node, Carried | Camera)]
    if left:
        notes.append(f"Left out, since there is nothing of its kind elsewhere: {_names(left)}.")
    moving = [n.name for n in wanted if isinstance(n, Picture) and isinstance(n.artwork, Movie | PictureSequence)]
    if moving:
        notes.append(f"Of moving pictures the first frame is shown: {_names(moving)}.")
    return tuple(notes)


def _names(names: list[str]) -> str:
    return ", ".join(names[:6]) + (f" and {len(names) - 6} more" if len(names) > 6 else "")
