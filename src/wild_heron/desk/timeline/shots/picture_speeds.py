"""The picture's speed over the whole film, worked out in a thread."""

import math

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ....arrays import Array
from ....checks.cuts import DEAD, JUMP
from ....checks.pace import pace_at_cuts, shown_speed
from ....evaluate import Evaluation
from ....evaluate.film import film_of
from ....evaluate.picture_speed import PictureSpeed, picture_speed
from ....scene import Scene, SceneError
from ....scene.output import has_output
from ...state.background import Errand
from ...state.document import Document

_SETTLED_MS = 180


def trouble_at_cuts(scene: Scene, found: PictureSpeed) -> list[tuple[float, float, str]]:
    """Cuts at which the picture stands still or jumps, as the checks of the scene judge them: frame, the middle's speed
    there, and in words what is wrong."""
    settings, checks = scene.settings, scene.checks
    if "cuts" in checks.off or not scene.shots:
        return []
    known = np.isfinite(found.middle)
    starts = film_of(Evaluation.evaluator, scene).segments.starts
    rows = [math.ceil(start - 1e-6) - settings.first for start in starts]
    cuts = [row for row in dict.fromkeys(rows) if 0 < row < len(known)]
    speed = shown_speed(found.middle, found.subject, float(max(settings.width, settings.height)))
    _, bad = pace_at_cuts(speed, cuts, known, DEAD.of(checks), JUMP.of(checks))
    out = []
    for each in bad:
        row = each.last if each.kind in ("end", "jump") else each.first
        words = {
            "start": f"Stands still for {each.value:.0f} frames after the cut",
            "end": f"Stands still for {each.value:.0f} frames before the cut",
            "jump": f"The picture is {each.value:.1f} times as fast on one side of the cut",
        }[each.kind]
        out.append((float(row + settings.first), float(found.middle[row]), words))
    return out


def _measured(scene: Scene, frames: Array, errand: Errand) -> tuple[PictureSpeed, list[tuple[float, float, str]]]:
    found = picture_speed(scene, frames, None, errand.is_cancelled)
    return found, [] if errand.cancelled else trouble_at_cuts(scene, found)


class Speeds(QObject):
    """Of the scene as it was when it was last left alone for a moment."""

    changed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.scene: Scene | None = None
        """Whose speeds they are."""
        self.found: PictureSpeed | None = None
        self.trouble: list[tuple[float, float, str]] = []
        """Where it stands still beside cuts, or jumps at them; see ``trouble_at_cuts``."""
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
            self._take(scene, None, [])
            return
        frames = np.arange(scene.settings.first, scene.settings.last + 1, dtype=np.float64)
        self._errand = document.background.start(
            "picture speed",
            lambda errand: _measured(scene, frames, errand),
            lambda found: self._take(scene, *found),
            failed=lambda problem: self._failed(scene, problem),
        )

    def _failed(self, scene: Scene, problem: Exception) -> None:
        self._take(scene, None, [])
        if not isinstance(problem, SceneError):
            raise problem

    def _take(self, scene: Scene, found: PictureSpeed | None, trouble: list[tuple[float, float, str]]) -> None:
        errand, self._errand = self._errand, None
        # One that was given up is not whole, even where its scene has come back by an undo.
        if self._document.scene is not scene or (errand is not None and errand.cancelled):
            self._wait.start()
            return
        self.scene, self.found, self.trouble = scene, found, trouble
        self.changed.emit()

    def stop(self) -> None:
        self._wait.stop()
        self._document.background.let_go(self._errand)
