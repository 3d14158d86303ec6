"""Measures the film in the background: evaluation in a thread, renders while nothing else is drawn."""

import time
from collections.abc import Callable
from functools import partial
from typing import TypeVar

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QObject, QTimer

from ...arrays import Array, Pixels, Rows
from ...checks import Judged, Measures, judged
from ...checks.changes import other_frames
from ...checks.check_renders import CheckRender, looks_at, looks_at_frame, read_looks
from ...checks.measures import MeasuredNumbers, measure_numbers
from ...process.checking import request_of
from ...scene import Scene, SceneError
from ...scene.output import has_output
from ..pictures.render_link import RenderLink
from ..pictures.shown_pictures import ShownFrame
from ..state.background import Errand
from ..state.document import Document

STREAM = "checks"
VERSION = 2
"""The scene as it would be saved, whatever the views show of it."""
_SETTLED_MS = 350
_BUSY_MS = 120
_BLOCK = 48
_JUDGE_SECONDS = 0.6
"""How long pictures are taken in before they are judged again."""
_PATIENCE_SECONDS = 5.0
_T = TypeVar("_T")


class Checker(QObject):
    """Measures the document's scene whenever it has been left alone for a moment. An edit drops exactly the frames that
    look or move differently after it; those nearest to the playhead are measured first."""

    def __init__(
        self, document: Document, link: RenderLink, is_wanted: Callable[[], bool], is_busy: Callable[[], bool]
    ) -> None:
        """``is_wanted``: whether anybody wants to know. ``is_busy``: whether something goes on that must not be slowed
        down."""
        super().__init__()
        self._document, self._link, self._is_wanted, self._is_busy = document, link, is_wanted, is_busy
        self.measures: Measures | None = None
        self._scene: Scene | None = None
        self._looks: tuple[CheckRender, ...] = ()
        self._here: tuple[CheckRender, ...] = ()
        """Those of the frame that is looked at."""
        self.errand: Errand | None = None
        self._stopped = False
        self.stale = True
        self._judged_at = 0.0
        self._asked: tuple[int, int, float] | None = None
        self._came: list[Pixels] = []
        self._read_from = (document.file.base, document.file.allowed)
        self.dropped = (0, 0)
        """Of how many frames the last edit dropped numbers and pictures."""
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.timeout.connect(self.step)
        link.drawn.connect(self._drawn)
        link.restarted.connect(self._restarted)
        document.changed.connect(self.wake)
        document.playhead.moved.connect(self._give_way)
        document.opened.connect(self._forget)
        document.file.changed.connect(self._see_files)

    @property
    def wants_pictures(self) -> bool:
        """Whether there are frames whose pictures were not looked at yet."""
        return self.measures is not None and bool(self._looks) and not bool(self.measures.pictured.all())

    def margins(self) -> Array | None:
        """How far artwork reaches beyond the camera's picture at its sides (N, 4), NaN where nobody looked yet; None
        while the scene is another one than was looked at."""
        measures = self.measures
        if measures is None or self._scene is not self._document.scene:
            return None
        return measures.coverage[:, 0, 2:]

    def wake(self) -> None:
        """Look again once nothing has happened for a moment."""
        if self._stopped or not self._is_wanted():
            return
        if self._document.scene is not self._scene or self.stale or self.wants_pictures:
            self._wait.start(_SETTLED_MS)

    def _give_way(self) -> None:
        """While somebody scrubs, what is seen comes first."""
        if self._wait.isActive():
            self._wait.start(_SETTLED_MS)

    def _forget(self) -> None:
        self.measures, self._scene, self._asked, self._came = None, None, None, []
        self._link.forget(STREAM)
        self._document.checked.tell(None, ())
        # Once the event loop has come round, and with it the panels of what was opened are painted.
        QTimer.singleShot(0, self.wake)

    def _see_files(self) -> None:
        """What is read may be elsewhere, or may be read only now."""
        file = self._document.file
        if (file.base, file.allowed) != self._read_from:
            self._read_from = (file.base, file.allowed)
            self.look_again()

    def look_again(self) -> None:
        """Files are others than they were: pictures may look different."""
        if self.measures is not None:
            self.measures.pictured[:] = False
            self.stale = True
            self.wake()

    # One thing at a time

    def step(self) -> None:
        document = self._document
        if self._stopped or self.errand is not None or not self._is_wanted():
            return
        if document.gesture.running or document.views.is_proposing or self._is_busy():
            self._wait.start(_SETTLED_MS)
            return
        scene = document.scene
        if scene is not self._scene and not self._move_on(scene):
            return
        measures = self.measures
        if measures is None:
            return
        lacking = np.flatnonzero(~measures.known)
        if len(lacking):
            rows = self._nearest(lacking)[:_BLOCK]
            frames = measures.frames[rows]
            self._run("measure", lambda: measure_numbers(scene, frames), partial(self._measured, scene, measures, rows))
        elif self.stale and (self._judged_at == 0.0 or time.monotonic() - self._judged_at > _JUDGE_SECONDS):
            self._judge(scene, measures)
        elif self._looks and not measures.pictured.all():
            self._ask()
        elif self.stale:
            self._judge(scene, measures)

    def _move_on(self, scene: Scene) -> bool:
        """Be at the scene as it is now; False while that is being found out."""
        checked, old, measures = self._document.checked, self._scene, self.measures
        self.stale = True
        self._judged_at = 0.0
        if not has_output(scene):
            self.measures, self._scene = None, scene
            checked.looked_at = checked.total = 0
            checked.tell(scene, ())
            return False
        if measures is None or old is None or not measures.is_like(scene):
            self.measures = Measures(scene)
            self._settle_on(scene)
            return True
        frames = measures.frames
        self._run("compare", lambda: other_frames(old, scene, frames), partial(self._compared, scene))
        return False

    def _settle_on(self, scene: Scene) -> None:
        self._scene = scene
        self._looks = looks_at(scene)
        self._asked, self._came = None, []
        self._link.forget(STREAM)
        self._link.set_scene(scene, self._document.file.base, VERSION)

    def _nearest(self, rows: Rows) -> Rows:
        """Rows in the order in which they are looked for: near the playhead first."""
        assert self.measures is not None
        off = np.abs(self.measures.frames[rows] - self._document.playhead.frame)
        return np.asarray(rows[np.argsort(off, kind="stable")])

    def _judge(self, scene: Scene, measures: Measures) -> None:
        self.stale = False
        self._judged_at = time.monotonic()
        count = len(measures.formats)
        self._run(
            "judge",
            lambda: tuple(judged(scene, measures, k) for k in range(count)),
            partial(self._was_judged, scene, measures),
        )

    def _run(self, what: str, work: Callable[[], _T], done: Callable[[_T], None]) -> None:
        """Work something out in a thread; ``done`` takes what it gives."""

        def take(found: _T) -> None:
            self.errand = None
            done(found)

        name = f"checks: {what}"
        self.errand = self._document.background.start(name, lambda errand: work(), take, failed=self._failed)

    def _failed(self, problem: Exception) -> None:
        """It is tried again with the next change."""
        self.errand = None
        self._document.checked.problem = f"The checks could not be made: {problem}"
        self._document.checked.tell(self._scene, ())
        if not isinstance(problem, SceneError):
            raise problem

    def _go_on(self) -> None:
        self._document.checked.problem = ""
        self._wait.start(0)

    def _compared(self, scene: Scene, others: tuple[Rows, Rows]) -> None:
        numbers, pictures = others
        if self.measures is not None and self.measures.is_like(scene):
            self.measures.forget(numbers, pictures)
            self.dropped = (len(numbers), len(pictures))
            self._settle_on(scene)
        self._go_on()

    def _measured(self, scene: Scene, measures: Measures, rows: Rows, numbers: MeasuredNumbers) -> None:
        if measures is self.measures and scene is self._scene:
            measures.put_numbers(rows, numbers)
            self.stale = True
        self._go_on()

    def _was_judged(self, scene: Scene, measures: Measures, verdicts: tuple[Judged, ...]) -> None:
        self._tell(scene, verdicts, measures)
        self._go_on()

    def _tell(self, scene: Scene, verdicts: tuple[Judged, ...], measures: Measures) -> None:
        checked = self._document.checked
        checked.looked_at = int(measures.pictured.sum()) if self._looks else len(measures)
        checked.total = len(measures)
        checked.tell(scene, verdicts)

    # Pictures

    def _ask(self) -> None:
        measures, now = self.measures, time.monotonic()
        assert measures is not None
        if self._asked is not None and now - self._asked[2] < _PATIENCE_SECONDS:
            self._wait.start(_BUSY_MS)
            return
        if self._link.is_busy:
            self._wait.start(_BUSY_MS)
            return
        # A frame that was begun is finished first.
        row = self._asked[0] if self._came and self._asked is not None else None
        if row is None:
            row, self._came = int(self._nearest(np.flatnonzero(~measures.pictured))[0]), []
            self._here = looks_at_frame(self._looks, measures, row)
            if not self._here:
                self._read(measures, row)
                return
        look = self._here[len(self._came)]
        self._asked = (row, len(self._came), now)
        self._link.want(STREAM, replace(request_of(look, float(measures.frames[row])), version=VERSION))

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        if stream != STREAM:
            return
        asked, measures, scene = self._asked, self.measures, self._scene
        self._link.forget(STREAM)
        if asked is None or measures is None or scene is None or not drawn.complete:
            self._asked = None
            # Artwork is still being read: what lacks it would be found bare.
            self._wait.start(_SETTLED_MS if not drawn.complete else 0)
            return
        row = asked[0]
        self._came.append(drawn.pixels.copy())
        if len(self._came) == len(self._here):
            self._read(measures, row)
        else:
            self._asked = (row, len(self._came), 0.0)
            self._wait.start(0)

    def _read(self, measures: Measures, row: int) -> None:
        """What the pictures of a frame tell."""
        if self._scene is not None and self._scene is self._document.scene:
            measures.put_picture(row, read_looks(self._scene, float(measures.frames[row]), self._here, self._came))
            self.stale = True
        self._asked, self._came = None, []
        self._wait.start(0)

    def _restarted(self) -> None:
        """The render process is a new one."""
        self._asked, self._came = None, []
        self.wake()

    def stop(self) -> None:
        self._stopped = True
        self._wait.stop()
        self._document.background.let_go(self.errand)
