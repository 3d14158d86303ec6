"""The shelf of framings, and tours through them."""

import msgspec
import numpy as np
from PyQt6.QtCore import QObject, QTimer

from ... import edits
from ...edits.framings import (
    framings,
    keep_framing,
    play_through,
    reorder_framing,
    touring,
    update_framing,
    values_for_framing,
)
from ...edits.posing import values_for_pose
from ...evaluate import evaluate
from ...evaluate.mixing import course_of, mixed
from ...scene import Camera, Channel, Ease, Framing, Scene, Tour
from ...scene.channels import FOCAL, POSITION, ROTATION
from ...scene.output import cameras, lens_nodes, shown_camera
from ..state.document import Document

_GLIDE_MS = 700
_TICK_MS = 16
_GLIDING = "gliding-view"


class FramingCommands(QObject):
    """Acts on the framing that is selected, or chosen on the shelf."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.ease: Ease | None = None
        """One ease for every leg of a tour; None: each framing's own."""
        self._glide: tuple[str, Scene, str | None, float] | None = None
        """Where to, in which scene, from what the Lens showed, and how far it is."""
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)

    # Which

    def chosen(self) -> Framing | None:
        """The framing that is meant; None, with a word about it, where there is none."""
        active = self._document.selection.active
        if isinstance(active, Framing):
            return active
        shelf = framings(self._document.scene)
        if len(shelf) == 1:
            return shelf[0]
        text = "Choose a framing on the shelf first." if shelf else "There are no framings yet. F, K keeps one."
        self._document.messages.say(text, True)
        return None

    def _camera(self) -> Camera | None:
        """The camera that framings are gone to with: the selected one, else the one that is shown."""
        document = self._document
        chosen = [document.scene.node(i) for i in document.selection.nodes]
        shown = shown_camera(document.scene, document.views.lens, document.playhead.frame)
        here = next((node for node in chosen if isinstance(node, Camera)), None)
        found = here or (shown if isinstance(shown, Camera) else next(iter(cameras(document.scene).values()), None))
        if found is None:
            document.messages.say("There is no camera. Camera ▸ Add camera makes one.", True)
        return found

    # The shelf

    def keep(self, before: bool = False) -> None:
        """Keep what the Lens shows; with a node selected that is neither camera nor framing, on that node."""
        document = self._document
        if document.views.camera is None:
            document.messages.say("There is no camera whose framing could be kept.", True)
            return
        active = document.selection.active
        carrier = active.id if active is not None and not active.serves_as("lens") else None
        place = active.id if before and isinstance(active, Framing) else None
        made = ""

        def change(scene: Scene) -> Scene:
            nonlocal made
            scene, made = keep_framing(scene, document.views.lens, document.playhead.frame, carrier, place)
            return scene

        if document.edit("Keep a framing", change):
            document.selection.choose([made])
            where = f" on {active.name}, and travels with it" if carrier and active is not None else ""
            document.messages.say(f"{document.scene.node(made).name} is on the shelf{where}.")

    def update(self) -> None:
        """Let the framing show what the Lens shows."""
        document, here = self._document, self.chosen()
        if here is None:
            return
        lens = document.views.lens
        used = touring(document.scene, here.id)
        if document.edit(
            f"Update {here.name}", lambda scene: update_framing(scene, here.id, lens, document.playhead.frame)
        ):
            more = f" {len(used)} tour{'s' if len(used) > 1 else ''} go through it." if used else ""
            document.messages.say(f"{here.name} shows this from now on.{more}")

    def move(self, node_id: str, to: int) -> None:
        name = self._document.scene.node(node_id).name
        self._document.edit(f"Move {name} on the shelf", lambda scene: reorder_framing(scene, node_id, to))

    def rename(self, node_id: str, name: str) -> None:
        if name.strip():
            self._document.edit(f"Name it {name.strip()}", lambda scene: edits.rename(scene, node_id, name))

    # Going there

    def go(self, node_id: str | None = None) -> None:
        """Give the camera the framing's picture: keyed, pending or plain, as auto-key says."""
        here, camera, document = self._framing(node_id), self._camera(), self._document
        if here is None or camera is None:
            return
        values = values_for_framing(document.scene, camera.id, here.id, document.playhead.frame)
        document.views.set_lens(camera.id if document.scene.shots else None)
        document.recorder.set_values(
            f"{camera.name} to {here.name}", {(camera.id, name): value for name, value in values.items()}
        )
        if camera.aim is not None and camera.aim.on and camera.aim.targets:
            document.messages.say(
                f"{camera.name} goes on looking at what it aims at. Release its aim to take the whole framing."
            )

    def key(self) -> None:
        """Key the framing's picture at the playhead, whatever auto-key says."""
        here, camera, document = self.chosen(), self._camera(), self._document
        if here is None or camera is None:
            return
        frame = document.playhead.frame
        values = values_for_framing(document.scene, camera.id, here.id, frame)
        names = dict.fromkeys([*edits_of_pose(document.scene, camera.id), *values])

        def change(scene: Scene) -> Scene:
            for name in names:
                value = values.get(name)
                value = document.evaluations.value(camera.id, name) if value is None else value
                scene = edits.set_key(scene, camera.id, name, frame, value)
            return scene

        document.edit(f"Key {here.name}", change)

    def _framing(self, node_id: str | None) -> Framing | None:
        node = self._document.scene.node(node_id) if node_id is not None else self.chosen()
        return node if isinstance(node, Framing) else None

    # Just to look

    def glide(self, node_id: str | None = None) -> None:
        """Let the Lens glide to a framing without changing anything; it stays there until something else is shown."""
        here, document = self._framing(node_id), self._document
        if here is None or document.views.camera is None:
            return
        self._glide = (here.id, document.views.shown, document.views.lens, 0.0)
        document.views.set_lens(None)
        self._timer.start()

    def _tick(self) -> None:
        document = self._document
        if self._glide is None:
            self._timer.stop()
            return
        target, scene, lens, share = self._glide
        share += _TICK_MS / _GLIDE_MS
        gone = target not in document.scene or document.gesture.running
        if share >= 1.0 or gone:
            self._timer.stop()
            self._glide = None
            document.views.propose(None)
            if not gone:
                document.views.set_lens(target)
                name = document.scene.node(target).name
                document.messages.say(f"Looking at {name}; nothing was changed. F, F shows the film again.")
            return
        self._glide = (target, scene, lens, share)
        document.views.propose(self._on_the_way(scene, lens, target, share * share * (3.0 - 2.0 * share)))

    def _on_the_way(self, scene: Scene, lens: str | None, target: str, share: float) -> Scene:
        """The scene seen through a camera that is so far on its way to a framing."""
        document = self._document
        frame = document.playhead.frame
        here = evaluate(scene, frame, [*lens_nodes(scene, lens), target])
        a, b = here.camera(lens), here.camera(target)
        view = mixed(a, b, np.array([share]), course_of(a, b, "auto", False))
        wide, high = view.sensor[0].tolist()
        node = Camera(id=_GLIDING, name="Gliding", sensor_width=wide, sensor_height=high)
        made = edits.add_node(scene, node)
        for name, value in values_for_pose(made, node.id, view.pose[0], frame).items():
            made = edits.set_channel(made, node.id, Channel(name, value))
        made = edits.set_channel(made, node.id, Channel(FOCAL, float(np.clip(view.focal_mm[0], 1.0, 5000.0))))
        # It is what the output shows, for as long as it is on its way.
        return msgspec.structs.replace(made, camera=node.id, shots=(), events=())

    # Tours

    def play_through(self, back: bool = False, loops: bool = False) -> None:
        """A tour of the camera through the selected framings, or the whole shelf in order, from the playhead on."""
        document, camera = self._document, self._camera()
        if camera is None:
            return
        chosen = [i for i in document.selection.nodes if isinstance(document.scene.node(i), Framing)]
        stops = chosen if len(chosen) > 1 else [each.id for each in framings(document.scene)]
        frame = document.playhead.frame
        end = frame

        def change(scene: Scene) -> Scene:
            nonlocal end
            scene, end = play_through(scene, camera.id, stops, frame, self.ease, loops, back)
            return scene

        if document.edit(f"Play {camera.name} through {len(stops)} framings", change):
            document.selection.choose([camera.id])
            document.messages.say(
                f"{camera.name} is on tour from frame {frame:g} to {end:g}. Its place is a lane; updating a framing "
                "changes the move."
            )

    def leave_tour(self) -> None:
        """Take the camera off its tour, where it stands."""
        document, camera = self._document, self._camera()
        if camera is None:
            return
        tour = next((bind for bind in camera.binds if isinstance(bind, Tour)), None)
        if tour is None:
            document.messages.say(f"{camera.name} is on no tour.", True)
            return
        document.edit(f"Take {camera.name} off its tour", lambda scene: edits.remove_bind(scene, camera.id, tour.id))

    def stop(self) -> None:
        self._timer.stop()


def edits_of_pose(scene: Scene, node_id: str) -> list[str]:
    """The channels that a camera's pose is keyed by."""
    node = scene.node(node_id)
    turned = node.aim is not None and node.aim.on
    return [*POSITION, *(ROTATION[2:] if turned else ROTATION), FOCAL]
