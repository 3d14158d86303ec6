"""The main window: a frame that can be painted before anything heavy is loaded, and is filled then."""

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEventLoop, QRect, QSettings, QSize, QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QGuiApplication, QPainter, QPaintEvent
from PyQt6.QtWidgets import QMainWindow, QMenu, QWidget

from ..widgets.theme import DEEP, LINE, PANEL, SURROUND, apply_style, colour, menu_bar_style
from ..widgets.unexpected import painted
from .proportions import FOOT, LEFT, LOWER, MENUS, RIGHT, TOP

if TYPE_CHECKING:
    from .desk import Desk

_PATIENCE_MS = 500
"""How long the frame's painting is waited for: a window that is covered may never be painted."""


class _Blank(QWidget):
    """Where the areas are going to be."""

    seen = pyqtSignal()

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), colour(PANEL))
        lens = QRect(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - LOWER - FOOT)
        p.fillRect(lens, colour(SURROUND))
        p.fillRect(QRect(0, self.height() - FOOT, self.width(), FOOT), colour(DEEP))
        p.setPen(colour(LINE))
        p.drawRect(lens.adjusted(-1, -1, 0, 0))
        for y in (TOP - 1, lens.bottom() + 1, self.height() - FOOT):
            p.drawLine(0, y, self.width(), y)
        QTimer.singleShot(0, self.seen)


class MainWindow(QMainWindow):
    """One window with every area alive at once; what they are is told in ``desk``."""

    def __init__(self, settings: QSettings) -> None:
        super().__init__()
        self._settings = settings
        self._filled: Desk | None = None
        self._leaving = self._closed = False
        self.setWindowTitle("Wild Heron")
        self.setAcceptDrops(True)
        bar = self.menuBar()
        bar.setStyleSheet(menu_bar_style())
        self.menus: dict[str, QMenu] = {name: bar.addMenu(title) for name, title in MENUS.items()}  # type: ignore[misc]
        self._blank = _Blank()
        self.setCentralWidget(self._blank)
        screen = QGuiApplication.primaryScreen()
        room = screen.availableSize() if screen is not None else QSize(1280, 800)
        self.resize(QSize(1280, 800).boundedTo(room))
        geometry = settings.value("window/geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
            # It may have been left on a larger screen.
            self.resize(self.size().boundedTo(room))

    def show_painted(self) -> None:
        """Show the frame, and return once it is painted."""
        wait = QEventLoop()
        self._blank.seen.connect(wait.quit)
        QTimer.singleShot(_PATIENCE_MS, wait.quit)
        self.show()
        wait.exec()

    def fill(self) -> "Desk":
        """Load and build everything, if that has not been done yet."""
        if self._filled is None:
            from .connections import connect
            from .desk import Desk

            self._filled = Desk(self, self.menus, self._settings)
            connect(self._filled)
            apply_style()
            self.menuBar().setStyleSheet("")
            self.setCentralWidget(self._filled.areas)
        return self._filled

    @property
    def desk(self) -> "Desk":
        """What fills the window."""
        return self.fill()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None:
            self.desk.bring_in([Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()])
            event.acceptProposedAction()

    def leave_now(self) -> None:
        """Close without asking, for the system or the terminal wants it so: what was changed is autosaved."""
        self._leaving = True
        if self._filled is not None:
            self._filled.document.cancel()
        self.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None or self._filled is None:
            return
        if self._closed:
            return
        if not self._leaving and not self._filled.files.may_leave():
            event.ignore()
            return
        self._closed = True
        self._filled.shut_down(keep_autosave=self._leaving)
        event.accept()
