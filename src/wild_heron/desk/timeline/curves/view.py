"""The curves, and everything the mouse does with them."""

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from ....evaluate import keying
from ....motion.keys import by_hand, slopes_at
from ....scene.edits import KeyRef
from ...state.document import Document
from ...state.key_edits import edit_keys
from ...widgets.unexpected import painted
from ..axis import LABELS, RULER, TimeAxis
from ..ruler import Ruler
from .dragging import GrabbedCurve, HandleSpot, drag_curve, drag_handle, drag_speeds
from .painting import CurvesPainter
from .scale import Shown, ValueAxis, curves_of, drawn, framing

_GRAB = 8.0
_RIGHT = 22
_FOOT = 8


class CurvesView(QWidget):
    """Value and speed curves. Drag keys and handles; Shift keeps to one axis; wheel zooms values, Ctrl+wheel time."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.speeds = False
        self.normal = False
        self.ruler = Ruler(document, self)
        self._time: TimeAxis | None = None
        self._values: ValueAxis | None = None
        self._curves: tuple[object, list[Shown]] | None = None
        self._drag: tuple[str, QPointF, object] | None = None
        self.box: QRectF | None = None
        self.hover: KeyRef | None = None
        self.ghost: list[Shown] = []
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(90)
        self.setAccessibleName("Curves")
        document.changed.connect(self.refresh)
        document.keys_selected.connect(self.update)
        document.selection_changed.connect(self.fit)
        document.frame_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(1280, 250)

    # What is where

    def curves(self) -> list[Shown]:
        """What is drawn; worked out once for each scene and selection."""
        document = self.document
        key = (document.keyed, document.selection, frozenset((r.node, r.channel) for r in document.selected_keys))
        if self._curves is None or self._curves[0] != key:
            nodes = document.selection
            # Of keys that were picked here, the other curves of their nodes stay in sight.
            keys = frozenset() if nodes else document.selected_keys
            self._curves = (key, curves_of(document.keyed, keys, nodes))
        return self._curves[1]

    @property
    def time(self) -> TimeAxis:
        left, width = LABELS + 14.0, max(self.width() - LABELS - 14.0 - _RIGHT, 50.0)
        if self._time is None:
            settings = self.document.settings
            self._time = TimeAxis(left, width, settings.first, max(settings.last, settings.first + 1))
        if (self._time.left, self._time.width) != (left, width):
            self._time = replace(self._time, left=left, width=width)
        return self._time

    @property
    def values(self) -> ValueAxis:
        height = max(self.height() - RULER - _FOOT, 30.0)
        if self._values is None:
            low, high = framing(self.curves(), self.time.start, self.time.end, self.speeds, self.fps, self.normal)
            self._values = ValueAxis(RULER, height, low, high)
        if self._values.height != height:
            self._values = replace(self._values, height=height)
        return self._values

    @property
    def fps(self) -> float:
        return self.document.settings.rate.fps

    def fit(self) -> None:
        """See all of the curves, or of the selected keys where there are several."""
        refs = self.document.selected_keys
        self._values = None
        if len(refs) > 1:
            first, last = keying.extent(refs)
            room = max(0.08 * (last - first), 1.0)
            low, high = framing(self.curves(), first, last, self.speeds, self.fps, self.normal)
            self._time = replace(self.time, start=first - room, end=last + room)
            self._values = replace(self.values, low=low, high=high)
        self.update()

    def show_whole(self) -> None:
        self._time, self._values = None, None
        self.update()

    def set_mode(self, speeds: bool | None = None, normal: bool | None = None) -> None:
        self.speeds = self.speeds if speeds is None else speeds
        self.normal = self.normal if normal is None else normal
        self._values = None
        self.update()

    def refresh(self) -> None:
        self.update()

    def spot(self, shown: Shown, index: int) -> QPointF:
        """Where a key is drawn."""
        key = shown.data.keys[index]
        if self.speeds:
            base, unit = shown.units(self.normal)
            into, out = slopes_at(shown.data.keys, index)
            value = (out if index < len(shown.data.keys) - 1 else into) * self.fps / unit
        else:
            base, unit = shown.units(self.normal)
            value = (key.value - base) / unit
        return QPointF(self.time.x(key.frame), self.values.y(value))

    def handles(self) -> list[HandleSpot]:
        """The handles of the selected keys, in the value view."""
        if self.speeds:
            return []
        found = []
        for shown in self.curves():
            keys = shown.data.keys
            _, unit = shown.units(self.normal)
            for index, key in enumerate(keys):
                ref = KeyRef(shown.node, shown.channel, key.frame)
                if ref not in self.document.selected_keys:
                    continue
                at = self.spot(shown, index)
                for side, span_at in (("in", index - 1), ("out", index)):
                    if not 0 <= span_at < len(keys) - 1:
                        continue
                    hand = by_hand(keys, span_at)
                    length = keys[span_at + 1].frame - keys[span_at].frame
                    share = hand.in_length if side == "in" else hand.out_length
                    slope = hand.in_slope if side == "in" else hand.out_slope
                    frames = share * length * (-1.0 if side == "in" else 1.0)
                    step = QPointF(
                        frames * self.time.pixels_per_frame, -slope * frames / unit * self.values.pixels_per_value
                    )
                    found.append(HandleSpot(ref, side, at + step))
        return found

    def key_at(self, at: QPointF) -> tuple[Shown, int] | None:
        """The key nearest to a pixel, within reach."""
        best: tuple[float, Shown, int] | None = None
        for shown in self.curves():
            for index in range(len(shown.data.keys)):
                off = self.spot(shown, index) - at
                distance = float(np.hypot(off.x(), off.y()))
                if distance < _GRAB and (best is None or distance < best[0]):
                    best = (distance, shown, index)
        return best[1:] if best else None

    def curve_at(self, at: QPointF) -> Shown | None:
        """The curve under a pixel."""
        frame = np.array([self.time.frame(at.x())])
        near = [
            (abs(self.values.y(float(drawn(each, frame, self.speeds, self.fps, self.normal)[0])) - at.y()), k, each)
            for k, each in enumerate(self.curves())
        ]
        best = min(near, default=None, key=lambda each: each[:2])
        return best[2] if best and best[0] < _GRAB else None

    # Painting

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        CurvesPainter(p, self).paint()

    # The mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._drag = ("pan", at, (self.time, self.values))
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        extend = bool(event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier))
        if at.x() < LABELS:
            self._press_label(at, extend)
            return
        if at.y() < RULER:
            self.ruler.press(at, self.time)
            self._drag = ("ruler", at, None)
            return
        for handle in self.handles():
            off = handle.at - at
            if float(np.hypot(off.x(), off.y())) < _GRAB:
                self._start(("handle", at, handle))
                return
        found = self.key_at(at)
        if found is not None:
            shown, index = found
            ref = KeyRef(shown.node, shown.channel, shown.data.keys[index].frame)
            chosen = self.document.selected_keys
            if extend:
                self.document.select_keys(chosen - {ref} if ref in chosen else chosen | {ref})
            elif ref not in chosen:
                self.document.select_keys([ref])
            if ref in self.document.selected_keys:
                self._start(("keys", at, GrabbedCurve(ref.frame, self.document.selected_keys, shown)))
            return
        if not extend:
            self.document.select_keys(())
        zoom = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        self._drag = ("zoom" if zoom else "box", at, self.document.selected_keys)

    def _start(self, drag: tuple[str, QPointF, object]) -> None:
        self._drag = drag
        self.ghost = self.curves()

    def label_at(self, y: float) -> Shown | None:
        index = int((y - RULER - 4) // 20)
        curves = self.curves()
        return curves[index] if 0 <= index < len(curves) and y >= RULER + 4 else None

    def _press_label(self, at: QPointF, extend: bool) -> None:
        shown = self.label_at(at.y())
        if shown is not None:
            refs = {KeyRef(shown.node, shown.channel, key.frame) for key in shown.data.keys}
            self.document.select_keys(self.document.selected_keys | refs if extend else refs)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self._drag is None:
            if at.y() < RULER:
                self.hover = None
                self.setCursor(self.ruler.cursor(at, self.time))
                return
            found = self.key_at(at) if at.x() > LABELS else None
            hover = KeyRef(found[0].node, found[0].channel, found[0].data.keys[found[1]].frame) if found else None
            self.setCursor(Qt.CursorShape.SizeAllCursor if hover else Qt.CursorShape.ArrowCursor)
            if hover != self.hover:
                self.hover = hover
                self.update()
            return
        kind, start, what = self._drag
        offset = at - start
        if kind == "ruler":
            self.ruler.drag(start, at, self.time, event.modifiers())
        elif kind == "pan":
            time, values = what  # type: ignore[misc]
            self._time = time.moved(-offset.x() / time.pixels_per_frame)
            self._values = values.moved(offset.y() / values.pixels_per_value)
            self.update()
        elif kind in ("box", "zoom"):
            self.box = QRectF(start, at).normalized()
            if kind == "box":
                self.document.select_keys(what | self._keys_in(self.box))  # type: ignore[operator]
            self.update()
        elif self.document.in_gesture or abs(offset.x()) + abs(offset.y()) >= 3:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                # One axis: the one along which it went further.
                offset = QPointF(offset.x(), 0) if abs(offset.x()) > abs(offset.y()) else QPointF(0, offset.y())
            free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            step = (offset.x() / self.time.pixels_per_frame, -offset.y() / self.values.pixels_per_value)
            if isinstance(what, HandleSpot):
                self._put_handle(what, what.at + offset, free)
            elif isinstance(what, GrabbedCurve) and self.speeds:
                drag_speeds(self.document, what.refs, step[1] * what.shown.units(self.normal)[1])
            elif isinstance(what, GrabbedCurve):
                units = {(each.node, each.channel): each.units(self.normal)[1] for each in self.ghost}
                drag_curve(self.document, what, step, units, free)

    def _put_handle(self, handle: HandleSpot, to: QPointF, broken: bool) -> None:
        """A bead put at a pixel."""
        shown = next(each for each in self.ghost if (each.node, each.channel) == handle.ref[:2])
        index = next(i for i, key in enumerate(shown.data.keys) if key.frame == handle.ref.frame)
        at, (_, unit) = self.spot(shown, index), shown.units(self.normal)
        frames = (to.x() - at.x()) / self.time.pixels_per_frame
        drag_handle(self.document, handle, frames, -(to.y() - at.y()) / self.values.pixels_per_value * unit, broken)

    def _keys_in(self, box: QRectF) -> set[KeyRef]:
        return {
            KeyRef(shown.node, shown.channel, key.frame)
            for shown in self.curves()
            for index, key in enumerate(shown.data.keys)
            if box.contains(self.spot(shown, index))
        }

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is None:
            return
        kind, box = self._drag[0], self.box
        self._drag, self.box, self.ghost = None, None, []
        if kind in ("keys", "handle"):
            self.document.commit()
        elif kind == "ruler":
            self.ruler.release()
        elif kind == "zoom" and box is not None and box.width() > 8 and box.height() > 8:
            time, values = self.time, self.values
            self._time = replace(time, start=time.frame(box.left()), end=time.frame(box.right()))
            self._values = replace(values, low=values.value(box.bottom()), high=values.value(box.top()))
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """On a curve: a key more that changes nothing. Elsewhere: see everything."""
        if event is None:
            return
        at = event.position()
        shown = self.curve_at(at) if at.x() > LABELS and at.y() > RULER else None
        if shown is None:
            if at.y() > RULER or not self.ruler.double_click(at, self.time):
                self.show_whole()
            return
        frame = self.time.frame(at.x())
        frame = frame if event.modifiers() & Qt.KeyboardModifier.AltModifier else float(round(frame))
        place = (shown.node, shown.channel)
        edit_keys(self.document, "Insert a key", [place], lambda scene: keying.insert(scene, [place], frame))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and self._drag is not None:
            kind, _, what = self._drag
            self._drag, self.box, self.ghost = None, None, []
            if kind in ("keys", "handle"):
                self.document.cancel()
                if isinstance(what, GrabbedCurve):
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
        keys, at = event.modifiers(), event.position()
        if keys & Qt.KeyboardModifier.ControlModifier:
            self._time = self.time.zoomed(1.2**turns, self.time.frame(at.x()))
        elif keys & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x():
            self._time = self.time.moved(-turns * 40.0 / self.time.pixels_per_frame)
        else:
            self._values = self.values.zoomed(1.2**turns, self.values.value(at.y()))
        self.update()
        event.accept()
