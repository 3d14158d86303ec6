"""The lanes themselves: ruler, rows, pins, and everything the mouse does with them."""

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QWheelEvent,
)
from PyQt6.QtWidgets import QScrollBar, QWidget

from ...scene import SceneError, span_label
from ...scene.edits import KeyRef, move_keys, remove_keys
from ..channel_field import channel_mark
from ..document import Document
from ..recording import State, key_now
from ..theme import AMBER, DEEP, LINE, PANEL, REED, RUST, SOFT, TEXT, colour, font
from .axis import TimeAxis
from .shapes import Lane, heights, lanes_of, span_outline, value_range

LABELS = 250
RULER = 34
ROW = 32
_RIGHT = 22
_GRAB = 7.0


class LanesView(QWidget):
    """Keys and spans of every keyed channel."""

    ease_wanted = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.only_selected = False
        self._axis: TimeAxis | None = None
        self._cache: tuple[tuple[object, ...], QPixmap] | None = None
        self._drag: tuple[str, QPointF, object] | None = None
        self._box: QRectF | None = None
        self._hover: tuple[str, object] | None = None
        self.scroll = QScrollBar(Qt.Orientation.Vertical, self)
        self.scroll.valueChanged.connect(self.update)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(90)
        self.setAccessibleName("Lanes")
        self._range = (0, 0)
        for signal in (document.changed, document.selection_changed, document.keys_selected):
            signal.connect(self.refresh)
        document.frame_changed.connect(self.update)
        document.settings_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(1280, 250)

    # What is where

    def lanes(self) -> list[Lane]:
        """The rows. A scene never changes, so they are worked out once for each."""
        key = (self._document.scene, self._document.selection if self.only_selected else None)
        if (
            getattr(self, "_lanes_key", None) is None
            or self._lanes_key[0] is not key[0]
            or self._lanes_key[1] != key[1]
        ):
            self._lanes_key = key
            self._lanes = lanes_of(key[0], key[1])
        return self._lanes

    @property
    def axis(self) -> TimeAxis:
        settings = self._document.settings
        left, width = LABELS + 14.0, max(self.width() - LABELS - 14.0 - _RIGHT, 50.0)
        if self._axis is None or self._range != (settings.first, settings.last):
            self._range = (settings.first, settings.last)
            self._axis = TimeAxis(left, width, settings.first, max(settings.last, settings.first + 1))
        if (self._axis.left, self._axis.width) != (left, width):
            self._axis = replace(self._axis, left=left, width=width)
        return self._axis

    def show_whole(self) -> None:
        self._axis = None
        self.refresh()

    def row_top(self, index: int) -> float:
        return RULER + index * ROW - self.scroll.value()

    def row_at(self, y: float) -> int | None:
        index = int((y - RULER + self.scroll.value()) // ROW)
        return index if y >= RULER and 0 <= index < len(self.lanes()) else None

    def pin(self, lane: Lane, index: int, row: int) -> QPointF:
        """Where a key's pin head is."""
        low, high = value_range(lane.data)
        key = lane.data.keys[index]
        share = float(heights(np.array([key.value]), low, high)[0])
        return QPointF(self.axis.x(key.frame), self._y(row, share))

    def _y(self, row: int, share: float) -> float:
        return self.row_top(row) + ROW - 4 - share * (ROW - 10)

    def refresh(self) -> None:
        rows = len(self.lanes())
        room = self.height() - RULER
        self.scroll.setRange(0, max(0, rows * ROW + 8 - room))
        self.scroll.setPageStep(max(room, 1))
        self.scroll.setSingleStep(ROW)
        self.scroll.setVisible(rows * ROW + 8 > room)
        self.update()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.scroll.setGeometry(self.width() - 10, RULER, 9, self.height() - RULER)
        self.refresh()

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        # Everything but the playhead is kept as a picture, so that playing repaints one line.
        document = self._document
        key = (
            self.size(), self.axis, self.scroll.value(), document.selected_keys, document.selection, self._hover,
            document.range, self.only_selected, self.devicePixelRatioF(),
        )  # fmt: skip
        scene = document.scene
        if self._cache is None or self._cache[0][0] is not scene or self._cache[0][1:] != key:
            pixmap = QPixmap(self.size() * self.devicePixelRatioF())
            pixmap.setDevicePixelRatio(self.devicePixelRatioF())
            pixmap.fill(colour(PANEL))
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_rows(painter)
            self._paint_ruler(painter)
            painter.end()
            self._cache = ((scene, *key), pixmap)
        p = QPainter(self)
        p.drawPixmap(0, 0, self._cache[1])
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_dots(p)
        self._paint_playhead(p)
        if self._box is not None:
            p.setPen(QPen(colour(AMBER), 1))
            p.setBrush(colour(AMBER, 0.12))
            p.drawRect(self._box)

    def _paint_ruler(self, p: QPainter) -> None:
        axis, settings = self.axis, self._document.settings
        p.fillRect(QRectF(0, 0, self.width(), RULER), colour(DEEP))
        p.setClipRect(QRectF(LABELS, 0, self.width() - LABELS, RULER))
        first, last = self._document.range
        inside = QRectF(axis.x(first), RULER - 3, axis.x(last) - axis.x(first), 3)
        outside = colour(LINE)
        p.fillRect(
            QRectF(axis.x(settings.first), RULER - 3, axis.x(settings.last) - axis.x(settings.first), 3), outside
        )
        p.fillRect(inside, colour(REED))
        step = axis.tick_step()
        minor = step / 2 if step % 2 == 0 else step
        p.setFont(font(10))
        n = int(np.floor(axis.start / minor))
        while n * minor <= axis.end + minor:
            frame = n * minor
            x = axis.x(frame)
            major = frame % step == 0
            p.setPen(QPen(colour("#52666f" if major else LINE), 1))
            p.drawLine(QPointF(x, RULER - (14 if major else 9)), QPointF(x, RULER - 4))
            if major and x < self.width() - 26:
                p.setPen(colour(SOFT if settings.first <= frame <= settings.last else "#6d7a7b"))
                p.drawText(QPointF(x + 4, 16), f"{frame:g}")
            n += 1
        p.setClipping(False)

    def _paint_rows(self, p: QPainter) -> None:
        rows = self.lanes()
        if not rows:
            p.setPen(colour(SOFT))
            p.setFont(font(12))
            text = (
                "No keys yet. Turn Auto-key on (A), move to a frame and change something;\n"
                "or press K to key the selection."
            )
            p.drawText(QRectF(16, RULER, self.width() - 32, self.height() - RULER), Qt.AlignmentFlag.AlignCenter, text)
            return
        p.setClipRect(QRectF(0, RULER, self.width(), self.height() - RULER))
        first = max(0, int(self.scroll.value() // ROW))
        last = min(len(rows), int((self.scroll.value() + self.height() - RULER) // ROW) + 1)
        for row in range(first, last):
            self._paint_row(p, row, rows[row])
        p.setClipping(False)

    def _paint_row(self, p: QPainter, row: int, lane: Lane) -> None:
        document = self._document
        top = self.row_top(row)
        selected = lane.node in document.selection
        if row % 2:
            p.fillRect(QRectF(0, top, self.width(), ROW), colour("#253239"))
        hovered = self._hover == ("label", row)
        p.setFont(font(12, QFont.Weight.Medium if selected else QFont.Weight.Normal))
        p.setPen(colour(AMBER if selected else TEXT, 1.0 if selected or not hovered else 0.85))
        room = QRectF(16, top, LABELS - 50, ROW)
        p.drawText(
            room,
            Qt.AlignmentFlag.AlignVCenter,
            p.fontMetrics().elidedText(lane.label, Qt.TextElideMode.ElideRight, int(room.width())),
        )
        tone = AMBER if selected else lane.colour or REED
        low, high = value_range(lane.data)
        base = top + ROW - 4
        p.save()
        p.setClipRect(QRectF(LABELS, max(top, RULER), self.width() - LABELS, ROW))
        for index in range(len(lane.data.keys) - 1):
            xs, shares = span_outline(lane.data, index, self.axis, low, high)
            if not len(xs):
                continue
            ys = base - shares * (ROW - 10)
            curve = QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)])
            outline = QPainterPath(QPointF(xs[0], base))
            outline.addPolygon(curve)
            outline.lineTo(xs[-1], base)
            chosen = self._span_selected(lane, index) or self._hover == ("span", (row, index))
            outline.closeSubpath()
            fill = QPainterPath()
            fill.addPolygon(QPolygonF([QPointF(xs[0], base), *curve, QPointF(xs[-1], base)]))
            p.fillPath(fill, colour(tone, 0.46 if chosen else 0.26))
            p.setPen(QPen(colour(tone), 1.5))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolyline(curve)
            if chosen and xs[-1] - xs[0] > 70:
                p.setFont(font(10))
                p.setPen(colour(TEXT, 0.85))
                p.drawText(
                    QRectF(xs[0] + 8, top + 1, xs[-1] - xs[0] - 16, 12),
                    Qt.AlignmentFlag.AlignCenter,
                    span_label(lane.data.keys[index].span),
                )
        for index, key in enumerate(lane.data.keys):
            x = self.axis.x(key.frame)
            if not LABELS - 8 <= x <= self.width() + 8:
                continue
            at = self.pin(lane, index, row)
            chosen = KeyRef(lane.node, lane.channel, key.frame) in document.selected_keys
            p.setPen(QPen(colour(tone), 1.6))
            p.drawLine(QPointF(at.x(), base), at)
            p.setPen(QPen(colour(TEXT if chosen else PANEL), 1.6 if chosen else 1))
            p.setBrush(colour(AMBER if chosen else tone))
            radius = 5.0 if chosen or self._hover == ("key", (row, index)) else 3.8
            p.drawEllipse(at, radius, radius)
        p.restore()

    def _span_selected(self, lane: Lane, index: int) -> bool:
        keys = lane.data.keys
        chosen = self._document.selected_keys
        return all(KeyRef(lane.node, lane.channel, keys[k].frame) in chosen for k in (index, index + 1))

    def _paint_dots(self, p: QPainter) -> None:
        """By each label, whether there is a key at the playhead."""
        p.setClipRect(QRectF(0, RULER, LABELS, self.height() - RULER))
        for row, lane in enumerate(self.lanes()):
            top = self.row_top(row)
            if RULER - ROW < top < self.height():
                mark = channel_mark(self._document, lane.node, lane.channel)
                tone = colour(RUST if mark == "pending" else AMBER if mark == "here" else "#5d7079")
                p.setPen(QPen(tone, 1.3))
                p.setBrush(tone if mark in ("here", "pending") else Qt.BrushStyle.NoBrush)
                p.drawEllipse(QPointF(LABELS - 18, top + ROW / 2), 3.2, 3.2)
        p.setClipping(False)

    def _paint_playhead(self, p: QPainter) -> None:
        x = self.axis.x(self._document.frame)
        if x < LABELS:
            return
        p.setPen(QPen(colour(AMBER), 1.6))
        p.drawLine(QPointF(x, 6), QPointF(x, self.height()))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(AMBER))
        p.drawPolygon(QPolygonF([QPointF(x + dx, dy) for dx, dy in ((-6, 0), (6, 0), (6, 8), (0, 14), (-6, 8))]))

    # The mouse

    def what_at(self, at: QPointF) -> tuple[str, object] | None:
        """What is under the pointer: ruler, label, dot, key (row, index), span (row, index), or a row."""
        if at.y() < RULER:
            return ("ruler", None) if at.x() >= LABELS else None
        row = self.row_at(at.y())
        if row is None:
            return None
        if at.x() < LABELS:
            return ("dot", row) if at.x() > LABELS - 32 else ("label", row)
        lane = self.lanes()[row]
        frames = np.array([key.frame for key in lane.data.keys])
        distances = np.abs(self.axis.xs(frames) - at.x())
        nearest = int(np.argmin(distances))
        if distances[nearest] <= _GRAB:
            return "key", (row, nearest)
        index = int(np.searchsorted(frames, self.axis.frame(at.x()))) - 1
        if 0 <= index < len(frames) - 1:
            return "span", (row, index)
        return "row", row

    def _ref(self, row: int, index: int) -> KeyRef:
        lane = self.lanes()[row]
        return KeyRef(lane.node, lane.channel, lane.data.keys[index].frame)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._drag = ("pan", at, self.axis)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        found = self.what_at(at)
        extend = bool(event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier))
        kind, what = found or ("nothing", None)
        if kind == "ruler":
            self._drag = ("scrub", at, None)
            self._scrub(at)
        elif kind == "label":
            node = self.lanes()[int(what)].node  # type: ignore[call-overload]
            self._document.select([*self._document.selection, node] if extend else [node])
        elif kind == "dot":
            self._toggle_key(int(what))  # type: ignore[call-overload]
        elif kind in ("key", "span"):
            row, index = what  # type: ignore[misc]
            refs = {self._ref(row, index)} | ({self._ref(row, index + 1)} if kind == "span" else set())
            chosen = self._document.selected_keys
            if extend:
                self._document.select_keys(chosen - refs if refs <= chosen else chosen | refs)
            elif not refs <= chosen:
                self._document.select_keys(refs)
            if self._document.selected_keys:
                self._drag = ("keys", at, (self._ref(row, index).frame, self._document.selected_keys))
        elif at.x() >= LABELS:
            if not extend:
                self._document.select_keys(())
            self._drag = ("box", at, self._document.selected_keys)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self._drag is None:
            found = self.what_at(at)
            if found and found[0] not in ("key", "span", "label"):
                hover = None
            else:
                hover = found
            shapes = {"key": Qt.CursorShape.SizeHorCursor, "span": Qt.CursorShape.PointingHandCursor}
            self.setCursor(shapes.get(found[0] if found else "", Qt.CursorShape.ArrowCursor))
            if hover != self._hover:
                self._hover = hover
                self.update()
            return
        kind, start, what = self._drag
        if kind == "scrub":
            self._scrub(at)
        elif kind == "pan" and isinstance(what, TimeAxis):
            self._axis = what.moved((start.x() - at.x()) / what.pixels_per_frame)
            self.update()
        elif kind == "keys":
            if self._document.in_gesture or abs(at.x() - start.x()) >= 3:
                self._move_keys(at.x() - start.x(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
        elif kind == "box":
            self._box = QRectF(start, at).normalized()
            self._document.select_keys(what | self._keys_in(self._box))  # type: ignore[operator]
            self.update()

    def _scrub(self, at: QPointF) -> None:
        self._document.set_frame(round(self.axis.frame(at.x())))

    def _move_keys(self, pixels: float, free: bool) -> None:
        assert self._drag is not None
        frame, refs = self._drag[2]  # type: ignore[misc]
        wanted = frame + pixels / self.axis.pixels_per_frame
        by = (wanted if free else round(wanted)) - frame
        document = self._document
        document.begin("Move keys")
        base = document.gesture_base
        try:
            scene = move_keys(base.scene, refs, by)
        except SceneError as problem:
            document.say(str(problem), True)
            return
        document.preview(State(scene, base.pending))
        document.select_keys(KeyRef(ref.node, ref.channel, ref.frame + by) for ref in refs)

    def _keys_in(self, box: QRectF) -> set[KeyRef]:
        found = set()
        for row, lane in enumerate(self.lanes()):
            if self.row_top(row) <= box.bottom() and self.row_top(row) + ROW >= box.top():
                for key in lane.data.keys:
                    if box.left() <= self.axis.x(key.frame) <= box.right():
                        found.add(KeyRef(lane.node, lane.channel, key.frame))
        return found

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is None:
            return
        kind = self._drag[0]
        self._drag = None
        self._box = None
        if kind == "keys":
            self._document.commit()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        found = self.what_at(event.position())
        if found and found[0] == "span":
            self.ease_wanted.emit()
        elif found and found[0] == "key":
            row, index = found[1]  # type: ignore[misc]
            self._document.set_frame(self._ref(row, index).frame)
        elif found and found[0] == "ruler":
            self.show_whole()

    def _toggle_key(self, row: int) -> None:
        lane, document = self.lanes()[row], self._document
        label = document.label(lane.node, lane.channel)
        here = lane.data.key_at(document.frame)
        if here is not None and channel_mark(document, lane.node, lane.channel) != "pending":
            ref = KeyRef(lane.node, lane.channel, here.frame)
            document.edit(f"Delete key of {label}", lambda scene: remove_keys(scene, [ref]))
        else:
            value = document.value(lane.node, lane.channel)
            try:
                recorded = key_now(document.state, [(lane.node, lane.channel, value)], document.frame)
            except SceneError as problem:
                document.say(str(problem), True)
                return
            document.apply_recorded(f"Key {label}", recorded)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and self._drag is not None:
            kind, _, what = self._drag
            self._drag, self._box = None, None
            if kind == "keys":
                self._document.cancel()
                self._document.select_keys(what[1])  # type: ignore[index]
            self.update()
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120.0
        keys = event.modifiers()
        if keys & Qt.KeyboardModifier.ControlModifier:
            self._axis = self.axis.zoomed(1.2**turns, self.axis.frame(event.position().x()))
            self.update()
        elif keys & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x():
            self._axis = self.axis.moved(-turns * 40.0 / self.axis.pixels_per_frame)
            self.update()
        else:
            self.scroll.setValue(self.scroll.value() - round(turns * ROW))
        event.accept()

    def leaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._hover = None
        self.update()
