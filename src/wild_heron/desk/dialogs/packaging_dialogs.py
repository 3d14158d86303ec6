"""Handing a scene over: gathered into a folder or zip, or as a bundle for render queues."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import NamedTuple

from PyQt6.QtWidgets import QProgressBar, QWidget

from ...files.errors import FileError
from ...files.permission import Permission
from ...files.reader import Reader
from ...scene import SceneError
from ..state.background import Errand
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel_parts import label, set_tone
from ..widgets.theme import REED, RUST

Step = Callable[[int, int], None]
Work = Callable[[Step], tuple[Path, tuple[Path, ...]]]
"""Writes something, and says what, and which files were not there."""


class _Stopped(Exception):
    pass


class _Ended(NamedTuple):
    """What was written, which files were not there, and what went wrong."""

    path: Path | None
    missing: tuple[Path, ...] = ()
    problem: str = ""


def _carried_out(work: Work, errand: Errand) -> _Ended:
    def step(done: int, total: int) -> None:
        if errand.cancelled:
            raise _Stopped
        errand.tell(done, total)

    try:
        return _Ended(*work(step))
    except _Stopped:
        return _Ended(None, problem="Cancelled. Nothing was left behind.")
    except (FileError, SceneError) as problem:
        return _Ended(None, problem=str(problem))


class HandingOverDialog(Dialog):
    """Shows how far it is, and what came of it."""

    def __init__(self, title: str, work: Work, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(title, parent, 420)
        self._document = document
        self.bar = QProgressBar()
        self.line = label("Looking what belongs to it…", "soft")
        self.line.setWordWrap(True)
        self.button = push_button("Cancel", self.close, default=False)
        self.column.addWidget(self.bar)
        self.column.addWidget(self.line)
        self.add_buttons(self.button)
        self.bar.setRange(0, 0)
        self._working: Errand | None = document.background.start(
            title, partial(_carried_out, work), self._ended, self._progressed, self._failed
        )
        self.finished.connect(self._give_up)

    def _give_up(self) -> None:
        if self._working is not None:
            self._working.cancel()

    def _progressed(self, done: int, total: int) -> None:
        if self.is_left:
            return
        self.bar.setRange(0, total)
        self.bar.setValue(done)
        self.line.setText(f"{done} of {total} files")

    def _failed(self, problem: Exception) -> None:
        self._ended(_Ended(None, problem=f"It could not be written: {problem}."))
        raise problem

    def _ended(self, ended: _Ended) -> None:
        path, missing, problem = ended
        self._working = None
        if self.is_left:
            self._document.messages.say(problem if path is None else f"Written: {path.name}", path is None)
            return
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
        self._document.messages.say(f"Written: {path.name}")


def reader_for(permission: Permission | None) -> Reader:
    """A reader of what the user permits."""
    return Reader(1, permission)
