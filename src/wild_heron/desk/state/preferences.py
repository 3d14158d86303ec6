"""What the user chose for the program itself, kept with the window's sizes."""

from pathlib import Path
from typing import Literal, get_args

from PyQt6.QtCore import QObject, QSettings, QStandardPaths, pyqtSignal

Theme = Literal["system", "dusk", "morning", "contrast"]
Folder = Literal["scenes", "artwork", "output"]
SCALES = (100, 110, 125, 150, 175, 200, 250, 300)
"""Sizes of the interface, in percent."""
AUTOSAVE_SECONDS = (3, 300)


def settings_file() -> QSettings:
    """Where window sizes, recent files and preferences are kept."""
    folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.GenericConfigLocation)
    return QSettings(f"{folder}/wild-heron/window.ini", QSettings.Format.IniFormat)


class Preferences(QObject):
    """Each is read from the settings when it is asked for; what is broken there counts as not set."""

    changed = pyqtSignal(str)
    """By name, what was changed: theme, scale, autosave, memory."""

    def __init__(self, settings: QSettings) -> None:
        super().__init__()
        self._settings = settings

    def _put(self, key: str, value: object, name: str) -> None:
        self._settings.setValue(key, value)
        self.changed.emit(name)

    def _number(self, key: str, otherwise: int, low: int, high: int) -> int:
        try:
            return min(max(int(self._settings.value(key, otherwise)), low), high)
        except (TypeError, ValueError):
            return otherwise

    @property
    def theme(self) -> Theme:
        stored = self._settings.value("look/theme", "system")
        return stored if stored in get_args(Theme) else "system"

    def set_theme(self, theme: Theme) -> None:
        self._put("look/theme", theme, "theme")

    @property
    def shown_theme(self) -> str:
        """The theme that was shown last: to begin with, before the system is asked what it wishes."""
        stored = self._settings.value("look/shown", "dusk")
        return stored if stored in get_args(Theme)[1:] else "dusk"

    def remember_theme(self, name: str) -> None:
        if name != self.shown_theme:
            self._settings.setValue("look/shown", name)

    @property
    def scale(self) -> int:
        """The size of the interface, in percent."""
        return self._number("look/scale", 100, 50, 400)

    def set_scale(self, percent: int) -> None:
        self._put("look/scale", percent, "scale")

    @property
    def autosave_seconds(self) -> int:
        """How long after a change the scene is autosaved."""
        return self._number("autosave/seconds", 6, *AUTOSAVE_SECONDS)

    def set_autosave_seconds(self, seconds: int) -> None:
        self._put("autosave/seconds", seconds, "autosave")

    @property
    def scene_folder(self) -> Path | None:
        """Where new scenes are saved unless another place is chosen; None: where the last one was."""
        stored = str(self._settings.value("folders/new_scenes", "") or "")
        return Path(stored) if stored else None

    def set_scene_folder(self, folder: Path | None) -> None:
        self._put("folders/new_scenes", str(folder or ""), "folders")

    def folder(self, kind: Folder, otherwise: Path | None = None) -> Path:
        """Where a file dialog opens: where the last file of its kind was, else beside the scene, else at home."""
        last = str(self._settings.value(f"folders/{kind}", "") or "")
        if last and Path(last).is_dir():
            return Path(last)
        return otherwise if otherwise is not None and otherwise.is_dir() else Path.home()

    def remember_folder(self, kind: Folder, file: Path) -> None:
        self._settings.setValue(f"folders/{kind}", str(file.parent))
