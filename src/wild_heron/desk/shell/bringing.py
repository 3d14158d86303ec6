"""Bringing files in: they are looked at in a thread, with progress, and come in as one undo step."""

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, QThread, pyqtSignal, pyqtSlot

from ...scene import Scene
from ..state.document import Document
from ..widgets.unexpected import reports

_SOON_MS = 40
"""A file that is looked at within this time comes in before the call returns."""


class _Reader(QThread):
    progressed = pyqtSignal(int, int)

    def __init__(self, document: Document, paths: list[Path], as_: str) -> None:
        super().__init__()
        self._arguments = (paths, document.file.base, document.settings, document.file.reader, as_)
        self.cancelled = False
        self.result: object = None
        self.problem = ""

    def run(self) -> None:
        from ...files.bringing import bring
        from ...files.reader import Cancelled

        def step(done: int, total: int) -> None:
            self.progressed.emit(done, total)
            if self.cancelled:
                raise InterruptedError

        try:
            self.result = bring(*self._arguments, step, lambda: self.cancelled)  # type: ignore[arg-type]
        except (InterruptedError, Cancelled):
            pass
        except Exception as problem:  # A thread must not take the program with it.
            reports.report(problem)
            self.problem = f"The files could not be brought in: {problem!r}."


class Bringer(QObject):
    """Brings files into the document, one batch at a time."""

    progressed = pyqtSignal(int, int)
    """How many files of how many were looked at; (0, 0) when it is done."""
    finished = pyqtSignal(tuple)
    """The ids of what came in."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._reader: _Reader | None = None
        self._last: _Reader | None = None
        self._waiting: list[tuple[list[Path], str]] = []

    @property
    def is_busy(self) -> bool:
        return self._reader is not None

    def bring(self, paths: list[Path], as_: str = "best") -> None:
        """Look at files and add what they hold; ``as_`` as in ``files.bringing``."""
        if self._reader is not None:
            self._waiting.append((paths, as_))
            return
        self._document.file.allow(paths)
        reader = self._reader = _Reader(self._document, paths, as_)
        reader.progressed.connect(self._progress)
        reader.finished.connect(self._done)
        reader.start()
        if reader.wait(_SOON_MS):
            self._done()

    @pyqtSlot(int, int)
    def _progress(self, done: int, total: int) -> None:
        if self._reader is not None:  # It may have come in before this was told.
            self.progressed.emit(done, total)

    def cancel(self) -> None:
        """Give up what is being looked at; nothing of it comes in."""
        self._waiting.clear()
        if self._reader is not None:
            self._reader.cancelled = True

    def shut_down(self) -> None:
        self.cancel()
        if self._reader is not None:
            self._reader.wait()

    @pyqtSlot()
    def _done(self) -> None:
        reader = self._reader
        if reader is None or not reader.isFinished():
            return  # It was taken in already, and this is about the one before.
        # Signals of it may still be on their way: it must outlive them.
        self._reader, self._last = None, reader
        self.progressed.emit(0, 0)
        if reader.problem:
            self._document.messages.say(reader.problem, True)
        elif reader.result is None:
            self._document.messages.say("Cancelled; nothing was brought in.")
        else:
            self._take_in(reader.result)
        if self._waiting:
            self.bring(*self._waiting.pop(0))

    def _take_in(self, found: object) -> None:
        from ...files.bringing import Bringing, add_proposals

        assert isinstance(found, Bringing)
        document = self._document
        added: tuple[str, ...] = ()

        def change(scene: Scene) -> Scene:
            nonlocal added
            scene, added = add_proposals(scene, found.proposals, self._place)
            return scene

        count = len(found.proposals)
        if count:
            first = found.proposals[0].node.name
            document.edit(f"Bring in {first}" if count == 1 else f"Bring in {count} nodes", change)
            tops = [node_id for node_id, each in zip(added, found.proposals, strict=True) if each.holder is None]
            document.selection.choose(tops)
        if found.problems:
            more = f" And {len(found.problems) - 1} more." if len(found.problems) > 1 else ""
            document.messages.say(found.problems[0] + more, True)
        elif count:
            word = "Brought in" if count == 1 else f"Brought in {count} nodes:"
            document.messages.say(
                " ".join([word, found.proposals[0].node.name + (" …" if count > 1 else ""), *found.notes])
            )
        self.finished.emit(added)

    def _place(self, number: int) -> tuple[float, float, float]:
        """In front of the camera at frame distance, each a unit nearer than the one before."""
        camera = self._document.views.camera
        if camera is None:
            return 0.0, 0.0, float(number)
        view = self._document.evaluations.here.camera(camera.id)
        distance = max(float(view.frame_distance(self._document.settings.pixels_per_unit)[0]) - number, 1.0)
        x, y, z = np.round(view.position[0] + view.axis[0] * distance, 6).tolist()
        return x, y, z
