"""Runs the garbage collector in the window's thread, where it is safe for Qt.

Python's collector runs in whichever thread happens to allocate. What it finds there may belong to Qt, which must be
taken down in its own thread; so it is switched off, and run from the event loop instead.
"""

import gc

from PyQt6.QtCore import QObject, QTimer

_EVERY_MS = 200
_THRESHOLDS = (2000, 10, 10)


class Collector(QObject):
    """Runs the collector from the event loop, generation by generation."""

    def __init__(self) -> None:
        super().__init__()
        gc.disable()
        self._timer = QTimer(self)
        self._timer.setInterval(_EVERY_MS)
        self._timer.timeout.connect(self.step)

    def start(self) -> None:
        """Begin, or begin anew: leave out what is there now. The program lives as long as it runs, and a scene, being
        immutable, has no loops, so pauses stay too short to feel."""
        gc.collect()
        gc.freeze()
        self._timer.start()

    def step(self) -> None:
        """Collect the oldest generation that is due."""
        counts = gc.get_count()
        due = [generation for generation, limit in enumerate(_THRESHOLDS) if counts[generation] > limit]
        if due:
            gc.collect(due[-1])
