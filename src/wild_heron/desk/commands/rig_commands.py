"""The Rig menu's side of the scene: grounds from files and models, dials, and motion from outside."""

from collections.abc import Callable
from pathlib import Path as FilePath

import numpy as np
from PyQt6.QtCore import QObject

from ... import edits
from ...edits import baking
from ...files.artwork_files import first_file, source_for
from ...files.errors import FileError
from ...scene import Dial, Ground, HeightMap, Model, ModelFile, Scene
from ...space.ground import height_map
from ..state.document import Document
from .new_nodes import GROUND_TONE, add_at, add_with_values


class RigCommands(QObject):
    """Grounds, dials and motion; the window connects each to its action."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document

    # New nodes

    def ground_from_picture(self, path: FilePath) -> None:
        """A ground whose heights are a picture's greys."""
        document = self._document
        try:
            document.file.allow([path])
            surface = height_map(document.file.reader.heights(path), 0.0, 2.0, source_for(document.file.base, path))
        except FileError as problem:
            document.messages.say(str(problem), True)
            return
        depth = 40.0 * surface.rows / surface.columns
        name = edits.fresh_name(document.scene, path.stem)
        ground = Ground(
            id=edits.fresh_id(document.scene, name), name=name, colour=GROUND_TONE, surface=surface, depth=depth
        )
        add_with_values(document, ground, {})

    def ground_from_model(self) -> None:
        """A ground that is the selected model seen from above, where the model is."""
        document = self._document
        node = document.selection.active
        if not isinstance(node, Model):
            document.messages.say("Select a model first: its surface, seen from above, becomes a ground.", True)
            return
        try:
            path = first_file(node, document.file.base)
            seen = document.file.reader.surface(node, path)
        except FileError as problem:
            document.messages.say(str(problem), True)
            return
        source = node.shape.source if isinstance(node.shape, ModelFile) else ""
        surface = height_map(seen.share, seen.low, seen.high, source)
        self._add_over(node, surface, seen.width, seen.depth, np.array(seen.middle))

    def _add_over(self, node: Model, surface: HeightMap, width: float, depth: float, centre: np.ndarray) -> None:
        document = self._document
        name = edits.fresh_name(document.scene, f"{node.name} ground")
        ground = Ground(
            id=edits.fresh_id(document.scene, name), name=name, colour=GROUND_TONE, surface=surface, width=width,
            depth=depth, hidden=True,
        )  # fmt: skip
        shift = np.eye(4)
        shift[[0, 2], 3] = centre
        world = document.evaluations.here.content(node.id)[0] @ shift
        if add_at(document, ground, world):
            document.messages.say(f"{name} was made in place of {node.name}, hidden, to be ridden on.")

    def add_dial(self) -> None:
        """A dial on the selected node."""
        document = self._document
        node = document.selection.active
        if node is None:
            document.messages.say("Select the node that the dial belongs to first, such as a null.", True)
            return
        count = sum(len(each.dials) for each in document.scene.nodes) + 1

        def change(scene: Scene) -> Scene:
            return edits.add_dial(scene, node.id, Dial(f"dial-{count}", f"Dial {count}"))[0]

        if document.edit(f"Add a dial to {node.name}", change):
            document.messages.say("To link it, drag its plug onto a channel, or right-click its name.")

    # Motion

    def lift_to_path(self) -> None:
        node = self._document.selection.active
        if node is None:
            self._document.messages.say("Select the camera or node whose position keys become a path.", True)
            return
        path = ""

        def change(scene: Scene) -> Scene:
            nonlocal path
            scene, path = baking.lift_to_path(scene, node.id)
            return scene

        if self._document.edit(f"Lift {node.name} to a path", change):
            count = baking.key_count(self._document.scene, [node.id])
            self._document.messages.say(
                f"{self._document.scene.node(path).name} is its shape; progress, with {count} keys, its timing."
            )

    def lower_to_keys(self) -> None:
        node = self._document.selection.active
        if node is None:
            self._document.messages.say("Select a node that rides a path.", True)
            return
        self._document.edit(f"Give {node.name} keys again", lambda scene: baking.lower_to_keys(scene, node.id))

    def motion_from_table(self, path: FilePath) -> None:
        """The selected node moves as a table of frames says."""
        self._take(path, lambda: self._document.file.reader.table(path))

    def motion_from_model(self, path: FilePath, animation: str) -> None:
        """The selected node moves as an animation of a glTF file does."""
        document = self._document
        fps, first = document.settings.rate.fps, float(document.settings.first)
        self._take(path, lambda: document.file.reader.animation(path, animation, fps, first))

    def _take(self, path: FilePath, read: Callable) -> None:  # type: ignore[type-arg]
        document = self._document
        node = document.selection.active
        if node is None:
            document.messages.say("Select the node to move first.", True)
            return
        try:
            document.file.allow([path])
            motion = read()
        except FileError as problem:
            document.messages.say(str(problem), True)
            return
        angles = motion.angles
        if motion.rotations is not None:
            angles = baking.unrolled_angles(motion.rotations, node.rotation_order, np.zeros(3))

        def change(scene: Scene) -> Scene:
            allowed = baking.Tolerance(1e-4, 1e-3)
            return baking.take_motion(scene, node.id, motion.frames, motion.positions, angles, allowed)

        if document.edit(f"Motion of {path.name}", change):
            count = baking.key_count(document.scene, [node.id])
            document.messages.say(f"{node.name} now moves by {path.name}: {len(motion.frames)} samples, {count} keys.")
