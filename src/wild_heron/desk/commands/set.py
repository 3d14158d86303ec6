"""The Set menu's side of the scene: new cards, solids and lights, and putting things in their places."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject

from ...evaluate import arranging
from ...scene import (
    AnyNode,
    Box,
    Camera,
    Channel,
    Cone,
    Cylinder,
    FaceCamera,
    Gradient,
    Light,
    Logo,
    Model,
    Picture,
    Plane,
    Scene,
    SceneError,
    Shape,
    Solid,
    Sphere,
    Stop,
    Text,
    Torus,
)
from ...scene.channels import POSITION, ROTATION
from ...scene.edits import add_bind, add_node, change_node, fresh_id, fresh_name, replace_node, set_channel
from ...scene.output import output_camera
from ..state.document import Document

_SHAPES: dict[str, Shape] = {
    "plane": Plane(), "box": Box(), "sphere": Sphere(), "cylinder": Cylinder(), "cone": Cone(), "torus": Torus(),
}  # fmt: skip
_DUSK = Gradient((Stop(0.0, "#1c2450"), Stop(1.0, "#e6a87c")), "along", 180.0)


def _faces(node: AnyNode, bind: FaceCamera) -> bool:
    return any(
        isinstance(each, FaceCamera) and (each.camera, each.upright) == (bind.camera, bind.upright)
        for each in node.binds
    )


class SetCommands(QObject):
    """Adds and arranges; the window connects each to its action."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document

    def _selected(self, what: str, at_least: int = 1) -> tuple[str, ...]:
        chosen = self._document.selection
        if len(chosen) >= at_least:
            return chosen
        words = "Select what to" if at_least == 1 else f"Select {at_least} or more nodes (Ctrl+click) to"
        self._document.say(f"{words} {what} first.", True)
        return ()

    def _camera(self) -> Camera | None:
        camera = self._document.camera
        if camera is None:
            self._document.say("There is no camera. Camera ▸ Add camera makes one.", True)
        return camera

    # New nodes

    def _add(self, name: str, make: Callable[[str, str], AnyNode], values: dict[str, float]) -> None:
        document = self._document
        label = fresh_name(document.scene, name)
        node = make(fresh_id(document.scene, label), label)

        def change(scene: Scene) -> Scene:
            scene = add_node(scene, node)
            for channel, value in values.items():
                scene = set_channel(scene, node.id, Channel(channel, round(value, 6)))
            return scene

        if document.edit(f"Add {label}", change):
            document.select([node.id])

    def _in_front(self) -> dict[str, float]:
        """In the middle of the picture, where artwork shows 1:1; at the origin without a camera."""
        camera = self._document.camera
        if camera is None:
            return {}
        view = self._document.here.camera(camera.id)
        distance = float(view.frame_distance(self._document.settings.pixels_per_unit)[0])
        point = view.position[0] + view.axis[0] * distance
        return dict(zip(POSITION, point.tolist(), strict=True))

    def add_card(self, kind: str) -> None:
        """A colour, a gradient or a text."""
        settings = self._document.settings
        if kind == "text":
            text = Text("Lantern night")
            set_ = self._document.reader.text_size(text)
            size, artwork = (set_.width, set_.height), text
        else:
            size = (settings.width, settings.height)
            artwork = Solid() if kind == "solid" else _DUSK  # type: ignore[assignment]
        self._add(
            {"solid": "Colour", "gradient": "Gradient", "text": "Text"}[kind],
            lambda id_, name: Picture(id=id_, name=name, artwork=artwork, width=size[0], height=size[1]),
            self._in_front(),
        )

    def add_letters(self) -> None:
        text = Text("Lantern night")
        set_ = self._document.reader.text_size(text)
        self._add(
            "Letters",
            lambda id_, name: Logo(
                id=id_, name=name, outlines=text, width=set_.width, height=set_.height, depth=30.0, bevel=3.0
            ),
            self._in_front(),
        )

    def add_solid(self, kind: str) -> None:
        shape = _SHAPES[kind]
        self._add(kind.capitalize(), lambda id_, name: Model(id=id_, name=name, shape=shape), self._in_front())

    def add_light(self, kind: str) -> None:
        """A light; a directional one falls from the upper left and casts shadows if no other does."""
        casts = kind != "ambient" and not any(
            isinstance(node, Light) and node.shadow for node in self._document.scene.nodes
        )
        name = {"ambient": "Light all over", "directional": "Key light", "point": "Lamp"}[kind]
        values = {"ambient": {"light.strength": 0.35}, "directional": {}, "point": {}}[kind]
        if kind == "directional":
            values = dict(zip(ROTATION, (-42.0, -34.0, 0.0), strict=True)) | {POSITION[1]: 6.0}
        elif kind == "point":
            values = self._in_front()
        self._add(name, lambda id_, label: Light(id=id_, name=label, light=kind, shadow=casts), values)  # type: ignore[arg-type]

    # Places

    def _arrange(self, name: str, changes: Callable[[Scene], arranging.Changes]) -> None:
        document = self._document
        try:
            found = changes(document.shown)
        except SceneError as problem:
            document.say(str(problem), True)
            return
        if found:
            document.set_values(name, found)
        else:
            document.say(f"{name}: everything is there already.")

    def fill_frame(self) -> None:
        chosen, camera = self._selected("fill the frame with"), self._camera()
        if chosen and camera:
            frame = self._document.frame
            self._arrange("Fill the frame", lambda scene: arranging.fill_frame(scene, camera.id, chosen, frame))

    def stand_on_ground(self) -> None:
        chosen = self._selected("stand on the ground")
        if chosen:
            frame = self._document.frame
            self._arrange("Stand on the ground", lambda scene: arranging.stand_on_ground(scene, chosen, frame))

    def to_frame_distance(self) -> None:
        chosen, camera = self._selected("drop to frame distance"), self._camera()
        if chosen and camera:
            frame = self._document.frame
            self._arrange(
                "Drop to frame distance", lambda scene: arranging.to_frame_distance(scene, camera.id, chosen, frame)
            )

    def snap(self) -> None:
        chosen = self._selected("snap, and the one to snap to last,", 2)
        if chosen:
            frame = self._document.frame
            name = self._document.scene.node(chosen[-1]).name
            self._arrange(f"Snap to {name}", lambda scene: arranging.snap(scene, chosen, frame))

    def align(self, line: arranging.Line) -> None:
        chosen = self._selected("align, the one that stays last,", 2)
        if chosen:
            frame, camera = self._document.frame, output_camera(self._document.scene)
            self._arrange(f"Align in {line}", lambda scene: arranging.align(scene, camera, chosen, line, frame))

    def distribute(self, line: arranging.Line) -> None:
        chosen = self._selected("distribute", 3)
        if chosen:
            frame, camera = self._document.frame, output_camera(self._document.scene)
            self._arrange(
                f"Distribute in {line}", lambda scene: arranging.distribute(scene, camera, chosen, line, frame)
            )

    def anchor(self, name: str, share: tuple[float, float, float]) -> None:
        document = self._document
        chosen = [i for i in self._selected("anchor") if isinstance(document.scene.node(i), Picture | Logo | Model)]

        def change(scene: Scene) -> Scene:
            for node_id in chosen:
                scene = arranging.set_anchor(scene, node_id, share, document.frame)
            return scene

        if chosen:
            document.edit(f"Anchor {name}", change)

    def face_camera(self, upright: bool) -> None:
        """Bind the selection to face the camera of the Lens, or release it where it does so already."""
        document = self._document
        camera = self._camera()
        chosen = [i for i in self._selected("face the camera") if not isinstance(document.scene.node(i), Camera)]
        if not chosen or camera is None:
            return
        bind = FaceCamera(camera.id, upright)
        on = not _faces(document.scene.node(chosen[-1]), bind)

        def change(scene: Scene) -> Scene:
            for node_id in chosen:
                others = tuple(each for each in scene.node(node_id).binds if not isinstance(each, FaceCamera))
                scene = change_node(scene, node_id, binds=others)
                if on:
                    scene, _ = add_bind(scene, node_id, bind)
            return scene

        document.edit(f"Face {camera.name}" if on else f"Face {camera.name} no more", change)

    def solo(self, on: bool) -> None:
        """Show the selection alone in the views, or everything again."""
        chosen = self._selected("show alone") if on else ()
        self._document.set_solo(chosen)
        if chosen:
            self._document.say("Shown alone, in the views only. Shift+S shows everything again.")

    # Files

    def replace_file(self, path: Path) -> None:
        """Put another file in place of the active node's; its keys and its place are kept, its size follows."""
        document = self._document
        node = document.active
        if node is None:
            return
        from ...files.bringing import with_file
        from ...files.errors import FileError

        try:
            document.allow_files([path])
            replaced = with_file(node, path, document.base, document.settings, document.reader)
        except FileError as problem:
            document.say(str(problem), True)
            return
        document.edit(f"Replace the file of {node.name}", lambda scene: replace_node(scene, replaced))

    def can_replace(self) -> bool:
        node = self._document.active
        if node is not None and node.file is not None:
            return True
        self._document.say("Select a node that comes from a file first.", True)
        return False
