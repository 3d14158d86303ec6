"""What can be dragged in the lanes: the view, and keys."""

from PyQt6.QtCore import QPointF

from ....edits import KeyRef
from ...widgets.drag import Keys
from ..time_view import TimeDrag
from .key_drag import Grabbed
from .lanes_layout import LanesLayout


class LanesDrag(TimeDrag):
    """In a view of lanes."""

    def __init__(self, view: LanesLayout, start: QPointF) -> None:
        super().__init__(view, start)
        self.view = view


class LanesPanDrag(LanesDrag):
    """Slides through time."""

    def __init__(self, view: LanesLayout, start: QPointF) -> None:
        super().__init__(view, start)
        self._axis = view.axis

    def move(self, at: QPointF, keys: Keys) -> None:
        self.view.look_at(self._axis.moved((self.start.x() - at.x()) / self._axis.pixels_per_frame))


class LaneKeysDrag(LanesDrag):
    """Keys, or copies of them, along time."""

    def __init__(self, view: LanesLayout, start: QPointF, grabbed: Grabbed, under: set[KeyRef]) -> None:
        super().__init__(view, start)
        self._grabbed, self._under = grabbed, under

    def move(self, at: QPointF, keys: Keys) -> None:
        if self.view.document.gesture.running or abs(self.offset(at).x()) >= 3:
            self.view.key_drag.move(self._grabbed, self.offset(at).x(), self.view.axis, bool(keys & Keys.AltModifier))

    def release(self, at: QPointF) -> None:
        document = self.view.document
        moved = document.gesture.running
        document.gesture.commit()
        if self._grabbed.copies and not moved:
            # A click after all: it takes the key out of the selection.
            document.selection.choose_keys(document.selection.keys - self._under)

    def cancel(self) -> None:
        self.view.document.cancel()
        self.view.document.selection.choose_keys(self._grabbed.refs)
