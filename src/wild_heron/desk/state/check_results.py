"""The results of the checks, published to the panels that show them."""

from PyQt6.QtCore import QObject, pyqtSignal

from ...checks import Finding, Judged
from ...scene import Scene


class Checked(QObject):
    """Of the scene as it was when it was last measured."""

    changed = pyqtSignal()
    findings_changed = pyqtSignal()
    """Other things were found than before."""
    chosen_changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.scene: Scene | None = None
        self.judged: tuple[Judged, ...] = ()
        """In the order of the scene's formats, its own first."""
        self.looked_at, self.total = 0, 0
        """Frames whose pictures were looked at, and all."""
        self.problem = ""
        self.chosen: tuple[str, str, str, float] | None = None

    def tell(self, scene: Scene | None, judged: tuple[Judged, ...]) -> None:
        before = [each.findings for each in self.judged]
        self.scene, self.judged = scene, judged
        self.changed.emit()
        if before != [each.findings for each in judged]:
            self.findings_changed.emit()

    def of(self, format_name: str) -> Judged | None:
        """The verdict in a format."""
        return next((each for each in self.judged if each.format == format_name), None)

    @property
    def is_done(self) -> bool:
        return self.total > 0 and self.looked_at == self.total

    def choose(self, finding: Finding | None) -> None:
        key = finding.key if finding is not None else None
        if key != self.chosen:
            self.chosen = key
            self.chosen_changed.emit()
