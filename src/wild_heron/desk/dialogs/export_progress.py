"""What every export has: how it stands, progress with an estimate, and a cancel that leaves no half file."""

import time
from abc import abstractmethod
from collections.abc import Mapping
from functools import partial
from pathlib import Path
from types import MappingProxyType
from typing import NamedTuple

from PyQt6.QtWidgets import QLayout, QProgressBar, QPushButton, QWidget

from ...arrays import Pixels
from ...files.artwork_files import files_of
from ...files.errors import FileError
from ...output.job import ExportJob
from ...output.several import export_each
from ...process.messages import RenderError
from ...scene import Scene, SceneError
from ..state.background import Errand
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel_parts import label, set_tone
from ..widgets.theme import REED, RUST
from ..widgets.unexpected import reports

Held = Mapping[float, Pixels]
"""Frames that need not be drawn, (H, W, 4) uint8."""


class _Ended(NamedTuple):
    """What was written, and what went wrong: in words, and where it is a mistake of ours."""

    written: list[Path]
    problem: str = ""
    mistake: Exception | None = None


def _export(scene: Scene, base: Path | None, jobs: list[ExportJob], held: Held, errand: Errand) -> _Ended:
    """Export away from the interface."""
    written: list[Path] = []
    try:
        for path in export_each(scene, base, jobs, errand.tell, errand.is_cancelled, held):
            written.append(path)
        return _Ended(written)
    except (FileError, RenderError, SceneError) as problem:
        return _Ended(written, str(problem))
    except Exception as problem:
        path = jobs[len(written)].path
        said = f"{path}: could not be written: {problem}. Nothing of it was left behind."
        return _Ended(written, said, problem)


class ExportingDialog(Dialog):
    """Not modal: work goes on while it writes. What is written is the subclass's ``jobs``."""

    def __init__(self, document: Document, title: str, verb: str, parent: QWidget | None) -> None:
        super().__init__(title, parent, 500, stays=True)
        self.document = document
        self._verb = verb
        self._runner: Errand | None = None
        self._count = 1
        self._started = 0.0
        self._may_replace: list[Path] = []
        self._may_miss = False
        self.bar = QProgressBar()
        self.bar.setVisible(False)
        self.line = label("", "soft")
        self.line.setWordWrap(True)
        self.go = push_button(verb, self.start)
        self.go.setDefault(True)
        self.stop = push_button("Close", self._stop)

    def lay_out(self, form: QLayout, *more: QPushButton, apart: QPushButton | None = None) -> None:
        """The form over the progress and the buttons, with ``more`` of them before the last."""
        self.column.addLayout(form)
        self.column.addWidget(self.bar)
        self.column.addWidget(self.line)
        self.add_buttons(self.stop, *more, self.go, apart=apart)

    @abstractmethod
    def job(self) -> ExportJob:
        """What is entered. ValueError or SceneError say what is wrong."""

    def jobs(self) -> list[ExportJob]:
        """Everything that is written, one after the other."""
        return [self.job()]

    def scene(self) -> Scene:
        """What is drawn."""
        return self.document.scene

    def held(self) -> Held:
        """Frames that are there already."""
        return MappingProxyType({})

    def ready(self, verb: str) -> list[ExportJob] | None:
        """The jobs, where all of them can be done and the user knows what is in the way; else it is told. ``verb``:
        what is to be pressed again."""
        try:
            jobs = self.jobs()
            for job in jobs:
                job.check()
        except (ValueError, FileError) as problem:
            self.tell(str(problem), RUST)
            return None
        targets = [each.written()[0] for each in jobs]
        there = [each for each in targets if each.exists()]
        if there and self._may_replace != there:
            self._may_replace = there
            more = f" and {len(there) - 1} more are" if len(there) > 1 else " is"
            self.tell(f"{there[0].name}{more} there already. {verb} again to replace.", RUST)
            return None
        troubled = self._troubled()
        if troubled and not self._may_miss:
            self._may_miss = True
            self.tell(f"{troubled} {verb} again to write it all the same.", RUST)
            return None
        self._may_replace, self._may_miss = [], False
        return jobs

    def start(self) -> None:
        jobs = self.ready(self._verb)
        if jobs is None:
            return
        self._count = len(jobs)
        work = partial(_export, self.scene(), self.document.file.base, jobs, self.held())
        self._runner = self.document.background.start("export", work, self._ended, self._progress)
        self._started = time.monotonic()
        self.bar.setVisible(True)
        self.bar.setRange(0, sum(len(job.frames) for job in jobs))
        self.bar.setValue(0)
        self.go.setEnabled(False)
        self.stop.setText("Cancel")
        self.tell("Starting…")

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
            self.tell(f"{done} of {total} frames, about {duration(left)} left")

    def _ended(self, ended: _Ended) -> None:
        written, problem, mistake = ended
        self._runner = None
        if mistake is not None:
            reports.report(mistake)
        self.bar.setVisible(False)
        self.go.setEnabled(True)
        self.stop.setText("Close")
        names = ", ".join(path.name for path in written)
        if len(written) == self._count:
            took = duration(time.monotonic() - self._started)
            troubled = self._troubled()
            where = str(written[0]) if len(written) == 1 else f"{names} in {written[0].parent}"
            self.tell(f"Written: {where}  ({took})" + (f"\n{troubled}" if troubled else ""), RUST if troubled else REED)
            self.document.messages.say(f"Written: {names}")
            return
        said = problem or "Cancelled. Nothing was left behind."
        if written:
            was = "was" if len(written) == 1 else "were"
            said = f"{problem or 'Cancelled.'} {names} {was} written before; nothing else was left behind."
        self.tell(said, RUST if problem else "")

    def _stop(self) -> None:
        if self._runner is not None:
            self._runner.cancel()
            self.tell("Cancelling…")
        else:
            self.close()

    @property
    def is_running(self) -> bool:
        return self._runner is not None

    def shut_down(self) -> None:
        """Cancel and wait; for when the program ends."""
        if self._runner is not None:
            self._runner.cancel()
            self._runner.wait()

    def reject(self) -> None:
        self._stop()


def duration(seconds: float) -> str:
    """A length of time in words."""
    whole = max(0, round(seconds))
    return f"{whole} s" if whole < 60 else f"{whole // 60} min {whole % 60:02d} s"
