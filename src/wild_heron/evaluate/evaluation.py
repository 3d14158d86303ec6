"""Scene × frames → arrays.

Values are made in the handed-down order: key curve, links, formula, local matrix, carrier chain, binds in turn. What
does not change over time is computed once and broadcast, with the same arithmetic, so a frame's bits do not depend on
its neighbours.
"""

from collections.abc import Iterable
from functools import cached_property

import numpy as np

from ..arrays import Array
from ..scene import (
    AnyNode,
    Bind,
    Channel,
    Format,
    LoopError,
    Projection,
    Scene,
    SceneError,
    is_moved,
    spec,
    specs,
)
from ..scene.channels import ANCHOR, POSITION, ROTATION, SCALE
from ..scene.dependencies import (
    FILM_FIELDS,
    OUTPUT_STAGE,
    PoseStage,
    closure,
    evaluation_order,
    final_stage,
    listening_fields,
    needs,
    position_stage,
    stages_of_channels,
)
from ..scene.film import OUTPUT
from ..scene.inputs import ChannelRef
from ..scene.links import affected_nodes, channel_inputs
from ..scene.lookup import nodes_by_id
from ..scene.moving import group_of
from ..scene.output import lens_node
from ..space.rotation import euler_to_quaternion
from ..space.transform import compose, product
from .binds import bound
from .binds.aiming import target_of
from .cameras import CameraView, own_view
from .channels import channel_values
from .film import camera_view, output_view
from .movers import moved_values
from .row_of import RowOf
from .stillness import still_nodes, still_parts
from .windows import through_window

FARTHEST_FRAME = 2_000_000.0


class Evaluation:
    """The scene at an array of frames. Made by :func:`evaluate`."""

    def __init__(
        self,
        scene: Scene,
        frames: Array,
        wanted: Iterable[PoseStage] | None = None,
        previous: "Evaluation | None" = None,
    ) -> None:
        self.scene = scene
        self.frames = frames
        self.faults: dict[str, str] = {}
        """By node id, why a node stands still: something of it cannot be worked out at these frames."""
        self._nodes = nodes_by_id(scene)
        self._values: dict[ChannelRef, Array] = {}
        self._stages: dict[PoseStage, Array] = {}
        self._seen: dict[tuple[str | None, Format | None, tuple[int, int] | None], CameraView] = {}
        self._whole: tuple[Evaluation, int] | None = None
        """The evaluation that this is one frame of, and the frame's number there."""
        order, kept = evaluation_order(scene), self._taken_over(previous)
        needed = None if wanted is None else closure(scene, wanted)
        due = [stage for stage in order if stage not in kept and (needed is None or stage in needed)]
        self.computed = len(due)
        """How many stages had to be worked out, rather than taken over from another evaluation."""
        with np.errstate(all="ignore"):
            self._work_out(due)
        # What was seen on the way may have been of places that were set right since.
        self._seen.clear()

    def _work_out(self, due: list[PoseStage]) -> None:
        try:
            for stage in due:
                self._stages[stage] = self._stage(stage)
            if all_finite([self._stages[stage] for stage in due]):
                return
        except LoopError:
            raise
        except Exception:
            pass  # Whatever it is, it is found again, by itself, in what follows.
        for stage in due:
            self._stages[stage] = self._sound_stage(stage)

    def _sound_stage(self, stage: PoseStage) -> Array:
        """A stage that is finite at every frame. Where it cannot be worked out the node stays as it was before it."""
        if stage == OUTPUT_STAGE:
            # What it is seen through is sound: only a blend may lead beyond all measure.
            made = self._stage(stage)
            return np.where(np.isfinite(made), made, np.eye(4))
        node, number = self._nodes[stage[0]], stage[1]
        if number:
            before = self._stages[node.id, number - 1]
        else:
            before = np.eye(4)[None] if node.carrier is None else self.pose_of(node.carrier)
        try:
            made = self._stage(stage)
        except LoopError:
            raise
        except Exception as problem:
            self._fault(node, node.binds[number - 1].label if number else "its place", problem)
            return before
        sound = np.asarray(np.isfinite(made).all(axis=(1, 2)))
        if sound.all():
            return made
        self._fault(node, node.binds[number - 1].label if number else "its place", None)
        return np.where(sound[:, None, None], made, before)

    def _fault(self, node: AnyNode, what: str, problem: Exception | None) -> None:
        self.faults.setdefault(node.id, f"{node.name} stands still: {what} {_reason(problem)}")

    def _taken_over(self, previous: "Evaluation | None") -> set[PoseStage]:
        """Take over what an evaluation of another scene at the same frames has, where nothing of it differs."""
        if (
            previous is None
            or previous.scene.settings != self.scene.settings
            or not np.array_equal(previous.frames, self.frames)
        ):
            return set()
        changed = {node.id for node in self.scene.nodes if previous._nodes.get(node.id) is not node}
        changed |= previous._nodes.keys() - self._nodes.keys()
        changed |= _listening_to_what_changed(previous.scene, self.scene)
        changed = affected_nodes(self.scene, changed)
        self._values = {
            place: values
            for place, values in previous._values.items()
            if place[0] not in changed or self._is_as_before(previous, *place)
        }
        kept: set[PoseStage] = set()
        same_film = all(getattr(previous.scene, name) == getattr(self.scene, name) for name in FILM_FIELDS)
        for stage in evaluation_order(self.scene):
            same = stage[0] not in changed and stage in previous._stages and (stage != OUTPUT_STAGE or same_film)
            if same and all(each in kept for each in needs(self.scene, stage)):
                kept.add(stage)
                self._stages[stage] = previous._stages[stage]
        # Channels that depend on places are known no more where those are not.
        placed = {node_id for node_id in stages_of_channels(self.scene) if (node_id, 0) not in kept}
        if placed:
            self._values = {place: values for place, values in self._values.items() if place[0] not in placed}
        nodes = {node_id for node_id, _ in kept}
        self.faults = {node_id: fault for node_id, fault in previous.faults.items() if node_id in nodes}
        return kept

    def _is_as_before(self, previous: "Evaluation", node_id: str, name: str) -> bool:
        """Whether a channel of a node that changed is what it was, and depends on nothing but its keys."""
        before, now = previous._nodes.get(node_id), self._nodes.get(node_id)
        if before is None or now is None or before.movers or now.movers or before.take or now.take:
            return False
        if node_id in previous.faults:
            return False  # It may be this channel, and is to be told again.
        channel = now.channel(name)
        return channel is before.channel(name) and type(before) is type(now) and not (channel and channel.has_inputs)

    @staticmethod
    def evaluator(scene: Scene, frames: Array, stages: Iterable[PoseStage]) -> "Evaluation":
        """A scene at other frames (N,), as far as the given stages need it: what binds look at other moments with."""
        return Evaluation(scene, frames, stages)

    def at_stage(self, stage: PoseStage) -> Array:
        """World matrices (N, 4, 4) or (1, 4, 4) of a node after so many of its binds."""
        return self._stages[stage]

    def at(self, i: int) -> "Evaluation":
        """The evaluation of frame number ``i`` alone: the same bits as if it had been asked for by itself."""
        one = object.__new__(Evaluation)
        one.computed = 0
        one.scene, one.frames, one._nodes, one.faults = self.scene, self.frames[i : i + 1], self._nodes, self.faults
        one._values, one._stages = RowOf(self._values, i), RowOf(self._stages, i)
        one._seen = {}
        one._whole = (self, i)
        return one

    def __len__(self) -> int:
        return len(self.frames)

    def value(self, node_id: str, channel: str) -> Array:
        """The channel's values, (N,); SceneError where the node has no such channel."""
        return np.broadcast_to(self._value(self._nodes[node_id], channel), self.frames.shape)

    def has_channel(self, node_id: str, channel: str) -> bool:
        return node_id in self._nodes and channel in specs(self._nodes[node_id])

    def world(self, node_id: str) -> Array:
        """World matrices (N, 4, 4), acting on column vectors."""
        return self._at_all_frames(self.pose_of(node_id))

    def _at_all_frames(self, matrices: Array) -> Array:
        """Matrices (N, 4, 4) of N or of one, not to be written to."""
        if len(matrices) != len(self.frames):
            return np.broadcast_to(matrices, (len(self.frames), 4, 4))
        seen = matrices.view()
        seen.flags.writeable = False
        return seen

    def pose_of(self, node_id: str) -> Array:
        """World matrices (N, 4, 4), or (1, 4, 4) where the node is known to stand still."""
        if node_id == OUTPUT:
            return self._stages[OUTPUT_STAGE]
        return self._stages[final_stage(self._nodes[node_id])]

    def position_of(self, node_id: str) -> Array:
        """World positions (N, 3) or (1, 3) of the node's origin, known before everything that only turns it."""
        if node_id == OUTPUT:
            return self._stages[OUTPUT_STAGE][:, :3, 3]
        return self._stages[position_stage(self._nodes[node_id])][:, :3, 3]

    def node(self, node_id: str) -> AnyNode:
        return self._nodes[node_id]

    def content(self, node_id: str) -> Array:
        """World matrices (N, 4, 4) of what a node shows, whose anchor lies at the node's origin."""
        return self._at_all_frames(self.content_of(node_id))

    def content_of(self, node_id: str) -> Array:
        """The same, or (1, 4, 4) where the node is known to stand still."""
        node, world = self._nodes[node_id], self.pose_of(node_id)
        if any(node.channel(name) is not None or is_moved(node, name) for name in ANCHOR):
            anchor = self.vector(node, ANCHOR)
            shift = np.zeros((len(anchor), 4, 4))
            shift[:, range(4), range(4)] = 1.0
            shift[:, :3, 3] = -anchor
            world = product(world, shift)
        return world

    def is_still(self, node_id: str) -> bool:
        """Whether the node's world matrix is known not to change over time, whichever frames are evaluated."""
        if len(self.frames) > 1:
            return len(self.pose_of(node_id)) == 1
        if self._whole is not None:
            return self._whole[0].is_still(node_id)
        return node_id in self._still_nodes

    @cached_property
    def _still_nodes(self) -> frozenset[str]:
        return _still_nodes(self.scene)

    def position(self, node_id: str) -> Array:
        """World positions (N, 3) of the node's origin."""
        return self.world(node_id)[:, :3, 3]

    def aim(self, node_id: str) -> Array | None:
        """The world point (N, 3) that a node looks at, or None where it is not aimed."""
        node = self._nodes[node_id]
        bind = node.aim
        if bind is None or not bind.on:
            return None
        return np.broadcast_to(target_of(self, node, bind), (len(self.frames), 3))

    def camera(
        self, camera: str | None = None, output: Format | None = None, size: tuple[int, int] | None = None
    ) -> CameraView:
        """What is seen through a camera (None: what the output shows) in a format, or in the scene's own frame.

        ``size`` is the picture's size in pixels where it is another. A projection is seen through as if it were the
        camera that took its photograph. UnknownNodeError where there is no such camera.
        """
        what = camera, output, size
        known = self._seen.get(what)
        if known is None and self._whole is not None:
            # Over a stretch of frames it costs hardly more than at one of them, and others are asked for next.
            whole, i = self._whole
            known = self._seen[what] = whole.camera(camera, output, size).at(i)
        if known is None:
            known = self._camera(camera, output, size)
            if output is not None:
                known = through_window(known, self, self.scene.settings, output)
            self._seen[what] = known
        return known

    def _camera(self, camera: str | None, output: Format | None, size: tuple[int, int] | None) -> CameraView:
        if camera is None and self.scene.shots:
            return output_view(self.evaluator, self, output, size)
        node = lens_node(self.scene, camera)
        return (
            own_view(self, node, output, size)
            if isinstance(node, Projection)
            else camera_view(self, node, output, size)
        )

    def _value(self, node: AnyNode, name: str) -> Array:
        """Values (N,), or (1,) where they never change."""
        place = (node.id, name)
        known = self._values.get(place)
        if known is None:
            if is_moved(node, name):
                self._values |= self._moved_values(node, group_of(node, name))
                return self._values[place]
            known = self._values[place] = self.unmoved(node, name)
        return known

    def unmoved(self, node: AnyNode, name: str) -> Array:
        """What a channel's keys, links and formula come to, (N,) or (1,), whatever movers and takes make of it."""
        channel = node.channel(name)
        if channel is None:
            return np.array([spec(node, name).default])
        if not channel.is_animated:
            return np.array([channel.value])
        return self._sound_value(node, channel)

    def _moved_values(self, node: AnyNode, group: tuple[str, ...]) -> dict[ChannelRef, Array]:
        """Channels that are worked out together, finite. Where they cannot be, they are what their keys come to."""
        self._inputs_first(node, group[0])
        try:
            made = moved_values(self, node, group, lambda name: self.unmoved(node, name))
        except LoopError:
            raise
        except Exception as problem:
            self._fault(node, "what its movers make", problem)
            made = {}
        found = {}
        for name in group:
            value = made[name] if name in made else self.unmoved(node, name)
            sound = np.isfinite(value)
            if not sound.all():
                self._fault(node, spec(node, name).label, None)
                value = np.where(sound, value, self.unmoved(node, name))
            found[node.id, name] = value
        return found

    def _sound_value(self, node: AnyNode, channel: Channel) -> Array:
        """A channel's finite values. Where it cannot be worked out it has the value that it has without keys."""
        try:
            if channel.has_inputs:
                self._inputs_first(node, channel.name)
            made = channel_values(self, node, channel)
        except LoopError:
            raise
        except Exception as problem:
            self._fault(node, spec(node, channel.name).label, problem)
            return np.array([channel.value])
        sound = np.isfinite(made)
        if sound.all():
            return made
        self._fault(node, spec(node, channel.name).label, None)
        return np.where(sound, made, channel.value)

    def _inputs_first(self, node: AnyNode, name: str) -> None:
        """Work out what goes into a channel, from the far end of the chain on: it may be longer than Python's
        stack."""
        known = channel_inputs(self.scene)
        if node.id not in self._nodes:
            return  # A node looked at by itself, outside any scene.
        stack: list[ChannelRef] = [(node.id, name)]
        under_way: set[ChannelRef] = set()
        while stack:
            place = stack[-1]
            under_way.add(place)
            waiting = [each for each in known.get(place, ()) if each not in self._values and each in known]
            if not waiting:
                stack.pop()
                if stack:
                    self._value(self._nodes[place[0]], place[1])
            elif any(each in under_way for each in waiting):
                raise LoopError([f"{node.name} · {name}"] * 2, "Take one of its links or formulas away.")
            else:
                stack += waiting

    def number(self, node: AnyNode, name: str) -> Array:
        """A channel's values (N,), or (1,) where they never change."""
        return self._value(node, name)

    def vector(self, node: AnyNode, names: tuple[str, ...]) -> Array:
        """Channels as (N, K), or (1, K) where none of them ever changes."""
        columns = [self._value(node, name) for name in names]
        out = np.empty((max(len(column) for column in columns), len(names)))
        for k, column in enumerate(columns):
            out[:, k] = column
        return out

    def rotation(self, node: AnyNode) -> Array:
        """The node's own rotation as quaternions (N, 4) or (1, 4)."""
        return euler_to_quaternion(np.radians(self.vector(node, ROTATION)), node.rotation_order)

    def _stage(self, stage: PoseStage) -> Array:
        if stage == OUTPUT_STAGE:
            return self.camera().pose
        node, number = self._nodes[stage[0]], stage[1]
        if number == 0:
            return self._place(node)
        world = self._stages[stage[0], number - 1]
        bind: Bind = node.binds[number - 1]
        return bound(self, node, bind, number, world) if bind.on else world

    def _place(self, node: AnyNode) -> Array:
        still = still_parts(node).local
        local = self._local(node) if still is None else still
        return local if node.carrier is None else product(self.pose_of(node.carrier), local)

    def _local(self, node: AnyNode) -> Array:
        still = still_parts(node)
        position = self.vector(node, POSITION) if still.position is None else still.position
        quaternion = self.rotation(node) if still.quaternion is None else still.quaternion
        scale = self.vector(node, SCALE) if still.scale is None else still.scale
        size = max(len(position), len(quaternion), len(scale))
        return compose(
            np.broadcast_to(position, (size, 3)),
            np.broadcast_to(quaternion, (size, 4)),
            np.broadcast_to(scale, (size, 3)),
        )


def _listening_to_what_changed(old: Scene, new: Scene) -> set[str]:
    """The nodes whose movers keep time with something of the scene that is another now, or whose take is."""
    fields = {name for name in ("beats", "markers", "events") if getattr(old, name) != getattr(new, name)}
    found = {node.id for node in new.nodes if fields & listening_fields([node])} if fields else set()
    if old.takes is not new.takes:
        same = {take.id for take in set(old.takes) & set(new.takes)}
        found |= {node.id for node in new.nodes if node.take is not None and node.take.take not in same}
    return found


def all_finite(arrays: list[Array]) -> bool:
    """Whether there is no infinity and no NaN in any of the arrays (…)."""
    return not arrays or bool(np.isfinite(np.concatenate([each.ravel() for each in arrays])).all())


def _reason(problem: Exception | None) -> str:
    """Why something cannot be worked out, for people."""
    if problem is None:
        return "is beyond all measure here."
    if isinstance(problem, SceneError):
        return f"cannot be worked out: {problem}"
    if isinstance(problem, MemoryError):
        return "needs more memory than there is."
    return f"cannot be worked out ({type(problem).__name__}: {problem})."


def _still_nodes(scene: Scene) -> frozenset[str]:
    def look(scene: Scene) -> frozenset[str]:
        # Of one frame alone it cannot be told: everything has one row.
        two = Evaluation(scene, np.array([float(scene.settings.first), float(scene.settings.last) + 1.0]))
        return frozenset(node.id for node in scene.nodes if len(two.pose_of(node.id)) == 1)

    return still_nodes(scene, look)


def evaluate(
    scene: Scene,
    frames: Iterable[float] | float,
    nodes: Iterable[str] | None = None,
    previous: Evaluation | None = None,
) -> Evaluation:
    """Evaluate the scene at frames (N,), for all nodes or for the given ids and what they depend on.

    What did not change since ``previous``, an evaluation of an earlier scene at the same frames, is taken over from it.

    Raises LoopError for a scene whose nodes depend on themselves, SceneError for a relation to a missing node, and
    ValueError for a frame that is not finite, or too far away. What cannot be worked out is in ``faults``.
    """
    array = checked_frames(frames)
    return Evaluation(
        scene, array, None if nodes is None else [final_stage(scene.node(node_id)) for node_id in nodes], previous
    )


def checked_frames(frames: Iterable[float] | float) -> Array:
    """Frames as an array (N,). ValueError where one is not finite, or too far away."""
    array = np.atleast_1d(np.ascontiguousarray(frames, dtype=np.float64))
    if array.ndim != 1:
        raise ValueError("frames must be a number or one-dimensional")
    if not np.isfinite(array).all():
        raise ValueError("frames must be finite numbers")
    if array.size and float(np.abs(array).max()) > FARTHEST_FRAME:
        raise ValueError(f"frames must lie between {-FARTHEST_FRAME:g} and {FARTHEST_FRAME:g}")
    return array


__all__ = ["Evaluation", "checked_frames", "evaluate"]
