"""The stretch over the whole move: how far the camera may travel before the photograph shows it."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from ...process.messages import RenderError
from ...process.stretch import Stretch, measure
from ...scene.channels import ChannelSpec
from ..state.background import Errand
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import label, set_tone
from ..widgets.theme import AMBER, DEEP, LINE, MISSING, REED, RUST, SOFT, TEXT, colour, font
from ..widgets.unexpected import painted

_FACTOR = ChannelSpec("factor", "factor", "factor", 2.0, 1.0, 16.0, 0.1)
_MAX_FRAMES = 240


class _Graph(QWidget):
    """The two parts over time; click to go to a frame."""

    chosen = pyqtSignal(float)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.stretch: Stretch | None = None
        self.setMinimumHeight(150)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Click to go to a frame")
        document.playhead.moved.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(420, 160)

    @property
    def _room(self) -> QRectF:
        return QRectF(self.rect()).adjusted(40, 8, -10, -20)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), colour(DEEP))
        found = self.stretch
        if found is None:
            return
        room = self._room
        top = max(0.05, float(np.ceil(20 * (found.beyond + found.missing).max()) / 20))
        first, last = float(found.frames[0]), float(max(found.frames[-1], found.frames[0] + 1))
        p.setFont(font(10))
        for share in (0.0, 0.5, 1.0):
            y = room.bottom() - share * room.height()
            p.setPen(QPen(colour(LINE), 1))
            p.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
            p.setPen(colour(SOFT))
            p.drawText(
                QRectF(0, y - 8, 34, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{share * top:.0%}",
            )
        x = room.left() + (found.frames - first) / (last - first) * room.width()
        below = np.zeros(len(x))
        for part, tone in ((found.missing, MISSING), (found.beyond, RUST)):
            above = below + part
            low, high = (room.bottom() - each / top * room.height() for each in (below, above))
            outline = [QPointF(a, b) for a, b in zip(x, high, strict=True)]
            outline += [QPointF(a, b) for a, b in zip(x[::-1], low[::-1], strict=True)]
            p.setPen(QPen(colour(tone), 1.2))
            p.setBrush(colour(tone, 0.55))
            p.drawPolygon(QPolygonF(outline))
            below = above
        at = room.left() + (self._document.playhead.frame - first) / (last - first) * room.width()
        p.setPen(QPen(colour(AMBER), 1.5))
        p.drawLine(QPointF(at, room.top()), QPointF(at, room.bottom()))
        p.setPen(colour(SOFT))
        for frame, align in ((first, Qt.AlignmentFlag.AlignLeft), (last, Qt.AlignmentFlag.AlignRight)):
            p.drawText(room.adjusted(0, room.height() + 3, 0, 18), align, f"{frame:.0f}")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = self.stretch
        if event is not None and found is not None:
            share = (event.position().x() - self._room.left()) / self._room.width()
            index = int(np.clip(round(share * (len(found.frames) - 1)), 0, len(found.frames) - 1))
            self.chosen.emit(float(found.frames[index]))


class StretchDialog(Dialog):
    """Measures when it opens, and again when asked."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Stretch over the move", parent)
        self.resize(520, 320)
        self._document = document
        self._errand: Errand | None = None
        # However it is left, by Escape too.
        self.finished.connect(self._stop)
        self.graph = _Graph(document)
        self.graph.chosen.connect(document.playhead.set_frame)
        self.factor = NumberField(_FACTOR)
        self.factor.show_value(2.0)
        self.factor.setMaximumWidth(80)
        self.factor.setToolTip("How many output pixels to a photograph pixel are too many")
        self.factor.edited.connect(self._chosen)
        self.factor.dragged.connect(self.factor.show_value)
        self.factor.drag_finished.connect(self.start)
        self.factor.refused.connect(lambda text: document.messages.say(text, True))
        self.bar = QProgressBar()
        self.line = label("")
        self.line.setWordWrap(True)
        self.go = push_button("Go to the worst frame", self._go)
        head = QHBoxLayout()
        head.addWidget(label("Stretched beyond"))
        head.addWidget(self.factor)
        head.addWidget(label("output pixels to a photograph pixel", "soft"))
        head.addStretch()
        for tone, text in ((RUST, "stretched"), (MISSING, "missing")):
            mark = label(f"■ {text}", size=11)
            set_tone(mark, tone)
            head.addWidget(mark)
        self.column.addLayout(head)
        self.column.addWidget(self.graph, 1)
        self.column.addWidget(self.bar)
        self.column.addWidget(self.line)
        self.add_buttons(push_button("Measure again", self.start), push_button("Close", self.close), apart=self.go)
        self.start()

    def _chosen(self, value: float, repeats: bool) -> None:
        self.factor.show_value(value)
        self.start()

    def start(self) -> None:
        self._stop()
        first, last = self._document.playhead.range
        step = max(1, -(-(last - first + 1) // _MAX_FRAMES))
        frames = np.arange(first, last + 1, step, dtype=np.float64)
        camera = self._document.views.camera
        assert camera is not None
        what = (self._document.scene, self._document.file.base, camera.id, frames, self.factor.value)
        self._errand = self._document.background.start(
            "stretch",
            lambda errand: measure(*what, errand.tell, errand.is_cancelled),
            self._ended,
            self._progress,
            self._failed,
        )
        self.bar.setRange(0, len(frames))
        self.bar.setValue(0)
        self.bar.show()
        self.go.setEnabled(False)
        self._say("Measuring…", SOFT)

    def _say(self, text: str, tone: str = TEXT) -> None:
        self.line.setText(text)
        set_tone(self.line, tone)

    def _progress(self, done: int, total: int) -> None:
        self.bar.setValue(done)

    def _failed(self, problem: Exception) -> None:
        self._errand = None
        self.bar.hide()
        foreseen = isinstance(problem, RenderError | KeyError | ValueError | OSError)
        self._say(str(problem) if foreseen else "It could not be measured.", RUST)
        if not foreseen:
            raise problem

    def _ended(self, found: Stretch | None) -> None:
        self._errand = None
        self.bar.hide()
        if found is None:
            self._say("Cancelled.", RUST)
            return
        self.graph.stretch = found
        self.graph.update()
        self.go.setEnabled(True)
        k = found.worst
        name = self._document.views.camera.name if self._document.views.camera else "the camera"
        beyond, missing = int(np.argmax(found.beyond)), int(np.argmax(found.missing))
        fine = bool(found.beyond[k] + found.missing[k] < 0.005)
        self._say(
            f"Through {name}: at most {found.beyond[beyond]:.1%} is stretched beyond {self.factor.value:g}× "
            f"(frame {found.frames[beyond]:.0f}), and {found.missing[missing]:.1%} missing "
            f"(frame {found.frames[missing]:.0f}). One pixel in a hundred reaches {found.high.max():.1f}×.",
            REED if fine else TEXT,
        )

    def _go(self) -> None:
        if self.graph.stretch is not None:
            self._document.playhead.set_frame(float(self.graph.stretch.frames[self.graph.stretch.worst]))

    def _stop(self) -> None:
        self._document.background.let_go(self._errand)
        self._errand = None
