"""Painting the film: blocks with small pictures, blends, the picture's speed, sound with beats, events."""

import math

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPainterPath, QPen, QPolygonF

from ....motion.tempo import beat_frames
from ....scene import Blend, Scene, Shot
from ...pictures.small_pictures import SmallPictures
from ...widgets.ease_menu import curve
from ...widgets.strokes import draw_lines
from ...widgets.theme import (
    AMBER,
    BLANK,
    BRIGHT_LINE,
    DEEP,
    FADED,
    LINE,
    RAISED,
    REED,
    RUST,
    SKY,
    SOFT,
    STRIPE,
    TEXT,
    colour,
    elided,
    font,
)
from ..axis import LABELS
from .picture_speeds import Speeds
from .shots_layout import ShotsLayout, film_shown, shot_colour, showings

_STRIP = 3.0


class FilmPainter:
    """Draws what a view shows, but for the ruler and the playhead."""

    def __init__(self, p: QPainter, view: ShotsLayout, small: SmallPictures, speeds: Speeds) -> None:
        self.p, self.view, self.small, self.speeds = p, view, small, speeds
        self.document = view.document
        self.scene = view.document.views.moving

    def all(self) -> None:
        p, view = self.p, self.view
        for k, name in enumerate(("film", "speed", "sound", "events")):
            row = view.row(name)
            if k % 2:
                p.fillRect(row, colour(STRIPE))
        self.labels()
        p.save()
        p.setClipRect(QRectF(LABELS, view.row("film").top(), view.width() - LABELS, view.height()))
        if not view.shots:
            self._hint(view.row("film"), "No camera yet: Camera ▸ Add camera (Ctrl+Shift+C)")
        else:
            self.film()
            self.speed()
        self.sound()
        self.events()
        p.restore()

    def _hint(self, row: QRectF, text: str) -> None:
        self.p.setPen(colour(SOFT))
        self.p.setFont(font(11))
        self.p.drawText(row.adjusted(LABELS + 16, 0, -16, 0), Qt.AlignmentFlag.AlignVCenter, text)

    # Labels

    def labels(self) -> None:
        scene = self.scene
        seconds = scene.settings.frame_count / scene.settings.rate.fps
        film = f"{len(scene.shots)} shots, {seconds:.1f} s" if scene.shots else "one camera, no cuts yet"
        sounds = ", ".join(each.name for each in scene.sounds) or "none"
        beats = f"{scene.beats.tempo:.1f} beats a minute" if scene.beats is not None else ""
        for name, title, detail in (
            ("film", "Film", film),
            ("speed", "Picture speed", ""),
            ("sound", "Sound", f"{sounds}{'  ·  ' + beats if beats else ''}"),
            ("events", "Events", str(len(scene.events)) if scene.events else "none"),
        ):
            row = self.view.row(name)
            room = QRectF(16, row.top(), 86, row.height())
            self.p.setFont(font(12, QFont.Weight.Medium))
            self.p.setPen(colour(TEXT))
            self.p.drawText(room, Qt.AlignmentFlag.AlignVCenter, title)
            self.p.setFont(font(11))
            self.p.setPen(colour(SOFT))
            rest = QRectF(106, row.top(), LABELS - 118, row.height())
            self.p.drawText(rest, Qt.AlignmentFlag.AlignVCenter, elided(detail, int(rest.width()), 11))

    def reading(self, frame: float) -> None:
        """The picture's speed at the playhead, beside its label."""
        middle, subject = self.speeds.at(frame)
        row = self.view.row("speed")
        rest = QRectF(106, row.top(), LABELS - 118, row.height())
        text = "—" if not math.isfinite(middle) else f"{middle:.0f} px/s"
        if math.isfinite(subject):
            text += f"  ·  subject {subject:.0f}"
        self.p.setFont(font(11))
        self.p.setPen(colour(SOFT))
        self.p.drawText(rest, Qt.AlignmentFlag.AlignVCenter, text)

    # The film

    def film(self) -> None:
        view = self.view
        chosen = set(self.document.selection.shots)
        shots = view.shots
        for number, shot in enumerate(shots):
            box = view.shot_rect(number)
            if box.right() >= LABELS and box.left() <= view.width():
                self._shot(number, shot, box, number in chosen)
        for number in range(1, len(shots)):
            box_ = view.blend_rect(number)
            if box_ is not None and box_.right() >= LABELS and box_.left() <= view.width():
                self._blend(shots[number - 1], shots[number], box_, number in chosen)
        self._made()

    def _shot(self, number: int, shot: Shot, box: QRectF, lit: bool) -> None:
        p, tone = self.p, shot_colour(self.scene, shot)
        inner = box.adjusted(0.5, 0.5, -1.5, -0.5)
        path = QPainterPath()
        path.addRoundedRect(inner, 3, 3)
        p.save()
        p.setClipPath(path, Qt.ClipOperation.IntersectClip)
        p.fillRect(inner, colour(RAISED))
        self._pictures(inner.adjusted(0, 0, 0, -_STRIP), shot.first)
        p.fillRect(QRectF(inner.left(), inner.bottom() - _STRIP, inner.width(), _STRIP), colour(tone))
        if inner.width() > 26:
            blend = self.view.blend_rect(number)
            left = inner.left() if blend is None else max(inner.left(), blend.right())
            self._name(shot.name, QRectF(left, inner.top(), inner.right() - left, inner.height()))
        p.restore()
        hover = self.view.hover == ("shot", number)
        if lit or hover:
            p.setPen(QPen(colour(AMBER if lit else BRIGHT_LINE), 1.6 if lit else 1.0))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRoundedRect(inner, 3, 3)

    def _name(self, name: str, box: QRectF) -> None:
        p = self.p
        p.setFont(font(10, QFont.Weight.Medium))
        text = elided(name, max(int(box.width()) - 12, 0), 10, QFont.Weight.Medium)
        if len(text) < 2:
            return
        left = max(box.left(), LABELS)
        width = p.fontMetrics().horizontalAdvance(text) + 9
        plate = QRectF(left + 3, box.top() + 3, width, 15)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(DEEP, 0.78))
        p.drawRoundedRect(plate, 3, 3)
        p.setPen(colour(TEXT))
        p.drawText(plate, Qt.AlignmentFlag.AlignCenter, text)

    def _pictures(self, box: QRectF, first: float) -> None:
        """Small pictures side by side, each of the frame at its left edge."""
        p, axis = self.p, self.view.axis
        settings = self.scene.settings
        width = max(box.height() * settings.width / settings.height, 12.0)
        step = max(width / axis.pixels_per_frame, 1.0)
        # Whole frames, in steps that stay the same while it is zoomed a little.
        step = next((each for each in _STEPS if each >= step), math.ceil(step))
        stride = step * axis.pixels_per_frame
        count = min(int(box.width() / stride) + 1, 400)
        start = max(first, float(settings.first))
        for k in range(count):
            left = box.left() + k * stride
            if left > self.view.width() or left + stride < LABELS:
                continue
            frame = float(min(round(start + k * step), settings.last))
            image = self.small.look_up(None, frame)
            place = QRectF(left, box.top(), width, box.height())
            if image is None:
                p.fillRect(place.adjusted(0, 0, -1, 0), colour(BLANK))
            else:
                p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
                p.drawImage(place, image)

    def _blend(self, before: Shot, shot: Shot, box: QRectF, lit: bool) -> None:
        p = self.p
        assert isinstance(shot.join, Blend)
        p.setPen(QPen(colour(AMBER if lit else BRIGHT_LINE), 1.2))
        p.setBrush(colour(DEEP, 0.86))
        p.drawRoundedRect(box, 3, 3)
        area = box.adjusted(3, 5, -3, -5)
        if area.width() < 6 or area.height() < 6:
            return
        p.save()
        p.setClipRect(box, Qt.ClipOperation.IntersectClip)
        rising = curve(shot.join.ease, area)
        points = [rising.at(k) for k in range(rising.size())]
        falling = QPolygonF([QPointF(each.x(), area.top() + area.bottom() - each.y()) for each in points])
        for line, tone in ((falling, shot_colour(self.scene, before)), (rising, shot_colour(self.scene, shot))):
            p.setPen(QPen(colour(tone), 1.5))
            p.drawPolyline(line)
        p.restore()

    def _made(self) -> None:
        """What events show, dashed over what it hides."""
        film = film_shown(self.scene) if self.scene.events else None
        if film is None:
            return
        row = self.view.row("film")
        for k, shot in enumerate(film.shots):
            if shot.event < 0:
                continue
            end = self.scene.settings.last + 1.0
            if k + 1 < len(film.shots):
                end = min(film.shots[k + 1].first, end)
            left, right = self.view.axis.x(shot.first), self.view.axis.x(end)
            box = QRectF(left, row.top() + 4, max(right - left, 3.0), row.height() - 8).adjusted(0.5, 2.5, -1.5, -2.5)
            self.p.save()
            self.p.setClipRect(box, Qt.ClipOperation.IntersectClip)
            self.p.fillRect(box, colour(RAISED))
            self._pictures(box, shot.first)
            self._name(shot.name, box)
            self.p.restore()
            self.p.setBrush(Qt.BrushStyle.NoBrush)
            self.p.setPen(QPen(colour(REED), 1.5, Qt.PenStyle.DashLine))
            self.p.drawRoundedRect(box, 3, 3)

    # The picture's speed

    def speed(self) -> None:
        found, scene = self.speeds.found, self.speeds.scene
        row = self.view.row("speed")
        if found is None or scene is None:
            return
        middle = np.nan_to_num(found.middle, nan=0.0)
        top = float(np.quantile(middle, 0.98)) if len(middle) else 0.0
        if top <= 0.0:
            self._hint(row, "The picture stands still.")
            return
        axis, first = self.view.axis, scene.settings.first
        floor, high = row.bottom() - 2, row.height() - 7
        edges = [first, *(math.ceil(s.first - 1e-6) for s in scene.shots[1:]), scene.settings.last + 1]
        self.p.setRenderHint(QPainter.RenderHint.Antialiasing)
        shots = scene.shots or self.view.shots
        for shot, low, end in zip(shots, edges[:-1], edges[1:], strict=True):
            low, end = (
                max(low, math.floor(axis.start) - 1, first),
                min(end, math.ceil(axis.end) + 2, first + len(middle)),
            )
            if end <= low:
                continue
            # At most a value to a pixel: the highest of those that share one.
            step = max(1, int(1.0 / axis.pixels_per_frame))
            edges_ = np.arange(low, end, step)
            values = np.minimum(
                np.maximum.reduceat(middle[low - first : end - first], edges_ - low) / top, 1.0
            ).tolist()
            xs = axis.xs(edges_.astype(np.float64)).tolist()
            xs.append(axis.x(float(end)))
            values.append(values[-1])
            line = [QPointF(x, floor - v * high) for x, v in zip(xs, values, strict=True)]
            tone = shot_colour(scene, shot)
            self.p.setPen(Qt.PenStyle.NoPen)
            self.p.setBrush(colour(tone, 0.38))
            self.p.drawPolygon(QPolygonF([QPointF(xs[0], floor), *line, QPointF(xs[-1], floor)]))
            self.p.setPen(QPen(colour(tone), 1.3))
            self.p.drawPolyline(QPolygonF(line))
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        self.p.setPen(QPen(colour(RUST), 1.4))
        for frame, value, _ in self.speeds.trouble:
            self.p.drawEllipse(QPointF(axis.x(frame), floor - min(value / top, 1.0) * high - 1), 4.5, 4.5)

    # Sound

    def sound(self) -> None:
        row, scene = self.view.row("sound"), self.scene
        if not scene.sounds:
            self._hint(row, "Drop a sound here, or Play ▸ Sound ▸ Bring in sound… (P, S)")
        known = self.document.heard.problems
        problems = [known[each.source] for each in scene.sounds if each.source in known]
        if problems:
            self.p.setPen(colour(RUST))
            self.p.setFont(font(11))
            text = elided(problems[0], int(row.width() - LABELS - 40), 11)
            self.p.drawText(row.adjusted(LABELS + 16, 0, -16, 0), Qt.AlignmentFlag.AlignVCenter, text)
            return
        paint_beats(self.p, self.view, scene, row)
        paint_loudness(self.p, self.view, scene, row.adjusted(0, 3, 0, -3), 0.85)

    # Events

    def events(self) -> None:
        p, scene, row = self.p, self.scene, self.view.row("events")
        if not scene.events:
            return
        chosen = self.document.selection.film_event
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, start, end in showings(scene):
            box = self.view.event_rect(start, min(end, scene.settings.last + 1.0))
            lit = number == chosen
            p.setPen(QPen(colour(AMBER if lit else REED), 1.4, Qt.PenStyle.SolidLine))
            p.setBrush(colour(REED, 0.14))
            p.drawRoundedRect(box, 3, 3)
            p.setPen(QPen(colour(REED, 0.7), 1, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(box.left(), self.view.row("film").bottom()), QPointF(box.left(), row.top() + 4))
            text = elided(scene.events[number].name, max(int(box.width()) - 8, 0), 10)
            if len(text) > 1:
                p.setFont(font(10))
                p.setPen(colour(TEXT))
                p.drawText(box.adjusted(5, 0, -3, 0), Qt.AlignmentFlag.AlignVCenter, text)
        silent = [e.name for k, e in enumerate(scene.events) if k not in {n for n, _, _ in showings(scene)}]
        if silent:
            p.setFont(font(10))
            p.setPen(colour(FADED))
            text = f"never: {', '.join(silent[:3])}"
            p.drawText(row.adjusted(0, 0, -12, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)


_STEPS = (1, 2, 4, 6, 8, 12, 16, 24, 36, 48, 72, 96, 144, 192, 288, 384, 576, 768, 1152, 1536, 2304, 4608, 9216)


def paint_loudness(p: QPainter, view: ShotsLayout, scene: Scene, row: QRectF, alpha: float) -> None:
    """The outline of what is heard, about a row's middle."""
    if not scene.sounds or not view.document.heard.outlines:
        return
    left, right = max(LABELS, view.axis.x(-1e9)), float(view.width())
    xs = np.arange(left, right, 2.0)
    if len(xs) < 2:
        return
    frames = view.axis.start + (xs - view.axis.left) / view.axis.pixels_per_frame
    loud = view.document.heard.loudness(scene, frames)
    middle, half = row.center().y(), row.height() / 2
    p.setPen(QPen(colour(SKY, alpha), 1.4))
    heard = [(x, v * half) for x, v in zip(xs.tolist(), loud.tolist(), strict=False) if v > 0.004]
    draw_lines(p, [QLineF(x, middle - high, x, middle + high) for x, high in heard])


def paint_beats(p: QPainter, view: ShotsLayout, scene: Scene, row: QRectF) -> None:
    """A tick for each beat, a longer one where a bar begins; where they would touch only the bars."""
    frames, bars = beat_frames(scene.beats, scene.settings.rate, view.axis.start, view.axis.end)
    if len(frames) < 1:
        return
    close = view.axis.are_closer(frames, 5.0)
    for frame, bar in zip(frames.tolist(), bars.tolist(), strict=True):
        if close and not bar:
            continue
        x = view.axis.x(frame)
        p.setPen(QPen(colour(BRIGHT_LINE if bar else LINE), 1.2 if bar else 1.0))
        inset = 0.0 if bar else row.height() * 0.28
        p.drawLine(QPointF(x, row.top() + inset), QPointF(x, row.bottom() - inset))
