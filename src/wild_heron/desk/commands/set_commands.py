"""The Set menu's side of the scene: putting things in their places."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject

from ...edits import add_bind, arranging, change_node
from ...scene import OUTPUT, AnyNode, FaceCamera, Scene, SceneError, View, specs
from ...scene.channels import ANCHOR
from ..state.document import Document


def _faces(node: AnyNode, bind: FaceCamera) -> bool:
    return any(
        isinstance(each, FaceCamera) and (each.camera, each.upright) == (bind.camera, bind.upright)
        for each in node.binds
    )


class SetCommands(QObject):
    """Arranges; the window connects each to its action."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document

    def _selected(self, what: str, at_least: int = 1) -> tuple[str, ...]:
        chosen = self._document.selection.nodes
        if len(chosen) >= at_least:
            return chosen
        words = "Select what to" if at_least == 1 else f"Select {at_least} or more nodes (Ctrl+click) to"
        self._document.messages.say(f"{words} {what} first.", True)
        return ()

    def _camera(self) -> View | None:
        camera = self._document.views.camera
        if camera is None:
            self._document.messages.say("There is no camera. Camera ▸ Add camera makes one.", True)
        return camera

    # Places

    def _arrange(self, name: str, changes: Callable[[Scene], arranging.Changes]) -> None:
        document = self._document
        try:
            found = changes(document.views.shown)
        except SceneError as problem:
            document.messages.say(str(problem), True)
            return
        if found:
            document.recorder.set_values(name, found)
        else:
            document.messages.say(f"{name}: everything is there already.")

    def fill_frame(self) -> None:
        chosen, camera = self._selected("fill the frame with"), self._camera()
        if chosen and camera:
            frame = self._document.playhead.frame
            self._arrange("Fill the frame", lambda scene: arranging.fill_frame(scene, camera.id, chosen, frame))

    def stand_on_ground(self) -> None:
        chosen = self._selected("stand on the ground")
        if chosen:
            frame = self._document.playhead.frame
            self._arrange("Stand on the ground", lambda scene: arranging.stand_on_ground(scene, chosen, frame))

    def to_frame_distance(self) -> None:
        chosen, camera = self._selected("drop to frame distance"), self._camera()
        if chosen and camera:
            frame = self._document.playhead.frame
            self._arrange(
                "Drop to frame distance", lambda scene: arranging.to_frame_distance(scene, camera.id, chosen, frame)
            )

    def snap(self) -> None:
        chosen = self._selected("snap, and the one to snap to last,", 2)
        if chosen:
            frame = self._document.playhead.frame
            name = self._document.scene.node(chosen[-1]).name
            self._arrange(f"Snap to {name}", lambda scene: arranging.snap(scene, chosen, frame))

    def align(self, line: arranging.Line) -> None:
        chosen = self._selected("align, the one that stays last,", 2)
        if chosen:
            frame, camera = self._document.playhead.frame, self._document.views.camera_id
            self._arrange(f"Align in {line}", lambda scene: arranging.align(scene, camera, chosen, line, frame))

    def distribute(self, line: arranging.Line) -> None:
        chosen = self._selected("distribute", 3)
        if chosen:
            frame, camera = self._document.playhead.frame, self._document.views.camera_id
            self._arrange(
                f"Distribute in {line}", lambda scene: arranging.distribute(scene, camera, chosen, line, frame)
            )

    def anchor(self, name: str, share: tuple[float, float, float]) -> None:
        document = self._document
        chosen = [i for i in self._selected("anchor") if ANCHOR[0] in specs(document.scene.node(i))]

        def change(scene: Scene) -> Scene:
            for node_id in chosen:
                scene = arranging.set_anchor(scene, node_id, share, document.playhead.frame)
            return scene

        if chosen:
            document.edit(f"Anchor {name}", change)

    def face_camera(self, upright: bool) -> None:
        """Bind the selection to face the camera of the Lens, or release it where it does so already."""
        document = self._document
        camera = self._camera()
        chosen = [i for i in self._selected("face the camera") if not document.scene.node(i).serves_as("camera")]
        if not chosen or camera is None:
            return
        # While the film is shown, whatever it shows is faced.
        filmed = bool(document.scene.shots) and document.views.lens is None
        bind = FaceCamera(OUTPUT if filmed else camera.id, upright)
        name = "the output" if filmed else camera.name
        on = not _faces(document.scene.node(chosen[-1]), bind)

        def change(scene: Scene) -> Scene:
            for node_id in chosen:
                others = tuple(each for each in scene.node(node_id).binds if not isinstance(each, FaceCamera))
                scene = change_node(scene, node_id, binds=others)
                if on:
                    scene, _ = add_bind(scene, node_id, bind)
            return scene

        document.edit(f"Face {name}" if on else f"Face {name} no more", change)

    def solo(self, on: bool) -> None:
        """Show the selection alone in the views, or everything again."""
        chosen = self._selected("show alone") if on else ()
        self._document.views.set_solo(chosen)
        if chosen:
            self._document.messages.say("Only the selection is shown, in the views alone. S, A shows everything again.")

    # Files

    def replace_file(self, path: Path) -> None:
        """Put another file in place of the active node's; its keys and its place are kept, its size follows."""
        document = self._document
        node = document.selection.active
        if node is None:
            return
        from ...files.errors import FileError
        from ...files.importing import with_file

        try:
            document.file.allow([path])
            replaced = with_file(node, path, document.file.base, document.settings, document.file.reader)
        except FileError as problem:
            document.messages.say(str(problem), True)
            return
        document.edit(f"Replace the file of {node.name}", lambda scene: scene.with_node(replaced))

    def can_replace(self) -> bool:
        node = self._document.selection.active
        if node is not None and node.file is not None:
            return True
        self._document.messages.say("Select a node that comes from a file first.", True)
        return False
