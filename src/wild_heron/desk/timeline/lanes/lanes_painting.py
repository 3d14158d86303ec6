"""Painting the lanes: ruler, rows in the shape of their values, pins, and the playhead."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPen, QPolygonF

from ...channels.field import channel_mark
from ...widgets.theme import AMBER, FAINT, REED, RUST, SKY, SOFT, STRIPE, TEXT, colour, font, theme_name
from ..axis import LABELS, ROW, RULER
from .lanes_layout import LanesLayout
from .plots import PlotLook
from .shapes import Lane


class LanesPainter:
    """Draws what a view shows."""

    def __init__(self, p: QPainter, view: LanesLayout) -> None:
        self.p, self.view = p, view

    def held(self) -> None:
        """Under the ruler's range: the frames whose picture is held in memory, which play at full rate."""
        axis, frames = self.view.axis, self.view.cached()
        if not frames:
            return
        self.p.save()
        self.p.setClipRect(QRectF(LABELS, 0, self.view.width() - LABELS, RULER + 2))
        runs = np.split(np.array(frames), np.flatnonzero(np.diff(frames) > 1.0) + 1)
        for run in runs:
            left, right = axis.x(float(run[0])), axis.x(float(run[-1]) + 1.0)
            self.p.fillRect(QRectF(left, RULER, max(right - left, 1.0), 2), colour(SKY))
        self.p.restore()

    def rows(self) -> None:
        rows = self.view.lanes()
        if not rows:
            self.p.setPen(colour(SOFT))
            self.p.setFont(font(12))
            self.p.drawText(
                QRectF(16, RULER, self.view.width() - 32, self.view.height() - RULER),
                Qt.AlignmentFlag.AlignCenter,
                "No keys yet. Turn auto-key on (K, A), move to a frame and change something;\n"
                "or key the selection (K, K).",
            )
            return
        self.p.setClipRect(QRectF(0, RULER, self.view.width(), self.view.height() - RULER))
        self.view.seen.ask(self.view.axis, [rows[row] for row in self.in_view()])
        for row in self.in_view():
            self.row(row, rows[row])
        self.p.setClipping(False)

    def in_view(self) -> range:
        """The rows that can be seen."""
        above = self.view.bar.value()
        last = int((above + self.view.height() - RULER) // ROW) + 1
        return range(max(0, int(above // ROW)), min(len(self.view.lanes()), last))

    def row(self, row: int, lane: Lane) -> None:
        document = self.view.document
        top = self.view.row_top(row)
        selected = lane.node in document.selection.nodes
        if row % 2:
            self.p.fillRect(QRectF(0, top, self.view.width(), ROW), colour(STRIPE))
        hovered = self.view.hover[:2] == ("label", row)
        self.p.setFont(font(12, QFont.Weight.Medium if selected else QFont.Weight.Normal))
        self.p.setPen(colour(AMBER if selected else TEXT, 1.0 if selected or not hovered else 0.85))
        room = QRectF(30 if lane.under else 16, top, LABELS - (64 if lane.under else 50), ROW)
        if lane.is_sum:
            self.fold_mark(top, lane.folded)
            room = QRectF(24, top, LABELS - 58, ROW)
        self.p.drawText(
            room,
            Qt.AlignmentFlag.AlignVCenter,
            self.p.fontMetrics().elidedText(lane.label, Qt.TextElideMode.ElideRight, int(room.width())),
        )
        tone = AMBER if selected else lane.colour or REED
        hover = self.view.hover
        look = PlotLook(
            axis=self.view.axis,
            width=self.view.width(),
            tone=tone,
            ratio=self.view.devicePixelRatioF(),
            lit=self.lit(lane),
            hover=(hover.kind, hover.number) if hover.kind in ("key", "span") and hover.row == row else None,
            theme=theme_name(),
            seen=self.view.seen.of(lane),
        )
        self.p.save()
        self.p.setClipRect(QRectF(LABELS, max(top, RULER), self.view.width() - LABELS, ROW))
        self.view.plots.draw(self.p, lane, look, top)
        self.p.restore()

    def lit(self, lane: Lane) -> frozenset[int]:
        """The selected keys of a row, by their place in it; of a sum, where all that a pin stands for are."""
        chosen = self.view.chosen_frames().get((lane.node, lane.channel))
        if not chosen:
            return frozenset()
        keys = lane.data.keys
        if lane.is_sum:
            return frozenset(i for i, key in enumerate(keys) if chosen.get(key.frame, 0) >= key.value)
        return frozenset(i for i, key in enumerate(keys) if key.frame in chosen)

    def fold_mark(self, top: float, folded: bool) -> None:
        """The little arrow before a node's name."""
        x, y = 13.0, top + ROW / 2
        points = ((-2, -4), (3, 0), (-2, 4)) if folded else ((-4, -2), (0, 3), (4, -2))
        self.p.save()
        self.p.setPen(QPen(colour(SOFT), 1.5))
        self.p.drawPolyline(QPolygonF([QPointF(x + dx, y + dy) for dx, dy in points]))
        self.p.restore()

    def dots(self) -> None:
        """By each label, whether there is a key at the playhead."""
        self.p.setClipRect(QRectF(0, RULER, LABELS, self.view.height() - RULER))
        rows = self.view.lanes()
        for row in self.in_view():
            mark = self.mark(rows[row])
            tone = colour(RUST if mark == "pending" else AMBER if mark == "here" else FAINT)
            self.p.setPen(QPen(tone, 1.3))
            self.p.setBrush(tone if mark in ("here", "pending") else Qt.BrushStyle.NoBrush)
            self.p.drawEllipse(QPointF(LABELS - 18, self.view.row_top(row) + ROW / 2), 3.2, 3.2)
        self.p.setClipping(False)

    def mark(self, lane: Lane) -> str:
        """How a row stands at the playhead."""
        document = self.view.document
        if not lane.is_sum:
            return channel_mark(document, lane.node, lane.channel)
        return "here" if lane.data.key_at(document.playhead.frame) is not None else "none"
