"""The scene as the panels see it: at the playhead, with what is pending, proposed, tried out or shown alone."""

from collections.abc import Iterable
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...evaluate import CameraView, Evaluation, evaluate
from ...scene import Camera, Format, Scene, Settings, main_format
from ...scene.dependencies import descendants
from ...scene.edits import change_node
from ...scene.output import has_output, lens_node, shown_camera
from .ahead import Ahead
from .recording import State
from .turns import Turns

if TYPE_CHECKING:
    from ...files.permission import Permission
    from ...files.reader import Reader


class ShownScene(QObject):
    """What of the document is for looking; nothing here changes the scene."""

    changed = pyqtSignal()
    """The scene or the pending values changed."""
    frame_changed = pyqtSignal()
    settings_changed = pyqtSignal()
    """Auto-key, the play range, the format or the camera that is looked through changed."""

    def __init__(self) -> None:
        super().__init__()
        self.turns = Turns()
        self.loop = True
        self.play_range: tuple[int, int] | None = None
        self.format_name: str | None = None
        self.solo: frozenset[str] = frozenset()
        self.is_trying = False
        self._state = State(Scene())
        self._gesture: tuple[str, State] | None = None
        self._frame = 0.0
        self._shown: tuple[State, float, Scene] | None = None
        self._proposed: Scene | None = None
        self._here: tuple[Scene, float, Evaluation] | None = None
        self._ahead = Ahead()
        self.permission: Permission | None = None
        """Which files may be read."""
        self._reader: Reader | None = None
        self.drawing_problems: dict[str, str] = {}
        """By node id, what the renderer found wrong: files that cannot be read, what cannot be drawn."""

    @property
    def reader(self) -> "Reader":
        """Reads files from strangers, as far as the scene and the user allow it."""
        if self._reader is None:
            # What starts processes is loaded when it is wanted.
            from ...files.reader import Reader

            self._reader = Reader(permission=self.permission)
        return self._reader

    @property
    def problems(self) -> dict[str, str]:
        """By node id of the scene, what is wrong with it here: why it stands still, or cannot be shown."""
        found = self.drawing_problems | self.here.faults
        return {node: problem for node, problem in found.items() if node in self.scene}

    @property
    def scene(self) -> Scene:
        """The scene as it would be saved."""
        return self._state.scene

    @property
    def state(self) -> State:
        return self._state

    @property
    def shown(self) -> Scene:
        """The scene as it looks at the playhead, with pending values in force."""
        if self._shown is None or self._shown[0] is not self._state or self._shown[1] != self._frame:
            scene = self._state.shown(self._frame) if self._state.pending else self._state.scene
            scene = self._proposed or scene
            self._shown = (self._state, self._frame, self._alone(scene))
        return self._shown[2]

    @property
    def moving(self) -> Scene:
        """The scene whose motion is shown: what is proposed, or the scene as it would be saved."""
        return self._proposed or self._state.scene

    def propose(self, scene: Scene | None) -> None:
        """Show another scene in the views without changing anything; None: show the scene itself again."""
        self._show(scene, False)

    def _show(self, scene: Scene | None, trying: bool) -> None:
        if scene is not self._proposed:
            self._proposed, self.is_trying = scene, trying
            self._shown = None
            self.changed.emit()

    @property
    def keyed(self) -> Scene:
        """The scene whose keys Lanes and Curves draw: what is tried out, or the scene itself."""
        return self._proposed if self._proposed is not None and self.is_trying else self._state.scene

    def try_out(self, scene: Scene | None) -> None:
        """Show the same keys with other spans everywhere, without changing anything; None: the scene as it is again.
        What is tried out is dropped when the scene changes."""
        self._show(scene, scene is not None)

    def _alone(self, scene: Scene) -> Scene:
        """The scene with everything hidden that is seen, but not part of what is shown alone."""
        kept = {node_id for node_id in self.solo if node_id in scene}
        if not kept:
            return scene
        kept |= set().union(*(descendants(scene, node_id) for node_id in kept))
        for node in scene.nodes:
            if node.id not in kept and node.serves_as("seen") and not node.hidden:
                scene = change_node(scene, node.id, hidden=True)
        return scene

    @property
    def in_gesture(self) -> bool:
        return self._gesture is not None

    def set_solo(self, node_ids: Iterable[str]) -> None:
        """Show these nodes alone, in the views only; none: show everything."""
        self.solo = frozenset(node_ids)
        self._shown = None
        self.changed.emit()

    def set_format(self, name: str) -> None:
        self.format_name = name
        self.settings_changed.emit()

    def set_play_range(self, play_range: tuple[int, int] | None) -> None:
        self.play_range = play_range
        self.settings_changed.emit()

    # At the playhead

    @property
    def frame(self) -> float:
        return self._frame

    def set_frame(self, frame: float) -> None:
        frame = float(min(max(frame, self.settings.first), self.settings.last))
        if frame != self._frame:
            self._frame = frame
            self.frame_changed.emit()

    @property
    def range(self) -> tuple[int, int]:
        """First and last frame that are played."""
        if self.play_range is None:
            return self.settings.first, self.settings.last
        first, last = self.play_range
        return max(first, self.settings.first), min(last, self.settings.last)

    @property
    def here(self) -> Evaluation:
        """The shown scene evaluated at the playhead (N = 1)."""
        scene = self.shown
        known = self._here
        if known is None or known[0] is not scene or known[1] != self._frame:
            found = self._ahead.look_up(scene, self._frame)
            if found is None:
                found = evaluate(scene, self._frame, previous=known[2] if known is not None else None)
            self._here = (scene, self._frame, found)
            if not self.in_gesture and self._proposed is None:
                self._ahead.ask(scene, self._frame)
        return self._here[2]

    def around(self) -> tuple[CameraView, CameraView]:
        """What the output shows a frame before and a frame after the playhead."""
        scene, times = self.shown, (self._frame - 1.0, self._frame + 1.0)
        before, after = (self._ahead.look_up(scene, each) for each in times)
        if before is None or after is None:
            both = evaluate(scene, times, [lens_node(scene, None).id])
            before, after = both.at(0), both.at(1)
        return before.camera(), after.camera()

    def stop(self) -> None:
        """For when the program ends."""
        self.turns.stop()
        self._ahead.stop()
        if self._reader is not None:
            self._reader.close()

    def value(self, node_id: str, channel: str) -> float:
        here = self.here
        if not here.has_channel(node_id, channel):
            # What is proposed has no such channel; the scene itself has.
            here = evaluate(self.scene, self._frame, [node_id])
        return float(here.value(node_id, channel)[0])

    def world(self, node_id: str) -> np.ndarray:
        return self.here.world(node_id)[0]

    @property
    def settings(self) -> Settings:
        return self._state.scene.settings

    @property
    def camera(self) -> Camera | None:
        """The camera the Lens looks through."""
        return shown_camera(self._state.scene)

    @property
    def seen(self) -> CameraView | None:
        """What the Lens shows at the playhead (N = 1)."""
        return self.here.camera(None, self.format_or_none) if has_output(self.shown) else None

    @property
    def format(self) -> Format:
        """The output frame that is looked at."""
        formats = self.scene.formats_with_main()
        return next((each for each in formats if each.name == self.format_name), formats[0])

    @property
    def format_or_none(self) -> Format | None:
        """The chosen format, or None for the scene's own frame."""
        chosen = self.format
        return None if chosen == main_format(self.settings) else chosen
