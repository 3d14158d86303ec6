"""What every export has: how it stands, progress with an estimate, and a cancel that leaves no half file."""

import time
from abc import abstractmethod
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType

from PyQt6.QtCore import QObject, QThread, pyqtSignal
from PyQt6.QtWidgets import QLayout, QProgressBar, QWidget

from ...arrays import Pixels
from ...files.artwork import files_of
from ...files.errors import FileError
from ...render.export import ExportJob, export
from ...render.messages import RenderError
from ...scene import Scene, SceneError
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel import label, set_tone
from ..widgets.theme import REED, RUST
from ..widgets.unexpected import reports

Held = Mapping[float, Pixels]
"""Frames that need not be drawn, (H, W, 4) uint8."""


class _Runner(QThread):
    """Exports away from the interface."""

    progressed = pyqtSignal(int, int)
    ended = pyqtSignal(bool, str)

    def __init__(self, scene: Scene, base: Path | None, job: ExportJob, held: Held, parent: QObject) -> None:
        super().__init__(parent)
        self._scene, self._base, self._job, self._held = scene, base, job, held
        self.cancelled = False

    def run(self) -> None:
        try:
            stop = lambda: self.cancelled  # noqa: E731
            finished = export(self._scene, self._base, self._job, self.progressed.emit, stop, self._held)
            self.ended.emit(finished, "")
        except (FileError, RenderError, SceneError) as problem:
            self.ended.emit(False, str(problem))
        except Exception as problem:  # A thread must not take the program with it.
            reports.report(problem)
            self.ended.emit(False, f"{self._job.path}: could not be written: {problem}. Nothing was left behind.")


class ExportingDialog(Dialog):
    """Not modal: work goes on while it writes. What is written is the subclass's ``job``."""

    def __init__(self, document: Document, title: str, verb: str, parent: QWidget | None) -> None:
        super().__init__(title, parent, 500, stays=True)
        self.document = document
        self._verb = verb
        self._runner: _Runner | None = None
        self._written = Path()
        self._started = 0.0
        self._may_replace: Path | None = None
        self._may_miss = False
        self.bar = QProgressBar()
        self.bar.setVisible(False)
        self.line = label("", "soft")
        self.line.setWordWrap(True)
        self.go = push_button(verb, self.start)
        self.go.setDefault(True)
        self.stop = push_button("Close", self._stop)

    def lay_out(self, form: QLayout) -> None:
        """The form over the progress and the buttons."""
        self.column.addLayout(form)
        self.column.addWidget(self.bar)
        self.column.addWidget(self.line)
        self.add_buttons(self.stop, self.go)

    @abstractmethod
    def job(self) -> ExportJob:
        """What is entered. ValueError or SceneError say what is wrong."""

    def scene(self) -> Scene:
        """What is drawn."""
        return self.document.scene

    def held(self) -> Held:
        """Frames that are there already."""
        return MappingProxyType({})

    def start(self) -> None:
        try:
            job = self.job()
            job.check()
        except (ValueError, FileError) as problem:
            self.tell(str(problem), RUST)
            return
        target = job.path if "#" not in job.path.name else job.frame_path(job.frames[0])
        if target.exists() and self._may_replace != target:
            self._may_replace = target
            self.tell(f"{target.name} is there already. {self._verb} again to replace it.", RUST)
            return
        troubled = self._troubled()
        if troubled and not self._may_miss:
            self._may_miss = True
            self.tell(f"{troubled} {self._verb} again to write it all the same.", RUST)
            return
        self._may_replace, self._may_miss, self._written = None, False, job.path
        self._runner = _Runner(self.scene(), self.document.file.base, job, self.held(), self)
        self._runner.progressed.connect(self._progress)
        self._runner.ended.connect(self._ended)
        self._started = time.monotonic()
        self.bar.setVisible(True)
        self.bar.setRange(0, len(job.frames))
        self.bar.setValue(0)
        self.go.setEnabled(False)
        self.stop.setText("Cancel")
        self.tell("Starting…")
        self._runner.start()

    def _troubled(self) -> str:
        """What is drawn as a stand-in, as a sentence; "" for nothing."""
        document = self.document
        permission = document.file.permission
        files = files_of(self.scene(), document.file.base)
        gone = [path.name for path in files if not path.is_file() or (permission and not permission.allows(path))]
        if not gone:
            return ""
        more = f" and {len(gone) - 2} more" if len(gone) > 2 else ""
        return f"{', '.join(gone[:2])}{more} cannot be read: a labelled stand-in is drawn."

    def tell(self, text: str, tone: str = "") -> None:
        self.line.setText(text)
        set_tone(self.line, tone)

    def _progress(self, done: int, total: int) -> None:
        self.bar.setValue(done)
        elapsed = time.monotonic() - self._started
        if done:
            left = elapsed / done * (total - done)
            self.tell(f"{done} of {total} frames, about {_duration(left)} left")

    def _ended(self, finished: bool, problem: str) -> None:
        runner, self._runner = self._runner, None
        if runner is not None:
            runner.wait()
        self.bar.setVisible(False)
        self.go.setEnabled(True)
        self.stop.setText("Close")
        if finished:
            took = _duration(time.monotonic() - self._started)
            troubled = self._troubled()
            self.tell(
                f"Written: {self._written}  ({took})" + (f"\n{troubled}" if troubled else ""),
                RUST if troubled else REED,
            )
            self.document.messages.say(f"Written: {self._written.name}")
        elif problem:
            self.tell(problem, RUST)
        else:
            self.tell("Cancelled. Nothing was left behind.")

    def _stop(self) -> None:
        if self._runner is not None:
            self._runner.cancelled = True
            self.tell("Cancelling…")
        else:
            self.close()

    @property
    def is_running(self) -> bool:
        return self._runner is not None

    def shut_down(self) -> None:
        """Cancel and wait; for when the program ends."""
        if self._runner is not None:
            self._runner.cancelled = True
            self._runner.wait()

    def reject(self) -> None:
        self._stop()


def _duration(seconds: float) -> str:
    whole = max(0, round(seconds))
    return f"{whole} s" if whole < 60 else f"{whole // 60} min {whole % 60:02d} s"
