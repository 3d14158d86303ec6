"""The Rig menu's side of the scene: binds, paths, grounds, dials, and motion from outside."""

from collections.abc import Callable
from pathlib import Path as FilePath

import numpy as np
from PyQt6.QtCore import QObject

from ...evaluate import baking
from ...evaluate.posing import aim_at_node, middle, values_for_pose
from ...files.artwork import first_file, source_for
from ...files.errors import FileError
from ...scene import (
    AnyNode,
    Bind,
    Box,
    Channel,
    Dial,
    DropAndRoll,
    Follow,
    Ground,
    HeightMap,
    Limit,
    Match,
    Model,
    ModelFile,
    Opposite,
    Path,
    Plane,
    RideGround,
    RidePath,
    Scene,
    Sphere,
    Waves,
    bind_label,
    edits,
)
from ...scene.grounds import Wave
from ...scene.paths import BezierPath, CirclePath, Curve, EllipsePath, LinePath, PathPoint, ThroughPath
from ...space.ground import height_map
from ..state.document import Document

_CURVES: dict[str, Curve] = {
    "circle": CirclePath(), "ellipse": EllipsePath(), "line": LinePath(),
    "through": ThroughPath(((-6.0, 0.0, 3.0), (-2.0, 1.0, -1.0), (2.0, 0.0, 1.0), (6.0, 1.5, -3.0))),
    "bezier": BezierPath((
        PathPoint((-5.0, 0.0, 0.0), after=(0.0, 0.0, -4.0)),
        PathPoint((0.0, 1.5, 0.0), (-2.0, 0.0, 2.0), (2.0, 0.0, -2.0)),
        PathPoint((5.0, 0.0, 0.0), before=(0.0, 0.0, 4.0)),
    )),
}  # fmt: skip


class RigCommands(QObject):
    """Binds, new nodes and motion; the window connects each to its action."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document

    def _pair(
        self, what: str, fits: Callable[[AnyNode], bool] = lambda node: True
    ) -> tuple[tuple[str, ...], str] | None:
        """What is selected, and the one selected last that it is bound to."""
        document = self._document
        if len(document.selection) < 2 or not fits(document.scene.node(document.selection[-1])):
            document.say(f"Select what to bind, then {what} last (Ctrl+click), and try again.", True)
            return None
        *bound, other = document.selection
        return tuple(bound), other

    def _bind(
        self, node_ids: tuple[str, ...], make: Callable[[AnyNode], Bind], then: Callable[[Scene, str, str], Scene]
    ) -> None:
        document = self._document
        said = ""

        def change(scene: Scene) -> Scene:
            nonlocal said
            for node_id in node_ids:
                bind = make(scene.node(node_id))
                scene, bind_id = edits.add_bind(scene, node_id, bind)
                scene = then(scene, node_id, bind_id)
                said = f"{scene.node(node_id).name}: {bind_label(scene, bind)}."
            return scene

        name = document.scene.node(node_ids[0]).name
        if document.edit(f"Bind {name}", change):
            document.select(node_ids)
            document.say(f"{said} Its strength is a channel; 0 lets go.")

    def match(self, parts: str) -> None:
        """Keep the selected where the last one is, or turned as it is, with the offset there is now."""
        pair = self._pair("what to match")
        if pair is None:
            return
        bound, other = pair
        here = self._document.here

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            if parts == "rotation":
                return scene
            step = here.position(node_id)[0] - here.position(other)[0]
            for axis, value in zip("xyz", np.round(step, 6).tolist(), strict=True):
                scene = edits.set_value(scene, node_id, f"{bind_id}.move.{axis}", value)
            return scene

        bind = Match(other, "xyz") if parts == "position" else Match(other, "", "xyz")
        self._bind(bound, lambda node: bind, then)

    def aim(self) -> None:
        """Let nodes of any kind look at the one selected last."""
        pair = self._pair("what to look at")
        if pair is None:
            return
        bound, other = pair
        name = self._document.scene.node(other).name

        def change(scene: Scene) -> Scene:
            for node_id in bound:
                scene = aim_at_node(scene, node_id, other)
            return scene

        self._document.edit(f"Aim at {name}", change)

    def follow(self) -> None:
        pair = self._pair("the node to follow")
        if pair is None:
            return
        bound, other = pair
        here = self._document.here

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            away = float(np.linalg.norm(here.position(node_id)[0] - here.position(other)[0]))
            away = round(max(away, 0.5), 3)
            scene = edits.set_value(scene, node_id, f"{bind_id}.nearest", round(0.8 * away, 3))
            return edits.set_value(scene, node_id, f"{bind_id}.farthest", round(1.25 * away, 3))

        self._bind(bound, lambda node: Follow(other), then)

    def ride_path(self) -> None:
        pair = self._pair("a path", lambda node: isinstance(node, Path))
        if pair is None:
            return
        settings = self._document.settings

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            for frame, value in ((settings.first, 0.0), (settings.last, 1.0)):
                scene = edits.set_key(scene, node_id, f"{bind_id}.progress", float(frame), value)
            return scene

        self._bind(pair[0], lambda node: RidePath(pair[1]), then)

    def ride_ground(self) -> None:
        pair = self._pair("a ground, or a simple solid,", _is_ground)
        if pair is not None:
            self._bind(pair[0], lambda node: RideGround(pair[1]), lambda scene, node_id, bind_id: scene)

    def opposite(self) -> None:
        document = self._document
        if len(document.selection) < 3:
            document.say("Select what to place, then the node to be opposite of, then the centre last.", True)
            return
        *bound, other, centre = document.selection
        here = document.here

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            step = here.position(node_id)[0] - here.position(centre)[0]
            distance = max(float(np.hypot(step[0], step[2])), 0.5)
            scene = edits.set_value(scene, node_id, f"{bind_id}.distance", round(distance, 3))
            return edits.set_value(scene, node_id, f"{bind_id}.height", round(float(step[1]), 3))

        self._bind(tuple(bound), lambda node: Opposite(other, centre), then)

    def limit(self, what: str) -> None:
        document = self._document
        if what == "distance":
            pair = self._pair("the node to keep a distance from")
            if pair is None:
                return
            bound, other = pair
        else:
            bound, other = document.selection, None
            if not bound:
                document.say("Select what to limit first.", True)
                return
        self._bind(bound, lambda node: Limit(what, other), lambda scene, node_id, bind_id: scene)

    def drop(self) -> None:
        """Let the selected fall and roll: on the selected ground, against the selected boxes and planes."""
        document = self._document
        chosen = [document.scene.node(node_id) for node_id in document.selection]
        ground = next((node for node in chosen if isinstance(node, Ground)), None)
        walls = [node for node in chosen[1:] if isinstance(node, Model) and isinstance(node.shape, Box | Plane)]
        balls = [node for node in chosen if node is not ground and node not in walls]
        if not balls:
            document.say("Select what falls first, then the ground it falls on and walls, if any.", True)
            return
        if ground is None:
            ground = next((node for node in document.scene.nodes if isinstance(node, Ground)), None)
        if ground is None and not walls:
            document.say("There is nothing to fall on. Rig ▸ New ground makes a ground.", True)
            return
        bind = DropAndRoll(ground.id if ground else None, tuple(wall.id for wall in walls))

        def then(scene: Scene, node_id: str, bind_id: str) -> Scene:
            node = scene.node(node_id)
            radius = node.shape.radius if isinstance(node, Model) and isinstance(node.shape, Sphere) else 0.5
            scene = edits.set_value(scene, node_id, f"{bind_id}.start", document.frame)
            return edits.set_value(scene, node_id, f"{bind_id}.radius", radius)

        self._bind(tuple(node.id for node in balls), lambda node: bind, then)

    # New nodes

    def _add(self, word: str, make: Callable[[str, str], AnyNode], at: np.ndarray) -> None:
        document = self._document
        name = edits.fresh_name(document.scene, word)
        node = make(edits.fresh_id(document.scene, name), name)

        def change(scene: Scene) -> Scene:
            scene = edits.add_node(scene, node)
            world = np.eye(4)
            world[:3, 3] = np.round(at, 3)
            for channel, value in values_for_pose(scene, node.id, world, document.frame).items():
                scene = edits.set_channel(scene, node.id, Channel(channel, value))
            return scene

        if document.edit(f"Add {name}", change):
            document.select([node.id])

    def _centre(self) -> np.ndarray:
        """The middle of the selection, else what the camera looks at."""
        document = self._document
        if document.selection:
            return middle(document.shown, document.selection, document.frame)
        camera = document.camera
        target = document.here.aim(camera.id) if camera is not None else None
        return np.zeros(3) if target is None else target[0]

    def add_path(self, kind: str) -> None:
        self._add(
            "Path", lambda id_, name: Path(id=id_, name=name, colour="#7fb2c9", curve=_CURVES[kind]), self._centre()
        )

    def add_ground(self) -> None:
        waves = Waves((Wave(25.0, 11.0, 0.7), Wave(100.0, 6.0, 0.3)))
        at = self._centre() * np.array([1.0, 0.0, 1.0])
        self._add("Ground", lambda id_, name: Ground(id=id_, name=name, colour="#6f9a98", surface=waves), at)

    def ground_from_picture(self, path: FilePath) -> None:
        """A ground whose heights are a picture's greys."""
        document = self._document
        try:
            document.allow_files([path])
            surface = height_map(document.reader.heights(path), 0.0, 2.0, source_for(document.base, path))
        except FileError as problem:
            document.say(str(problem), True)
            return
        depth = 40.0 * surface.rows / surface.columns
        self._add(
            path.stem,
            lambda id_, name: Ground(id=id_, name=name, colour="#6f9a98", surface=surface, depth=depth),
            np.zeros(3),
        )

    def ground_from_model(self) -> None:
        """A ground that is the selected model seen from above, where the model is."""
        document = self._document
        node = document.active
        if not isinstance(node, Model):
            document.say("Select a model first: its surface, seen from above, becomes a ground.", True)
            return
        try:
            path = first_file(node, document.base)
            seen = document.reader.surface(node, path)
        except FileError as problem:
            document.say(str(problem), True)
            return
        source = node.shape.source if isinstance(node.shape, ModelFile) else ""
        surface = height_map(seen.share, seen.low, seen.high, source)
        self._add_over(node, surface, seen.width, seen.depth, np.array(seen.middle))

    def _add_over(self, node: Model, surface: HeightMap, width: float, depth: float, centre: np.ndarray) -> None:
        document = self._document
        name = edits.fresh_name(document.scene, f"{node.name} ground")
        ground = Ground(
            id=edits.fresh_id(document.scene, name), name=name, colour="#6f9a98", surface=surface, width=width,
            depth=depth, hidden=True,
        )  # fmt: skip
        shift = np.eye(4)
        shift[[0, 2], 3] = centre
        world = document.here.content(node.id)[0] @ shift

        def change(scene: Scene) -> Scene:
            scene = edits.add_node(scene, ground)
            for channel, value in values_for_pose(scene, ground.id, world, document.frame).items():
                scene = edits.set_channel(scene, ground.id, Channel(channel, value))
            return scene

        if document.edit(f"Add {name}", change):
            document.select([ground.id])
            document.say(f"{name} stands where {node.name} is, hidden, to be ridden.")

    def add_dial(self) -> None:
        """A dial on the selected node."""
        document = self._document
        node = document.active
        if node is None:
            document.say("Select the node that the dial belongs to first, such as a null.", True)
            return
        count = sum(len(each.dials) for each in document.scene.nodes) + 1

        def change(scene: Scene) -> Scene:
            return edits.add_dial(scene, node.id, Dial(f"dial-{count}", f"Dial {count}"))[0]

        if document.edit(f"Add a dial to {node.name}", change):
            document.say("Its plug, or its name's right-click menu, links it. Drag the plug onto a channel.")

    # Motion

    def lift_to_path(self) -> None:
        node = self._document.active
        if node is None:
            self._document.say("Select the camera or node whose position keys become a path.", True)
            return
        path = ""

        def change(scene: Scene) -> Scene:
            nonlocal path
            scene, path = baking.lift_to_path(scene, node.id)
            return scene

        if self._document.edit(f"Lift {node.name} to a path", change):
            count = baking.key_count(self._document.scene, [node.id])
            self._document.say(
                f"{self._document.scene.node(path).name} is its shape; progress, with {count} keys, its timing."
            )

    def lower_to_keys(self) -> None:
        node = self._document.active
        if node is None:
            self._document.say("Select what rides a path.", True)
            return
        self._document.edit(f"Give {node.name} keys again", lambda scene: baking.lower_to_keys(scene, node.id))

    def motion_from_table(self, path: FilePath) -> None:
        """The selected node moves as a table of frames says."""
        self._take(path, lambda: self._document.reader.table(path))

    def motion_from_model(self, path: FilePath, animation: str) -> None:
        """The selected node moves as an animation of a glTF file does."""
        document = self._document
        fps, first = document.settings.rate.fps, float(document.settings.first)
        self._take(path, lambda: document.reader.animation(path, animation, fps, first))

    def _take(self, path: FilePath, read: Callable) -> None:  # type: ignore[type-arg]
        document = self._document
        node = document.active
        if node is None:
            document.say("Select the node that takes the motion first.", True)
            return
        try:
            document.allow_files([path])
            motion = read()
        except FileError as problem:
            document.say(str(problem), True)
            return
        angles = motion.angles
        if motion.rotations is not None:
            angles = baking.unrolled_angles(motion.rotations, node.rotation_order, np.zeros(3))

        def change(scene: Scene) -> Scene:
            allowed = baking.Tolerance(1e-4, 1e-3)
            return baking.take_motion(scene, node.id, motion.frames, motion.positions, angles, allowed)

        if document.edit(f"Motion of {path.name}", change):
            count = baking.key_count(document.scene, [node.id])
            document.say(f"{node.name} moves as {path.name} says: {len(motion.frames)} samples, {count} keys.")


def _is_ground(node: AnyNode) -> bool:
    return isinstance(node, Ground) or (isinstance(node, Model) and not isinstance(node.shape, ModelFile))
