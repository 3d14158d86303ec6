"""The lanes themselves: ruler, rows, pins, and everything the mouse does with them."""

from collections import Counter, defaultdict
from collections.abc import Callable, Mapping

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QWheelEvent,
)
from PyQt6.QtWidgets import QScrollBar, QWidget

from ....scene import Scene
from ....scene.edits import KeyRef
from ...state.document import Document
from ...widgets.theme import AMBER, PANEL, colour
from ...widgets.unexpected import painted
from ..axis import LABELS, ROW, RULER, TimeAxis
from ..ruler import Ruler
from .dots import toggle
from .key_drag import Grabbed, KeyDrag
from .menu import lane_menu
from .painting import LanesPainter
from .plots import Plots
from .shapes import SUM, Lane, heights, lanes_of, value_range

_RIGHT = 22
_GRAB = 7.0


class LanesView(QWidget):
    """Keys and spans of every keyed channel."""

    ease_wanted = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.only_selected = False
        self.named = ""
        self.cached: Callable[[], list[float]] = list
        """Frames whose picture is held in memory."""
        self.folded: frozenset[str] = frozenset()
        self._axis: TimeAxis | None = None
        self._rows: tuple[Scene, tuple[object, ...], list[Lane]] | None = None
        self._chosen: tuple[frozenset[KeyRef], Mapping[tuple[str, str], Mapping[float, int]]] | None = None
        self.plots = Plots()
        self.ruler = Ruler(document, self)
        self.key_drag = KeyDrag(document, self.ruler)
        self._cache: tuple[tuple[object, ...], QPixmap] | None = None
        self._drag: tuple[str, QPointF, object] | None = None
        self._box: QRectF | None = None
        self.hover: tuple[str, object] | None = None
        self.scroll = QScrollBar(Qt.Orientation.Vertical, self)
        self.scroll.valueChanged.connect(self.update)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(90)
        self.setAccessibleName("Lanes")
        self._range = (0, 0)
        self._playhead = 0.0
        for signal in (document.changed, document.selection_changed, document.keys_selected):
            signal.connect(self.refresh)
        document.frame_changed.connect(self._move_playhead)
        document.settings_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(1280, 250)

    # What is where

    def lanes(self) -> list[Lane]:
        """The rows. A scene never changes, so they are worked out once for each."""
        scene, only = self.document.keyed, self.document.selection if self.only_selected else None
        key = (only, self.folded, self.named)
        if self._rows is None or self._rows[0] is not scene or self._rows[1] != key:
            self._rows = (scene, key, lanes_of(scene, *key))
        return self._rows[2]

    def chosen_frames(self) -> Mapping[tuple[str, str], Mapping[float, int]]:
        """How many keys are selected on each frame, by row: of a channel, of a node, and of all."""
        keys = self.document.selected_keys
        if self._chosen is None or self._chosen[0] is not keys:
            by_row: dict[tuple[str, str], list[float]] = defaultdict(list)
            for node, name, frame in keys:
                by_row[node, name].append(frame)
            for (node, _), frames in list(by_row.items()):
                by_row[node, SUM] += frames
                by_row["", SUM] += frames
            found = {row: Counter(frames) for row, frames in by_row.items()}
            self._chosen = (keys, found)
        return self._chosen[1]

    @property
    def axis(self) -> TimeAxis:
        settings = self.document.settings
        left, width = LABELS + 14.0, max(self.width() - LABELS - 14.0 - _RIGHT, 50.0)
        if self._axis is None or self._range != (settings.first, settings.last):
            self._range = (settings.first, settings.last)
            self._axis = TimeAxis(left, width, settings.first, max(settings.last, settings.first + 1))
        if (self._axis.left, self._axis.width) != (left, width):
            self._axis = replace(self._axis, left=left, width=width)
        return self._axis

    def _move_playhead(self) -> None:
        """Repaint only where the playhead was and is, and the dots by the labels."""
        for x in (self._playhead, self.axis.x(self.document.frame)):
            self.update(int(x) - 9, 0, 19, self.height())
        self._playhead = self.axis.x(self.document.frame)
        self.update(LABELS - 32, RULER, 32, self.height())

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

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        # Everything but the playhead is kept as a picture, so that playing repaints one line.
        document = self.document
        key = (
            self.size(), self.axis, self.scroll.value(), document.selected_keys, document.selection, self.hover,
            document.range, self.only_selected, self.folded, self.named, self.devicePixelRatioF(),
        )  # fmt: skip
        scene = document.keyed
        if self._cache is None or self._cache[0][0] is not scene or self._cache[0][1:] != key:
            pixmap = QPixmap(self.size() * self.devicePixelRatioF())
            pixmap.setDevicePixelRatio(self.devicePixelRatioF())
            pixmap.fill(colour(PANEL))
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self.plots.start()
            LanesPainter(painter, self).rows()
            self.ruler.paint(painter, self.axis)
            self.ruler.paint_bar(painter, self.axis)
            self.ruler.paint_markers(painter, self.axis)
            painter.end()
            self._cache = ((scene, *key), pixmap)
            if self.plots.behind:
                self._cache = (("behind",), pixmap)
                QTimer.singleShot(0, self.update)
        p = QPainter(self)
        p.drawPixmap(0, 0, self._cache[1])
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        LanesPainter(p, self).held()
        LanesPainter(p, self).dots()
        self.ruler.paint_playhead(p, self.axis)
        if self._box is not None:
            p.setPen(QPen(colour(AMBER), 1))
            p.setBrush(colour(AMBER, 0.12))
            p.drawRect(self._box)

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

    def _frame(self, row: int, index: int) -> float:
        return self.lanes()[row].data.keys[index].frame

    def _refs(self, row: int, index: int) -> set[KeyRef]:
        return self.lanes()[row].refs(self.document.scene, self._frame(row, index))

    def fold(self, node: str) -> None:
        """Fold a node's lanes into one, or open them; "" for all nodes."""
        if node:
            self.folded = self.folded ^ {node}
        else:
            sums = frozenset(each.node for each in self.lanes() if each.is_sum and each.node)
            self.folded = frozenset() if sums <= self.folded else sums
        self.refresh()

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
            self.ruler.press(at, self.axis)
            self._drag = ("ruler", at, None)
        elif kind == "label":
            lane = self.lanes()[int(what)]  # type: ignore[call-overload]
            node = lane.node
            if lane.is_sum and at.x() < 22:
                self.fold(node)
                return
            if not node:
                # The row of all keys stands for all that is keyed.
                self.document.select(dict.fromkeys(each.node for each in self.lanes() if each.node))
                return
            self.document.select([*self.document.selection, node] if extend else [node])
        elif kind == "dot":
            toggle(self.document, self.lanes()[int(what)])  # type: ignore[call-overload]
        elif kind in ("key", "span"):
            row, index = what  # type: ignore[misc]
            refs = self._refs(row, index) | (self._refs(row, index + 1) if kind == "span" else set())
            copies = (
                bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier) and refs <= self.document.selected_keys
            )
            if copies:
                # With Ctrl, keys that are selected stay where they are and copies go along.
                self._drag = ("keys", at, Grabbed(self._frame(row, index), self.document.selected_keys, copies=True))
                return
            chosen = self.document.selected_keys
            if extend:
                self.document.select_keys(chosen - refs if refs <= chosen else chosen | refs)
            elif not refs <= chosen:
                self.document.select_keys(refs)
            if self.document.selected_keys:
                self._drag = ("keys", at, Grabbed(self._frame(row, index), self.document.selected_keys))
        elif at.x() >= LABELS:
            if not extend:
                self.document.select_keys(())
            self._drag = ("box", at, self.document.selected_keys)

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
            shape = shapes.get(found[0] if found else "", Qt.CursorShape.ArrowCursor)
            self.setCursor(self.ruler.cursor(at, self.axis) if found and found[0] == "ruler" else shape)
            if hover != self.hover:
                self.hover = hover
                self.update()
            return
        kind, start, what = self._drag
        if kind == "ruler":
            self.ruler.drag(start, at, self.axis, event.modifiers())
        elif kind == "pan" and isinstance(what, TimeAxis):
            self._axis = what.moved((start.x() - at.x()) / what.pixels_per_frame)
            self.update()
        elif isinstance(what, Grabbed):
            if self.document.in_gesture or abs(at.x() - start.x()) >= 3:
                free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
                self.key_drag.move(what, at.x() - start.x(), self.axis, free)
        elif kind == "box":
            self._box = QRectF(start, at).normalized()
            self.document.select_keys(what | self._keys_in(self._box))  # type: ignore[operator]
            self.update()

    def _keys_in(self, box: QRectF) -> set[KeyRef]:
        found = set()
        for row, lane in enumerate(self.lanes()):
            if self.row_top(row) <= box.bottom() and self.row_top(row) + ROW >= box.top():
                for key in lane.data.keys:
                    if box.left() <= self.axis.x(key.frame) <= box.right():
                        found |= lane.refs(self.document.scene, key.frame)
        return found

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is None:
            return
        kind, start, what = self._drag
        moved = self.document.in_gesture
        self._drag = None
        self._box = None
        if kind == "keys":
            self.document.commit()
        elif kind == "ruler":
            self.ruler.release()
        if isinstance(what, Grabbed) and what.copies and not moved and event is not None:
            # A click after all: it takes the key out of the selection.
            found = self.what_at(start)
            if found and found[0] in ("key", "span"):
                row, index = found[1]  # type: ignore[misc]
                refs = self._refs(row, index) | (self._refs(row, index + 1) if found[0] == "span" else set())
                self.document.select_keys(self.document.selected_keys - refs)
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        found = self.what_at(event.position())
        if found and found[0] == "span":
            self.ease_wanted.emit()
        elif found and found[0] == "key":
            row, index = found[1]  # type: ignore[misc]
            self.document.set_frame(self._frame(row, index))
        elif found and found[0] == "ruler" and not self.ruler.double_click(event.position(), self.axis):
            self.show_whole()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        found = self.what_at(QPointF(event.pos()))
        row = found[1][0] if found and found[0] in ("key", "span") else found[1] if found else None  # type: ignore[index]
        if isinstance(row, int):
            lane_menu(self, self.lanes()[row], event.globalPos())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and self._drag is not None:
            kind, _, what = self._drag
            self._drag, self._box = None, None
            if isinstance(what, Grabbed):
                self.document.cancel()
                self.document.select_keys(what.refs)
            elif kind == "ruler":
                self.ruler.cancel()
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
        self.hover = None
        self.update()
