"""What can be dragged in the curves: the view, the ruler, keys, handles, a box round keys or to zoom into."""

from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF

from ...widgets.drag import Keys
from ..time_view import TimeDrag
from .curves_layout import CurvesLayout
from .dragging import GrabbedCurve, HandleSpot, drag_curve, drag_speeds


class CurvesDrag(TimeDrag):
    """In a view of curves."""

    def __init__(self, view: CurvesLayout, start: QPointF) -> None:
        super().__init__(view, start)
        self.view = view

    def along_one_axis(self, at: QPointF, keys: Keys) -> QPointF:
        """How far it went; with Shift only along the axis along which it went further."""
        off = self.offset(at)
        if not keys & Keys.ShiftModifier:
            return off
        return QPointF(off.x(), 0) if abs(off.x()) > abs(off.y()) else QPointF(0, off.y())


class CurvesPanDrag(CurvesDrag):
    """Slides through time and values."""

    def __init__(self, view: CurvesLayout, start: QPointF) -> None:
        super().__init__(view, start)
        self._time, self._values = view.axis, view.values

    def move(self, at: QPointF, keys: Keys) -> None:
        off = self.offset(at)
        self.view.slide(
            self._time.moved(-off.x() / self._time.pixels_per_frame),
            self._values.moved(off.y() / self._values.pixels_per_value),
        )


class _ShapeDrag(CurvesDrag):
    """Something of the curves, whose shape when it began is drawn faintly meanwhile."""

    def __init__(self, view: CurvesLayout, start: QPointF) -> None:
        super().__init__(view, start)
        view.ghost = view.curves()

    def move(self, at: QPointF, keys: Keys) -> None:
        if self.view.document.gesture.running or self.is_past(at):
            self.shape(self.along_one_axis(at, keys), bool(keys & Keys.AltModifier))

    def shape(self, offset: QPointF, free: bool) -> None:
        raise NotImplementedError

    def release(self, at: QPointF) -> None:
        self.view.ghost = []
        self.view.document.gesture.commit()

    def cancel(self) -> None:
        self.view.ghost = []
        self.view.document.cancel()


class CurveHandleDrag(_ShapeDrag):
    """A handle's bead. Alt: apart from the one across."""

    def __init__(self, view: CurvesLayout, start: QPointF, handle: HandleSpot) -> None:
        super().__init__(view, start)
        self._handle = handle

    def shape(self, offset: QPointF, free: bool) -> None:
        self.view.put_handle(self._handle, self._handle.at + offset, free)


class CurveKeysDrag(_ShapeDrag):
    """Keys in time and value, or their speeds. Alt: between frames."""

    def __init__(self, view: CurvesLayout, start: QPointF, grabbed: GrabbedCurve) -> None:
        super().__init__(view, start)
        self._grabbed = grabbed

    def shape(self, offset: QPointF, free: bool) -> None:
        view, grabbed = self.view, self._grabbed
        step = (offset.x() / view.axis.pixels_per_frame, -offset.y() / view.values.pixels_per_value)
        if view.speeds:
            drag_speeds(view.document, grabbed.refs, step[1] * grabbed.shown.units(view.normal)[1])
        else:
            units = {(each.node, each.channel): each.units(view.normal)[1] for each in view.ghost}
            drag_curve(view.document, grabbed, step, units, free)

    def cancel(self) -> None:
        super().cancel()
        self.view.document.selection.choose_keys(self._grabbed.refs)


class ZoomDrag(CurvesDrag):
    """A box that fills the view when it is let go."""

    def move(self, at: QPointF, keys: Keys) -> None:
        self.view.box = QRectF(self.start, at).normalized()
        self.view.update()

    def release(self, at: QPointF) -> None:
        box, view = self.view.box, self.view
        view.box = None
        if box is not None and box.width() > 8 and box.height() > 8:
            time, values = view.axis, view.values
            view.slide(
                replace(time, start=time.frame(box.left()), end=time.frame(box.right())),
                replace(values, low=values.value(box.bottom()), high=values.value(box.top())),
            )

    def cancel(self) -> None:
        self.view.box = None
