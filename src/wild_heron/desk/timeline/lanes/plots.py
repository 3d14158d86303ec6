"""The plot of a lane: its curve and pins, or the bar that sums keys up. Plots are kept from painting to painting."""

import time
from functools import lru_cache

import msgspec
import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from ....scene import span_label
from ...widgets.theme import AMBER, PANEL, TEXT, colour, font
from ..axis import LABELS, ROW, TimeAxis
from .seen import SeenLine
from .shapes import Lane, beyond_outline, heights, outline, value_range

_STAMP = 14
_BUDGET = 4e-3
"""Seconds that a painting may spend on new plots."""
_KEPT = 64
_MANY_SPANS = 40
"""From how many spans in view on a lane's curve is a thin line, which takes a twentieth of the time."""


class PlotLook(msgspec.Struct, frozen=True):
    """All that a plot depends on, beside the lane's keys."""

    axis: TimeAxis
    width: int
    tone: str
    ratio: float
    lit: frozenset[int]
    """The keys that are selected, by their place in the lane."""
    hover: tuple[str, int] | None
    """The "key" or "span" under the pointer."""
    theme: str
    seen: SeenLine | None = None
    """What is seen of the channel, where movers or a take make something else of its keys."""


class Plots:
    """Plots by row. A painting makes new ones as long as its time lasts, one at least; for the rest it shows the old
    ones, moved to where their frames are now, and is ``behind``."""

    def __init__(self) -> None:
        self._kept: dict[tuple[str, str], tuple[Lane, PlotLook, QPixmap]] = {}
        self.behind = False
        self._until = 0.0
        self._made = 0

    def start(self) -> None:
        """A painting begins."""
        self.behind = False
        self._until = time.perf_counter() + _BUDGET
        self._made = 0

    def draw(self, p: QPainter, lane: Lane, look: PlotLook, top: float) -> None:
        """One row's plot, right of its label."""
        place = (lane.node, lane.channel)
        kept = self._kept.pop(place, None)
        if kept is None or kept[0].data is not lane.data or kept[1] != look:
            if not self._made or time.perf_counter() < self._until:
                kept = (lane, look, _plot(lane, look))
                self._made += 1
            else:
                self.behind = True
        if kept is None:
            return
        self._kept[place] = kept
        if len(self._kept) > _KEPT:
            del self._kept[next(iter(self._kept))]
        _, then, pixmap = kept
        if then.axis == look.axis:
            p.drawPixmap(QPointF(LABELS, top), pixmap)
        else:
            left, right = (look.axis.x(then.axis.frame(x)) for x in (LABELS, then.width))
            p.drawPixmap(QRectF(left, top, right - left, ROW), pixmap, QRectF(pixmap.rect()))


def _plot(lane: Lane, look: PlotLook) -> QPixmap:
    room = max(look.width - LABELS, 1)
    pixmap = QPixmap(round(room * look.ratio), round(ROW * look.ratio))
    pixmap.setDevicePixelRatio(look.ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.translate(-LABELS, 0.0)
    if lane.is_sum:
        _draw_sum(p, lane, look)
    else:
        _draw_lane(p, lane, look)
    p.end()
    return pixmap


def _draw_lane(p: QPainter, lane: Lane, look: PlotLook) -> None:
    low, high = value_range(lane.data)
    base = ROW - 4.0
    xs, shares = outline(lane.data, look.axis, low, high)
    curve = _points(xs, base - shares * (ROW - 10))
    if curve:
        _fill(p, curve, base, look.tone, 0.26)
        for left, right in _runs(lane, look):
            # On top of what is filled already.
            first, last = np.searchsorted(xs, (left - 1e-6, right + 1e-6))
            _fill(p, curve[first:last], base, look.tone, 0.27)
        frames = np.array([key.frame for key in lane.data.keys])
        seen = int(np.sum((frames > look.axis.start) & (frames < look.axis.end)))
        p.setPen(QPen(colour(look.tone), 1.0 if seen > _MANY_SPANS else 1.5))
        p.drawPolyline(QPolygonF(curve))
    for index in _lit_spans(look):
        _name_span(p, lane, look, index)
    for side in ("before", "after"):
        xs, shares = beyond_outline(lane.data, side, look.axis, low, high)
        if len(xs):
            p.setPen(QPen(colour(look.tone, 0.8), 1.2, Qt.PenStyle.DashLine))
            p.drawPolyline(QPolygonF(_points(xs, base - shares * (ROW - 10))))
    if look.seen is not None:
        shares = np.clip(heights(look.seen.values, low, high), -0.14, 1.14)
        p.setPen(QPen(colour(TEXT, 0.9), 1.1))
        p.drawPolyline(QPolygonF(_points(look.axis.xs(look.seen.frames), base - shares * (ROW - 10))))
    _draw_pins(p, lane, look, base)


def _points(xs: np.ndarray, ys: np.ndarray) -> list[QPointF]:
    return [QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]


def _fill(p: QPainter, curve: list[QPointF], base: float, tone: str, strength: float) -> None:
    if len(curve) > 1:
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(tone, strength))
        p.drawPolygon(QPolygonF([QPointF(curve[0].x(), base), *curve, QPointF(curve[-1].x(), base)]))
        p.setBrush(Qt.BrushStyle.NoBrush)


def _lit_spans(look: PlotLook) -> list[int]:
    """The spans between two selected keys, and the one under the pointer."""
    found = {index for index in look.lit if index + 1 in look.lit}
    if look.hover and look.hover[0] == "span":
        found.add(look.hover[1])
    return sorted(found)


def _runs(lane: Lane, look: PlotLook) -> list[tuple[float, float]]:
    """Where lit spans begin and end in pixels, those that follow each other as one."""
    keys, found = lane.data.keys, list[tuple[float, float]]()
    for index in _lit_spans(look):
        left, right = look.axis.x(keys[index].frame), look.axis.x(keys[index + 1].frame)
        if found and found[-1][1] == left:
            left = found.pop()[0]
        found.append((left, right))
    return found


def _name_span(p: QPainter, lane: Lane, look: PlotLook, index: int) -> None:
    left, right = (look.axis.x(lane.data.keys[k].frame) for k in (index, index + 1))
    left, right = max(left, LABELS), min(right, look.width)
    if right - left > 70:
        p.setFont(font(10))
        p.setPen(colour(TEXT, 0.85))
        room = QRectF(left + 8, 1, right - left - 16, 12)
        p.drawText(room, Qt.AlignmentFlag.AlignCenter, span_label(lane.data.keys[index].span))


def _draw_pins(p: QPainter, lane: Lane, look: PlotLook, base: float) -> None:
    """A stem and a head for each key."""
    low, high = value_range(lane.data)
    xs = look.axis.xs(np.array([key.frame for key in lane.data.keys]))
    ys = base - heights(np.array([key.value for key in lane.data.keys]), low, high) * (ROW - 10)
    seen = np.flatnonzero((xs >= LABELS - 8) & (xs <= look.width + 8)).tolist()
    p.setPen(QPen(colour(look.tone), 1.6))
    p.drawLines([QLineF(xs[i], base, xs[i], ys[i]) for i in seen])  # type: ignore[call-overload]
    for chosen in (False, True):
        stamp = _stamp(AMBER if chosen else look.tone, chosen, look.ratio, look.theme)
        for i in seen:
            if (i in look.lit) == chosen:
                p.drawPixmap(QPointF(xs[i] - _STAMP / 2, ys[i] - _STAMP / 2), stamp)
    if look.hover and look.hover[0] == "key":
        i = look.hover[1]
        p.setPen(QPen(colour(TEXT if i in look.lit else PANEL), 1.6 if i in look.lit else 1))
        p.setBrush(colour(AMBER if i in look.lit else look.tone))
        p.drawEllipse(QPointF(xs[i], ys[i]), 5.0, 5.0)


@lru_cache(maxsize=64)
def _stamp(tone: str, chosen: bool, ratio: float, theme: str) -> QPixmap:
    """The head of a pin, ready to be set down."""
    stamp, p = _blank(ratio)
    p.setPen(QPen(colour(TEXT if chosen else PANEL), 1.6 if chosen else 1))
    p.setBrush(colour(tone))
    radius = 5.0 if chosen else 3.8
    p.drawEllipse(QPointF(_STAMP / 2, _STAMP / 2), radius, radius)
    p.end()
    return stamp


@lru_cache(maxsize=64)
def _square_stamp(tone: str, chosen: bool, large: bool, ratio: float, theme: str) -> QPixmap:
    """A square pin, which stands for several."""
    stamp, p = _blank(ratio)
    p.setPen(QPen(colour(TEXT if chosen else PANEL), 1.4 if chosen else 1))
    p.setBrush(colour(tone))
    half = 5.0 if large else 4.2
    p.drawRoundedRect(QRectF(_STAMP / 2 - half, _STAMP / 2 - half, 2 * half, 2 * half), 1.5, 1.5)
    p.end()
    return stamp


def _blank(ratio: float) -> tuple[QPixmap, QPainter]:
    stamp = QPixmap(round(_STAMP * ratio), round(_STAMP * ratio))
    stamp.setDevicePixelRatio(ratio)
    stamp.fill(Qt.GlobalColor.transparent)
    p = QPainter(stamp)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    return stamp, p


def _draw_sum(p: QPainter, lane: Lane, look: PlotLook) -> None:
    """The keys of a node, or of all, on one bar."""
    middle = ROW / 2
    xs = look.axis.xs(np.array([key.frame for key in lane.data.keys]))
    p.fillRect(QRectF(float(xs[0]), middle - 3, float(xs[-1] - xs[0]), 6), colour(look.tone, 0.22))
    drawn = -10.0
    for index in np.flatnonzero((xs >= LABELS - 8) & (xs <= look.width + 8)).tolist():
        x, lit = float(xs[index]), index in look.lit
        # Where pins crowd, one stands for those that it would cover.
        if x - drawn < 2.0 and not lit:
            continue
        drawn = x
        large = lit or look.hover == ("key", index)
        stamp = _square_stamp(AMBER if lit else look.tone, lit, large, look.ratio, look.theme)
        p.drawPixmap(QPointF(x - _STAMP / 2, middle - _STAMP / 2), stamp)
