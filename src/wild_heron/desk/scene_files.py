"""Opening, saving and recovering scene files from the window."""

import os
from datetime import datetime
from pathlib import Path

import platformdirs
from PyQt6.QtCore import QObject, QSettings, Qt, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from ..files.artwork import missing_artwork, rebase
from ..files.autosave import Recovery, autosave_path, discard_autosave, recovery_for, unsaved_recoveries
from ..files.errors import FileError
from ..files.project import SUFFIX, load, save
from ..scene import Scene, SceneError
from .autosaver import Autosaver
from .document import Document

_FILTER = f"Wild Heron scenes (*{SUFFIX})"
_RECENT = 8


class SceneFiles(QObject):
    """The file side of the window."""

    recovery_found = pyqtSignal(object)
    artwork_missing = pyqtSignal(int)
    recent_changed = pyqtSignal()

    def __init__(self, document: Document, settings: QSettings, window: QWidget) -> None:
        super().__init__(window)
        self._document, self._settings, self._window = document, settings, window
        self.unsaved_folder = Path(platformdirs.user_data_dir("wild-heron")) / "unsaved"
        self.autosaver = Autosaver(document, self.unsaved_folder, str(os.getpid()))

    # Opening

    def new(self) -> None:
        if self.may_leave():
            self.autosaver.clear()
            self._document.reset(Scene(), None)
            self._document.say("A new scene.")

    def ask_open(self) -> None:
        folder = str(self._document.path.parent if self._document.path else Path.home())
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a scene", folder, _FILTER)
        if name:
            self.open(Path(name))

    def open(self, path: Path, as_copy: bool = False, ask: bool = True) -> bool:
        """Open a file; as a copy it has no place of its own until it is saved."""
        if ask and not self.may_leave():
            return False
        try:
            scene = load(path)
        except FileError as problem:
            self._document.say(str(problem), True)
            self._tell("The scene was not opened", str(problem))
            return False
        self.autosaver.clear()
        path = path.resolve()
        if as_copy:
            self._document.reset(scene, None, path.parent)
            self._document.say("This is a copy of the demo: save it where you like.")
        else:
            self._document.reset(scene, path)
            self._remember(path)
            self._document.say(f"Opened {path.name}")
            recovery = recovery_for(path)
            if recovery is not None:
                self.recovery_found.emit(recovery)
        missing = missing_artwork(scene, self._document.base)
        if missing:
            self.artwork_missing.emit(len(missing))
        return True

    def offer_unsaved(self) -> None:
        """Offer what a crash left of a scene that was never saved."""
        found = unsaved_recoveries(self.unsaved_folder)
        if found:
            self.recovery_found.emit(found[0])

    def recover(self, recovery: Recovery) -> None:
        """Take an autosave over, as a change that is yet to be saved."""
        try:
            scene = load(recovery.autosave)
        except FileError as problem:
            self._document.say(str(problem), True)
            return
        self._document.reset(scene, recovery.scene_path, unsaved=True)
        self.autosaver.write()
        self.autosaver.wait()
        mine = autosave_path(recovery.scene_path, self.unsaved_folder, str(os.getpid()))
        if recovery.autosave != mine:
            self.discard(recovery)
        when = datetime.fromtimestamp(recovery.modified)
        self._document.say(f"Recovered what was there at {when:%H:%M}. Save it to keep it.")

    def discard(self, recovery: Recovery) -> None:
        try:
            discard_autosave(recovery.autosave)
        except FileError as problem:
            self._document.say(str(problem), True)

    # Saving

    def save(self) -> bool:
        if self._document.path is None:
            return self.ask_save_as()
        return self.save_to(self._document.path)

    def ask_save_as(self) -> bool:
        document = self._document
        start = document.path or Path.home() / f"{_file_stem(document.scene.name)}{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the scene as", str(start), _FILTER)
        if not name:
            return False
        path = Path(name)
        return self.save_to(path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX))

    def save_to(self, path: Path) -> bool:
        """Save at ``path``, artwork paths rewritten for that place."""
        document = self._document
        path = Path(os.path.abspath(path))
        if document.state.pending:
            document.say("Pending values are not in the file: key them or discard them first.", True)
        old = document.base
        try:
            save(rebase(document.scene, old, path.parent), path)
        except (FileError, SceneError) as problem:
            document.say(str(problem), True)
            self._tell("The scene was not saved", str(problem))
            return False
        document.mark_saved(path, lambda scene: rebase(scene, old, path.parent))
        self.autosaver.clear()
        self._remember(path)
        if not document.state.pending:
            document.say(f"Saved {path.name}")
        return True

    def may_leave(self) -> bool:
        """Whether the open scene may be let go; asks where it was changed."""
        document = self._document
        if not document.is_modified:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle("Save the scene?")
        box.setText(f"{document.scene.name} was changed since it was saved.")
        keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is keep:
            return self.save()
        return box.clickedButton() is leave

    def _tell(self, title: str, text: str) -> None:
        box = QMessageBox(QMessageBox.Icon.NoIcon, title, text, QMessageBox.StandardButton.Ok, self._window)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()

    # Recent files

    def recent(self) -> list[Path]:
        stored = self._settings.value("recent", [])
        names = [stored] if isinstance(stored, str) else list(stored or [])
        return [Path(name) for name in names]

    def _remember(self, path: Path) -> None:
        names = [str(path), *(str(each) for each in self.recent() if each != path)]
        self._settings.setValue("recent", names[:_RECENT])
        self.recent_changed.emit()


def _file_stem(name: str) -> str:
    return "".join(c if c.isalnum() else "-" for c in name.lower()).strip("-").replace("--", "-") or "scene"
