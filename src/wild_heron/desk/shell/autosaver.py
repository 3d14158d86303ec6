"""Saves a snapshot beside the scene now and then, off the interface's thread."""

from pathlib import Path

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, QTimer, pyqtSignal

from ...files.artwork import rebase
from ...files.autosave import autosave_path, discard_autosave, write_autosave
from ...files.errors import FileError
from ...files.sessions import Session
from ...scene import Scene, SceneError
from ..state.document import Document
from ..state.preferences import Preferences
from ..widgets.unexpected import reports


class _Signals(QObject):
    failed = pyqtSignal(str)


class _Write(QRunnable):
    def __init__(self, scene: Scene, path: Path, mode_of: Path | None, signals: _Signals) -> None:
        super().__init__()
        self._scene, self._path, self._mode_of, self._signals = scene, path, mode_of, signals

    def run(self) -> None:
        try:
            write_autosave(self._scene, self._path, self._mode_of)
        except (FileError, SceneError) as problem:
            self._signals.failed.emit(f"Autosave: {problem}")
        except Exception as problem:  # A thread must not take the program with it.
            reports.report(problem)


class Autosaver(QObject):
    """Watches a document; what it wrote is removed when the scene is saved or closed in order."""

    def __init__(self, document: Document, preferences: Preferences) -> None:
        super().__init__()
        self._document, self._preferences = document, preferences
        self.session = Session()
        self._signals = _Signals()
        self._signals.failed.connect(lambda text: document.messages.say(text, True))
        self._pool = QThreadPool()
        self._pool.setMaxThreadCount(1)
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
        self._pool.start(_Write(scene, path, document.file.path, self._signals))

    def clear(self) -> None:
        """The scene is saved, or let go on purpose: nothing is to be recovered."""
        self._timer.stop()
        self._pool.waitForDone()
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
        """Wait for a snapshot that is being written."""
        self._pool.waitForDone()
