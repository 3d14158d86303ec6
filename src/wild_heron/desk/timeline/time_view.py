"""What Lanes and Curves have in common: a stretch of time under a ruler, slid, zoomed, and boxes drawn round keys."""

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QWheelEvent

from ...edits import KeyRef
from ..state.document import Document
from ..widgets.drag import Drag, DragArea, Keys
from .axis import LABELS, TimeAxis
from .ruler import Ruler

_RIGHT = 22


class TimeView(DragArea):
    """The keyed scene over time."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.ruler = Ruler(document, self)
        self.box: QRectF | None = None
        self._axis: TimeAxis | None = None
        self._range = (0, 0)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumHeight(90)

    def sizeHint(self) -> QSize:
        return QSize(1280, 250)

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

    def show_whole(self) -> None:
        self._axis = None
        self.update()

    def look_at(self, axis: TimeAxis) -> None:
        """Show another stretch of time."""
        self._axis = axis
        self.update()

    def keys_in(self, box: QRectF) -> set[KeyRef]:
        """The keys whose pins are in a box."""
        raise NotImplementedError

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120.0
        keys = event.modifiers()
        if keys & Qt.KeyboardModifier.ControlModifier:
            self.look_at(self.axis.zoomed(1.2**turns, self.axis.frame(event.position().x())))
        elif keys & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x():
            self.look_at(self.axis.moved(-turns * 40.0 / self.axis.pixels_per_frame))
        else:
            self.turn_wheel(turns, event.position())
        event.accept()

    def turn_wheel(self, turns: float, at: QPointF) -> None:
        """The wheel alone."""
        raise NotImplementedError


class TimeDrag(Drag):
    """In a view over time."""

    def __init__(self, view: TimeView, start: QPointF) -> None:
        super().__init__(start)
        self._time_view = view


class RulerDrag(TimeDrag):
    """The playhead, a marker, or the bar over the selected keys."""

    def __init__(self, view: TimeView, start: QPointF) -> None:
        super().__init__(view, start)
        view.ruler.press(start, view.axis)

    def move(self, at: QPointF, keys: Keys) -> None:
        self._time_view.ruler.drag(self.start, at, self._time_view.axis, keys)

    def release(self, at: QPointF) -> None:
        self._time_view.ruler.release()

    def cancel(self) -> None:
        self._time_view.ruler.cancel()


class BoxDrag(TimeDrag):
    """Selects the keys inside a box, besides those that were selected."""

    def __init__(self, view: TimeView, start: QPointF) -> None:
        super().__init__(view, start)
        self._chosen = view.document.selection.keys

    def move(self, at: QPointF, keys: Keys) -> None:
        view = self._time_view
        view.box = QRectF(self.start, at).normalized()
        view.document.selection.choose_keys(self._chosen | view.keys_in(view.box))
        view.update()

    def release(self, at: QPointF) -> None:
        self._time_view.box = None

    def cancel(self) -> None:
        self._time_view.box = None
