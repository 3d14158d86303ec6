"""Handing a scene over: gathered into a folder or zip, or as a bundle for render queues."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QThread, pyqtSignal
from PyQt6.QtWidgets import QProgressBar, QWidget

from ...files.errors import FileError
from ...files.permission import Permission
from ...files.reader import Reader
from ...scene import SceneError
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel import label, set_tone
from ..widgets.theme import REED, RUST
from ..widgets.unexpected import reports

Step = Callable[[int, int], None]
Work = Callable[[Step], tuple[Path, tuple[Path, ...]]]
"""Writes something, and says what, and which files were not there."""


class _Stopped(Exception):
    pass


class _Working(QThread):
    progressed = pyqtSignal(int, int)
    ended = pyqtSignal(object, object, str)

    def __init__(self, work: Work, parent: QObject) -> None:
        super().__init__(parent)
        self._work = work
        self.cancelled = False

    def run(self) -> None:
        try:
            path, missing = self._work(self._step)
            self.ended.emit(path, missing, "")
        except _Stopped:
            self.ended.emit(None, (), "Cancelled. Nothing was left behind.")
        except (FileError, SceneError) as problem:
            self.ended.emit(None, (), str(problem))
        except Exception as problem:  # A thread must not take the program with it.
            reports.report(problem)
            self.ended.emit(None, (), f"It could not be written: {problem}.")

    def _step(self, done: int, total: int) -> None:
        if self.cancelled:
            raise _Stopped
        self.progressed.emit(done, total)


class HandingOverDialog(Dialog):
    """Shows how far it is, and what came of it."""

    def __init__(self, title: str, work: Work, said: Callable[[str], None], parent: QWidget | None = None) -> None:
        super().__init__(title, parent, 420)
        self._said = said
        self.bar = QProgressBar()
        self.line = label("Looking what belongs to it…", "soft")
        self.line.setWordWrap(True)
        self.button = push_button("Cancel", self.close, default=False)
        self.column.addWidget(self.bar)
        self.column.addWidget(self.line)
        self.add_buttons(self.button)
        self.bar.setRange(0, 0)
        self._working: _Working | None = _Working(work, self)
        self._working.progressed.connect(self._progressed)
        self._working.ended.connect(self._ended)
        self._working.start()

    def _progressed(self, done: int, total: int) -> None:
        self.bar.setRange(0, total)
        self.bar.setValue(done)
        self.line.setText(f"{done} of {total} files")

    def _ended(self, path: Path | None, missing: tuple[Path, ...], problem: str) -> None:
        working, self._working = self._working, None
        if working is not None:
            working.wait()
        self.bar.hide()
        self.button.setText("Close")
        if path is None:
            self.line.setText(problem)
            set_tone(self.line, RUST)
            return
        left = ", ".join(each.name for each in missing[:4]) + (
            f" and {len(missing) - 4} more" if len(missing) > 4 else ""
        )
        gone = f"\nLeft out, since it is missing or may not be read: {left}." if missing else ""
        self.line.setText(f"Written: {path}{gone}")
        set_tone(self.line, RUST if missing else REED)
        self._said(f"Written: {path.name}")

    def closeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if self._working is not None:
            self._working.cancelled = True
            self._working.wait()
        super().closeEvent(event)


def reader_for(permission: Permission | None) -> Reader:
    """A reader of what the user permits."""
    return Reader(1, permission)
