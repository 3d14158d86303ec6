"""The film over time, and everything the mouse does with it."""

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PyQt6.QtWidgets import QToolTip

from ....edits import KeyRef
from ....scene import Blend, Cut
from ....scene.output import shown_nodes
from ...commands.shot_commands import NEW_BLEND
from ...state.document import Document
from ...widgets.drag import Keys
from ...widgets.panel_parts import popup_menu
from ...widgets.plain_text import as_plain
from ...widgets.unexpected import painted
from ..film_parts import FilmParts
from ..still import StillPicture
from ..time_view import RulerDrag, TimeDrag
from .picture_speeds import Speeds
from .shots_drags import BlendDrag, RollDrag, ShotDrag, SoundDrag
from .shots_layout import NOTHING, ShotsLayout, UnderPointer
from .shots_painting import FilmPainter

VIEW_MIME = "application/x-wild-heron-view"
"""A camera or a framing that is dragged, by its id."""
_CURSORS = {
    "join": Qt.CursorShape.SplitHCursor, "blend-start": Qt.CursorShape.SizeHorCursor,
    "blend-end": Qt.CursorShape.SizeHorCursor, "sound": Qt.CursorShape.OpenHandCursor,
    "event": Qt.CursorShape.PointingHandCursor, "shot": Qt.CursorShape.PointingHandCursor,
}  # fmt: skip


class _PanDrag(TimeDrag):
    """Slides through time."""

    def __init__(self, view: "ShotsView", start: QPointF) -> None:
        super().__init__(view, start)
        self._axis = view.axis

    def move(self, at: QPointF, keys: Keys) -> None:
        by = (self.start.x() - at.x()) / self._axis.pixels_per_frame
        self._time_view.look_at(self._axis.moved(by))


class ShotsView(ShotsLayout):
    """Shots, speed, sound and events."""

    def __init__(self, document: Document, parts: FilmParts) -> None:
        super().__init__(document)
        self._parts = parts
        self.speeds = Speeds(document)
        self._still = StillPicture(self)
        self._playhead = 0.0
        self._pictures = 0
        self.setAccessibleName("Film")
        self.setAcceptDrops(True)
        selection = document.selection
        for signal in (
            document.changed, selection.film_changed, selection.keys_changed, document.settings_changed,
            self.speeds.changed, document.heard.changed, document.checked.findings_changed,
        ):  # fmt: skip
            signal.connect(self.renew)
        parts.small.changed.connect(self.renew)
        document.playhead.moved.connect(self._move_playhead)

    def renew(self) -> None:
        """Paint everything anew."""
        self._pictures += 1
        self.update()

    def _move_playhead(self) -> None:
        for x in (self._playhead, self.axis.x(self.document.playhead.frame)):
            self.update(int(x) - 9, 0, 19, self.height())
        self._playhead = self.axis.x(self.document.playhead.frame)
        self.update(self.row("speed").toRect())

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.speeds.wanted = True
        self.speeds.ask()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.speeds.wanted = False

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        document = self.document
        key = (self.axis, self._pictures, self.hover, document.playhead.range)
        p = QPainter(self)
        p.drawPixmap(0, 0, self._still.get(key, self._paint_film))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        FilmPainter(p, self, self._parts.small, self.speeds).reading(document.playhead.frame)
        self.ruler.paint_playhead(p, self.axis)

    def _paint_film(self, p: QPainter) -> None:
        FilmPainter(p, self, self._parts.small, self.speeds).all()
        self.ruler.paint(p, self.axis)
        self.ruler.paint_bar(p, self.axis)
        self.ruler.paint_markers(p, self.axis)

    # The mouse

    def keys_in(self, box) -> set[KeyRef]:  # type: ignore[no-untyped-def]
        return set()

    def turn_wheel(self, turns: float, at: QPointF) -> None:
        self.look_at(self.axis.moved(-turns * 60.0 / self.axis.pixels_per_frame))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at, held = event.position(), event.modifiers()
        under = self.what_at(at)
        if event.button() == Qt.MouseButton.MiddleButton:
            self.drag = _PanDrag(self, at)
        elif event.button() == Qt.MouseButton.LeftButton:
            self._press(at, under, held)

    def _press(self, at: QPointF, under: UnderPointer, held: Keys) -> None:
        selection, scene = self.document.selection, self.document.scene
        extend = bool(held & (Keys.ControlModifier | Keys.ShiftModifier))
        plain = bool(scene.shots)
        if under.kind == "ruler":
            self.drag = RulerDrag(self, at)
        elif under.kind == "join" and plain:
            selection.choose_shots([under.number])
            self.drag = RollDrag(self, at, under.number, bool(held & Keys.ShiftModifier))
        elif under.kind in ("blend-start", "blend-end"):
            selection.choose_shots([under.number])
            self.drag = BlendDrag(self, at, under.number, under.kind == "blend-end")
        elif under.kind == "shot" and plain:
            self._press_shot(at, under.number, extend)
        elif under.kind == "shot":
            selection.choose([self.shots[under.number].camera])
        elif under.kind == "sound" and scene.sounds:
            self.drag = SoundDrag(self, at)
        elif under.kind == "event":
            selection.choose_event(under.number)
        elif at.x() >= self.axis.left and under.kind in ("speed", "events", "film", "sound"):
            self.document.playhead.set_frame(round(self.axis.frame(at.x())))

    def _press_shot(self, at: QPointF, number: int, extend: bool) -> None:
        selection = self.document.selection
        chosen = selection.shots
        if extend:
            rest = [each for each in chosen if each != number]
            selection.choose_shots(rest if number in chosen else [*rest, number])
            return
        if number not in chosen:
            selection.choose_shots([number])
        self.drag = ShotDrag(self, at, number, number in chosen)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self.drag is not None:
            self.drag.move(at, event.modifiers())
            return
        under = self.what_at(at)
        if under.kind == "ruler":
            self.setCursor(self.ruler.cursor(at, self.axis))
        else:
            has = under.kind != "sound" or bool(self.document.scene.sounds)
            arrow = Qt.CursorShape.ArrowCursor
            self.setCursor(_CURSORS.get(under.kind, arrow) if has else arrow)
        hover = under if under.kind in ("shot", "join", "event") else NOTHING
        if hover != self.hover:
            self.hover = hover
            self.update()

    def leaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.hover = NOTHING
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        under = self.what_at(at)
        if under.kind == "ruler" and not self.ruler.double_click(at, self.axis):
            self.show_whole()
        elif under.kind == "shot":
            self.document.playhead.set_frame(max(self.shots[under.number].first, float(self.document.settings.first)))
            self.document.views.set_lens(None)
        elif under.kind == "sound":
            self._parts.actions["play.sound_settings"].trigger()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            text = self._tip(QPointF(event.pos()))
            if text:
                QToolTip.showText(event.globalPos(), as_plain(text), self)
                return True
        return super().event(event)

    def _tip(self, at: QPointF) -> str:
        under, scene = self.what_at(at), self.document.views.moving
        if under.kind == "shot":
            shot = self.shots[under.number]
            note = f"\n{shot.note}" if shot.note else ""
            return f"{shot.name}: {shown_nodes(scene)[shot.camera].name}, from frame {shot.first:g}{note}"
        if under.kind in ("join", "blend-start", "blend-end"):
            join = self.shots[under.number].join
            word = f"Blend of {join.length:g} {join.unit}" if isinstance(join, Blend) else "Cut"
            return f"{word}. Drag to roll it, with Shift to ripple."
        if under.kind == "event":
            event = scene.events[under.number]
            return f"{event.name}: {event.when.words(lambda i: scene.node(i).name)}"
        if under.kind == "speed" and self.speeds.found is not None and self.speeds.scene is not None:
            for frame, _, words in self.speeds.trouble:
                if abs(self.axis.x(frame) - at.x()) < 7:
                    return f"{words}. F, V lets it move at the cut."
            return (
                "How fast the picture slides: what is in its middle, and the subject, in pixels of the frame a second"
            )
        return ""

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        under, actions = self.what_at(QPointF(event.pos())), self._parts.actions
        menu = popup_menu(self)
        shots = self._parts.shots
        names: tuple[str, ...] = ()
        if under.kind in ("shot", "join", "blend-start", "blend-end") and self.document.scene.shots:
            if under.number not in self.document.selection.shots:
                self.document.selection.choose_shots([under.number])
            if under.number:
                blends = isinstance(self.document.scene.shots[under.number].join, Blend)
                for word, on, join in (("a cut", not blends, Cut()), ("a blend", blends, NEW_BLEND)):
                    action = menu.addAction(f"Joined by {word}")
                    action.setCheckable(True)
                    action.setChecked(on)
                    action.triggered.connect(lambda checked, join=join: shots.set_join(under.number, join))
                menu.addSeparator()
            show = menu.addMenu("Show")
            for node in shown_nodes(self.document.scene).values():
                show.addAction(node.name).triggered.connect(lambda checked, node=node: shots.replace(node.id))
            names = ("split", "swap", "duplicate", "remove", "", "moving", "match", "even")
        elif under.kind == "event":
            self.document.selection.choose_event(under.number)
            menu.addAction("Remove the event").triggered.connect(lambda: shots.remove_event(under.number))
            names = ("plain",)
        elif under.kind.startswith("sound"):
            for name in ("sound", "sound_settings", "beats", "tap", "beats_twice", "beats_half", "beat_markers"):
                menu.addAction(actions[f"play.{name}"])
        else:
            names = ("cut", "blend", "split", "at_markers", "run", "", "event")
        for name in names:
            if name:
                menu.addAction(actions[f"film.{name}"])
            else:
                menu.addSeparator()
        menu.exec(event.globalPos())

    # Dropping cameras and framings on the film

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasFormat(VIEW_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None or not data.hasFormat(VIEW_MIME):
            return
        node_id = data.data(VIEW_MIME).data().decode()
        frame = float(np.clip(round(self.axis.frame(event.position().x())), *self._range))
        if node_id in self.document.scene:
            self._parts.shots.cut_here(node_id, frame)
        event.acceptProposedAction()
