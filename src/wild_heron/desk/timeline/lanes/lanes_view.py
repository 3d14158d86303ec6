"""The lanes themselves: ruler, rows, pins, and everything the mouse does with them."""

from PyQt6.QtCore import QEvent, QPointF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
)

from ...state.document import Document
from ...widgets.drag import Keys
from ...widgets.theme import AMBER, PANEL, colour, theme_name
from ...widgets.unexpected import painted
from ..axis import LABELS, RULER
from ..time_view import BoxDrag, RulerDrag
from .dots import toggle
from .key_drag import Grabbed
from .lanes_drags import LaneKeysDrag, LanesPanDrag
from .lanes_keyboard import LanesCursor, is_override
from .lanes_layout import NOTHING, LanesLayout, LaneUnderPointer
from .lanes_painting import LanesPainter
from .menu import lane_menu
from .shapes import Lane

_RIGHT = 22
_GRAB = 7.0


class LanesView(LanesLayout):
    """Keys and spans of every keyed channel, to be seen and dragged."""

    ease_wanted = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._cache: tuple[tuple[object, ...], QPixmap] | None = None
        self.setAccessibleName("Lanes")
        self.cursor_ = LanesCursor(self)
        self._playhead = 0.0
        for signal in (document.changed, document.selection.changed, document.selection.keys_changed):
            signal.connect(self.refresh)
        document.playhead.moved.connect(self._move_playhead)
        document.settings_changed.connect(self.update)
        document.heard.changed.connect(self._hear)
        document.checked.findings_changed.connect(self._hear)
        self.seen.changed.connect(self._hear)

    def _hear(self) -> None:
        self._cache = None
        self.update()

    def _move_playhead(self) -> None:
        """Repaint only where the playhead was and is, and the dots by the labels."""
        for x in (self._playhead, self.axis.x(self.document.playhead.frame)):
            self.update(int(x) - 9, 0, 19, self.height())
        self._playhead = self.axis.x(self.document.playhead.frame)
        self.update(LABELS - 32, RULER, 32, self.height())

    # Painting

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.bar.setGeometry(self.width() - 10, RULER, 9, self.height() - RULER)
        self.refresh()

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        # Everything but the playhead is kept as a picture, so that playing repaints one line.
        document = self.document
        key = (
            self.size(), self.axis, self.bar.value(), document.selection.keys, document.selection.nodes, self.hover,
            document.playhead.range, self.only_selected, self.folded, self.named, self.devicePixelRatioF(),
            theme_name(),
        )  # fmt: skip
        scene = document.views.keyed
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
        self.cursor_.paint(p)
        if self.box is not None:
            p.setPen(QPen(colour(AMBER), 1))
            p.setBrush(colour(AMBER, 0.12))
            p.drawRect(self.box)

    # The keyboard

    def event(self, event: QEvent | None) -> bool:
        if is_override(event) and isinstance(event, QKeyEvent) and self.cursor_.wants(event):
            event.accept()
            return True
        return bool(super().event(event))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.cursor_.wants(event):
            super().keyPressEvent(event)
        elif self.cursor_.press(event) == "ease":
            self.ease_wanted.emit()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        if event is not None:
            self.cursor_.focus(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if event is not None:
            self.cursor_.focus(event)

    # The mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.cursor_.leave()
        at = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            self.drag = LanesPanDrag(self, at)
        elif event.button() == Qt.MouseButton.LeftButton:
            self._press(at, self.what_at(at), event.modifiers())

    def _press(self, at: QPointF, under: LaneUnderPointer, held: Keys) -> None:
        selection = self.document.selection
        extend = bool(held & (Keys.ControlModifier | Keys.ShiftModifier))
        if under.kind == "ruler":
            self.drag = RulerDrag(self, at)
        elif under.kind == "label":
            self._press_label(at, self.lanes()[under.row], extend)
        elif under.kind == "dot":
            toggle(self.document, self.lanes()[under.row])
        elif under.kind in ("key", "span"):
            refs, chosen = self.refs_of(under), selection.keys
            # With Ctrl, keys that are selected stay where they are and copies go along.
            copies = bool(held & Keys.ControlModifier) and refs <= chosen
            if not copies and extend:
                selection.choose_keys(chosen - refs if refs <= chosen else chosen | refs)
            elif not refs <= chosen:
                selection.choose_keys(refs)
            if selection.keys:
                self.drag = LaneKeysDrag(self, at, Grabbed(self.frame_of(under), selection.keys, copies), refs)
        elif at.x() >= LABELS:
            if not extend:
                selection.choose_keys(())
            self.drag = BoxDrag(self, at)

    def _press_label(self, at: QPointF, lane: Lane, extend: bool) -> None:
        selection = self.document.selection
        if lane.is_sum and at.x() < 22:
            self.fold(lane.node)
        elif not lane.node:
            # The row of all keys stands for all that is keyed.
            selection.choose(dict.fromkeys(each.node for each in self.lanes() if each.node))
        else:
            selection.choose([*selection.nodes, lane.node] if extend else [lane.node])

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self.drag is not None:
            self.drag.move(at, event.modifiers())
            return
        under = self.what_at(at)
        shapes = {"key": Qt.CursorShape.SizeHorCursor, "span": Qt.CursorShape.PointingHandCursor}
        shape = shapes.get(under.kind, Qt.CursorShape.ArrowCursor)
        self.setCursor(self.ruler.cursor(at, self.axis) if under.kind == "ruler" else shape)
        hover = under if under.kind in ("key", "span", "label") else NOTHING
        if hover != self.hover:
            self.hover = hover
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        under = self.what_at(event.position())
        if under.kind == "span":
            self.ease_wanted.emit()
        elif under.kind == "key":
            self.document.playhead.set_frame(self.frame_of(under))
        elif under.kind == "ruler" and not self.ruler.double_click(event.position(), self.axis):
            self.show_whole()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        under = self.what_at(QPointF(event.pos()))
        if under.row >= 0:
            lane_menu(self, self.lanes()[under.row], event.globalPos())

    def leaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.hover = NOTHING
        self.update()
