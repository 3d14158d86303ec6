"""The takes of a node over time, a row for each; the curve shows the motion, marks what is wrong with it."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QFont, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QScrollBar

from ....edits import KeyRef
from ....scene import Take
from ...commands.take_commands import TakeCommands
from ...state.document import Document
from ...widgets.drag import Keys
from ...widgets.theme import (
    AMBER,
    DEEP,
    FAINT,
    PANEL,
    RAISED,
    REED,
    RUST,
    SKY,
    SOFT,
    STRIPE,
    TEXT,
    colour,
    font,
)
from ...widgets.unexpected import painted
from ..axis import LABELS, RULER
from ..still import StillPicture
from ..time_view import RulerDrag, TimeDrag, TimeView
from .take_curves import compared, compared_in_words, detail, in_words, largest

ROW = 46
_INDENT = 8


class _MoveDrag(TimeDrag):
    """Moves the take in use in time."""

    def __init__(self, view: "TakesView", start: QPointF, begins: float) -> None:
        super().__init__(view, start)
        self._view, self._begins = view, begins

    def move(self, at: QPointF, keys: Keys) -> None:
        document = self._view.document
        if not document.gesture.running:
            if not self.is_past(at):
                return
            document.gesture.begin("Move the take")
        frame = self._begins + self.offset(at).x() / self._view.axis.pixels_per_frame
        frame = frame if keys & Keys.AltModifier else self._view.ruler.snapped(frame, self._view.axis)
        self._view.takes.change_use("move the take", start=frame)

    def release(self, at: QPointF) -> None:
        self._view.document.gesture.commit()

    def cancel(self) -> None:
        self._view.document.cancel()


class TakesView(TimeView):
    """Rows of takes under the ruler."""

    menu_wanted = pyqtSignal(object)
    """A right click on a row, at a place on the screen."""

    def __init__(self, document: Document, takes: TakeCommands) -> None:
        super().__init__(document)
        self.takes = takes
        self.setAccessibleName("Takes")
        self.setMinimumHeight(64)
        self.bar = QScrollBar(Qt.Orientation.Vertical, self)
        self.bar.valueChanged.connect(self.update)
        self._playhead = 0.0
        self._version = 0
        self._still = StillPicture(self)
        self._shown_for: tuple[object, ...] = ()
        self.words: dict[str, str] = {}
        """By take, how it compares with what it was made from, as far as it is known."""
        takes.chosen_changed.connect(self._show_chosen)
        for signal in (document.changed, document.selection.changed, takes.chosen_changed, takes.recorder.changed):
            signal.connect(self.refresh)
        document.playhead.moved.connect(self._move_playhead)
        document.settings_changed.connect(self.renew)
        document.heard.changed.connect(self.renew)
        document.checked.findings_changed.connect(self.renew)

    def refresh(self) -> None:
        count = len(self.takes.takes())
        room = self.height() - RULER
        self.bar.setRange(0, max(count * ROW - room, 0))
        self.bar.setPageStep(max(room, 1))
        self.bar.setVisible(count * ROW > room)
        if self.isVisible() and not self.takes.recorder.is_recording:
            self.document.turns.ask(self, self._compare)
        node, scene = self.takes.node, self.document.scene
        now = (scene.takes, scene.markers, scene.sounds, scene.settings, node and (node.id, node.name, node.take),
               self.takes.chosen)  # fmt: skip
        if now != self._shown_for:
            self._shown_for = now
            self.renew()

    def _show_chosen(self) -> None:
        """Bring the row of what was chosen last into view."""
        ids = [take.id for take in self.takes.takes()]
        if self.takes.chosen and self.takes.chosen[-1] in ids:
            top = ids.index(self.takes.chosen[-1]) * ROW
            room = max(self.height() - RULER, ROW)
            self.refresh()
            self.bar.setValue(min(max(self.bar.value(), top + ROW - room), top))

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.refresh()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.bar.setGeometry(self.width() - 10, RULER, 9, self.height() - RULER)
        self.refresh()

    def _compare(self) -> None:
        """What is said of the derived takes, one after the other, when there is a moment."""
        node, scene = self.takes.node, self.document.scene
        if node is None or not self.isVisible():
            return
        by_id = {take.id: take for take in scene.takes}
        waiting = [take for take in self.takes.takes() if take.source in by_id and self._key(take) not in self.words]
        if not waiting:
            return
        take = waiting[0]
        source = _root(take, by_id)
        distance, focal = self.takes.seen_by(node)
        found = compared(take, source, round(distance, 2), round(focal, 1))
        self.words[self._key(take)] = compared_in_words(found)
        self.renew()
        self.document.turns.ask(self, self._compare)

    def _key(self, take: Take) -> str:
        return f"{take.id}/{hash(take)}"

    def _move_playhead(self) -> None:
        if self.takes.recorder.is_recording:
            self.update()
        for x in (self._playhead, self.axis.x(self.document.playhead.frame)):
            self.update(int(x) - 9, 0, 19, self.height())
        self._playhead = self.axis.x(self.document.playhead.frame)

    # What is where

    def row_top(self, row: int) -> float:
        return float(RULER + row * ROW - self.bar.value())

    def take_at(self, at: QPointF) -> Take | None:
        """The take whose row is at a place."""
        if at.y() < RULER:
            return None
        row = int((at.y() - RULER + self.bar.value()) // ROW)
        shown = self.takes.takes()
        return shown[row] if 0 <= row < len(shown) else None

    def span(self, take: Take) -> tuple[float, float]:
        """From which frame to which a take goes: where it is used, or where it was recorded."""
        node, fps = self.takes.node, self.document.settings.rate.fps
        use = node.take if node is not None else None
        start, speed = (use.start, use.speed) if use is not None and use.take == take.id else (take.frame, 1.0)
        return start, start + take.seconds / speed * fps

    def _depth(self, take: Take) -> int:
        """After how many steps it came from a recording."""
        by_id = {each.id: each for each in self.document.scene.takes}
        depth = 0
        while take.source in by_id and depth < 3:
            take, depth = by_id[take.source], depth + 1
        return depth

    # Painting

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        # Everything but the playhead is kept as a picture, so that playing repaints little.
        key = (self.axis, self.bar.value(), self._version, self.document.playhead.range)
        p = QPainter(self)
        p.drawPixmap(0, 0, self._still.get(key, self._paint_rows))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        begun = self.takes.recorder.pass_began
        if begun is not None:
            x0, x1 = self.axis.x(begun), self.axis.x(self.document.playhead.frame)
            p.fillRect(QRectF(x0, RULER, x1 - x0, self.height() - RULER), colour(RUST, 0.16))
        self.ruler.paint_playhead(p, self.axis)

    def _paint_rows(self, p: QPainter) -> None:
        shown = self.takes.takes()
        p.setClipRect(QRectF(0, RULER, self.width(), self.height() - RULER))
        for row, take in enumerate(shown):
            top = self.row_top(row)
            if -ROW < top - RULER < self.height():
                self._row(p, row, take, top)
        p.setClipping(False)
        self.ruler.paint(p, self.axis)
        self.ruler.paint_markers(p, self.axis)
        if not shown:
            p.setFont(font(12))
            room = QRectF(16, RULER, self.width() - 32, self.height() - RULER)
            words = p.boundingRect(room, Qt.AlignmentFlag.AlignCenter, self._nothing()).adjusted(-10, -6, 10, 6)
            p.fillRect(words, colour(PANEL))
            p.setPen(colour(SOFT))
            p.drawText(room, Qt.AlignmentFlag.AlignCenter, self._nothing())

    def renew(self) -> None:
        """Paint everything anew."""
        self._version += 1
        self.update()

    def _nothing(self) -> str:
        node = self.takes.node
        if node is None:
            return "Select the camera or node whose motion is to be recorded."
        return (
            f"{node.name} has no takes yet. Press Record, or L, Space, and drag in the Lens or the Overview\n"
            "while it plays, or choose the tracker and move that. Every pass is a take."
        )

    def _row(self, p: QPainter, row: int, take: Take, top: float) -> None:
        node = self.takes.node
        chosen = take.id in self.takes.chosen
        used = node is not None and node.take is not None and node.take.take == take.id
        if chosen:
            p.fillRect(QRectF(0, top, self.width(), ROW), colour(RAISED))
        elif row % 2:
            p.fillRect(QRectF(0, top, self.width(), ROW), colour(STRIPE))
        tone = AMBER if used else REED if take.source else SOFT
        left = 16.0 + _INDENT * self._depth(take)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(tone))
        p.drawEllipse(QPointF(left, top + 15), 3.4, 3.4)
        words, room = font(12, QFont.Weight.DemiBold if chosen else QFont.Weight.Normal), LABELS - left - 22
        p.setFont(words)
        p.setPen(colour(AMBER if used else TEXT))
        title = take.step.capitalize() if take.source and take.step else take.name
        p.drawText(
            QRectF(left + 11, top + 5, room, 20), Qt.AlignmentFlag.AlignVCenter,
            p.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, int(room)),
        )  # fmt: skip
        p.setFont(font(11))
        p.setPen(colour(SOFT))
        said = self.words.get(self._key(take), "") if take.source else ""
        said = said or in_words(take)
        p.drawText(
            QRectF(left + 11, top + 24, room, 16), Qt.AlignmentFlag.AlignVCenter,
            p.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, int(room)),
        )  # fmt: skip
        p.save()
        p.setClipRect(QRectF(LABELS, max(top, RULER), self.width() - LABELS, ROW))
        self._plot(p, take, top, tone)
        others = [each for each in self.takes.takes() if each.id in self.takes.chosen and each.id != take.id]
        if chosen and len(others) == 1:
            self._curve(p, others[0], take, top, SKY, 0.75)
        p.restore()

    def _plot(self, p: QPainter, take: Take, top: float, tone: str) -> None:
        start, end = self.span(take)
        x0, x1 = self.axis.x(start), self.axis.x(end)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(DEEP, 0.55))
        p.drawRoundedRect(QRectF(x0 - 4, top + 5, x1 - x0 + 8, ROW - 10), 4, 4)
        per = (x1 - x0) / max(take.seconds, 1e-9)
        for mark in take.marks:
            left = x0 + (mark.start - float(take.times[0])) * per
            wide = max((mark.end - mark.start) * per, 2.0)
            p.fillRect(QRectF(left, top + 6, wide, ROW - 12), colour(RUST, 0.5))
        self._curve(p, take, take, top, tone, 1.0)

    def _curve(self, p: QPainter, take: Take, scale_of: Take, top: float, tone: str, strength: float) -> None:
        """A take's motion, to the scale of one."""
        start, end = self.span(take)
        x0, x1 = self.axis.x(start), self.axis.x(end)
        column = largest(scale_of)
        if not set(column) <= set(take.columns):
            return
        bins = int(np.clip((x1 - x0) / 1.5, 8, 900))
        low, high = detail(take, column, bins)
        own_low, own_high = (low, high) if take is scale_of else detail(scale_of, column, bins)
        base, reach = float(own_low.min()), max(float(own_high.max() - own_low.min()), 1e-9)
        xs = np.linspace(x0, x1, bins)

        def y(values: np.ndarray) -> np.ndarray:
            return top + ROW - 9 - (values - base) / reach * (ROW - 18)

        points = [QPointF(x, at) for x, at in zip(xs.tolist(), y(high).tolist(), strict=True)]
        points += [QPointF(x, at) for x, at in zip(xs[::-1].tolist(), y(low)[::-1].tolist(), strict=True)]
        p.setPen(QPen(colour(tone, strength), 1.2))
        p.setBrush(colour(tone, 0.35 * strength))
        p.drawPolygon(QPolygonF(points))
        if take.slopes and take.count < 300:
            p.setPen(QPen(colour(FAINT), 1.0))
            p.setBrush(colour(tone))
            at = x0 + (take.times - take.times[0]) / max(take.seconds, 1e-9) * (x1 - x0)
            for x in at.tolist():
                p.drawEllipse(QPointF(x, top + ROW - 8), 2.2, 2.2)

    # The mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        if at.y() < RULER and at.x() >= LABELS:
            self.drag = RulerDrag(self, at)
            return
        take = self.take_at(at)
        if take is None:
            self.takes.choose(())
            return
        more = bool(event.modifiers() & (Keys.ControlModifier | Keys.ShiftModifier))
        chosen = self.takes.chosen
        if more:
            others = tuple(each for each in chosen if each != take.id)
            self.takes.choose(others if take.id in chosen else (*others, take.id))
        else:
            self.takes.choose((take.id,))
        node = self.takes.node
        if node is not None and node.take is not None and node.take.take == take.id and at.x() >= LABELS and not more:
            self.drag = _MoveDrag(self, at, node.take.start)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self.drag is not None:
            self.drag.move(event.position(), event.modifiers())
        elif event.position().y() < RULER:
            self.setCursor(self.ruler.cursor(event.position(), self.axis))
        else:
            self.setCursor(Qt.CursorShape.ArrowCursor)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self.take_at(event.position()) is not None:
            self.takes.toggle_use()
        elif event.position().y() < RULER and not self.ruler.double_click(event.position(), self.axis):
            self.show_whole()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        take = self.take_at(QPointF(event.pos())) if event is not None else None
        if event is not None and take is not None:
            if take.id not in self.takes.chosen:
                self.takes.choose((take.id,))
            self.menu_wanted.emit(event.globalPos())

    def keys_in(self, box: QRectF) -> set[KeyRef]:
        return set()

    def turn_wheel(self, turns: float, at: QPointF) -> None:
        self.bar.setValue(self.bar.value() - round(turns * ROW))


def _root(take: Take, by_id: dict[str, Take]) -> Take:
    """The recording that a take came from, however many steps ago, as far as it lies over the same time."""
    source = by_id[take.source] if take.source else take
    while source.source in by_id and take.step.startswith(("steadied", "mended", "fewest", "on frames", "every")):
        source = by_id[source.source]
    return source
