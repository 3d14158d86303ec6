"""The checks over time, a row for each: how near to its limit the film is, and where it is beyond."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QFont,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QScrollBar, QToolTip

from ....arrays import Array
from ....checks import CHECKS, Finding
from ....checks.finding import Row
from ....edits import KeyRef
from ...commands.check_commands import CheckCommands
from ...state.document import Document
from ...widgets.theme import AMBER, FAINT, REED, RUST, SOFT, STRIPE, TEXT, colour, elided, font
from ...widgets.unexpected import painted
from ..axis import LABELS, RULER
from ..still import StillPicture
from ..time_view import RulerDrag, TimeView

_LEAST = 28
_AT_LIMIT = 0.55
"""Where in a row's height its limit lies."""


class ChecksView(TimeView):
    """Rows of checks under the ruler, in the format that is looked at."""

    menu_wanted = pyqtSignal(str, object)
    """A right click on the row of a check, at a place on the screen."""

    def __init__(self, document: Document, checks: CheckCommands) -> None:
        super().__init__(document)
        self.checks = checks
        self.setAccessibleName("Checks")
        self.setMinimumHeight(64)
        self.bar = QScrollBar(Qt.Orientation.Vertical, self)
        self.bar.valueChanged.connect(self.renew)
        self._playhead = 0.0
        self._version = 0
        self._still = StillPicture(self)
        for signal in (
            document.checked.changed, document.checked.chosen_changed, document.settings_changed, document.changed,
        ):  # fmt: skip
            signal.connect(self.renew)
        document.playhead.moved.connect(self._move_playhead)

    def renew(self) -> None:
        """Paint everything anew."""
        self._version += 1
        self.update()

    def _move_playhead(self) -> None:
        self.update(0, 0, LABELS, self.height())
        for x in (self._playhead, self.axis.x(self.document.playhead.frame)):
            self.update(int(x) - 9, 0, 19, self.height())
        self._playhead = self.axis.x(self.document.playhead.frame)

    # What is where

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        room = self.height() - RULER
        over = max(round(self.row_height * len(CHECKS)) - room, 0)
        self.bar.setGeometry(self.width() - 10, RULER, 9, room)
        self.bar.setRange(0, over)
        self.bar.setPageStep(max(room, 1))
        self.bar.setVisible(over > 0)

    def row_top(self, number: int) -> float:
        return RULER + number * self.row_height - self.bar.value()

    @property
    def row_height(self) -> float:
        return max(float(_LEAST), (self.height() - RULER) / len(CHECKS))

    def row_at(self, y: float) -> int | None:
        """The number of the check whose row is at a height."""
        number = int((y - RULER + self.bar.value()) // self.row_height)
        return number if y >= RULER and number < len(CHECKS) else None

    def rows(self) -> dict[str, Row]:
        verdict = self.document.checked.of(self.document.views.format.name)
        return {row.check: row for row in verdict.rows} if verdict is not None else {}

    def finding_at(self, at: QPointF) -> Finding | None:
        """The worst finding of the row at a place whose frames are there."""
        row = self.row_at(at.y())
        if row is None or at.x() < LABELS:
            return None
        frame, slack = self.axis.frame(at.x()), 2.0 / self.axis.pixels_per_frame
        here = (
            each
            for each in self.checks.findings
            if each.check == CHECKS[row].name and each.first - 0.5 - slack <= frame <= each.last + 0.5 + slack
        )
        return next(here, None)

    # Painting

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        # Everything but the playhead and the values at it is kept as a picture, so that playing repaints little.
        p = QPainter(self)
        p.drawPixmap(0, 0, self._still.get((self.axis, self._version, self.document.playhead.range), self._paint_rows))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_values(p)
        self.ruler.paint_playhead(p, self.axis)

    def _paint_rows(self, p: QPainter) -> None:
        rows, high = self.rows(), self.row_height
        off = self.document.scene.checks.off
        p.save()
        p.setClipRect(QRectF(0, RULER, self.width(), self.height() - RULER))
        for number, check in enumerate(CHECKS):
            top = self.row_top(number)
            if number % 2:
                p.fillRect(QRectF(0, top, self.width(), high), colour(STRIPE))
            row = rows.get(check.name)
            p.setFont(font(12, QFont.Weight.Medium))
            p.setPen(colour(FAINT if check.name in off else TEXT))
            p.drawText(QPointF(16, top + 0.5 * high - 2), check.label)
            p.setFont(font(10))
            p.setPen(colour(SOFT))
            p.drawText(QPointF(16, top + 0.5 * high + 12), "not made" if check.name in off else self._about(check.name))
            if row is not None:
                p.save()
                p.setClipRect(QRectF(LABELS, max(top, RULER), self.width() - LABELS, high))
                self._paint_row(p, row, top, high)
                p.restore()
        p.restore()
        self.ruler.paint(p, self.axis)
        self.ruler.paint_markers(p, self.axis)

    def _about(self, check: str) -> str:
        """What a row shows."""
        if check == "framing":
            subjects = self.document.scene.checks.subjects
            names = [self.document.scene.node(each.node).name for each in subjects]
            if not names:
                return "no subject yet: select one, X, S"
            return elided("subjects: " + ", ".join(names), LABELS - 30, 10)
        return next(each.about for each in CHECKS if each.name == check)

    def _paint_row(self, p: QPainter, row: Row, top: float, high: float) -> None:
        frames = np.arange(len(row.values)) + self.document.settings.first
        xs = self.axis.xs(frames.astype(np.float64))
        inner, foot = high - 5.0, top + high - 2.0
        self._paint_bands(p, row, xs, top, high)
        heights = foot - inner * relative(row)
        path, area = QPainterPath(), QPainterPath()
        known = np.isfinite(heights)
        begun = False
        for x, y, there in zip(xs.tolist(), heights.tolist(), known.tolist(), strict=True):
            if not there:
                if begun:
                    area.lineTo(path.currentPosition().x(), foot)
                begun = False
                continue
            if begun:
                path.lineTo(x, y)
                area.lineTo(x, y)
            else:
                path.moveTo(x, y)
                area.moveTo(x, foot)
                area.lineTo(x, y)
                begun = True
        if begun:
            area.lineTo(path.currentPosition().x(), foot)
        p.fillPath(area, colour(REED, 0.24))
        p.setPen(QPen(colour(REED), 1.4))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        if row.limit > 0.0:
            level = foot - inner * _AT_LIMIT
            p.setPen(QPen(colour(SOFT, 0.7), 1, Qt.PenStyle.DashLine))
            p.drawLine(QPointF(LABELS, level), QPointF(self.width(), level))

    def _paint_bands(self, p: QPainter, row: Row, xs: Array, top: float, high: float) -> None:
        """Where findings are: rust, faint where they were accepted, framed where one is chosen."""
        per, first = self.axis.pixels_per_frame, self.document.settings.first
        chosen = self.checks.chosen
        for each in sorted(self.checks.findings, key=lambda each: not each.accepted):
            if each.check != row.check:
                continue
            left = self.axis.x(max(each.first, first)) - 0.5 * per
            box = QRectF(left, top + 1, max((each.last - each.first + 1.0) * per, 3.0), high - 2)
            p.fillRect(box, colour(RUST, 0.16 if each.accepted else 0.55))
            if each == chosen:
                p.setPen(QPen(colour(AMBER), 1.4))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(box)

    def _paint_values(self, p: QPainter) -> None:
        """The values at the playhead, at the right of the labels."""
        rows, high = self.rows(), self.row_height
        at = round(self.document.playhead.frame) - self.document.settings.first
        p.setFont(font(11))
        p.setClipRect(QRectF(0, RULER, LABELS, self.height() - RULER))
        for number, check in enumerate(CHECKS):
            row = rows.get(check.name)
            if row is None or not 0 <= at < len(row.values) or not np.isfinite(row.values[at]):
                continue
            value = float(row.values[at])
            text = in_short(value, row.unit)
            p.setPen(colour(RUST if row.bad[at] else SOFT))
            box = QRectF(16, self.row_top(number), LABELS - 30, 0.5 * high + 2)
            p.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, text)
        p.setClipping(False)

    # The mouse

    def event(self, event) -> bool:  # type: ignore[no-untyped-def]
        if isinstance(event, QHelpEvent):
            found = self.finding_at(QPointF(event.pos()))
            if found is not None:
                QToolTip.showText(event.globalPos(), f"{found.title}: {found.detail}", self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        if at.y() < RULER and at.x() >= LABELS:
            self.drag = RulerDrag(self, at)
            return
        found = self.finding_at(at)
        if found is not None:
            self.checks.choose(found, go=False)
        if at.x() >= LABELS:
            self.document.playhead.set_frame(round(self.axis.frame(at.x())))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self.drag is not None:
            self.drag.move(event.position(), event.modifiers())
        elif event.position().y() < RULER:
            self.setCursor(self.ruler.cursor(event.position(), self.axis))
        else:
            there = self.finding_at(event.position()) is not None
            self.setCursor(Qt.CursorShape.PointingHandCursor if there else Qt.CursorShape.ArrowCursor)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.position().y() >= RULER:
            return
        if not self.ruler.double_click(event.position(), self.axis):
            self.show_whole()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        row = self.row_at(event.pos().y()) if event is not None else None
        if event is not None and row is not None:
            self.menu_wanted.emit(CHECKS[row].name, event.globalPos())

    def keys_in(self, box: QRectF) -> set[KeyRef]:
        return set()

    def turn_wheel(self, turns: float, at: QPointF) -> None:
        if self.bar.maximum() > 0:
            self.bar.setValue(self.bar.value() - round(turns * self.row_height))
        else:
            self.look_at(self.axis.moved(-turns * 40.0 / self.axis.pixels_per_frame))


def relative(row: Row) -> Array:
    """Heights (N,) between 0 and 1: up to the limit even, from there on pressed together, so that what is far beyond
    fits too. Where nothing at all may be, up to a tenth."""
    limit = row.limit if row.limit > 0.0 else 10.0
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.maximum(row.values, 0.0) / limit
        if row.limit <= 0.0:
            return np.asarray(np.minimum(share, 1.0))
        beyond = _AT_LIMIT + (1.0 - _AT_LIMIT) * (1.0 - 1.0 / np.maximum(share, 1.0))
        return np.asarray(np.where(share <= 1.0, _AT_LIMIT * share, beyond))


def in_short(value: float, unit: str) -> str:
    """A value at the playhead: “6.2 %”."""
    digits = 0 if value >= 100.0 else 1 if value >= 0.05 else 0
    return f"{value:.{digits}f} {unit.split()[0]}"
