"""What is where on the film: its rows, blocks, joins and events."""

from functools import lru_cache
from typing import NamedTuple

from PyQt6.QtCore import QPointF, QRectF

from ....evaluate.evaluation import Evaluation
from ....evaluate.events import event_showings
from ....evaluate.film import Film, film_of
from ....scene import Blend, Scene, SceneError, Shot
from ....scene.output import shots_of, shown_nodes
from ...state.document import Document
from ...widgets.theme import NODE_COLOURS
from ..axis import LABELS, RULER
from ..time_view import TimeView

_EVENTS, _LEAST_FILM, _MOST_FILM = 24.0, 40.0, 108.0
_REACH = 5.0
ROWS = ("film", "speed", "sound", "events")


class UnderPointer(NamedTuple):
    """What is under the pointer: a row's part and its number."""

    kind: str
    number: int = -1


NOTHING = UnderPointer("")


def shot_colour(scene: Scene, shot: Shot) -> str:
    """A shot's own colour, or one by its camera's place in the list."""
    return shot.colour or _TONES[_places(scene).get(shot.camera, 0) % len(_TONES)]


@lru_cache(maxsize=8)
def _places(scene: Scene) -> dict[str, int]:
    return {node_id: place for place, node_id in enumerate(shown_nodes(scene))}


_TONES = (NODE_COLOURS[1], NODE_COLOURS[3], NODE_COLOURS[0], NODE_COLOURS[2], *NODE_COLOURS[4:])


@lru_cache(maxsize=8)
def film_shown(scene: Scene) -> Film | None:
    """The film with what events make of it; None where it cannot be worked out."""
    try:
        return film_of(Evaluation.evaluator, scene)
    except SceneError:
        return None


@lru_cache(maxsize=8)
def showings(scene: Scene) -> tuple[tuple[int, float, float], ...]:
    """When events show: the event's number, and from which frame up to which."""
    try:
        return tuple((each.event, each.start, each.end) for each in event_showings(Evaluation.evaluator, scene))
    except SceneError:
        return ()


class ShotsLayout(TimeView):
    """The film over time."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.hover = NOTHING
        self.setMinimumHeight(58)

    def row(self, name: str) -> QRectF:
        """Where a row is, from the left edge on."""
        room = self.height() - RULER
        film = min(max(room - 2 * 26.0 - _EVENTS, _LEAST_FILM), max(_MOST_FILM, 0.46 * room))
        rest = max(room - film - _EVENTS, 20.0) / 2
        heights = {"film": film, "speed": rest, "sound": rest, "events": _EVENTS}
        top = float(RULER)
        for each in ROWS:
            if each == name:
                break
            top += heights[each]
        return QRectF(0, top, self.width(), heights[name])

    @property
    def shots(self) -> tuple[Shot, ...]:
        return shots_of(self.document.views.moving)

    def shot_rect(self, number: int) -> QRectF:
        """Where a shot's block is."""
        shots, settings = self.shots, self.document.settings
        first = shots[number].first if number else float(settings.first)
        end = shots[number + 1].first if number + 1 < len(shots) else settings.last + 1.0
        row = self.row("film")
        left, right = self.axis.x(first), self.axis.x(end)
        return QRectF(left, row.top() + 4, max(right - left, 1.0), row.height() - 8)

    def blend_rect(self, number: int) -> QRectF | None:
        """Where the box of a shot's blend is; None for a cut."""
        shot = self.shots[number]
        if not number or not isinstance(shot.join, Blend):
            return None
        begins, ends = shot.interval(self.document.settings.rate)
        block = self.shot_rect(number)
        left, right = self.axis.x(begins), self.axis.x(ends)
        inset = min(8.0, block.height() * 0.18)
        return QRectF(left, block.top() + inset, max(right - left, 2.0), block.height() - 2 * inset - 3)

    def event_rect(self, start: float, end: float) -> QRectF:
        row = self.row("events")
        left, right = self.axis.x(start), self.axis.x(end)
        return QRectF(left, row.top() + 4, max(right - left, 6.0), row.height() - 8)

    def what_at(self, at: QPointF) -> UnderPointer:
        """What is under the pointer."""
        if at.y() < RULER:
            return UnderPointer("ruler") if at.x() >= LABELS else NOTHING
        row = next((name for name in ROWS if self.row(name).contains(at)), "")
        if at.x() < LABELS:
            return UnderPointer(f"{row}-label") if row else NOTHING
        if row == "film":
            return self._in_film(at)
        if row == "events":
            for number, start, end in reversed(showings(self.document.views.moving)):
                if self.event_rect(start, end).adjusted(-3, -3, 3, 3).contains(at):
                    return UnderPointer("event", number)
        return UnderPointer(row) if row else NOTHING

    def _in_film(self, at: QPointF) -> UnderPointer:
        shots = self.shots
        for number in range(1, len(shots)):
            box = self.blend_rect(number)
            if box is not None and box.top() <= at.y() <= box.bottom():
                if abs(at.x() - box.left()) <= _REACH and shots[number].join.place != "after":
                    return UnderPointer("blend-start", number)
                if abs(at.x() - box.right()) <= _REACH and shots[number].join.place != "before":
                    return UnderPointer("blend-end", number)
                if box.contains(at):
                    return UnderPointer("join", number)
        near = [k for k in range(1, len(shots)) if abs(self.axis.x(shots[k].first) - at.x()) <= _REACH]
        if near:
            return UnderPointer("join", min(near, key=lambda k: abs(self.axis.x(shots[k].first) - at.x())))
        for number in range(len(shots)):
            if self.shot_rect(number).contains(at):
                return UnderPointer("shot", number)
        return UnderPointer("film")
