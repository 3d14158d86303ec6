"""The line below the photograph that is matched: what to do, how far off it is, and the way out."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from ...scene import Projection
from ..pictures.render_link import RenderLink
from ..state.document import Document
from ..widgets.panel_parts import label, set_surface, set_tone
from ..widgets.theme import REED, RUST
from .matching import MatchView


class MatchPanel(QWidget):
    """The view with a line below it: what to do, how far off it is, and the way out."""

    done = pyqtSignal()

    def __init__(self, document: Document, link: RenderLink) -> None:
        super().__init__()
        self._document = document
        self.view = MatchView(document, link)
        self.text = label("", size=12)
        self.text.setMinimumWidth(20)
        self.error = label("", size=12, weight=QFont.Weight.DemiBold)
        self.lines = QToolButton()
        self.lines.setText("lines")
        self.lines.setCheckable(True)
        self.lines.setToolTip(
            "Lay two red lines along the set's x and two blue ones along its z: they turn and zoom it"
        )
        self.lines.toggled.connect(self.view.photo.show_lines)
        self.free = QPushButton("Let pins go")
        self.free.setToolTip("Remove the placed corners and lines; the match stays")
        self.free.clicked.connect(self._let_go)
        self.close_ = QPushButton("Done")
        self.close_.setProperty("main", True)
        self.close_.setToolTip("Back to the Lens")
        self.close_.clicked.connect(self.done)
        bar = QWidget()
        set_surface(bar, "panel", "top")
        row = QHBoxLayout(bar)
        row.setContentsMargins(14, 5, 10, 5)
        row.addWidget(self.text, 1)
        for widget in (self.error, self.lines, self.free, self.close_):
            row.addWidget(widget)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.view, 1)
        column.addWidget(bar)
        self.view.found.connect(self.refresh)
        document.changed.connect(self._still_there)

    def begin(self, node: Projection) -> None:
        self.lines.setChecked(False)
        self.view.begin(node)
        self.refresh()

    def _let_go(self) -> None:
        self.lines.setChecked(False)
        self.view.photo.let_all_go()

    def _still_there(self) -> None:
        if self.isVisible() and self.view.node is None:
            self.done.emit()

    def refresh(self) -> None:
        view = self.view
        count = len(view.photo.pins)
        if not count and not view.photo.lines:
            self.text.setText("Drag corners of the set to where they are in the photograph, or the horizon.")
            self.error.setText("")
            return
        given = [f"{count} corner{'' if count == 1 else 's'}"] if count else []
        given += [f"{len(view.photo.lines)} lines"] if view.photo.lines else []
        enough = "" if count >= 4 or view.photo.lines else f" · {4 - count} more fix the lens too"
        self.text.setText(f"{' and '.join(given)} placed{enough}. Right-click a corner to let it go.")
        error = view.photo.match.error if view.photo.match else 0.0
        loose = view.photo.match is not None and view.photo.match.loose and count >= 4
        self.error.setText(f"{error:.1f} px off" + (", lens left open" if loose else ""))
        self.error.setToolTip(
            "These corners fit many lenses: place one that is much nearer or farther" if loose else ""
        )
        set_tone(self.error, REED if error < 2.0 and not loose else RUST)
