"""The scene as the views show it: with pending values, proposals and solo, in a format."""

from collections.abc import Callable, Iterable

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...edits import change_node
from ...evaluate.evaluation import Evaluation
from ...evaluate.film import film_of
from ...scene import Format, Scene, SceneError, View, main_format
from ...scene.dependencies import descendants
from ...scene.output import shown_camera
from .playhead import Playhead
from .recording import State


class Views(QObject):
    """Nothing here changes the scene."""

    changed = pyqtSignal()
    """Another scene is shown than before."""
    format_changed = pyqtSignal()

    def __init__(self, state: Callable[[], State], playhead: Playhead) -> None:
        super().__init__()
        self._state, self._playhead = state, playhead
        self.format_name: str | None = None
        self._lens: str | None = None
        self._through: tuple[tuple[Scene, float, str | None], View | None] | None = None
        """What was looked through last, of which scene, at which frame."""
        self.solo: frozenset[str] = frozenset()
        self.is_trying = False
        self._proposed: Scene | None = None
        self._shown: tuple[State, float, Scene] | None = None

    def reset(self) -> None:
        """Another scene is open."""
        self.format_name, self._lens, self.solo = None, None, frozenset()
        self._proposed, self._shown, self.is_trying = None, None, False

    @property
    def shown(self) -> Scene:
        """The scene as it looks at the playhead, with pending values in force."""
        state, frame = self._state(), self._playhead.frame
        if self._shown is None or self._shown[0] is not state or self._shown[1] != frame:
            scene = state.shown(frame) if state.pending else state.scene
            self._shown = (state, frame, self._alone(self._proposed or scene))
        return self._shown[2]

    @property
    def moving(self) -> Scene:
        """The scene whose motion is shown: what is proposed, or the scene as it would be saved."""
        return self._proposed or self._state().scene

    @property
    def keyed(self) -> Scene:
        """The scene whose keys Lanes and Curves draw: what is tried out, or the scene itself."""
        return self._proposed if self._proposed is not None and self.is_trying else self._state().scene

    @property
    def is_proposing(self) -> bool:
        return self._proposed is not None

    def propose(self, scene: Scene | None) -> None:
        """Show another scene in the views without changing anything; None: show the scene itself again."""
        self._show(scene, False)

    def try_out(self, scene: Scene | None) -> None:
        """Show the same keys with other spans everywhere, without changing anything; None: the scene as it is again.
        What is tried out is dropped when the scene changes."""
        self._show(scene, scene is not None)

    def _show(self, scene: Scene | None, trying: bool) -> None:
        if scene is not self._proposed:
            self._proposed, self.is_trying = scene, trying
            self._shown = None
            self.changed.emit()

    def drop_trial(self) -> None:
        """The scene has changed: what was tried out on it goes."""
        if self.is_trying:
            self._proposed, self._shown, self.is_trying = None, None, False

    def set_solo(self, node_ids: Iterable[str]) -> None:
        """Show these nodes alone, in the views only; none: show everything."""
        self.solo = frozenset(node_ids)
        self._shown = None
        self.changed.emit()

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

    # Through which camera and in which format

    @property
    def lens(self) -> str | None:
        """The camera or framing that the Lens shows; None: the output."""
        lens = self._lens
        return lens if lens is not None and lens in self._state().scene else None

    def set_lens(self, lens: str | None) -> None:
        """Show a camera or a framing in the Lens, or with None the output."""
        if lens != self._lens:
            self._lens = lens
            self.changed.emit()

    @property
    def camera_id(self) -> str | None:
        """The id of what the Lens looks through at the playhead."""
        camera = self.camera
        return camera.id if camera is not None else None

    @property
    def camera(self) -> View | None:
        """What the Lens looks through at the playhead."""
        key = self._state().scene, self._playhead.frame, self._lens
        if self._through is None or self._through[0][0] is not key[0] or self._through[0][1:] != key[1:]:
            self._through = key, self._camera(key[0], key[1])
        return self._through[1]

    def _camera(self, scene: Scene, frame: float) -> View | None:
        if self.lens is None and scene.events:
            try:
                film = film_of(Evaluation.evaluator, scene)
            except SceneError:
                return shown_camera(scene, None, frame)
            return shown_camera(scene, film.shots[int(film.number(np.array([frame]))[0])].camera, frame)
        return shown_camera(scene, self.lens, frame)

    def set_format(self, name: str) -> None:
        self.format_name = name
        self.format_changed.emit()

    @property
    def format(self) -> Format:
        """The output frame that is looked at."""
        formats = self._state().scene.formats_with_main()
        return next((each for each in formats if each.name == self.format_name), formats[0])

    @property
    def format_or_none(self) -> Format | None:
        """The chosen format, or None for the scene's own frame."""
        chosen = self.format
        return None if chosen.plain == main_format(self._state().scene.settings) else chosen
