"""The ruler of Lanes and Curves: frames, the played range, markers, the bar over selected keys, the playhead."""

from functools import partial
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from ...edits import KeyRef, key_ranges, left_alone, move_keys, move_marker
from ...motion.tempo import beat_frames
from ...scene import Marker
from ..commands.marker_commands import MARKER_TONES, rename_marker
from ..state.document import Document
from ..state.key_edits import drag_keys
from ..widgets.strokes import draw_lines
from ..widgets.theme import AMBER, BRIGHT_LINE, DEEP, FADED, LINE, REED, RUST, SKY, SOFT, TEXT, colour, elided, font
from .axis import LABELS, RULER, TimeAxis

_REACH = 6.0
_CATCH = 5.0
_NAME = 110


class Held(NamedTuple):
    """What of the ruler is dragged: "playhead", "marker", or the "first", "last" or "bar" of the selected keys."""

    what: str
    frame: float
    refs: frozenset[KeyRef] = frozenset()


class Ruler:
    """Painted by a view over its time axis; takes the mouse in the ruler's height."""

    def __init__(self, document: Document, view: QWidget) -> None:
        self.document, self._view = document, view
        self.held: Held | None = None

    # What is where

    def extent(self) -> tuple[float, float] | None:
        """First and last frame of the selected keys, where there are two."""
        first, last = key_ranges.extent(self.document.selection.keys)
        return (first, last) if last > first else None

    def what_at(self, at: QPointF, axis: TimeAxis) -> Held:
        """What is under the pointer in the ruler."""
        refs, extent = self.document.selection.keys, self.extent()
        if extent is not None and at.y() >= RULER - 13:
            offs = {"first": abs(axis.x(extent[0]) - at.x()), "last": abs(axis.x(extent[1]) - at.x())}
            end = min(offs, key=lambda each: offs[each])
            if offs[end] <= _REACH:
                return Held(end, extent[0] if end == "first" else extent[1], refs)
            if at.y() >= RULER - 6 and axis.x(extent[0]) < at.x() < axis.x(extent[1]):
                return Held("bar", axis.frame(at.x()), refs)
        marker = self.marker_at(at, axis)
        return Held("playhead", axis.frame(at.x())) if marker is None else Held("marker", marker.frame)

    def marker_at(self, at: QPointF, axis: TimeAxis) -> Marker | None:
        """The marker whose pennant is under the pointer."""
        markers = self.document.scene.markers
        if not markers or not RULER - 16 <= at.y() <= RULER:
            return None
        nearest = min(markers, key=lambda each: abs(axis.x(each.frame) + 3 - at.x()))
        return nearest if abs(axis.x(nearest.frame) + 3 - at.x()) <= _REACH else None

    def snapped(self, wanted: float, axis: TimeAxis) -> float:
        """The nearest whole frame, or a marker or the playhead nearby."""
        catches = [self.document.playhead.frame, *(each.frame for each in self.document.scene.markers)]
        best = min(catches, key=lambda each: abs(each - wanted))
        return best if abs(best - wanted) * axis.pixels_per_frame < _CATCH else float(round(wanted))

    # The mouse

    def cursor(self, at: QPointF, axis: TimeAxis) -> Qt.CursorShape:
        """What the pointer looks like over the ruler."""
        what = self.what_at(at, axis).what
        return Qt.CursorShape.ArrowCursor if what == "playhead" else Qt.CursorShape.SizeHorCursor

    def press(self, at: QPointF, axis: TimeAxis) -> None:
        self.held = self.what_at(at, axis)
        if self.held.what == "playhead":
            self.document.playhead.set_frame(round(axis.frame(at.x())))

    def drag(self, start: QPointF, at: QPointF, axis: TimeAxis, keys: Qt.KeyboardModifier) -> None:
        """Alt: between frames. An end stretches about the other; Shift: about the middle, Ctrl: about the playhead."""
        held, document = self.held, self.document
        if held is None:
            return
        if held.what == "playhead":
            document.playhead.set_frame(round(axis.frame(at.x())))
            return
        if not document.gesture.running and abs(at.x() - start.x()) < 3:
            return
        wanted = held.frame + (at.x() - start.x()) / axis.pixels_per_frame
        wanted = wanted if keys & Qt.KeyboardModifier.AltModifier else self.snapped(wanted, axis)
        if held.what == "marker":
            self._move_marker(held.frame, wanted)
        elif held.what == "bar":
            first = key_ranges.extent(held.refs)[0]
            by = (at.x() - start.x()) / axis.pixels_per_frame
            by = by if keys & Qt.KeyboardModifier.AltModifier else self.snapped(first + by, axis) - first
            drag_keys(document, "Move keys", held.refs, lambda scene: move_keys(scene, held.refs, by))
        else:
            self._stretch(held, wanted, keys)

    def _move_marker(self, frame: float, to: float) -> None:
        document = self.document
        document.gesture.begin("Move a marker")
        base = document.gesture.base
        # Where it would land on another it stays short of it: a drag passes over many.
        if any(each.frame == to for each in base.scene.markers if each.frame != frame):
            return
        document.gesture.preview(base.with_scene(move_marker(base.scene, frame, to)))

    def _stretch(self, held: Held, wanted: float, keys: Qt.KeyboardModifier) -> None:
        first, last = key_ranges.extent(held.refs)
        about = last if held.what == "first" else first
        if keys & Qt.KeyboardModifier.ShiftModifier:
            about = 0.5 * (first + last)
        elif keys & Qt.KeyboardModifier.ControlModifier:
            about = self.document.playhead.frame
        if abs(held.frame - about) < 1e-9:
            what = "That end is what it would be stretched about. Drag the other end, or move the playhead."
            self.document.messages.say(what, True)
            return
        factor = max((wanted - about) / (held.frame - about), 1e-3)
        stretch = partial(key_ranges.stretch, refs=held.refs, about=about, factor=factor)
        drag_keys(self.document, "Stretch keys", held.refs, stretch)
        if not left_alone(self.document.scene, {(ref.node, ref.channel) for ref in held.refs}):
            self.document.messages.say(f"Stretched to {factor * 100:.1f} %: {(last - first) * factor:.4g} frames")

    def release(self) -> None:
        held, self.held = self.held, None
        if held is not None and held.what != "playhead":
            self.document.gesture.commit()

    def cancel(self) -> None:
        """Take the drag back, and select what was selected."""
        held, self.held = self.held, None
        if held is not None and held.what != "playhead":
            self.document.cancel()
            self.document.selection.choose_keys(held.refs or self.document.selection.keys)

    def double_click(self, at: QPointF, axis: TimeAxis) -> bool:
        """Name the marker that is there."""
        marker = self.marker_at(at, axis)
        if marker is not None:
            rename_marker(self.document, marker, self._view)
        return marker is not None

    # Painting

    def paint(self, p: QPainter, axis: TimeAxis) -> None:
        width = self._view.width()
        p.fillRect(QRectF(0, 0, width, RULER), colour(DEEP))
        p.save()
        p.setClipRect(QRectF(LABELS, 0, width - LABELS, RULER))
        settings, (first, last) = self.document.settings, self.document.playhead.range
        whole = QRectF(axis.x(settings.first), RULER - 3, axis.x(settings.last) - axis.x(settings.first), 3)
        p.fillRect(whole, colour(LINE))
        p.fillRect(QRectF(axis.x(first), RULER - 3, axis.x(last) - axis.x(first), 3), colour(REED))
        self._paint_findings(p, axis)
        chapters = self._paint_chapters(p, axis)
        self._paint_sound(p, axis)
        step = axis.tick_step()
        minor = step / 2 if step % 2 == 0 else step
        p.setFont(font(10))
        for n in range(int(np.floor(axis.start / minor)), int(np.floor(axis.end / minor)) + 2):
            frame = n * minor
            x, major = axis.x(frame), frame % step == 0
            p.setPen(QPen(colour(BRIGHT_LINE if major else LINE), 1))
            p.drawLine(QPointF(x, RULER - (14 if major else 9)), QPointF(x, RULER - 4))
            if major and LABELS <= x < width - 26:
                p.setPen(colour(SOFT if settings.first <= frame <= settings.last else FADED))
                p.drawText(QPointF(x + 4, 22 if chapters else 14), f"{frame:g}")
        p.restore()

    def _paint_findings(self, p: QPainter, axis: TimeAxis) -> None:
        """Where something is wrong in the format that is looked at: a rust line under the frames, stronger where it is
        worse."""
        verdict = self.document.checked.of(self.document.views.format.name)
        if verdict is None:
            return
        for each in reversed(verdict.open):
            left, right = axis.x(each.first - 0.5), axis.x(each.last + 0.5)
            strong = min(0.35 + 0.2 * each.badness, 1.0)
            p.fillRect(QRectF(left, RULER - 5, max(right - left, 2.0), 2), colour(RUST, strong))

    def _paint_chapters(self, p: QPainter, axis: TimeAxis) -> bool:
        """A row of the chapters' names at the very top; whether there are any."""
        chapters = [each for each in self.document.scene.markers if each.kind == "chapter"]
        if not chapters:
            return False
        ends = [each.frame for each in chapters[1:]] + [self.document.settings.last + 1.0]
        p.setFont(font(10))
        for number, (chapter, end) in enumerate(zip(chapters, ends, strict=True)):
            left, right = axis.x(chapter.frame), axis.x(end)
            box = QRectF(left + 0.5, 0, max(right - left - 1, 1), 11)
            tone = chapter.colour or MARKER_TONES["chapter"]
            p.fillRect(box, colour(tone, 0.34 if number % 2 else 0.22))
            text = elided(chapter.name, max(int(right - max(left, LABELS)) - 8, 0), 10)
            if len(text) > 1:
                p.setPen(colour(TEXT))
                p.drawText(QPointF(max(left, LABELS) + 4, 9.5), text)
        return True

    def _paint_sound(self, p: QPainter, axis: TimeAxis) -> None:
        """What is heard, and the beats, faint behind the ticks."""
        scene, width = self.document.scene, float(self._view.width())
        if scene.sounds and self.document.heard.outlines:
            xs = np.arange(LABELS, width, 2.0)
            frames = axis.start + (xs - axis.left) / axis.pixels_per_frame
            loud = self.document.heard.loudness(scene, frames)
            p.setPen(QPen(colour(SKY, 0.42), 1.4))
            heard = zip(xs.tolist(), loud.tolist(), strict=False)
            foot = RULER - 4.0
            draw_lines(p, [QLineF(x, foot, x, foot - value * 13) for x, value in heard if value > 0.01])
        frames, bars = beat_frames(scene.beats, scene.settings.rate, axis.start, axis.end)
        if axis.are_closer(frames, 4.0):
            frames = frames[bars]
        p.setPen(QPen(colour(SKY, 0.8), 1))
        draw_lines(p, [QLineF(x, RULER - 6, x, RULER - 3) for x in axis.xs(frames).tolist()])

    def paint_markers(self, p: QPainter, axis: TimeAxis) -> None:
        """A pennant with a name for each, and a faint line down through the rows."""
        here = [each for each in self.document.scene.markers if LABELS <= axis.x(each.frame) <= self._view.width()]
        beats = [each for each in here if each.kind == "beat" and not each.colour]
        self._paint_beat_markers(p, axis, beats)
        markers = [each for each in here if each not in beats and each.kind != "chapter"]
        if not markers:
            return
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setFont(font(10))
        # Under the chapters' names the frames' numbers are further down.
        foot = RULER + (2 if any(each.kind == "chapter" for each in self.document.scene.markers) else 0)
        ends = [axis.x(each.frame) for each in markers[1:]] + [float(self._view.width())]
        for marker, end in zip(markers, ends, strict=True):
            x = axis.x(marker.frame)
            tone = marker.colour or MARKER_TONES[marker.kind]
            p.setPen(QPen(colour(tone, 0.4), 1))
            p.drawLine(QPointF(x, RULER), QPointF(x, self._view.height()))
            room = int(min(_NAME, end - x - 14))
            if room > 12:
                text = elided(marker.name, room, 10)
                p.fillRect(QRectF(x + 1, foot - 15, p.fontMetrics().horizontalAdvance(text) + 12, 12), colour(DEEP))
                p.setPen(colour(tone))
                p.drawText(QPointF(x + 10, foot - 6), text)
            p.setPen(QPen(colour(tone), 1.4))
            p.drawLine(QPointF(x, RULER - 16), QPointF(x, RULER))
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(colour(tone))
            p.drawPolygon(QPolygonF([QPointF(x, RULER - 16), QPointF(x + 7, RULER - 12), QPointF(x, RULER - 8)]))
        p.restore()

    def _paint_beat_markers(self, p: QPainter, axis: TimeAxis, markers: list[Marker]) -> None:
        """Markers on beats: many, so a small pennant each, and no names."""
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(MARKER_TONES["beat"]))
        for marker in markers:
            x = axis.x(marker.frame)
            p.drawPolygon(QPolygonF([QPointF(x, RULER - 12), QPointF(x + 5, RULER - 9), QPointF(x, RULER - 6)]))
        p.restore()

    def paint_bar(self, p: QPainter, axis: TimeAxis) -> None:
        """The bar over the selected keys, with a grip at each end."""
        extent = self.extent()
        if extent is None:
            return
        left, right = (axis.x(each) for each in extent)
        p.save()
        p.setClipRect(QRectF(LABELS, 0, self._view.width() - LABELS, RULER))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(QRectF(left, RULER - 4, right - left, 4), colour(AMBER))
        p.setPen(QPen(colour(DEEP), 1))
        p.setBrush(colour(AMBER))
        for x in (left, right):
            p.drawRoundedRect(QRectF(x - 3.5, RULER - 13, 7, 13), 2, 2)
        p.restore()

    def paint_playhead(self, p: QPainter, axis: TimeAxis) -> None:
        x = axis.x(self.document.playhead.frame)
        if x < LABELS:
            return
        p.setPen(QPen(colour(AMBER), 1.6))
        p.drawLine(QPointF(x, 6), QPointF(x, self._view.height()))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(AMBER))
        p.drawPolygon(QPolygonF([QPointF(x + dx, dy) for dx, dy in ((-6, 0), (6, 0), (6, 8), (0, 14), (-6, 8))]))
