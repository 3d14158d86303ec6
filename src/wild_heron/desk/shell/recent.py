"""The menu of scenes that were open before, each with its folder and a small picture of how it looked."""

from pathlib import Path

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QIcon, QImage, QPixmap
from PyQt6.QtWidgets import QMenu

from .scene_files import SceneFiles

SIZE = (80, 45)
_MOST = 64


def picture_of(path: Path) -> Path:
    """Where the small picture of a scene is kept."""
    # Not needed while the window starts, and slow to load.
    import hashlib

    import platformdirs

    name = hashlib.blake2b(str(path.resolve()).encode(), digest_size=12).hexdigest()
    return Path(platformdirs.user_cache_dir("wild-heron")) / "scenes" / f"{name}.png"


def keep_picture(path: Path, image: QImage) -> None:
    """Keep how a scene looks through the Lens; without a word where that cannot be written."""
    target = picture_of(path)
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        old = sorted(target.parent.glob("*.png"), key=lambda each: each.stat().st_mtime)
        for each in old[: max(0, len(old) - _MOST)]:
            each.unlink(missing_ok=True)
    except OSError:
        return
    small = image.scaled(
        2 * SIZE[0],
        2 * SIZE[1],
        Qt.AspectRatioMode.KeepAspectRatioByExpanding,
        Qt.TransformationMode.SmoothTransformation,
    )
    left, top = (small.width() - 2 * SIZE[0]) // 2, (small.height() - 2 * SIZE[1]) // 2
    small.copy(left, top, 2 * SIZE[0], 2 * SIZE[1]).save(str(target), "PNG")


def shortened(folder: Path) -> str:
    """A folder's path from the user's own on."""
    try:
        return str(Path("~") / folder.relative_to(Path.home()))
    except ValueError:
        return str(folder)


class RecentFiles(QObject):
    """Fills the menu when it is opened."""

    def __init__(self, files: SceneFiles, menu: QMenu) -> None:
        super().__init__(menu)
        self._files, self._menu = files, menu
        menu.setObjectName("recent")
        menu.setToolTipsVisible(True)
        menu.aboutToShow.connect(self._fill)
        files.recent_changed.connect(self._look)
        self._look()

    def _look(self) -> None:
        self._menu.setEnabled(bool(self._files.recent()))

    def _fill(self) -> None:
        self._menu.clear()
        for number, path in enumerate(self._files.recent(), 1):
            name = path.stem.replace("&", "&&")
            action = self._menu.addAction(f"&{number}  {name}\t{shortened(path.parent)}")
            small = QPixmap(str(picture_of(path)))
            if small.isNull():
                small = QPixmap(*SIZE)
                small.fill(Qt.GlobalColor.transparent)
            small.setDevicePixelRatio(small.width() / SIZE[0])
            action.setIcon(QIcon(small))
            action.setIconVisibleInMenu(True)
            action.setToolTip(str(path) if path.exists() else f"{path} is not there any more")
            action.setEnabled(path.exists())
            action.triggered.connect(lambda checked, path=path: self._files.open(path))
