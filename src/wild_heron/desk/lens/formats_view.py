"""All formats side by side: each with its picture at the playhead, its guides, and what was found in it."""

from itertools import pairwise
from math import ceil
from typing import NamedTuple

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QHelpEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from ...checks import Finding
from ...gl.request import FrameRequest, ThroughLens
from ...scene import Format, main_format
from ..pictures.render_link import RenderLink
from ..pictures.shown_pictures import ShownFrame
from ..state.document import Document
from ..widgets.theme import AMBER, BLANK, FAINT, REED, RUST, SOFT, SURROUND, TEXT, elided, font
from ..widgets.theme import colour as surface
from ..widgets.unexpected import painted
from .guide_painting import beyond, outer, paint_guides

MOST = 8
"""Formats to a page."""
STREAMS = tuple(f"format {k}" for k in range(MOST))
_MARGIN, _GAP = 16.0, 18.0
_HEAD, _FOOT = 24.0, 20.0


class Cell(NamedTuple):
    """A format and where it is: with its words, and its frame alone."""

    shape: Format
    box: QRectF
    frame: QRectF


class FormatsView(QWidget):
    """A click looks at a format, a second click at it alone; the line under its picture goes to what was found."""

    opened = pyqtSignal()
    """A format is wanted alone."""
    finding_chosen = pyqtSignal(object)

    def __init__(self, document: Document, link: RenderLink) -> None:
        super().__init__()
        self._document, self._link = document, link
        self.scale = 0.5
        self.images: dict[str, QImage] = {}
        self._asked: dict[str, tuple[str, FrameRequest]] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(240, 150)
        self.setAccessibleName("All formats")
        link.drawn.connect(self._drawn)
        link.restarted.connect(self.ask)
        for signal in (document.changed, document.playhead.moved, document.settings_changed, document.checked.changed):
            signal.connect(self.update)
        for signal in (document.changed, document.playhead.moved, document.settings_changed):
            signal.connect(self.ask)

    def sizeHint(self) -> QSize:
        return QSize(710, 420)

    def shapes(self) -> tuple[Format, ...]:
        """The formats of the page with the one that is looked at."""
        every = self._document.scene.formats_with_main()
        first = MOST * (self._number(every) // MOST)
        return every[first : first + MOST]

    def _number(self, every: tuple[Format, ...]) -> int:
        return max((k for k, each in enumerate(every) if each == self._document.views.format), default=0)

    def cells(self) -> list[Cell]:
        """Where each format is: in so many rows that pictures are as high as they can be."""
        shapes = self.shapes()
        room = QRectF(self.rect()).adjusted(_MARGIN, _MARGIN / 2, -_MARGIN, -_MARGIN / 2)
        best = max((_rows(shapes, count, room) for count in range(1, len(shapes) + 1)), key=lambda made: made[0])
        high, rows = best
        out = []
        block = len(rows) * (high + _HEAD + _FOOT) + (len(rows) - 1) * _GAP / 2
        y = room.top() + max(0.5 * (room.height() - block), 0.0)
        for row in rows:
            wide = sum(high * each.width / each.height for each in row) + _GAP * (len(row) - 1)
            x = room.left() + 0.5 * (room.width() - wide)
            for each in row:
                width = high * each.width / each.height
                box = QRectF(round(x), round(y), round(width), round(high + _HEAD + _FOOT))
                out.append(Cell(each, box, box.adjusted(0, _HEAD, 0, -_FOOT)))
                x += width + _GAP
            y += high + _HEAD + _FOOT + _GAP / 2
        return out

    # Pictures

    def set_scale(self, scale: float) -> None:
        self.scale = scale
        self.ask()

    def ask(self) -> None:
        """Ask for every format's picture at the playhead."""
        document = self._document
        if not self.isVisible() or document.views.camera is None:
            for stream in STREAMS:
                self._link.forget(stream)
            self._asked = {}
            return
        ratio = self.devicePixelRatioF() * self.scale
        main = main_format(document.settings)
        asked = {}
        for stream, cell in zip(STREAMS, self.cells(), strict=False):
            shape, times = cell.shape, beyond(cell.shape.guides)
            width, height = (max(16, round(side * times * ratio)) for side in (cell.frame.width(), cell.frame.height()))
            view = ThroughLens(document.views.lens, None if shape.plain == main else shape.name, around=times)
            wish = FrameRequest(document.playhead.frame, view, width, height)
            asked[stream] = (shape.name, wish)
            self._link.want(stream, wish)
        for stream in set(STREAMS) - set(asked):
            self._link.forget(stream)
        self._asked = asked

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        if stream not in self._asked:
            return
        self.images[self._asked[stream][0]] = drawn.picture.image
        self.update()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    # What was found

    def here(self, shape: Format) -> Finding | None:
        """The worst that was found in a format at the playhead and was not accepted."""
        verdict, frame = self._document.checked.of(shape.name), self._document.playhead.frame
        return next((each for each in verdict.open if each.first <= frame <= each.last), None) if verdict else None

    def _count(self, shape: Format) -> tuple[str, str]:
        """How much was found in a format, in words and a colour."""
        verdict, checked = self._document.checked.of(shape.name), self._document.checked
        if verdict is None:
            return "", SOFT
        count = len(verdict.open)
        if count:
            return f"{count} finding{'s' * (count != 1)}", RUST
        return ("nothing found", REED) if checked.is_done else ("nothing so far", SOFT)

    # Painting

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), surface(SURROUND))
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = self._document.views.format
        cells = self.cells()
        for cell in cells:
            self._paint_cell(p, cell, cell.shape == chosen)
        self.setAccessibleDescription("; ".join(f"{each.shape.name}, {self._count(each.shape)[0]}" for each in cells))

    def _paint_cell(self, p: QPainter, cell: Cell, is_chosen: bool) -> None:
        shape, box, frame = cell
        words, tone = self._count(shape)
        room = int(box.width())
        p.setFont(font(12, QFont.Weight.DemiBold if is_chosen else QFont.Weight.Medium))
        name = p.fontMetrics().elidedText(shape.name, Qt.TextElideMode.ElideRight, room)
        wide = p.fontMetrics().horizontalAdvance(name) + 10
        p.setPen(surface(TEXT if is_chosen else SOFT))
        p.drawText(QPointF(box.left(), box.top() + 15), name)
        p.setFont(font(11))
        if wide + p.fontMetrics().horizontalAdvance(words) <= room:
            p.setPen(surface(tone))
            p.drawText(QPointF(box.right() - p.fontMetrics().horizontalAdvance(words), box.top() + 15), words)
        picture = self.images.get(shape.name)
        inside = _within(frame, shape)
        if picture is None:
            p.fillRect(outer(inside, shape.guides), surface(BLANK))
        else:
            p.drawImage(outer(inside, shape.guides), picture)
        paint_guides(p, inside, shape.guides)
        p.setBrush(Qt.BrushStyle.NoBrush)
        if is_chosen:
            p.setPen(QPen(surface(AMBER), 2 if self.hasFocus() else 1.4))
            p.drawRect(frame.adjusted(-1.5, -1.5, 1.5, 1.5))
        found = self.here(shape)
        p.setFont(font(11))
        p.setPen(surface(RUST if found else FAINT))
        # When it is need not be said: it is now.
        line = found.title.rpartition(", frame")[0] or found.title if found else f"{shape.width} × {shape.height}"
        if not found and wide > 0 and words and wide + p.fontMetrics().horizontalAdvance(words) > room:
            p.setPen(surface(tone))
            line = words
        p.drawText(QPointF(box.left(), box.bottom() - 5), elided(line, room))

    # Choosing

    def _at(self, at: QPointF) -> Cell | None:
        return next((each for each in self.cells() if each.box.contains(at)), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        cell = self._at(event.position())
        if cell is None:
            return
        self._document.views.set_format(cell.shape.name)
        found = self.here(cell.shape)
        if found is not None and event.position().y() > cell.frame.bottom():
            self.finding_chosen.emit(found)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        cell = self._at(event.position()) if event is not None else None
        if cell is not None:
            self._document.views.set_format(cell.shape.name)
            self.opened.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        # Left and right go from frame to frame, here as everywhere.
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        every = self._document.scene.formats_with_main()
        if event.key() in steps:
            number = (self._number(every) + steps[Qt.Key(event.key())]) % len(every)
            self._document.views.set_format(every[number].name)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit()
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            cell = self._at(QPointF(event.pos()))
            if cell is not None:
                found = self.here(cell.shape)
                tip = f"{found.title}: {found.detail}. Click to see what can be done." if found else ""
                size = f"{cell.shape.name}, {cell.shape.width} × {cell.shape.height}."
                QToolTip.showText(event.globalPos(), tip or f"{size} Double-click to see it alone.", self)
                return True
        return super().event(event)


def _rows(shapes: tuple[Format, ...], count: int, room: QRectF) -> tuple[float, list[tuple[Format, ...]]]:
    """How high pictures can be where formats stand in so many rows, and those rows."""
    each = ceil(len(shapes) / count)
    ends = [*range(0, len(shapes), each), len(shapes)]
    rows = [shapes[first:last] for first, last in pairwise(ends)]
    high = (room.height() - len(rows) * (_HEAD + _FOOT) - (len(rows) - 1) * _GAP / 2) / len(rows)
    for row in rows:
        aspect = sum(shape.width / shape.height for shape in row)
        high = min(high, (room.width() - _GAP * (len(row) - 1)) / aspect)
    return max(high, 8.0), rows


def _within(frame: QRectF, shape: Format) -> QRectF:
    """Where the frame is in its cell: smaller under a mask, so that what lies beyond fits in."""
    times = beyond(shape.guides)
    inside = QRectF(0, 0, frame.width() / times, frame.height() / times)
    inside.moveCenter(frame.center())
    return inside
