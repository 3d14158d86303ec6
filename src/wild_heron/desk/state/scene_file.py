"""Where the open scene is kept, and which other files may be read for it."""

import os
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from ...files.errors import FileError
from ...files.permission import Permission, allow, allowed_folders, for_scene
from .status_messages import Messages

if TYPE_CHECKING:
    from ...files.reader import Reader


class SceneFile(QObject):
    """The scene's path, and what reads files from strangers."""

    changed = pyqtSignal()
    """The path, or whether there is something to save."""

    def __init__(self, messages: Messages) -> None:
        super().__init__()
        self._messages = messages
        self.allowed = allowed_folders()
        """Folders outside the scene's own whose files may be read."""
        self.path: Path | None = None
        self.base: Path | None = None
        """Where artwork paths start from."""
        self.permission: Permission = for_scene(None, self.allowed)
        """Which files may be read."""
        self._reader: Reader | None = None

    def move_to(self, path: Path | None, base: Path | None = None) -> None:
        """The scene is kept elsewhere from now on."""
        self.path = path
        self.base = base if base is not None else (path.parent if path else None)
        self._permit()

    def allow(self, files: Iterable[Path]) -> None:
        """The user chose these files: what lies in their folders may be read from now on."""
        files = list(files)
        try:
            self.allowed = allow(files)
        except FileError as problem:
            # For now it is allowed all the same; it will be asked about again.
            self.allowed = (*self.allowed, *(os.path.realpath(file.parent) for file in files))
            self._messages.say(str(problem), True)
        self._permit()
        self.changed.emit()

    def _permit(self) -> None:
        self.permission = for_scene(self.base, self.allowed)
        if self._reader is not None:
            self._reader.permission = self.permission

    @property
    def reader(self) -> "Reader":
        """Reads files from strangers, as far as the scene and the user allow it."""
        if self._reader is None:
            # What starts processes is loaded when it is wanted.
            from ...files.reader import Reader

            self._reader = Reader(permission=self.permission)
        return self._reader

    def stop(self) -> None:
        """For when the program ends."""
        if self._reader is not None:
            self._reader.close()
