"""The frames of the other formats over the Lens's picture, and dragging those that have a window."""

from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPen, QPolygonF

from ...arrays import Array
from ...evaluate.windows import Windows, windows_at
from ...scene import Format
from ...scene.channels import ACROSS, SIZE, UP
from ..state.document import Document
from ..widgets.drag import Drag, Keys
from ..widgets.theme import AMBER, SKY, font
from ..widgets.theme import on_picture as colour

_GRIP = 5.0
"""Pixels from an outline within which it is taken hold of."""
_CORNER = 12.0
_NAMED = 150.0
"""Pixels of an outline's width below which its name is left out."""


class OutlineGrip(NamedTuple):
    """What a drag would take hold of: a format's frame as a whole, or one of its corners."""

    shape: Format
    corner: bool


class FormatOutlines:
    """Where formats lie in the picture that the Lens shows."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self.on = True
        self.held: str | None = None
        """The format whose frame is under the pointer, or dragged."""

    def windows(self) -> dict[str, Windows]:
        """Where each format is at the playhead, by name, its own too."""
        scene, here = self._document.views.shown, self._document.evaluations.here
        return {
            each.name: windows_at(here, scene.settings, each)
            for each in scene.formats_with_main()
            if each.window is None or each.window in scene
        }

    def corners(self, rect: QRectF) -> dict[str, list[QPointF]]:
        """The corners of the other formats' frames, in a widget that shows the chosen one's in a rectangle."""
        windows, settings = self.windows(), self._document.views.shown.settings
        shown = self._document.views.format.name
        own = windows.pop(shown, None)
        if own is None:
            return {}
        out = {}
        for name, other in windows.items():
            shares = own.inside(other.corners(settings), settings)[0].tolist()
            out[name] = [QPointF(rect.left() + x * rect.width(), rect.top() + y * rect.height()) for x, y in shares]
        return out

    def paint(self, p: QPainter, rect: QRectF, drawn: QRectF) -> None:
        if not self.on:
            return
        p.save()
        p.setClipRect(drawn)
        p.setFont(font(10, QFont.Weight.Medium))
        p.setBrush(Qt.BrushStyle.NoBrush)
        chosen = set(self._document.selection.nodes)
        bright = {each.name for each in self._document.scene.formats if each.window in chosen} | {self.held}
        for name, points in self.corners(rect).items():
            p.setPen(QPen(colour(AMBER if name in bright else SKY, 0.75), 2 if name == self.held else 1))
            p.drawPolygon(QPolygonF(points))
            if points[1].x() - points[0].x() > _NAMED:
                p.drawText(points[0] + QPointF(5, 14), name.split()[-1])
        p.restore()

    def at(self, at: QPointF, rect: QRectF) -> OutlineGrip | None:
        """The frame of a format with a window whose line is under the pointer."""
        if not self.on:
            return None
        shapes = {each.name: each for each in self._document.scene.formats if each.window is not None}
        for name, points in self.corners(rect).items():
            if name not in shapes:
                continue
            if min(_length(at - point) for point in points) <= _CORNER:
                return OutlineGrip(shapes[name], True)
            if min(_off_line(at, points[k], points[(k + 1) % 4]) for k in range(4)) <= _GRIP:
                return OutlineGrip(shapes[name], False)
        return None


class WindowDrag(Drag):
    """Moves a format's window in the camera's picture, or by a corner changes how much it shows. Shift: finer."""

    def __init__(
        self, start: QPointF, document: Document, outlines: FormatOutlines, grip: OutlineGrip, rect: QRectF
    ) -> None:
        super().__init__(start)
        self._document, self._outlines, self._grip, self._rect = document, outlines, grip, rect
        windows = outlines.windows()
        self._own, self._other = windows[document.views.format.name], windows[grip.shape.name]
        assert grip.shape.window is not None
        self._node = grip.shape.window
        self._values = {name: document.evaluations.value(self._node, name) for name in (ACROSS, UP, SIZE)}
        self._begun = False
        outlines.held = grip.shape.name

    def _place(self, at: QPointF) -> Array:
        """A place in the widget, in pixels of the scene's frame from its middle."""
        rect, own = self._rect, self._own
        shares = np.array([(at.x() - rect.left()) / rect.width(), (at.y() - rect.top()) / rect.height()]) - 0.5
        off, roll = shares * own.size[0], float(own.roll[0])
        turned = [off[0] * np.cos(roll) - off[1] * np.sin(roll), off[1] * np.cos(roll) + off[0] * np.sin(roll)]
        return np.asarray(turned + own.middle[0])

    def move(self, at: QPointF, keys: Keys) -> None:
        name = f"{'Size' if self._grip.corner else 'Move'} {self._grip.shape.name}"
        if not self._begun:
            if not self.is_past(at):
                return
            self._document.gesture.begin(name)
            self._begun = True
        slow = 0.1 if keys & Keys.ShiftModifier else 1.0
        before, settings = self._place(self.start), self._document.settings
        after = before + (self._place(at) - before) * slow
        if self._grip.corner:
            middle = self._other.middle[0]
            grown = np.linalg.norm(after - middle) / max(float(np.linalg.norm(before - middle)), 1e-6)
            changes = {SIZE: self._values[SIZE] * float(grown)}
        else:
            across, down = (after - before).tolist()
            changes = {
                ACROSS: self._values[ACROSS] + across / settings.width, UP: self._values[UP] - down / settings.height,
            }  # fmt: skip
        self._document.recorder.set_values(name, {(self._node, each): value for each, value in changes.items()})

    def release(self, at: QPointF) -> None:
        self._outlines.held = None
        self._document.gesture.commit()
        self._document.selection.choose([self._node])

    def cancel(self) -> None:
        self._outlines.held = None
        self._document.cancel()


def _length(off: QPointF) -> float:
    return float(np.hypot(off.x(), off.y()))


def _off_line(at: QPointF, start: QPointF, end: QPointF) -> float:
    """How far a place is from a line between two."""
    along, off = end - start, at - start
    long = along.x() ** 2 + along.y() ** 2
    share = min(max(QPointF.dotProduct(off, along) / long, 0.0), 1.0) if long > 0.0 else 0.0
    return _length(off - along * share)
