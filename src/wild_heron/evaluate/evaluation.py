"""Scene × frames → arrays.

Values are made in the handed-down order: key curve, local matrix, carrier chain, aim. What does not change over time
is computed once and broadcast, with the same arithmetic, so a frame's bits do not depend on its neighbours.
"""

from collections.abc import Iterable
from functools import lru_cache
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..motion import evaluate_channel
from ..scene import AimNode, AnyNode, Camera, FaceCamera, Format, Projection, Scene, spec
from ..scene.channels import AIM, ANCHOR, FOCAL, FOCUS, POSITION, ROTATION, SCALE
from ..scene.dependencies import Part, closure, evaluation_order
from ..space.aim import heading, level_frame, steady_headings, unit_directions
from ..space.lens import angle_of_view, focal_pixels, world_to_pixel
from ..space.rotation import euler_to_quaternion
from ..space.transform import apply, compose, length, product, rigid

Array = NDArray[np.float64]


class CameraView(msgspec.Struct, frozen=True):
    """A camera over N frames: where its lens is and how it draws.

    ``pose`` (N, 4, 4) is its rigid world matrix, ``focal_px`` (N,) the focal length in pixels of a
    ``width`` × ``height`` frame, ``focus`` (N,) the focus distance in units.
    """

    pose: Array
    focal_px: Array
    focal_mm: Array
    focus: Array
    width: int
    height: int

    def angles(self) -> tuple[Array, Array]:
        """Horizontal and vertical angle of view in degrees, (N,) each."""
        return (
            np.degrees(angle_of_view(self.width, self.focal_px)),
            np.degrees(angle_of_view(self.height, self.focal_px)),
        )

    def pixels(self, points: Array) -> tuple[Array, Array]:
        """Pixel (N, 2) from the top-left corner and depth (N,) of world points (N, 3)."""
        return world_to_pixel(points, self.pose, self.focal_px, self.width, self.height)


class Evaluation:
    """The scene at an array of frames. Made by :func:`evaluate`."""

    def __init__(self, scene: Scene, frames: Array, wanted: Iterable[Part] | None = None) -> None:
        self.scene = scene
        self.frames = frames
        self._nodes = {node.id: node for node in scene.nodes}
        self._values: dict[tuple[str, str], Array] = {}
        self._worlds: dict[str, Array] = {}
        self._places: dict[str, Array] = {}
        needed = None if wanted is None else closure(scene, wanted)
        for node_id, pose in evaluation_order(scene):
            if needed is None or (node_id, pose) in needed:
                if pose:
                    self._worlds[node_id] = self._pose(self._nodes[node_id])
                else:
                    self._places[node_id] = self._place(self._nodes[node_id])

    def __len__(self) -> int:
        return len(self.frames)

    def value(self, node_id: str, channel: str) -> Array:
        """The channel's values, (N,); SceneError where the node has no such channel."""
        return np.broadcast_to(self._value(self._nodes[node_id], channel), self.frames.shape)

    def world(self, node_id: str) -> Array:
        """World matrices (N, 4, 4), acting on column vectors."""
        return np.broadcast_to(self._worlds[node_id], (len(self.frames), 4, 4))

    def content(self, node_id: str) -> Array:
        """World matrices (N, 4, 4) of what a node shows, whose anchor lies at the node's origin."""
        node = self._nodes[node_id]
        world = self._worlds[node_id]
        if any(node.channel(name) is not None for name in ANCHOR):
            anchor = self._vector(node, ANCHOR)
            shift = np.zeros((len(anchor), 4, 4))
            shift[:, range(4), range(4)] = 1.0
            shift[:, :3, 3] = -anchor
            world = product(world, shift)
        return np.broadcast_to(world, (len(self.frames), 4, 4))

    def is_still(self, node_id: str) -> bool:
        """Whether the node's world matrix is known not to change over time."""
        return len(self._worlds[node_id]) == 1

    def position(self, node_id: str) -> Array:
        """World positions (N, 3) of the node's origin."""
        return self.world(node_id)[:, :3, 3]

    def aim(self, camera_id: str) -> Array | None:
        """The world point (N, 3) that a camera looks at, or None where it is not aimed."""
        node = self._nodes[camera_id]
        if not isinstance(node, Camera) or node.aim is None:
            return None
        return np.broadcast_to(self._target(node), (len(self.frames), 3))

    def camera(self, camera_id: str, output: Format | None = None, size: tuple[int, int] | None = None) -> CameraView:
        """The camera's view in a format, or in the scene's own frame; ``size`` is the output's size in pixels where it
        is another. A projection is seen through as if it were the camera that took its photograph. KeyError where
        there is no such camera."""
        node = self._nodes[camera_id]
        if isinstance(node, Projection):
            return self._projector(node, size or (node.width, node.height))
        if not isinstance(node, Camera):
            raise KeyError(camera_id)
        settings = self.scene.settings
        frame = output or settings
        width, height = size or (frame.width, frame.height)
        focal_mm = self.value(camera_id, FOCAL)
        sensor = (node.sensor_width, node.sensor_height)
        return CameraView(
            np.broadcast_to(rigid(self._worlds[camera_id]), (len(self.frames), 4, 4)),
            focal_pixels(focal_mm, sensor, node.fit, settings, (width, height), output),
            focal_mm,
            self.value(camera_id, FOCUS),
            width,
            height,
        )

    def _projector(self, node: Projection, size: tuple[int, int]) -> CameraView:
        count = len(self.frames)
        focal_mm = self.value(node.id, FOCAL)
        return CameraView(
            np.broadcast_to(rigid(self._worlds[node.id]), (count, 4, 4)),
            focal_mm * (size[0] / node.sensor_width),
            focal_mm,
            np.full(count, np.inf),
            *size,
        )

    def _value(self, node: AnyNode, name: str) -> Array:
        """Values (N,), or (1,) where they never change."""
        known = self._values.get((node.id, name))
        if known is None:
            channel = node.channel(name)
            known = np.array([spec(node, name).default]) if channel is None else evaluate_channel(channel, self.frames)
            self._values[node.id, name] = known
        return known

    def _vector(self, node: AnyNode, names: tuple[str, ...]) -> Array:
        """Three channels as (N, 3), or (1, 3) where none of them ever changes."""
        parts = [self._value(node, name) for name in names]
        out = np.empty((max(len(part) for part in parts), 3))
        for k, part in enumerate(parts):
            out[:, k] = part
        return out

    def _carried(self, node: AnyNode, local: Array) -> Array:
        return local if node.carrier is None else product(self._worlds[node.carrier], local)

    def _place(self, node: AnyNode) -> Array:
        still = _still_parts(node).local
        return self._carried(node, self._local(node) if still is None else still)

    def _pose(self, node: AnyNode) -> Array:
        world = self._places[node.id]
        if isinstance(node, Camera) and node.aim is not None:
            world = self._aimed(node, world)
        for bind in node.binds:
            world = self._facing(node, bind, world)
        return world

    def _local(self, node: AnyNode) -> Array:
        still = _still_parts(node)
        position = self._vector(node, POSITION) if still.position is None else still.position
        quaternion = self._quaternion(node) if still.quaternion is None else still.quaternion
        scale = self._vector(node, SCALE) if still.scale is None else still.scale
        size = max(len(position), len(quaternion), len(scale))
        return compose(
            np.broadcast_to(position, (size, 3)),
            np.broadcast_to(quaternion, (size, 4)),
            np.broadcast_to(scale, (size, 3)),
        )

    def _quaternion(self, node: AnyNode) -> Array:
        return euler_to_quaternion(np.radians(self._vector(node, ROTATION)), node.rotation_order)

    def _target(self, node: Camera) -> Array:
        if isinstance(node.aim, AimNode):
            return self._places[node.aim.node][:, :3, 3]
        point = self._vector(node, AIM)
        return point if node.carrier is None else apply(self._worlds[node.carrier], point)

    def _aimed(self, node: Camera, world: Array) -> Array:
        origin, target = np.broadcast_arrays(world[:, :3, 3], self._target(node))
        direction = unit_directions(target - origin)
        settings = self.scene.settings
        headings = steady_headings(
            direction, self.frames, lambda grid: _directions(self.scene, node, grid), settings.first, settings.last
        )
        roll = np.radians(self._value(node, ROTATION[2]))
        size = max(len(direction), len(roll))
        return level_frame(
            np.broadcast_to(direction, (size, 3)),
            np.broadcast_to(headings, (size,)),
            np.broadcast_to(roll, (size,)),
            np.broadcast_to(origin, (size, 3)),
        )

    def _facing(self, node: AnyNode, bind: FaceCamera, world: Array) -> Array:
        """The node turned so that its +Z points at the camera, its scale kept and its z angle as a roll."""
        origin, eye = np.broadcast_arrays(world[:, :3, 3], self._places[bind.camera][:, :3, 3])
        # A frame looks down its −Z, so one that looks away from the camera shows it its front.
        away = origin - eye
        if bind.upright:
            away = away * np.array([1.0, 0.0, 1.0])
        direction = unit_directions(away)
        roll = np.radians(self._value(node, ROTATION[2]))
        size = max(len(direction), len(roll), len(world))
        turned = level_frame(
            np.broadcast_to(direction, (size, 3)),
            np.broadcast_to(heading(direction), (size,)),
            np.broadcast_to(roll, (size,)),
            np.broadcast_to(origin, (size, 3)),
        )
        scale = np.stack([length(world[:, :3, k]) for k in range(3)], axis=1)
        turned[:, :3, :3] *= np.broadcast_to(scale, (size, 3))[:, None, :]
        return turned


class _StillParts(NamedTuple):
    """What of a node's place never changes: (1, 3), (1, 4), (1, 3) and, where nothing does, the matrix (1, 4, 4)."""

    position: Array | None
    quaternion: Array | None
    scale: Array | None
    local: Array | None = None


@lru_cache(maxsize=4096)
def _still_parts(node: AnyNode) -> _StillParts:
    # Most of a scene stands still, and a node never changes: what was worked out for it once holds for every frame
    # and every later scene.
    keyed = {channel.name for channel in node.channels if channel.keys}
    alone = Evaluation(Scene(), np.zeros(1))
    parts = _StillParts(
        None if keyed.intersection(POSITION) else alone._vector(node, POSITION),
        None if keyed.intersection(ROTATION) else alone._quaternion(node),
        None if keyed.intersection(SCALE) else alone._vector(node, SCALE),
    )
    if parts.position is None or parts.quaternion is None or parts.scale is None:
        return parts
    return parts._replace(local=compose(parts.position, parts.quaternion, parts.scale))


def _directions(scene: Scene, camera: Camera, frames: Array) -> Array:
    """Directions (M, 3) from a camera to its aim at other frames."""
    # Only places: what it aims at may itself turn to the camera.
    wanted = [(camera.carrier, True)] if camera.carrier is not None else []
    if isinstance(camera.aim, AimNode):
        wanted.append((camera.aim.node, False))
    elsewhere = Evaluation(scene, frames, wanted)
    position = elsewhere._vector(camera, POSITION)
    origin = position if camera.carrier is None else apply(elsewhere._worlds[camera.carrier], position)
    offset = np.broadcast_to(elsewhere._target(camera) - origin, (len(frames), 3))
    return unit_directions(offset)


def evaluate(scene: Scene, frames: Iterable[float] | float, nodes: Iterable[str] | None = None) -> Evaluation:
    """Evaluate the scene at frames (N,), for all nodes or for the given ids and what they depend on.

    Raises LoopError for a scene whose nodes depend on themselves, SceneError for a relation to a missing node, and
    ValueError for a frame that is not finite.
    """
    array = np.atleast_1d(np.ascontiguousarray(frames, dtype=np.float64))
    if array.ndim != 1:
        raise ValueError("frames must be a number or one-dimensional")
    if not np.isfinite(array).all():
        raise ValueError("frames must be finite numbers")
    return Evaluation(scene, array, None if nodes is None else [(node_id, True) for node_id in nodes])


def aim_distance(evaluation: Evaluation, camera_id: str) -> Array | None:
    """Distance (N,) from a camera to what it is aimed at, or None where it is not aimed."""
    target = evaluation.aim(camera_id)
    return None if target is None else length(target - evaluation.position(camera_id))


def turn_speed(scene: Scene, camera_id: str, frame: float) -> float:
    """How fast the lens turns at a frame, in degrees per second (the angle between half a frame before and after)."""
    around = evaluate(scene, [frame - 0.5, frame + 0.5], [camera_id]).camera(camera_id)
    forward = -around.pose[:, :3, 2]
    sine = float(np.linalg.norm(np.cross(forward[0], forward[1])))
    return float(np.degrees(np.arctan2(sine, float(forward[0] @ forward[1])))) * scene.settings.rate.fps


__all__ = ["CameraView", "Evaluation", "aim_distance", "evaluate", "turn_speed"]
