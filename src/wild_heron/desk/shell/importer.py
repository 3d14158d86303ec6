"""Imports files: read in a thread with progress, added as one undo step."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...edits import applied_to
from ...edits.beginning import begin_with
from ...files.errors import FileError
from ...scene import Scene, SceneError
from ..state.background import Errand
from ..state.document import Document

if TYPE_CHECKING:
    from ...files.export_formats.coming_in import BroughtIn
    from ...files.importing import Bringing

_SOON_SECONDS = 0.04
"""A file that is looked at within this time comes in before the call returns."""


class Bringer(QObject):
    """Brings files into the document, one batch at a time."""

    progressed = pyqtSignal(int, int)
    """How many files of how many were looked at; (0, 0) when it is done."""
    finished = pyqtSignal(tuple)
    """The ids of what came in."""
    begun = pyqtSignal()
    """What came in drifts past a camera."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._errand: Errand | None = None
        self._waiting: list[Callable[[], None]] = []

    @property
    def is_busy(self) -> bool:
        return self._errand is not None

    def bring(self, paths: list[Path], as_: str = "best", begin: bool = False) -> None:
        """Look at files and add what they hold; ``as_`` as in ``files.bringing``. ``begin``: with a camera that drifts
        past them."""
        if self._errand is not None:
            self._waiting.append(lambda: self.bring(paths, as_, begin))
            return
        document = self._document
        document.file.allow(paths)
        what = (paths, document.file.base, document.settings, document.file.reader, as_)

        def work(errand: Errand) -> "Bringing | None":
            from ...files.importing import bring
            from ...files.reader import Cancelled

            def step(done: int, total: int) -> None:
                errand.tell(done, total)
                if errand.cancelled:
                    raise Cancelled

            try:
                return bring(*what, step, errand.is_cancelled)  # type: ignore[arg-type]
            except Cancelled:
                return None

        self._errand = document.background.start(
            "bringing in", work, lambda found: self._done(found, begin), self.progressed.emit, self._failed
        )
        document.background.finish(self._errand, _SOON_SECONDS)

    def bring_motion(self, path: Path) -> None:
        """Add the cameras of another program's file with their motion, or make the film's shots those of a timeline."""
        if self._errand is not None:
            self._waiting.append(lambda: self.bring_motion(path))
            return
        document = self._document
        document.file.allow([path])
        scene, reader = document.scene, document.file.reader

        def work(errand: Errand) -> "BroughtIn | Exception | None":
            from ...files.export_formats.coming_in import brought_in, read_motion
            from ...files.reader import Cancelled

            errand.tell(0, 1)
            try:
                found = read_motion(path, scene.settings.rate.fps, reader, errand.is_cancelled)
                return brought_in(scene, path, found)
            except Cancelled:
                return None
            except (FileError, SceneError) as problem:
                return problem

        def done(result: "BroughtIn | Exception | None") -> None:
            self._errand = None
            self.progressed.emit(0, 0)
            if result is None:
                document.messages.say("Cancelled; nothing was brought in.")
            elif isinstance(result, Exception):
                document.messages.say(str(result), True)
            else:
                self._take_motion(scene, result)
            self._go_on()

        self._errand = document.background.start("bringing in", work, done, self.progressed.emit, self._failed)
        document.background.finish(self._errand, _SOON_SECONDS)

    def _take_motion(self, then: Scene, brought: "BroughtIn") -> None:
        document = self._document
        several = "Bring in cameras" if len(brought.cameras) > 1 else "Bring in a camera"
        # The scene may have been edited while the file was read.
        if not document.edit(
            several if brought.cameras else "Bring in cuts", lambda now: applied_to(now, then, brought.scene)
        ):
            return
        if brought.cameras:
            document.selection.choose(brought.cameras)
        document.messages.say(" ".join([brought.said, *brought.notes]))

    def cancel(self) -> None:
        """Give up what is being looked at; nothing of it comes in."""
        self._waiting.clear()
        if self._errand is not None:
            self._errand.cancel()

    def _failed(self, problem: Exception) -> None:
        self._errand = None
        self.progressed.emit(0, 0)
        self._document.messages.say(f"The files could not be brought in: {problem!r}.", True)
        self._go_on()
        raise problem

    def _done(self, found: "Bringing | None", begin: bool) -> None:
        self._errand = None
        self.progressed.emit(0, 0)
        if found is None:
            self._document.messages.say("Cancelled; nothing was brought in.")
        else:
            self._take_in(found, begin)
        self._go_on()

    def _go_on(self) -> None:
        if self._waiting:
            self._waiting.pop(0)()

    def _take_in(self, found: "Bringing", begin: bool) -> None:
        from ...files.importing import add_proposals

        document = self._document
        added: tuple[str, ...] = ()
        camera = ""

        def change(scene: Scene) -> Scene:
            nonlocal added, camera
            scene, added = add_proposals(scene, found.proposals, self._place)
            tops = [node_id for node_id, each in zip(added, found.proposals, strict=True) if each.holder is None]
            if begin:
                scene, camera = begin_with(scene, tops)
            return scene

        count = len(found.proposals)
        if count:
            first = found.proposals[0].node.name
            said = "Begin with artwork" if begin else f"Bring in {first}" if count == 1 else f"Bring in {count} nodes"
            if not document.edit(said, change):
                self.finished.emit(())
                return
            tops = [node_id for node_id, each in zip(added, found.proposals, strict=True) if each.holder is None]
            document.selection.choose([camera] if camera else tops)
            if camera:
                self.begun.emit()
        if found.problems:
            more = f" And {len(found.problems) - 1} more." if len(found.problems) > 1 else ""
            document.messages.say(found.problems[0] + more, True)
        elif camera:
            document.messages.say("The camera drifts past them. Space stops it; Ctrl+Z takes everything back.")
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
