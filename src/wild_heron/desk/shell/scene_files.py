"""Opening, saving and recovering scene files from the window."""

import os
from datetime import datetime
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import QFileSystemWatcher, QObject, QSettings, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from ...files.artwork_files import files_of, missing_artwork, rebase
from ...files.autosave import Recovery, discard_autosave, recoveries_for, unsaved_recoveries
from ...files.errors import FileError
from ...files.formats import SHIPPED_ART
from ...files.project import SUFFIX, FileVersion, load, load_with_version, save, version_on_disk
from ...files.scene_lock import SceneLock
from ...scene import Scene, SceneError
from ..state.document import Document
from ..state.preferences import Preferences
from ..widgets.plain_text import message_box
from .autosaver import Autosaver

_SETTLED_MS = 300
_FILTER = f"Wild Heron scenes (*{SUFFIX})"
_RECENT = 8


class SceneFiles(QObject):
    """The file side of the window."""

    recoveries_found = pyqtSignal(list)
    artwork_missing = pyqtSignal(int)
    artwork_outside = pyqtSignal(list)
    """Files that lie outside the scene's folder, and may not be read yet."""
    held_elsewhere = pyqtSignal(object)
    """Another window has the scene open to be changed: who."""
    changed_on_disk = pyqtSignal()
    """Someone else wrote the scene's file."""
    recent_changed = pyqtSignal()
    put_away = pyqtSignal(Path)
    """A scene that has a file was saved, or is about to be let go."""

    def __init__(self, document: Document, settings: QSettings, preferences: Preferences, window: QWidget) -> None:
        super().__init__(window)
        self._document, self._settings, self._window = document, settings, window
        self._preferences = preferences
        self.autosaver = Autosaver(document, preferences)
        self.look_only = False
        """Another window has the scene; this one saves elsewhere."""
        self._lock: SceneLock | None = None
        self._known: FileVersion | None = None
        self._told: FileVersion | None = None
        self._watcher = QFileSystemWatcher(self)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLED_MS)
        self._settle.timeout.connect(self.look_at_disk)
        self._watcher.fileChanged.connect(self._settle.start)
        self._watcher.directoryChanged.connect(self._settle.start)

    # Opening

    def new(self) -> None:
        if self.may_leave():
            self.autosaver.clear()
            self._let_go()
            self._document.reset(Scene(), None)
            self._document.messages.say("A new scene.")

    def ask_open(self) -> None:
        folder = self._preferences.folder("scenes", self._document.file.path and self._document.file.path.parent)
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a scene", str(folder), _FILTER)
        if name:
            self.open(Path(name))

    def open(self, path: Path, as_copy: bool = False, ask: bool = True) -> bool:
        """Open a file; as a copy it has no place of its own until it is saved."""
        if ask and not self.may_leave():
            return False
        try:
            scene, version = load_with_version(path)
        except FileError as problem:
            self._document.messages.say(str(problem), True)
            self._tell("The scene was not opened", str(problem))
            return False
        self.autosaver.clear()
        path = path.resolve()
        self._let_go()
        if as_copy:
            self._document.reset(scene, None, path.parent)
            shipped = path.parent == SHIPPED_ART
            self._document.messages.say(
                f"This is a copy of {'the demo' if shipped else path.name}: save it where you like."
            )
        else:
            self._hold(path, version)
            self._document.reset(scene, path)
            self._remember(path)
            self._document.messages.say(f"Opened {path.name}")
            self.offer_recoveries()
            if self.look_only and self._lock is not None:
                self.held_elsewhere.emit(self._lock.holder)
        self.look_at_artwork()
        return True

    def open_copy(self) -> None:
        """Go on with the scene as a copy, which is saved somewhere else."""
        document = self._document
        scene, base = document.scene, document.file.base
        self._let_go()
        document.reset(scene, None, base, unsaved=True)
        document.messages.say("This is a copy now: save it where you like.")

    def look_at_artwork(self) -> None:
        """Say which of the scene's files are not there, or may not be read yet."""
        document = self._document
        missing = missing_artwork(document.scene, document.file.base)
        if missing:
            self.artwork_missing.emit(len(missing))
        permission = document.file.permission
        outside = [
            path for path in files_of(document.scene, document.file.base) if permission and not permission.allows(path)
        ]
        if outside:
            self.artwork_outside.emit(outside)

    def _hold(self, path: Path, version: FileVersion) -> None:
        """Take the lock of a scene that is open now, and watch its file."""
        if self._lock is None:
            self._lock = SceneLock(path)
        self.look_only = self._lock.holder is not None
        self._known = self._told = version
        self._watch(path)

    def _watch(self, path: Path) -> None:
        watched = [*self._watcher.files(), *self._watcher.directories()]
        wanted = [str(each) for each in (path, path.parent) if each.exists()]
        if gone := [each for each in watched if each not in wanted]:
            self._watcher.removePaths(gone)
        if new := [each for each in wanted if each not in watched]:
            self._watcher.addPaths(new)

    def _let_go(self) -> None:
        if self._lock is not None:
            self._lock.release()
        self._lock, self._known, self.look_only = None, None, False
        if watched := [*self._watcher.files(), *self._watcher.directories()]:
            self._watcher.removePaths(watched)

    def look_at_disk(self) -> None:
        """Notice that the scene's file was changed or removed by someone else."""
        path = self._document.file.path
        if path is None or self._known is None:
            return
        now = version_on_disk(path, self._told)
        self._watch(path)
        if now is None:
            if self._told is not None:
                self._document.messages.say(f"{path.name} is not there any more. Save to write it again.", True)
            self._told = None
        elif self._told is None or now.digest != self._told.digest:
            self._told = now
            if now.digest != self._known.digest:
                self.changed_on_disk.emit()

    def reload(self) -> None:
        """Take over what is on disk. What was changed here stays in an autosave."""
        path = self._document.file.path
        if path is None:
            return
        try:
            scene, version = load_with_version(path)
        except FileError as problem:
            self._document.messages.say(str(problem), True)
            return
        document = self._document
        if document.edit("Reload from disk", lambda _: scene):
            document.mark_loaded()
        self._known = self._told = version
        document.messages.say(f"{path.name} is as it is on disk. Undo brings back what was here.")

    # Recovering

    def offer_recoveries(self) -> None:
        """Offer what crashes left of the open scene."""
        path = self._document.file.path
        found = recoveries_for(path) if path is not None and not self.look_only else []
        if found:
            self.recoveries_found.emit(found)

    def offer_unsaved(self) -> None:
        """Offer what crashes left of scenes that were never saved."""
        found = unsaved_recoveries()
        if found:
            self.recoveries_found.emit(found)

    def recover(self, recovery: Recovery) -> None:
        """Take an autosave over, as a change that is yet to be saved. It stays until this window has one of its own."""
        try:
            scene = load(recovery.autosave)
        except FileError as problem:
            self._document.messages.say(str(problem), True)
            return
        if recovery.scene_path != self._document.file.path:
            self._let_go()
        self._document.reset(scene, recovery.scene_path, unsaved=True)
        self.autosaver.write()
        self.autosaver.wait()
        if self.autosaver.is_written:
            self.discard(recovery)
        when = datetime.fromtimestamp(recovery.modified)
        self._document.messages.say(f"Recovered what was there at {when:%H:%M}. Save it to keep it.")
        self.look_at_artwork()

    def discard(self, recovery: Recovery) -> None:
        try:
            discard_autosave(recovery.autosave)
        except FileError as problem:
            self._document.messages.say(str(problem), True)

    # Saving

    def save(self) -> bool:
        path = self._document.file.path
        if path is None:
            return self.ask_save_as()
        if self.look_only:
            self._document.messages.say("Another window has this scene: save it under another name.", True)
            return self.ask_save_as()
        now = version_on_disk(path, self._known)
        if self._known is not None and now is not None and now.digest != self._known.digest:
            return self._save_over_another(path)
        return self.save_to(path)

    def _save_over_another(self, path: Path) -> bool:
        """The file on disk is not the one that was opened: ask whose is to be kept."""
        text = f"{path.name} was changed on disk by another program since it was opened here."
        box = message_box(self._window, "The file has changed", text)
        over = box.addButton("Save over it", QMessageBox.ButtonRole.DestructiveRole)
        other = box.addButton("Save as…", QMessageBox.ButtonRole.AcceptRole)
        again = box.addButton("Reload", QMessageBox.ButtonRole.ActionRole)
        box.addButton("Do nothing", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is over:
            return self.save_to(path)
        if box.clickedButton() is other:
            return self.ask_save_as()
        if box.clickedButton() is again:
            self.reload()
        return False

    def ask_save_as(self) -> bool:
        document = self._document
        folder = self._preferences.scene_folder or self._preferences.folder("scenes")
        start = document.file.path or folder / f"{_file_stem(document.scene.name)}{SUFFIX}"
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
            document.messages.say("Pending values are not in the file: key them or discard them first.", True)
        old = document.file.base
        lock = self._lock if path == document.file.path and self._lock is not None else SceneLock(path)
        if lock.holder is not None:
            document.messages.say(f"{path.name} is open in another window: choose another name.", True)
            self._tell("The scene was not saved", f"{path.name} is open in another window. Choose another name.")
            return False
        from ...files.importing import readable

        name = readable(path.stem) if document.file.path is None else ""

        def placed(scene: Scene) -> Scene:
            """As it is at that place; what has no name yet takes the file's."""
            moved = rebase(scene, old, path.parent)
            return replace(moved, name=name) if name and moved.name == Scene().name else moved

        try:
            version = save(placed(document.scene), path)
        except (FileError, SceneError) as problem:
            if lock is not self._lock:
                lock.release()
            document.messages.say(str(problem), True)
            self._tell("The scene was not saved", str(problem))
            return False
        if lock is not self._lock and self._lock is not None:
            self._lock.release()
        self._lock = lock
        document.mark_saved(path, placed)
        self._hold(path, version)
        self.autosaver.clear()
        self._remember(path)
        self.put_away.emit(path)
        if not document.state.pending:
            document.messages.say(f"Saved {path.name}")
        return True

    def may_leave(self) -> bool:
        """Whether the open scene may be let go; asks where it was changed."""
        document = self._document
        if not document.is_modified:
            if document.file.path is not None:
                self.put_away.emit(document.file.path)
            return True
        text = f"{document.scene.name} was changed since it was saved."
        box = message_box(self._window, "Save the scene?", text)
        keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is keep:
            return self.save()
        return box.clickedButton() is leave

    def shut_down(self, keep_autosave: bool = False) -> None:
        """For when the program ends. ``keep_autosave``: it ends without having been asked whether to save."""
        if keep_autosave:
            self.autosaver.write()
            self.autosaver.wait()
        else:
            self.autosaver.clear()
        self.autosaver.session.close()
        self._let_go()
        self._settle.stop()
        self._watcher.deleteLater()

    def _tell(self, title: str, text: str) -> None:
        box = message_box(self._window, title, text)
        box.setStandardButtons(QMessageBox.StandardButton.Ok)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()

    # Recent files

    def recent(self) -> list[Path]:
        stored = self._settings.value("recent", [])
        names = [stored] if isinstance(stored, str) else list(stored or [])
        return [Path(name) for name in names]

    def _remember(self, path: Path) -> None:
        self._preferences.remember_folder("scenes", path)
        names = [str(path), *(str(each) for each in self.recent() if each != path)]
        self._settings.setValue("recent", names[:_RECENT])
        self.recent_changed.emit()


def _file_stem(name: str) -> str:
    return "".join(c if c.isalnum() else "-" for c in name.lower()).strip("-").replace("--", "-") or "scene"
