"""Notifications in the strip at the head of the window: recoveries, missing files, files outside, a held scene."""

import os
import socket
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ...files.autosave import Recovery
from ...files.scene_lock import Holder
from ..state.document import Document
from .scene_files import SceneFiles
from .status import Banner


class Offers(QObject):
    """Puts to the user what scene files ran into."""

    find_wanted = pyqtSignal()
    """Missing pictures are to be looked for."""
    allowed = pyqtSignal()
    """More files may be read than before."""

    def __init__(self, document: Document, files: SceneFiles, banner: Banner) -> None:
        super().__init__()
        self._document, self._files, self._banner = document, files, banner
        document.opened.connect(banner.clear)
        files.recoveries_found.connect(self._recoveries)
        files.artwork_missing.connect(self._missing)
        files.artwork_outside.connect(self._outside)
        files.held_elsewhere.connect(self._held)
        files.changed_on_disk.connect(self._reload)

    def _name(self, otherwise: str) -> str:
        path = self._document.file.path
        return path.name if path else otherwise

    def _recoveries(self, found: list[Recovery]) -> None:
        """Offer the newest, and when that is decided the next. What is not decided stays where it is."""
        recovery, rest = found[0], found[1:]
        when = datetime.fromtimestamp(recovery.modified)
        what = recovery.scene_path.name if recovery.scene_path else "a scene that was never saved"
        than = (
            ""
            if recovery.scene_path is None
            else ", newer than the file"
            if recovery.newer
            else ", older than the file"
        )

        def decided(choose: Callable[[Recovery], None]) -> None:
            choose(recovery)
            if rest and choose == self._files.discard:
                self._recoveries(rest)

        self._banner.offer(
            f"After a crash there is an autosave of {what} from {when:%d %B, %H:%M}{than}.",
            {
                "Recover": lambda: decided(self._files.recover),
                "Discard": lambda: decided(self._files.discard),
                "Not now": None,
            },
        )

    def _outside(self, paths: list[Path]) -> None:
        folders = list(dict.fromkeys(os.path.dirname(os.path.realpath(path)) for path in paths))
        names = ", ".join(folders[:2]) + (f" and {len(folders) - 2} more" if len(folders) > 2 else "")
        self._banner.offer(
            f"This scene wants to read files outside its folder, in {names}.",
            {"Allow": lambda: self._allow(paths), "Not now": None},
        )

    def _allow(self, paths: list[Path]) -> None:
        self._document.file.allow(paths)
        self.allowed.emit()

    def _held(self, holder: Holder | None) -> None:
        name = self._name("This scene")
        where = f" on {holder.host}" if holder is not None and holder.host not in ("", socket.gethostname()) else ""
        self._banner.offer(
            f"{name} is open in another window{where}. Here you can look at it, and save it under another name.",
            {"Open a copy": self._files.open_copy, "Look only": None},
        )

    def _reload(self) -> None:
        name = self._name("The scene")
        self._banner.offer(
            f"{name} was changed on disk by another program.", {"Reload": self._files.reload, "Keep what is here": None}
        )

    def _missing(self, count: int) -> None:
        self._banner.offer(
            "A picture is missing; a labelled stand-in is shown."
            if count == 1
            else f"{count} pictures are missing; labelled stand-ins are shown.",
            {"Find…": self.find_wanted.emit, "Not now": None},
        )
