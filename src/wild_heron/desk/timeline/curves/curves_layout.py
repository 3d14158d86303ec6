"""What is where in the curves: keys, their handles, and what is under the pointer."""

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF

from ....edits import KeyRef, key_ranges
from ....motion.keys import by_hand
from ....motion.sides import slopes_at
from ...state.document import Document
from ..axis import RULER, TimeAxis
from ..time_view import TimeView
from .dragging import HandleSpot, drag_handle
from .scale import ShownChannel, ValueAxis, curves_of, drawn, framing

_GRAB = 8.0
_FOOT = 8


class CurvesLayout(TimeView):
    """Value and speed curves of the selected keys' channels, or of the selected nodes."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.speeds = False
        self.normal = False
        self._values: ValueAxis | None = None
        self._curves: tuple[object, list[ShownChannel]] | None = None
        self.hover: KeyRef | None = None
        self.ghost: list[ShownChannel] = []

    def curves(self) -> list[ShownChannel]:
        """What is drawn; worked out once for each scene and selection."""
        document = self.document
        key = (
            document.views.keyed,
            document.selection.nodes,
            frozenset((r.node, r.channel) for r in document.selection.keys),
        )
        if self._curves is None or self._curves[0] != key:
            nodes = document.selection.nodes
            # Of keys that were picked here, the other curves of their nodes stay in sight.
            keys = frozenset() if nodes else document.selection.keys
            self._curves = (key, curves_of(document.views.keyed, keys, nodes))
        return self._curves[1]

    @property
    def values(self) -> ValueAxis:
        height = max(self.height() - RULER - _FOOT, 30.0)
        if self._values is None:
            low, high = framing(self.curves(), self.axis.start, self.axis.end, self.speeds, self.fps, self.normal)
            self._values = ValueAxis(RULER, height, low, high)
        if self._values.height != height:
            self._values = replace(self._values, height=height)
        return self._values

    @property
    def fps(self) -> float:
        return self.document.settings.rate.fps

    def fit(self) -> None:
        """See all of the curves, or of the selected keys where there are several."""
        refs = self.document.selection.keys
        self._values = None
        if len(refs) > 1:
            first, last = key_ranges.extent(refs)
            room = max(0.08 * (last - first), 1.0)
            low, high = framing(self.curves(), first, last, self.speeds, self.fps, self.normal)
            self._axis = replace(self.axis, start=first - room, end=last + room)
            self._values = replace(self.values, low=low, high=high)
        self.update()

    def show_whole(self) -> None:
        self._values = None
        super().show_whole()

    def set_mode(self, speeds: bool | None = None, normal: bool | None = None) -> None:
        self.speeds = self.speeds if speeds is None else speeds
        self.normal = self.normal if normal is None else normal
        self._values = None
        self.update()

    def refresh(self) -> None:
        self.update()

    def pin(self, shown: ShownChannel, index: int) -> QPointF:
        """Where a key is drawn."""
        key = shown.data.keys[index]
        if self.speeds:
            base, unit = shown.units(self.normal)
            into, out = slopes_at(shown.data.keys, index)
            value = (out if index < len(shown.data.keys) - 1 else into) * self.fps / unit
        else:
            base, unit = shown.units(self.normal)
            value = (key.value - base) / unit
        return QPointF(self.axis.x(key.frame), self.values.y(value))

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
                if ref not in self.document.selection.keys:
                    continue
                at = self.pin(shown, index)
                for side, span_at in (("in", index - 1), ("out", index)):
                    if not 0 <= span_at < len(keys) - 1:
                        continue
                    hand = by_hand(keys, span_at)
                    length = keys[span_at + 1].frame - keys[span_at].frame
                    share = hand.in_length if side == "in" else hand.out_length
                    slope = hand.in_slope if side == "in" else hand.out_slope
                    frames = share * length * (-1.0 if side == "in" else 1.0)
                    step = QPointF(
                        frames * self.axis.pixels_per_frame, -slope * frames / unit * self.values.pixels_per_value
                    )
                    found.append(HandleSpot(ref, side, at + step))
        return found

    def handle_at(self, at: QPointF) -> HandleSpot | None:
        """The handle within reach of a pixel."""
        offs = ((handle.at - at, handle) for handle in self.handles())
        return next((handle for off, handle in offs if np.hypot(off.x(), off.y()) < _GRAB), None)

    def key_at(self, at: QPointF) -> tuple[ShownChannel, int] | None:
        """The key nearest to a pixel, within reach."""
        best: tuple[float, ShownChannel, int] | None = None
        for shown in self.curves():
            for index in range(len(shown.data.keys)):
                off = self.pin(shown, index) - at
                distance = float(np.hypot(off.x(), off.y()))
                if distance < _GRAB and (best is None or distance < best[0]):
                    best = (distance, shown, index)
        return best[1:] if best else None

    def curve_at(self, at: QPointF) -> ShownChannel | None:
        """The curve under a pixel."""
        frame = np.array([self.axis.frame(at.x())])
        near = [
            (abs(self.values.y(float(drawn(each, frame, self.speeds, self.fps, self.normal)[0])) - at.y()), k, each)
            for k, each in enumerate(self.curves())
        ]
        best = min(near, default=None, key=lambda each: each[:2])
        return best[2] if best and best[0] < _GRAB else None

    def slide(self, axis: TimeAxis, values: ValueAxis) -> None:
        """Show another stretch of time and values."""
        self._values = values
        self.look_at(axis)

    def label_at(self, y: float) -> ShownChannel | None:
        index = int((y - RULER - 4) // 20)
        curves = self.curves()
        return curves[index] if 0 <= index < len(curves) and y >= RULER + 4 else None

    def put_handle(self, handle: HandleSpot, to: QPointF, broken: bool) -> None:
        """A bead put at a pixel."""
        shown = next(each for each in self.ghost if (each.node, each.channel) == handle.ref[:2])
        index = next(i for i, key in enumerate(shown.data.keys) if key.frame == handle.ref.frame)
        at, (_, unit) = self.pin(shown, index), shown.units(self.normal)
        frames = (to.x() - at.x()) / self.axis.pixels_per_frame
        drag_handle(self.document, handle, frames, -(to.y() - at.y()) / self.values.pixels_per_value * unit, broken)

    def keys_in(self, box: QRectF) -> set[KeyRef]:
        return {
            KeyRef(shown.node, shown.channel, key.frame)
            for shown in self.curves()
            for index, key in enumerate(shown.data.keys)
            if box.contains(self.pin(shown, index))
        }

    def turn_wheel(self, turns: float, at: QPointF) -> None:
        self._values = self.values.zoomed(1.2**turns, self.values.value(at.y()))
        self.update()
