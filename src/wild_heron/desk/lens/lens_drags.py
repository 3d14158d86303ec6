"""What can be dragged in the Lens: the camera, and the line between two versions."""

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF

from ..state.document import Document
from ..widgets.drag import Drag, Keys
from .camera_moves import CameraMoves
from .comparison import Comparison

Rect = Callable[[], QRectF]
"""Where the picture is, in widget pixels."""


class WipeDrag(Drag):
    """The line between the kept version and the present one."""

    def __init__(self, start: QPointF, comparison: Comparison, rect: Rect) -> None:
        super().__init__(start)
        self._comparison, self._rect = comparison, rect

    def move(self, at: QPointF, keys: Keys) -> None:
        self._comparison.drag(at, self._rect())


class CameraDrag(Drag):
    """Moves the camera as a tool does. Shift: finer."""

    def __init__(self, start: QPointF, document: Document, moves: CameraMoves, tool: str, rect: Rect) -> None:
        super().__init__(start)
        self._document, self._moves, self._tool, self._rect = document, moves, tool, rect
        self._before = moves.moves
        # At the press: were it taken anew while the camera comes nearer, the way dragged would count.
        self._distance = moves.focus_point()[1]
        self._begun = False

    def move(self, at: QPointF, keys: Keys) -> None:
        name = self._tool.capitalize() if self._tool != "turn" else "Pan and tilt"
        if not self._begun:
            if not self.is_past(at):
                return
            self._document.gesture.begin(name)
            self._begun = True
        slow = 0.1 if keys & Keys.ShiftModifier else 1.0
        rect, start, offset = self._rect(), self.start, self.offset(at) * slow
        middle = rect.center()
        before = math.atan2(middle.y() - start.y(), start.x() - middle.x())
        now = math.atan2(middle.y() - at.y(), at.x() - middle.x())
        swept = math.degrees((now - before + math.pi) % math.tau - math.pi) * slow
        size = (rect.width(), rect.height())
        moved = self._moves.dragged(self._tool, offset.x(), offset.y(), size, self._distance, self._before, swept)
        self._moves.set_moves(moved, name)

    def release(self, at: QPointF) -> None:
        self._document.gesture.commit()

    def cancel(self) -> None:
        self._document.cancel()
        self._moves.restart()
