"""Samples nodes and the lens for export, each in the space of what carries it where that is possible."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array
from ...evaluate import CameraView, Evaluation, evaluate
from ...evaluate.film_output import output
from ...scene import AnyNode, Format, Null, Scene
from ...scene.channels import OPACITY, STRENGTH
from ...scene.lookup import nodes_by_id
from ...scene.output import lens_node
from ...space.rotation import slerp
from ...space.transform import decompose, invert
from .fewest import Tolerances

_SKEWED = 1e-4
_FLAT = 1e-6
_STILL = 1e-9
_OFF_MIDDLE = 0.382
"""Where between two samples it is looked whether they go straight from one to the next: not where an even ease would
meet the line by chance."""
_SPENT = 0.25
"""Of a tolerance: what may lie off the line between samples, before some of them are left out."""
_NEAREST = 1.5e-3
"""How close samples come, in frames: closer ones would meet in single precision."""
_MOST = 200_000
SHIFT = 0.1
"""Pixels, of where the axis of the lens lands."""


class MoveSource(NamedTuple):
    """Which nodes are told, each after what carries it, by whom each is carried (its number, or −1), and which lens."""

    scene: Scene
    nodes: tuple[AnyNode, ...]
    parents: tuple[int, ...]
    lens: Callable[[Array], CameraView] | None
    lens_parent: int = -1


class Sample(NamedTuple):
    """At frames (N,): matrices (N, M, 4, 4) of nodes, in the spaces of what carries them, how strongly each is seen or
    shines (N, M), and the lens with where it is (N, 4, 4)."""

    frames: Array
    matrices: Array
    levels: Array
    view: CameraView | None
    pose: Array


def source_of(
    scene: Scene, nodes: Sequence[AnyNode], camera: str | None, shape: Format | None, seen: bool
) -> MoveSource:
    """What is told: nodes, and a camera (None: the output) in a format where one is ``seen``."""
    by_id = nodes_by_id(scene)
    wanted = {node.id for node in nodes}

    def above(node: AnyNode) -> list[str]:
        chain = []
        while node.carrier is not None:
            node = by_id[node.carrier]
            chain.append(node.id)
        return chain

    ordered = sorted(nodes, key=lambda node: len(above(node)))
    number = {node.id: k for k, node in enumerate(ordered)}

    def parent(node: AnyNode) -> int:
        return next((number[each] for each in above(node) if each in wanted), -1)

    def lens(frames: Array) -> CameraView:
        return (
            output(scene, frames, shape) if camera is None else evaluate(scene, frames, [camera]).camera(camera, shape)
        )

    held = None if not seen or (camera is None and scene.shots) else lens_node(scene, camera).id
    return MoveSource(
        scene, tuple(ordered), tuple(parent(node) for node in ordered), lens if seen else None,
        -1 if held is None else parent(by_id[held]),
    )  # fmt: skip


def alone(source: MoveSource) -> MoveSource:
    """The same, every node in the world by itself."""
    return source._replace(parents=(-1,) * len(source.nodes), lens_parent=-1)


class InWorld(NamedTuple):
    """A source at frames (N,): matrices (N, 4, 4) of its nodes in the world, how strongly they are seen (N,), and the
    lens. ``inverses`` are those that were asked for."""

    frames: Array
    matrices: list[Array]
    levels: list[Array]
    view: CameraView | None
    inverses: dict[int, Array]

    def within(self, parent: int, matrices: Array) -> Array:
        """Matrices (N, 4, 4) of the world in the space of a node by its number; −1: the world."""
        if parent < 0:
            return matrices
        if parent not in self.inverses:
            self.inverses[parent] = invert(self.matrices[parent])
        return self.inverses[parent] @ matrices


def in_world(source: MoveSource, frames: Array) -> InWorld:
    """The source at frames (N,), whoever carries its nodes."""
    view = None if source.lens is None else source.lens(frames)
    if not source.nodes:
        return InWorld(frames, [], [], view, {})
    there = evaluate(source.scene, frames, [node.id for node in source.nodes])
    levels = [np.ones(len(frames)) if isinstance(node, Null) else _level(there, node) for node in source.nodes]
    return InWorld(frames, [there.content(node.id) for node in source.nodes], levels, view, {})


def with_sound_parents(source: MoveSource, there: InWorld) -> MoveSource:
    """The same, where each node is in the world by itself that its carrier's space cannot hold: flattened somewhere, or
    skewing it."""
    world = there.matrices
    carriers = {*source.parents, source.lens_parent} - {-1}
    flat = {p: bool((np.abs(np.linalg.det(world[p][:, :3, :3])) < _FLAT).any()) for p in carriers}

    def sound(parent: int, matrices: Array) -> int:
        if parent < 0 or flat[parent]:
            return -1
        return -1 if is_skewed(there.within(parent, matrices)) and not is_skewed(matrices) else parent

    parents = tuple(sound(p, m) for p, m in zip(source.parents, world, strict=True))
    view = there.view
    return source._replace(
        parents=parents, lens_parent=-1 if view is None else sound(source.lens_parent, view.pose)
    )  # fmt: skip


def is_skewed(matrices: Array) -> bool:
    """Whether matrices (N, 4, 4) are more than a place, a turn and a size."""
    linear = matrices[:, :3, :3]
    products = linear.transpose(0, 2, 1) @ linear
    # How far along an earlier axis each goes, as what puts axes square takes away from it.
    lengths = np.sqrt(np.maximum(products[:, [0, 0, 1], [0, 0, 1]], 1e-300))
    astray = np.abs(products[:, [0, 0, 1], [1, 2, 2]]) / lengths
    return bool(astray.max() > _SKEWED * max(float(np.abs(linear).max()), 1e-12))


def sampled(source: MoveSource, there: InWorld) -> Sample:
    """What is there, each in the space of what carries it."""
    count, view = len(there.frames), there.view
    matrices, levels = np.zeros((count, len(source.nodes), 4, 4)), np.ones((count, len(source.nodes)))
    for k, parent in enumerate(source.parents):
        matrices[:, k] = _settled(there.within(parent, there.matrices[k]))
        levels[:, k] = there.levels[k]
    pose = np.zeros((count, 4, 4))
    if view is not None:
        pose = _settled(there.within(source.lens_parent, view.pose))
    return Sample(there.frames, matrices, levels, view, pose)


def _settled(matrices: Array) -> Array:
    """The first of matrices for all, where they differ by what calculation leaves over alone."""
    size = max(float(np.abs(matrices).max()), 1.0)
    still = np.abs(matrices - matrices[:1]).max() <= _STILL * size
    return np.broadcast_to(matrices[:1], matrices.shape) if still else matrices


def _level(there: Evaluation, node: AnyNode) -> Array:
    if node.serves_as("light"):
        return there.value(node.id, STRENGTH)
    return np.clip(there.value(node.id, OPACITY), 0.0, 1.0)


class Within(NamedTuple):
    """What may lie off the line between keys, for M nodes and the lens after them: units (M + 1,) in their own spaces,
    radians (M + 1,), and a share of other numbers."""

    units: Array
    radians: Array
    share: float


def within(source: MoveSource, sample: Sample, few: Tolerances) -> Within:
    """A tolerance in the world as one in every node's own space: what a null turns, it turns at the end of an arm; and
    what carries the lens turns the picture."""
    count = len(source.nodes)
    world = in_world(source, sample.frames).matrices
    sizes = [1.0 if p < 0 else float(np.linalg.norm(world[p][:, :3, :3], axis=1).max()) for p in source.parents]
    units, radians = np.empty(count + 1), np.full(count + 1, np.radians(few.degrees))
    units[:count] = few.units / np.maximum(sizes, 1e-12) if count else []
    units[count] = few.units
    origins = [each[:, :3, 3] for each in world]
    lens = source.lens_parent
    if sample.view is not None:
        turned = few.pixels / float(sample.view.focal_px.max())
        radians[count] = min(radians[count], turned)
        if lens >= 0:
            units[count] = few.units / max(float(np.linalg.norm(world[lens][:, :3, :3], axis=1).max()), 1e-12)
            origins.append(sample.view.position)
    for k, origin in enumerate(origins):
        above = source.parents[k] if k < count else lens
        while above >= 0:
            arm = float(np.linalg.norm(origin - origins[above], axis=1).max())
            radians[above] = min(radians[above], few.units / max(arm, 1e-12))
            if k == count:
                radians[above] = min(radians[above], turned)
            above = source.parents[above]
    return Within(units, radians, few.share)


def close_enough(source: MoveSource, frames: Array, allowed: Within, step: Callable[[], None] = lambda: None) -> Array:
    """The frames (N,), and as many more between them as it takes to go straight from one to the next. ``step`` is
    called now and then, and may raise."""
    values = _columns(sampled(source, in_world(source, frames)))
    waiting = np.ones(len(frames) - 1, dtype=bool)
    while len(frames) < _MOST:
        at = np.flatnonzero(waiting & (np.diff(frames) > _NEAREST))
        if not len(at):
            break
        step()
        middle = frames[at] + _OFF_MIDDLE * (frames[at + 1] - frames[at])
        seen = _columns(sampled(source, in_world(source, middle)))
        low, high = _Columns(*(each[at] for each in values)), _Columns(*(each[at + 1] for each in values))
        bent = _bent(seen, low, high, allowed)
        at = at[bent]
        frames = np.insert(frames, at + 1, middle[bent])
        values = _Columns(
            *(np.insert(old, at + 1, new[bent], axis=0) for old, new in zip(values, seen, strict=True))
        )  # fmt: skip
        waiting = np.zeros(len(frames) - 1, dtype=bool)
        left = at + np.arange(len(at))
        waiting[left] = waiting[left + 1] = True
    return frames


class _Columns(NamedTuple):
    position: Array
    quaternion: Array
    scale: Array
    numbers: Array


def _columns(sample: Sample) -> _Columns:
    every = np.concatenate([sample.matrices, sample.pose[:, None]], axis=1)
    shape = every.shape[:2]
    position, quaternion, scale = decompose(every.reshape(-1, 4, 4))
    numbers = sample.levels
    if sample.view is not None:
        numbers = np.concatenate([numbers, lens_numbers(sample.view)], axis=1)
    return _Columns(position.reshape(*shape, 3), quaternion.reshape(*shape, 4), scale.reshape(*shape, 3), numbers)


def _bent(seen: _Columns, low: _Columns, high: _Columns, allowed: Within) -> NDArray[np.bool_]:
    def line(name: str) -> Array:
        a, b = getattr(low, name), getattr(high, name)
        return np.asarray(a + (b - a) * _OFF_MIDDLE)

    off = np.abs(seen.position - line("position")).max(axis=2) > _SPENT * allowed.units
    first, other = low.quaternion.reshape(-1, 4), high.quaternion.reshape(-1, 4)
    turned = slerp(first, other, np.full(len(first), _OFF_MIDDLE)).reshape(seen.quaternion.shape)
    alike = np.abs((turned * seen.quaternion).sum(axis=2))
    off |= 2.0 * np.arccos(np.clip(alike, -1.0, 1.0)) > np.maximum(_SPENT * allowed.radians, 1e-7)
    off |= (np.abs(seen.scale - line("scale")) > _SPENT * allowed.share * np.abs(seen.scale) + 1e-9).any(axis=2)
    room = _SPENT * allowed.share * np.abs(seen.numbers) + 1e-9
    room[:, : seen.position.shape[1] - 1] = _SPENT * allowed.share
    if room.shape[1] >= seen.position.shape[1]:
        room[:, -2:] = _SPENT * SHIFT
    numbers = np.abs(seen.numbers - line("numbers")) > room
    return np.asarray(off.any(axis=1) | numbers.any(axis=1))


def lens_numbers(view: CameraView) -> Array:
    """What formats tell of a lens, (N, 8), each of which goes straight from key to key in some: focal length in pixels
    and mm, focus, aperture, shutter, the angle up and down, and the shift."""
    angles = 2.0 * np.arctan(0.5 * view.height / view.focal_px)
    shift = np.zeros((len(view), 2)) if view.shift is None else view.shift
    told = [view.focal_px, view.focal_mm, view.focus, view.f_stop, view.shutter, angles]
    columns = np.concatenate([np.stack(told, axis=1), shift], axis=1)
    return np.where(np.isfinite(columns), columns, 0.0)
