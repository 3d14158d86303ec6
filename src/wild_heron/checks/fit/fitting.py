"""The search: distance, way and length are changed one at a time, and together where none of them is enough."""

from collections.abc import Callable
from typing import NamedTuple

from ...edits.moves import Placing
from ...edits.rigs import FrameRange
from ...scene import Scene
from ...scene.moves import Move
from ..fixes.trial import smallest
from .looked import Look
from .trial import COMFORT, EDGES, NEARNESS, Change, Fitted, Trial

_ROUNDS = 6
_STEP = 0.005
_FIRST = 0.02


_Path = Callable[[float], Change]


class _Way(NamedTuple):
    """A way of changing a move: what of it is changed, how far at the most, and which findings it may put right."""

    path: _Path
    most: float
    parts: frozenset[str]
    helps: frozenset[str]


OUT = frozenset(("out",))
_DISTANCE, _TURN, _LENGTH = (frozenset((each,)) for each in ("distance", "turn", "length"))
EVERYTHING = _DISTANCE | _TURN | _LENGTH
_WAYS = (
    _Way(lambda t: Change(size=1.0 - t), 0.5, _DISTANCE, EDGES | OUT),
    _Way(lambda t: Change(size=1.0 + t), 1.2, _DISTANCE, NEARNESS | OUT | {"hole"}),
    _Way(lambda t: Change(strength=1.0 - t), 0.98, _TURN, EDGES | NEARNESS | OUT | COMFORT),
    _Way(lambda t: Change(length=1.0 + t), 2.0, _LENGTH, COMFORT),
)
_SIZES = (0.97, 1.03, 0.94, 1.06, 0.9, 1.1, 0.8, 1.25)
_LENGTHS = (1.25, 1.6, 2.2)


def _less_at(size: float, length: float) -> _Path:
    return lambda t: Change(size, 1.0 - t, length)


_EVERY_KIND = EDGES | NEARNESS | OUT | COMFORT
_TOGETHER = (
    *(_Way(_less_at(size, 1.0), 0.98, _DISTANCE | _TURN, _EVERY_KIND) for size in _SIZES),
    *(_Way(_less_at(1.0, length), 0.98, _TURN | _LENGTH, COMFORT) for length in _LENGTHS),
    *(_Way(_less_at(size, 1.6), 0.98, EVERYTHING, COMFORT) for size in _SIZES[:4]),
)
"""Less of its way, at a little more or less of the distance and at other lengths."""


def fit(
    scene: Scene,
    move: Move,
    subject: str,
    span: FrameRange,
    look: Look,
    how: Placing | None = None,
    other: str | None = None,
    may: frozenset[str] = EVERYTHING,
    step: Callable[[], None] = lambda: None,
    moments: int | None = None,
) -> Fitted:
    """A move put on a subject, kept within what is covered, its subject in the action area where it is meant to be,
    clear of artwork, and at a comfortable pace unless it is meant to be quick.

    ``may``: what of distance, turn and length may be changed. ``moments``: how many of it are looked at, and nothing
    between them; None: in the end every frame. ``step`` is called between trials; what it raises ends
    the work. Where nothing that is tried is enough, the move is as it was asked for, with what is wrong of it.
    """
    trial = Trial(scene, move, subject, span, look, how or Placing(), other, step, moments)
    wrong = trial.wrong_as_asked()
    while wrong:
        found = _least(trial, may, wrong)
        if found is not None:
            return trial.fitted(found, trial.words(found))
        # What cannot be had at a comfortable pace may be had at another.
        if not wrong & COMFORT:
            break
        trial.kinds -= COMFORT
        wrong -= COMFORT
    return trial.fitted(Change(), "as it is")


def _least(trial: Trial, may: frozenset[str], wrong: frozenset[str]) -> Change | None:
    """The least change that is enough: of one thing, or else of several together."""
    best: Change | None = None
    for ways in (_WAYS, _TOGETHER):
        for way in ways:
            if way.parts <= may and way.helps & wrong and (ways is _TOGETHER or wrong <= way.helps):
                best = _along(trial, way, best, wrong) or best
        if best is not None:
            break
    return best


def _along(trial: Trial, way: _Way, best: Change | None, wrong: frozenset[str]) -> Change | None:
    """The least change along a way, if it is less than the best one so far."""
    most = way.most
    # What is not put right by all of it is not by less; another thing that is wrong then may not be before.
    if trial.still_wrong(way.path(most)) in wrong:
        return None
    if best is not None:
        # No farther than where it would be as much of a change.
        while most > _STEP and way.path(most).amount >= best.amount:
            most *= 0.8
        if most <= _STEP or not trial.passes(way.path(most)):
            return None
    for _ in range(_ROUNDS):
        found = smallest(lambda t: trial.put(way.path(t)), trial.is_clean, min(_FIRST, most), most, _STEP)
        if found is None:
            return None
        change = way.path(found[0])
        if best is not None and change.amount >= best.amount:
            return None
        # Looked at in every frame; where something is found between, that moment is looked at from now on.
        if trial.holds(change):
            return change
    return None
