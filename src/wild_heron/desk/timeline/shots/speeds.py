"""The picture's speed over the whole film, worked out in a thread."""

import threading

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ....evaluate.picture_speed import PictureSpeed, picture_speed
from ....log import log
from ....scene import Scene, SceneError
from ....scene.output import has_output
from ...state.document import Document

_SETTLED_MS = 180


class Speeds(QObject):
    """Of the scene as it was when it was last left alone for a moment."""

    changed = pyqtSignal()
    _measured = pyqtSignal(object, object)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.scene: Scene | None = None
        """Whose speeds they are."""
        self.found: PictureSpeed | None = None
        self.wanted = False
        """Whether anybody looks at them."""
        self._thread: threading.Thread | None = None
        self._stopped = False
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(_SETTLED_MS)
        self._wait.timeout.connect(self._begin)
        self._measured.connect(self._take)
        document.changed.connect(self.ask)

    def ask(self) -> None:
        """Measure before long, if the scene is another one."""
        if self.wanted and self._document.scene is not self.scene:
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
        if document.gesture.running or (self._thread is not None and self._thread.is_alive()):
            self._wait.start()
            return
        scene = document.scene
        if not has_output(scene):
            self._take(scene, None)
            return
        self._thread = threading.Thread(target=self._run, args=(scene,), name="picture speed", daemon=True)
        self._thread.start()

    def _run(self, scene: Scene) -> None:
        frames = np.arange(scene.settings.first, scene.settings.last + 1, dtype=np.float64)
        try:
            found = picture_speed(scene, frames, None, lambda: self._stopped or self._document.scene is not scene)
        except Exception as problem:  # A thread must not end with it.
            if not isinstance(problem, SceneError):
                log.error("measuring the picture's speed", exc_info=problem)
            found = None
        if not self._stopped:
            self._measured.emit(scene, found)

    def _take(self, scene: Scene, found: PictureSpeed | None) -> None:
        if self._document.scene is not scene:
            self._wait.start()
            return
        self.scene, self.found = scene, found
        self.changed.emit()

    def stop(self) -> None:
        self._stopped = True
        self._wait.stop()
        if self._thread is not None:
            self._thread.join(5.0)
