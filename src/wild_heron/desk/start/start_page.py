"""The page in the Lens's place while there is nothing to look at."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPixmap, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QGridLayout, QScrollArea, QVBoxLayout, QWidget

from ...demo import EXAMPLES, Example
from ..commands.actions import ActionTable
from ..widgets.panel_parts import set_surface
from .artwork_drop import ArtworkDrop
from .entries import Column, Entry

Told = tuple[str, str, str, int, bool]
"""A lesson: its id, its name, a line about it, how many minutes it takes, and whether it was done."""
_MOST_RECENT = 5
_NARROW = 560
"""Below this the columns stand under each other."""


class RecentScene:
    """A scene that was open before."""

    def __init__(self, path: Path, folder: str, picture: Path) -> None:
        self.path, self.folder, self.picture = path, folder, picture


class StartPage(QScrollArea):
    """Artwork first; below it recent scenes, examples and lessons."""

    dropped = pyqtSignal(list)
    scene_wanted = pyqtSignal(Path)
    example_wanted = pyqtSignal(object)
    lesson_wanted = pyqtSignal(str)

    def __init__(
        self,
        actions: ActionTable,
        recent: Callable[[], list[RecentScene]],
        lessons: Callable[[], list[Told]],
    ) -> None:
        """``recent`` and ``lessons`` are asked whenever the page is shown."""
        super().__init__()
        self._recent, self._lessons = recent, lessons
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        page = QWidget()
        set_surface(page, "surround")
        set_surface(self, "surround")
        whole = QVBoxLayout(page)
        whole.setContentsMargins(18, 14, 18, 10)
        whole.setSpacing(14)
        self.drop = ArtworkDrop(actions)
        self.drop.dropped.connect(self.dropped)
        whole.addWidget(self.drop)
        self.examples = Column("Examples")
        self.lessons = Column("Lessons")
        self.recent = Column("Recent", "Scenes that you save are found here again.")
        self._columns = QGridLayout()
        self._columns.setHorizontalSpacing(12)
        self._columns.setVerticalSpacing(16)
        whole.addLayout(self._columns)
        whole.addStretch()
        self.setWidget(page)
        self._across = 0
        self._arrange(3)

    def showEvent(self, event: QShowEvent | None) -> None:
        self.refresh()
        super().showEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._arrange(3 if self.width() >= _NARROW else 1)

    def _arrange(self, across: int) -> None:
        if across == self._across:
            return
        self._across = across
        for number, column in enumerate((self.recent, self.examples, self.lessons)):
            self._columns.addWidget(column, number // across, number % across, Qt.AlignmentFlag.AlignTop)
            self._columns.setColumnStretch(number, 1 if number < across else 0)

    def refresh(self) -> None:
        """Show what there is by now."""
        self.recent.fill([self._recent_entry(each) for each in self._recent()[:_MOST_RECENT]])
        self.examples.fill([self._example_entry(each) for each in EXAMPLES])
        self.lessons.fill([self._lesson_entry(number, *each) for number, each in enumerate(self._lessons(), 1)])

    def _recent_entry(self, scene: RecentScene) -> Entry:
        there = scene.path.exists()
        line = scene.folder if there else "not there any more"
        entry = Entry(scene.path.stem, line, QPixmap(str(scene.picture)))
        entry.setEnabled(there)
        entry.clicked.connect(lambda: self.scene_wanted.emit(scene.path))
        return entry

    def _example_entry(self, example: Example) -> Entry:
        entry = Entry(example.name, example.about, QPixmap(str(example.picture)))
        entry.clicked.connect(lambda: self.example_wanted.emit(example))
        return entry

    def _lesson_entry(self, number: int, lesson: str, name: str, about: str, minutes: int, done: bool) -> Entry:
        entry = Entry(name, about, mark=str(number), done=done, aside=f"{minutes} min")
        entry.clicked.connect(lambda: self.lesson_wanted.emit(lesson))
        return entry
