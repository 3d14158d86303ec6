"""The picture's speed over the whole film, worked out in a thread."""

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ....evaluate.picture_speed import PictureSpeed, picture_speed
from ....scene import Scene, SceneError
from ....scene.output import has_output
from ...state.background import Errand
from ...state.document import Document

_SETTLED_MS = 180


class Speeds(QObject):
    """Of the scene as it was when it was last left alone for a moment."""

    changed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.scene: Scene | None = None
        """Whose speeds they are."""
        self.found: PictureSpeed | None = None
        self.wanted = False
        """Whether anybody looks at them."""
        self._errand: Errand | None = None
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(_SETTLED_MS)
        self._wait.timeout.connect(self._begin)
        document.changed.connect(self.ask)

    def ask(self) -> None:
        """Measure before long, if the scene is another one."""
        if self.wanted and self._document.scene is not self.scene:
            if self._errand is not None:
                self._errand.cancel()
            self._wait.start()

    def at(self, frame: float) -> tuple[float, float]:
        """The middle's and the subject's speed at a frame; NaN where it is not known."""
        if self.found is None or self.scene is None:
            return float("nan"), float("nan")
        row = round(frame) - self.scene.settings.first
        if not 0 <= row < len(self.found.middle):
            return float("nan"), float("nan")
        return float(self.found.middle[row]), float(self.found.subject[row])

    def _begin(self) -> None:
        document = self._document
        if document.gesture.running or self._errand is not None:
            self._wait.start()
            return
        scene = document.scene
        if not has_output(scene):
            self._take(scene, None)
            return
        frames = np.arange(scene.settings.first, scene.settings.last + 1, dtype=np.float64)
        self._errand = document.background.start(
            "picture speed",
            lambda errand: picture_speed(scene, frames, None, errand.is_cancelled),
            lambda found: self._take(scene, found),
            failed=lambda problem: self._failed(scene, problem),
        )

    def _failed(self, scene: Scene, problem: Exception) -> None:
        self._take(scene, None)
        if not isinstance(problem, SceneError):
            raise problem

    def _take(self, scene: Scene, found: PictureSpeed | None) -> None:
        errand, self._errand = self._errand, None
        # One that was given up is not whole, even where its scene has come back by an undo.
        if self._document.scene is not scene or (errand is not None and errand.cancelled):
            self._wait.start()
            return
        self.scene, self.found = scene, found
        self.changed.emit()

    def stop(self) -> None:
        self._wait.stop()
        self._document.background.let_go(self._errand)
