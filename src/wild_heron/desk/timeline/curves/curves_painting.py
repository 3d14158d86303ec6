"""Painting the curves: ticks in their units, curves, keys, handles, the ghost of what was before, the playhead."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPen, QPolygonF

from ....edits import KeyRef
from ...widgets.quantities import format_number
from ...widgets.theme import AMBER, DEEP, LINE, PANEL, SOFT, TEXT, colour, elided, font
from ..axis import LABELS, RULER
from ..lanes.shapes import distinct
from .curves_layout import CurvesLayout
from .scale import ShownChannel, drawn


class CurvesPainter:
    """Draws what a view shows."""

    def __init__(self, p: QPainter, view: CurvesLayout) -> None:
        self.p, self.view = p, view
        self.document = view.document

    def paint(self) -> None:
        p, view = self.p, self.view
        p.fillRect(view.rect(), colour(PANEL))
        curves = view.curves()
        field = QRectF(LABELS, RULER, view.width() - LABELS, view.height() - RULER)
        p.fillRect(field, colour(DEEP))
        if not curves:
            p.setPen(colour(SOFT))
            p.setFont(font(12))
            p.drawText(field, Qt.AlignmentFlag.AlignCenter, "Select a node with keys, or keys in Lanes, to see curves.")
        else:
            self._ticks(curves)
            self._frames()
            p.save()
            p.setClipRect(field)
            for shown in view.ghost:
                self._curve(shown, ghost=True)
            for shown in curves:
                self._curve(shown)
            for shown in curves:
                self._keys(shown)
            self._handles()
            p.restore()
        self._labels(curves)
        view.ruler.paint(p, view.axis)
        view.ruler.paint_bar(p, view.axis)
        view.ruler.paint_markers(p, view.axis)
        view.ruler.paint_playhead(p, view.axis)
        if view.box is not None:
            p.setPen(QPen(colour(AMBER), 1))
            p.setBrush(colour(AMBER, 0.12))
            p.drawRect(view.box)

    def _ticks(self, curves: list[ShownChannel]) -> None:
        p, values = self.p, self.view.values
        units = {each.unit for each in curves}
        unit = units.pop() if len(units) == 1 and not self.view.normal else None
        p.setFont(font(10))
        for value in values.ticks():
            y = values.y(value)
            if not RULER + 6 < y < self.view.height() - 4:
                continue
            p.setPen(QPen(colour(LINE, 0.9 if value == 0 else 0.5), 1))
            p.drawLine(QPointF(LABELS, y), QPointF(self.view.width(), y))
            text = format_number(value, unit) if unit else f"{value:g}"
            if self.view.normal:
                text = f"{value * 100:.0f} %"
            if self.view.speeds:
                text += "/s"
            p.setPen(colour(SOFT))
            p.drawText(QRectF(LABELS + 4, y - 13, 90, 12), Qt.AlignmentFlag.AlignLeft, text)

    def _curve(self, shown: ShownChannel, ghost: bool = False) -> None:
        view, p = self.view, self.p
        time, keys = view.axis, shown.data.keys
        tone = colour(shown.colour, 0.35 if ghost else 1.0)
        first, last = keys[0].frame, keys[-1].frame
        inside = (max(first, time.start), min(last, time.end))
        for start, end, dashed in ((time.start, first, True), (*inside, False), (last, time.end, True)):
            if end <= start:
                continue
            count = int(np.clip((end - start) * time.pixels_per_frame / 2.0, 2, 1500))
            frames = distinct(np.concatenate([np.linspace(start, end, count), self._corners(shown, start, end)]))
            ys = view.values.ys(drawn(shown, frames, view.speeds, view.fps, view.normal))
            xs = time.xs(frames)
            p.setPen(
                QPen(tone, 1.2 if dashed or ghost else 1.8, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine)
            )
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolyline(
                QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), np.clip(ys, -4e3, 8e3).tolist(), strict=True)])
            )

    @staticmethod
    def _corners(shown: ShownChannel, start: float, end: float) -> np.ndarray:
        """Just before and at each key, so that jumps are upright."""
        frames = np.array([key.frame for key in shown.data.keys])
        frames = frames[(frames >= start) & (frames <= end)]
        return np.concatenate([frames, np.nextafter(frames, -np.inf)])

    def _keys(self, shown: ShownChannel) -> None:
        view, p = self.view, self.p
        for index, key in enumerate(shown.data.keys):
            at = view.pin(shown, index)
            if not LABELS - 8 <= at.x() <= view.width() + 8:
                continue
            ref = KeyRef(shown.node, shown.channel, key.frame)
            chosen = ref in self.document.selection.keys
            radius = 4.8 if chosen or view.hover == ref else 3.6
            p.setPen(QPen(colour(TEXT if chosen else DEEP), 1.5))
            p.setBrush(colour(AMBER if chosen else shown.colour))
            p.drawEllipse(at, radius, radius)

    def _handles(self) -> None:
        view, p = self.view, self.p
        curves = {(each.node, each.channel): each for each in view.curves()}
        for handle in view.handles():
            shown = curves[handle.ref.node, handle.ref.channel]
            index = next(i for i, key in enumerate(shown.data.keys) if key.frame == handle.ref.frame)
            at = view.pin(shown, index)
            p.setPen(QPen(colour(TEXT, 0.75), 1))
            p.drawLine(at, handle.at)
            p.setPen(QPen(colour(DEEP), 1))
            p.setBrush(colour(TEXT))
            p.drawEllipse(handle.at, 3.2, 3.2)

    def _labels(self, curves: list[ShownChannel]) -> None:
        p, view = self.p, self.view
        p.fillRect(QRectF(0, RULER, LABELS, view.height() - RULER), colour(PANEL))
        chosen = {(ref.node, ref.channel) for ref in self.document.selection.keys}
        for k, shown in enumerate(curves):
            top = RULER + 4 + 20 * k
            if top > view.height() - 16:
                break
            lit = (shown.node, shown.channel) in chosen
            p.fillRect(QRectF(14, top + 8, 14, 3), colour(shown.colour))
            p.setFont(font(11, QFont.Weight.Medium if lit else QFont.Weight.Normal))
            p.setPen(colour(AMBER if lit else TEXT))
            p.drawText(
                QRectF(36, top, LABELS - 112, 20), Qt.AlignmentFlag.AlignVCenter, elided(shown.label, LABELS - 112, 11)
            )
            here = np.array([self.document.playhead.frame])
            value = float(drawn(shown, here, view.speeds, view.fps, False)[0])
            text = format_number(value, shown.unit) + ("/s" if view.speeds else "")
            p.setPen(colour(SOFT))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(QRectF(LABELS - 84, top, 74, 20), right, text)

    def _frames(self) -> None:
        """Faint lines down from the ruler's ticks."""
        p, view, time = self.p, self.view, self.view.axis
        step = time.tick_step()
        p.setPen(QPen(colour(LINE, 0.35), 1))
        for n in range(int(np.ceil(time.start / step)), int(np.floor(time.end / step)) + 1):
            x = time.x(n * step)
            if x >= LABELS:
                p.drawLine(QPointF(x, RULER), QPointF(x, view.height()))
