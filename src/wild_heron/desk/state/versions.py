"""The kept version of the scene that later ones are compared with."""

from PyQt6.QtCore import QObject, pyqtSignal

from ...scene import Scene


class Versions(QObject):
    """The version that was kept, on purpose or in passing."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.kept: Scene | None = None
        self._in_passing = False

    def keep(self, scene: Scene, in_passing: bool = False) -> None:
        """Keep a version; ``in_passing``: until it is let go."""
        self.kept, self._in_passing = scene, in_passing
        self.changed.emit()

    def let_go(self) -> None:
        """Keep only a version that was asked to be kept."""
        if self._in_passing:
            self.kept, self._in_passing = None, False

    def reset(self) -> None:
        """Another scene is open."""
        self.kept, self._in_passing = None, False
