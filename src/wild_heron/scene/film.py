"""The film: shots in order without gaps, the joins between them, and the rules by which new joins are made."""

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import Annotated, Literal, get_args

import msgspec
from msgspec import Meta

from .rates import Rate
from .spans import CSS_EASE_IN_OUT, Ease
from .types import Identity, Name, Number

__all__ = [
    "OUTPUT",
    "WAYS",
    "Blend",
    "Cut",
    "Join",
    "JoiningRule",
    "Shot",
    "Way",
    "blend_frames",
]

OUTPUT = "@output"
"""Names, in a bind, whatever the film shows in place of a camera. No node can have this id."""
NodeOrOutput = Annotated[str, Meta(pattern=r"^(@output|[A-Za-z0-9][A-Za-z0-9._-]{0,79})$")]

Way = Literal["auto", "straight", "round", "rise"]
WAYS: tuple[Way, ...] = get_args(Way)
"""How a blend goes from one camera to the other. straight: in a line. round: about what is looked at. rise: up and
away, across and down again, for long trips. auto: whichever of them suits what the cameras look at."""
WAY_WORDS: tuple[tuple[Way, str], ...] = (
    ("auto", "by itself"), ("straight", "straight"), ("round", "round the subject"), ("rise", "rise and settle"),
)  # fmt: skip
"""What they are called on screen."""


class Cut(msgspec.Struct, frozen=True, tag="cut", forbid_unknown_fields=True):
    """From one frame to the next."""


class Blend(msgspec.Struct, frozen=True, tag="blend", forbid_unknown_fields=True, omit_defaults=True):
    """From one camera to the other over a ``length`` that ends at, is centred on, or begins at a shot's first frame."""

    length: Annotated[float, Meta(gt=0.0, le=1e5)] = 12.0
    unit: Literal["frames", "seconds"] = "frames"
    place: Literal["before", "on", "after"] = "on"
    ease: Ease = CSS_EASE_IN_OUT
    way: Way = "auto"


Join = Cut | Blend


def blend_frames(blend: Blend, rate: Rate) -> float:
    """How many frames a blend takes."""
    return blend.length * rate.fps if blend.unit == "seconds" else blend.length


class Shot(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A stretch of time seen through one camera or framing, from its first frame to that of the next shot.

    ``join`` says how it follows on the shot before it. What comes before the first shot's first frame belongs to it.
    """

    name: Name
    camera: Identity
    first: Number = 0.0
    colour: Annotated[str, Meta(pattern=r"^(#[0-9a-fA-F]{6})?$")] = ""
    note: Annotated[str, Meta(max_length=2000)] = ""
    join: Cut | Blend = Cut()

    def interval(self, rate: Rate) -> tuple[float, float]:
        """When its join begins and ends; a cut does both at its first frame."""
        if isinstance(self.join, Cut):
            return self.first, self.first
        length = blend_frames(self.join, rate)
        begins = self.first - {"before": length, "on": 0.5 * length, "after": 0.0}[self.join.place]
        return begins, begins + length


class JoiningRule(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """How one camera is joined to another where nothing else is said; None stands for any of them."""

    before: Identity | None = None
    after: Identity | None = None
    join: Cut | Blend = Cut()


MAX_SHOTS = 5_000


def film_problem(shots: Sequence[Shot], rate: Rate) -> tuple[int, str] | None:
    """Which shot does not fit into the film, and why, with the remedy; None where all do."""
    for number, (before, shot) in enumerate(pairwise(shots), 1):
        if not before.first < shot.first:
            return (
                number,
                f"Shots must be in order of their first frames; {shot.name} does not come after {before.name}.",
            )
        begins, _ = shot.interval(rate)
        earlier, ends = before.interval(rate) if number > 1 else (before.first, before.first)
        if not earlier < begins:
            return number, (
                f"The blend into {shot.name} begins at frame {begins:g}, before {before.name} does at {earlier:g}. "
                "Make it shorter, or the shot before it longer."
            )
        if isinstance(shot.join, Cut) and ends > shot.first:
            return number, (
                f"The blend into {before.name} lasts until frame {ends:g}, beyond the cut at {shot.first:g}. "
                "Make it shorter, or the shot longer."
            )
    return None


def settled(shots: Sequence[Shot], rate: Rate) -> tuple[Shot, ...]:
    """The shots in order of their first frames, of two on one frame the later one, with blends that do not fit made as
    much shorter as it takes; one for which there is no room becomes a cut. A film that fits stays as it is."""
    by_frame = {shot.first: shot for shot in shots}
    out = [by_frame[first] for first in sorted(by_frame)]
    before: list[Shot] = []
    while out != before:  # A blend that has become a cut may end another.
        before = list(out)
        for number in range(1, len(out)):
            out[number] = _fitted(out, number, rate)
    return tuple(out)


def _fitted(shots: Sequence[Shot], number: int, rate: Rate) -> Shot:
    """A shot with its blend as long as there is room for it."""
    shot = shots[number]
    if isinstance(shot.join, Cut):
        return shot
    earlier = shots[number - 1].interval(rate)[0] if number > 1 else shots[0].first
    cut = next((each.first for each in shots[number + 1 :] if isinstance(each.join, Cut)), float("inf"))
    begins, ends = shot.interval(rate)
    share = 1.0
    if begins <= earlier:
        share = _NEARLY * (shot.first - earlier) / (shot.first - begins)
    if ends > cut:
        share = min(share, (cut - shot.first) / (ends - shot.first) * _BARELY)
    if share == 1.0:
        return shot
    if blend_frames(shot.join, rate) * share < 1.0:
        return msgspec.structs.replace(shot, join=Cut())
    return msgspec.structs.replace(shot, join=msgspec.structs.replace(shot.join, length=shot.join.length * share))


_BARELY = 1.0 - 1e-12
_NEARLY = 0.9
"""How much of the room before it a blend takes up at the most: it begins after the shot before it does."""


def shots_without(shots: Sequence[Shot], numbers: Iterable[int]) -> list[Shot]:
    """The shots without some: the one before fills the gap, or the next one where there is none before."""
    gone = set(numbers)
    kept = [each for k, each in enumerate(shots) if k not in gone]
    if kept and 0 in gone:
        kept[0] = msgspec.structs.replace(kept[0], first=shots[0].first, join=Cut())
    return kept


def joined_by_rule(rules: Sequence[JoiningRule], before: str, after: str) -> Cut | Blend:
    """How one camera is joined to another: by the rule for just these two, else for leaving the one, else for coming
    to the other, else for any; without a rule by a cut."""
    for wanted in ((before, after), (before, None), (None, after), (None, None)):
        for rule in rules:
            if (rule.before, rule.after) == wanted:
                return rule.join
    return Cut()


def shot_at(shots: Sequence[Shot], frame: float) -> int:
    """The number of the shot that a frame belongs to; the first one's before it. -1 where there is none."""
    if not shots:
        return -1
    return max(bisect_right(shots, frame, key=lambda shot: shot.first) - 1, 0)
