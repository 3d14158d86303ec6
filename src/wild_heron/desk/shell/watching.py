"""Watching the scene's files: what changes on disk is read again by itself."""

import os
from pathlib import Path

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from ...files.artwork_files import files_of
from ..state.document import Document

_SETTLED_MS = 250
"""A program that writes a file touches it several times; this long after the last time it is looked at."""


class FileWatcher(QObject):
    """Says which of the scene's files changed, appeared or went.

    Folders are watched beside the files, since many programs write a new file and put it in the old one's place, and
    so that a missing file is noticed when it comes.
    """

    changed = pyqtSignal(list)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._touched)
        self._watcher.directoryChanged.connect(self._touched)
        self._stamps: dict[Path, tuple[int, int] | None] = {}
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLED_MS)
        self._settle.timeout.connect(self._look)
        self._watched_for: tuple[tuple[str, ...], Path | None] | None = None
        document.changed.connect(lambda: document.turns.ask(self, self._follow))
        document.file.changed.connect(lambda: document.turns.ask(self, self._follow))

    def _follow(self) -> None:
        """Watch what the scene uses now."""
        found = files_of(self._document.scene, self._document.file.base)
        key = (tuple(map(str, found)), self._document.file.base)
        if key == self._watched_for:
            return
        self._watched_for = key
        self._stamps = {path: self._stamps.get(path, _stamp(path)) for path in found}
        wanted = {str(path) for path in found if path.exists()}
        wanted |= {str(path.parent) for path in found if path.parent.is_dir()}
        now = {*self._watcher.files(), *self._watcher.directories()}
        if now - wanted:
            self._watcher.removePaths(sorted(now - wanted))
        if wanted - now:
            self._watcher.addPaths(sorted(wanted - now))

    def stop(self) -> None:
        """For when the window closes: the kernel watches no more, of which it does only so much for a user."""
        self._settle.stop()
        self._watcher.deleteLater()

    def _touched(self) -> None:
        self._settle.start()

    def _look(self) -> None:
        changed = []
        for path, old in self._stamps.items():
            new = _stamp(path)
            if new != old:
                self._stamps[path] = new
                changed.append(path)
        # A file that was put in another's place is watched no more.
        again = [str(path) for path in changed if path.exists() and str(path) not in self._watcher.files()]
        if again:
            self._watcher.addPaths(again)
        if changed:
            self.changed.emit(changed)


def _stamp(path: Path) -> tuple[int, int] | None:
    try:
        status = os.stat(path)
    except OSError:
        return None
    return status.st_mtime_ns, status.st_size
