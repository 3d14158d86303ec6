"""Saves a snapshot beside the scene now and then, off the interface's thread."""

from pathlib import Path

from PyQt6.QtCore import QObject, QTimer

from ...files.artwork_files import rebase
from ...files.autosave import autosave_path, discard_autosave, write_autosave
from ...files.errors import FileError
from ...files.sessions import Session
from ...scene import Scene, SceneError
from ..state.background import Errand
from ..state.document import Document
from ..state.preferences import Preferences


class Autosaver(QObject):
    """Watches a document; what it wrote is removed when the scene is saved or closed in order."""

    def __init__(self, document: Document, preferences: Preferences) -> None:
        super().__init__()
        self._document, self._preferences = document, preferences
        self.session = Session()
        self._writing: Errand | None = None
        self._next: tuple[Scene, Path, Path | None] | None = None
        """What is written once what is being written is: one after the other."""
        self._written: Path | None = None
        self._stale: list[Path | None] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.write)
        document.changed.connect(self._changed)

    def _changed(self) -> None:
        if self._document.is_modified and not self._timer.isActive():
            self._timer.start(1000 * self._preferences.autosave_seconds)

    def write(self) -> None:
        """Write a snapshot now."""
        document = self._document
        if not document.is_modified:
            return
        path = autosave_path(document.file.path, self.session.token)
        scene = document.scene if document.file.path else rebase(document.scene, document.file.base, None)
        if self._written not in (None, path):
            self._stale.append(self._written)
        self._written = path
        self._next = (scene, path, document.file.path)
        if self._writing is None:
            self._begin()

    def _begin(self) -> None:
        snapshot, self._next = self._next, None
        if snapshot is None:
            return
        self._writing = self._document.background.start(
            "autosave", lambda errand: write_autosave(*snapshot), self._took, failed=self._failed
        )

    def _took(self, _: object) -> None:
        self._writing = None
        self._begin()

    def _failed(self, problem: Exception) -> None:
        self._took(None)
        if not isinstance(problem, FileError | SceneError):
            raise problem
        self._document.messages.say(f"Autosave: {problem}", True)

    def clear(self) -> None:
        """The scene is saved, or let go on purpose: nothing is to be recovered."""
        self._timer.stop()
        self.wait()
        written, self._written = [*self._stale, self._written], None
        self._stale = []
        for path in written:
            try:
                if path is not None:
                    discard_autosave(path)
            except FileError as problem:
                self._document.messages.say(str(problem), True)

    @property
    def is_written(self) -> bool:
        """Whether there is a snapshot on disk."""
        return self._written is not None and self._written.exists()

    def wait(self) -> None:
        """Wait until what there is to write is written."""
        background = self._document.background
        while self._writing is not None and not background.is_stopped:
            background.finish(self._writing)
