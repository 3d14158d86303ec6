"""A move put on its subject in one way after another, and looked at."""

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from ...arrays import Array
from ...edits.moves import Placing, put
from ...edits.rigs import Built, FrameRange
from ...evaluate import evaluate
from ...scene import Scene, SceneError, Subject
from ...scene.checks import AREAS
from ...scene.moves import Move
from ..framing import overshoot
from ..subjects import subject_boxes
from .looked import ALL, Look, Looked, spread, with_neighbours

EDGES = frozenset(("bare", "hole", "clipped"))
NEARNESS = frozenset(("through", "near"))
COMFORT = frozenset(("fast", "busy", "roll", "strobe"))
_COARSE = 11
"""Moments of a move that are looked at first, its ends among them."""
_HARD = 3
_VIEWS = 24
_OUT = 1e-4
_UNHURRIED = frozenset(("bold", "beat"))
"""Tags of moves that are meant to be quick."""


class Change(NamedTuple):
    """What is made of a move: so many times as far away, so much of its way, so many times as long."""

    size: float = 1.0
    strength: float = 1.0
    length: float = 1.0

    @property
    def amount(self) -> float:
        """How much of a change it is."""
        return abs(float(np.log(self.size))) + abs(1.0 - self.strength) + abs(float(np.log(self.length)))


class Fitted(NamedTuple):
    """A move as it was put: the scene with it and what it made, how, over which frames; what was changed for that, in
    words, and what could not be put right."""

    built: Built
    how: Placing
    span: FrameRange
    change: Change
    line: str
    left: tuple[str, ...] = ()


class Trial:
    """A move put on its subject in one way after another, and looked at."""

    def __init__(
        self, scene: Scene, move: Move, subject: str, span: FrameRange, look: Look, how: Placing, other: str | None,
        step: Callable[[], None], moments: int | None = None,
    ) -> None:  # fmt: skip
        self._scene, self._move, self._subject, self._span = scene, move, subject, span
        self._look, self._how, self._other, self._step = look, how, other, step
        quick = not _UNHURRIED.isdisjoint(move.tags)
        self.meant = EDGES | NEARNESS | (frozenset() if quick else COMFORT)
        self.kinds = self.meant
        self._shares = np.linspace(0.0, 1.0, moments or _COARSE).tolist()
        self._everywhere = moments is None
        self._hard: list[tuple[str, float]] = []
        """What was wrong in trials before, of the last ones first, and at which share of the move."""
        self._made: dict[int, tuple[Change, Built, FrameRange]] = {}
        self._wrong: dict[Change, tuple[str, float] | None] = {}
        self._views: dict[Change, Looked] = {}
        self._asked = self._boxes(*self._put_at(Change())[1:]) if not move.has_other else None

    def _put_at(self, change: Change) -> tuple[Change, Built, FrameRange]:
        last = self._span.first + (self._span.last - self._span.first) * change.length
        if last > self._scene.settings.last and change.length > 1.0:
            raise SceneError("The scene ends before.")
        span = FrameRange(self._span.first, float(round(last)) if change.length != 1.0 else last)
        how = self._how._replace(size=self._how.size * change.size, strength=self._how.strength * change.strength)
        return change, put(self._scene, self._move, self._subject, span, how, self._other), span

    def put(self, change: Change) -> Scene:
        made = self._put_at(change)
        self._made = {id(made[1][0]): made}
        return made[1][0]

    def passes(self, change: Change) -> bool:
        try:
            return self.is_clean(self.put(change))
        except SceneError:
            return False

    def wrong_as_asked(self) -> frozenset[str]:
        """The kinds of all that is found at the moments that are looked at first, or else at any."""
        _, built, span = self._put_at(Change())
        view = self._view(Change(), built, span)
        rows = [view.row(share) for share in self._shares]
        for row in rows:
            self._step()
            view.picture(row, self._look)
        view.measure(with_neighbours(rows, view))
        kinds = frozenset(kind for kind, _ in view.found(ALL) if kind in self.kinds)
        if not kinds and self._everywhere and (found := self._anywhere(view)) is not None:
            kinds = frozenset((found[0],))
        if kinds:
            self._hard = [(kind, view.share(at)) for kind, at in view.found(ALL) if kind in kinds][:_HARD]
        return kinds

    def still_wrong(self, change: Change) -> str:
        """The kind of something that is wrong after a change; "" where nothing is, or it cannot be made."""
        if not self.passes(change):
            found = self._wrong.get(change)
            return found[0] if found is not None else ""
        return ""

    def is_clean(self, made: Scene) -> bool:
        """Whether nothing is found where something was before, and at the moments that are looked at first."""
        change, built, span = self._made[id(made)]
        if self._wrong.get(change) is None:
            found = self._first_found(change, built, span)
            self._wrong[change] = found
            if found is not None and found not in self._hard:
                self._hard = [found, *self._hard][:_HARD]
        return self._wrong[change] is None

    def holds(self, change: Change) -> bool:
        """Whether nothing is found at any frame that is to be looked at."""
        # What passed before may not at a moment that was found out about since.
        if not self.passes(change):
            return False
        if not self._everywhere:
            return True
        _, built, span = self._put_at(change)
        view = self._view(change, built, span)
        found = self._anywhere(view)
        if found is not None:
            share = view.share(found[1])
            self._hard = [(found[0], share), *self._hard][:_HARD]
            self._shares = sorted({*self._shares, share})
            self._wrong[change] = found[0], share
        return found is None

    def _view(self, change: Change, built: Built, span: FrameRange) -> "Looked":
        """What is known of a move changed in a way, to be added to."""
        if change not in self._views:
            while len(self._views) > _VIEWS:
                self._views.pop(next(iter(self._views)))
            scene, ids = built
            if self._how.shown == "no":
                scene = replace(scene, shots=(), events=(), camera=ids[-1])
            self._views[change] = Looked(scene, span, self._which(scene))
        return self._views[change]

    def _first_found(self, change: Change, built: Built, span: FrameRange) -> tuple[str, float] | None:
        """The kind of something that is wrong, and at which share of the move."""
        view = self._view(change, built, span)
        out = self._out(built, span)
        if out is not None:
            return "out", out
        for kind, share in self._hard:
            self._step()
            row = view.row(share)
            if kind in EDGES:
                view.picture(row, self._look)
                found = self._of(view, ("edges",))
            else:
                view.measure(with_neighbours([row], view))
                found = self._of(view, ("comfort", "nearness"))
            if found is not None:
                return found[0], view.share(found[1])
        rows = [view.row(share) for share in self._shares]
        view.measure(with_neighbours(rows, view))
        found = self._of(view, ("comfort", "nearness")) or self._pictured(view, rows)
        return None if found is None else (found[0], view.share(found[1]))

    def _anywhere(self, view: "Looked") -> tuple[str, float] | None:
        view.measure(np.arange(view.first, view.last + 1))
        found = self._of(view, ALL)
        return found or self._pictured(view, [view.first + each for each in spread(view.last - view.first + 1)])

    def _pictured(self, view: "Looked", rows: list[int]) -> tuple[str, float] | None:
        for k in range(0, len(rows), 4):
            for row in rows[k : k + 4]:
                self._step()
                view.picture(row, self._look)
            found = self._of(view, ("edges",))
            if found is not None:
                return found
        return None

    def _of(self, view: "Looked", names: tuple[str, ...]) -> tuple[str, float] | None:
        return next((each for each in view.found(names) if each[0] in self.kinds), None)

    def _which(self, scene: Scene) -> int:
        """The number of the format that the move is put for."""
        names = [shape.name for shape in scene.formats_with_main()]
        asked = self._how.format
        return names.index(asked.name) if asked is not None and asked.name in names else 0

    def findings(self, change: Change, built: Built, span: FrameRange) -> tuple[str, ...]:
        """What is wrong with a move as it was put, in words."""
        view = self._view(change, built, span)
        rows = [view.row(share) for share in self._shares]
        view.measure(np.arange(view.first, view.last + 1) if self._everywhere else with_neighbours(rows, view))
        for share in self._shares:
            self._step()
            view.picture(view.row(share), self._look)
        return tuple(dict.fromkeys(title for title, kind in view.titles() if kind in self.meant))

    def _out(self, built: Built, span: FrameRange) -> float | None:
        """A share of the move at which the subject is farther out of its area than the move is meant to have it."""
        if self._asked is None:
            return None
        out = self._boxes(built, span)
        worse = np.nan_to_num(out, nan=np.inf) > np.maximum(np.nan_to_num(self._asked, nan=np.inf), _OUT) + _OUT
        if not worse.any():
            return None
        return float(self._grid[int(np.argmax(worse))])

    @property
    def _grid(self) -> Array:
        return np.linspace(0.0, 1.0, 4 * (_COARSE - 1) + 1)

    def _boxes(self, built: Built, span: FrameRange) -> Array:
        """How far (n,) the subject is out of the action area, over a move."""
        frames = span.first + self._grid * (span.last - span.first)
        seen = evaluate(built[0], frames).camera(built[1][-1])
        boxes = subject_boxes(evaluate(built[0], frames), seen, (Subject(self._subject),))[:, 0]
        return overshoot(boxes / np.array([seen.width, seen.height] * 2), AREAS["action"])

    def fitted(self, change: Change, line: str) -> Fitted:
        _, built, span = self._put_at(change)
        how = self._how._replace(size=self._how.size * change.size, strength=self._how.strength * change.strength)
        left = self.findings(change, built, span)
        return Fitted(built, how, span, change, line, left)

    def words(self, change: Change) -> str:
        """“8 % nearer, turns 21° instead of 30°, 12 frames longer”."""
        return ", ".join(self._words(change))

    def _words(self, change: Change) -> Iterator[str]:
        if change.size != 1.0:
            by = abs(1.0 - change.size) * 100.0
            yield f"{by:.1f} % {'nearer' if change.size < 1.0 else 'farther'}".replace(".0 %", " %")
        if change.strength != 1.0:
            before, after = (self._turn(*self._put_at(each)[1:]) for each in (Change(), change))
            if before > 1.0:
                yield f"turns {after:.0f}° instead of {before:.0f}°"
            else:
                yield f"goes {change.strength * 100.0:.0f} % of its way"
        if change.length != 1.0:
            frames = self._put_at(change)[2].last - self._span.last
            yield f"{frames:.0f} frames longer"

    def _turn(self, built: Built, span: FrameRange) -> float:
        """By how many degrees a move turns the lens, its way up and down too."""
        frames = span.first + self._grid * (span.last - span.first)
        axis = evaluate(built[0], frames).camera(built[1][-1]).pose[:, :3, 2]
        cosine = np.clip((axis[1:] * axis[:-1]).sum(axis=1), -1.0, 1.0)
        return float(np.degrees(np.arccos(cosine)).sum())
