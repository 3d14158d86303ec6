"""The curves, and everything the mouse does with them."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent

from ....edits import KeyRef, key_ranges
from ...state.document import Document
from ...state.key_edits import edit_keys
from ...widgets.drag import Keys
from ...widgets.unexpected import painted
from ..axis import LABELS, RULER
from ..time_view import BoxDrag, RulerDrag
from .curves_drags import CurveHandleDrag, CurveKeysDrag, CurvesPanDrag, ZoomDrag
from .curves_layout import CurvesLayout
from .curves_painting import CurvesPainter
from .dragging import GrabbedCurve

_GRAB = 8.0
_RIGHT = 22
_FOOT = 8


class CurvesView(CurvesLayout):
    """Value and speed curves. Drag keys and handles; Shift keeps to one axis; wheel zooms values, Ctrl+wheel time."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.setAccessibleName("Curves")
        document.changed.connect(self.refresh)
        document.selection.keys_changed.connect(self.update)
        document.selection.changed.connect(self.fit)
        document.playhead.moved.connect(self.update)
        document.heard.changed.connect(self.update)
        document.checked.findings_changed.connect(self.update)

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
        if event.button() == Qt.MouseButton.MiddleButton:
            self.drag = CurvesPanDrag(self, event.position())
        elif event.button() == Qt.MouseButton.LeftButton:
            self._press(event.position(), event.modifiers())

    def _press(self, at: QPointF, held: Keys) -> None:
        selection = self.document.selection
        extend = bool(held & (Keys.ControlModifier | Keys.ShiftModifier))
        if at.x() < LABELS:
            self._press_label(at, extend)
            return
        if at.y() < RULER:
            self.drag = RulerDrag(self, at)
            return
        handle = self.handle_at(at)
        if handle is not None:
            self.drag = CurveHandleDrag(self, at, handle)
            return
        found = self.key_at(at)
        if found is not None:
            shown, index = found
            ref = KeyRef(shown.node, shown.channel, shown.data.keys[index].frame)
            if extend:
                selection.choose_keys(selection.keys ^ {ref})
            elif ref not in selection.keys:
                selection.choose_keys([ref])
            if ref in selection.keys:
                self.drag = CurveKeysDrag(self, at, GrabbedCurve(ref.frame, selection.keys, shown))
            return
        if not extend:
            selection.choose_keys(())
        self.drag = ZoomDrag(self, at) if held & Keys.AltModifier else BoxDrag(self, at)

    def _press_label(self, at: QPointF, extend: bool) -> None:
        shown = self.label_at(at.y())
        if shown is not None:
            refs = {KeyRef(shown.node, shown.channel, key.frame) for key in shown.data.keys}
            self.document.selection.choose_keys(self.document.selection.keys | refs if extend else refs)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self.drag is not None:
            self.drag.move(at, event.modifiers())
            return
        if at.y() < RULER:
            self.hover = None
            self.setCursor(self.ruler.cursor(at, self.axis))
            return
        found = self.key_at(at) if at.x() > LABELS else None
        hover = KeyRef(found[0].node, found[0].channel, found[0].data.keys[found[1]].frame) if found else None
        self.setCursor(Qt.CursorShape.SizeAllCursor if hover else Qt.CursorShape.ArrowCursor)
        if hover != self.hover:
            self.hover = hover
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """On a curve: a key more that changes nothing. Elsewhere: see everything."""
        if event is None:
            return
        at = event.position()
        shown = self.curve_at(at) if at.x() > LABELS and at.y() > RULER else None
        if shown is None:
            if at.y() > RULER or not self.ruler.double_click(at, self.axis):
                self.show_whole()
            return
        frame = self.axis.frame(at.x())
        frame = frame if event.modifiers() & Qt.KeyboardModifier.AltModifier else float(round(frame))
        place = (shown.node, shown.channel)
        edit_keys(self.document, "Insert a key", [place], lambda scene: key_ranges.insert(scene, [place], frame))
