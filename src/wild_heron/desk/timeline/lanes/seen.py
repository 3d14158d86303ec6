"""The line of a channel's final value, over its keys, where movers or a take change it."""

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ....arrays import Array
from ....evaluate import evaluate
from ....scene import Scene, SceneError, is_moved
from ...state.document import Document
from ..axis import TimeAxis
from .shapes import Lane

_STEP_PIXELS = 2.0
_MOST = 1200


class SeenLine:
    """A channel's values (N,) at frames (N,). Compared by identity: another one is made when anything changes."""

    def __init__(self, frames: Array, values: Array) -> None:
        self.frames, self.values = frames, values


class SeenLines(QObject):
    """The lines of the lanes in view, worked out when the window has a moment."""

    changed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._for: tuple[Scene, TimeAxis, tuple[tuple[str, str], ...]] | None = None
        self._lines: dict[tuple[str, str], SeenLine] = {}

    def ask(self, axis: TimeAxis, lanes: list[Lane]) -> None:
        """Have the lines of these lanes before long; those there are stay until then."""
        scene = self._document.views.keyed
        wanted = tuple(
            (lane.node, lane.channel)
            for lane in lanes
            if not lane.is_sum and lane.node in scene and is_moved(scene.node(lane.node), lane.channel)
        )
        if not wanted:
            self._lines, self._for = {}, None
        elif self._for is None or self._for[0] is not scene or self._for[1:] != (axis, wanted):
            self._document.turns.ask(self, lambda: self._measure(axis, wanted))

    def of(self, lane: Lane) -> SeenLine | None:
        """The line of a lane, as far as it is known."""
        return self._lines.get((lane.node, lane.channel))

    def _measure(self, axis: TimeAxis, wanted: tuple[tuple[str, str], ...]) -> None:
        scene = self._document.views.keyed
        count = int(np.clip(axis.width / _STEP_PIXELS, 2, _MOST))
        frames = np.linspace(axis.start, axis.end, count)
        there = [place for place in wanted if place[0] in scene]
        try:
            here = evaluate(scene, frames, dict.fromkeys(node for node, _ in there))
            lines = {place: SeenLine(frames, here.value(*place)) for place in there}
        except (SceneError, ValueError):
            lines = {}
        self._lines, self._for = lines, (scene, axis, wanted)
        self.changed.emit()
