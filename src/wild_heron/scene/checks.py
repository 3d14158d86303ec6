"""What a scene says of its checks: which subjects matter, limits of its own, and findings that were accepted."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from .types import Identity, Number

Area = Literal["frame", "action", "title"]
"""What part of the frame a subject is to stay in: SMPTE ST 2046-1's action area is 93 % of it, its title area 90 %."""
AREAS: dict[Area, float] = {"frame": 1.0, "action": 0.93, "title": 0.90}
_Share = Annotated[float, Meta(ge=0.0, le=1.0)]
_SLACK_FRAMES = 2.0
_SLACK_WORST = 1.1
_Word = Annotated[str, Meta(pattern=r"^[a-z][a-z0-9_-]{0,39}$")]


class Subject(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Something that has to be seen: a node, or a part of what it shows (left, top, right, bottom in shares).

    ``least`` is how high it is to be in the frame at the least, in shares of the frame's height. ``shots``: in which
    it matters, by name; none: wherever it is in the frame for most of the time.
    """

    node: Identity
    area: Area = "action"
    part: tuple[_Share, _Share, _Share, _Share] = (0.0, 0.0, 1.0, 1.0)
    least: _Share = 0.0
    shots: Annotated[tuple[Annotated[str, Meta(max_length=200)], ...], Meta(max_length=1000)] = ()

    def __post_init__(self) -> None:
        left, top, right, bottom = self.part
        if not (left < right and top < bottom):
            raise ValueError("a part must have its left before its right, and its top above its bottom")


class LimitOfScene(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A limit of a check, such as ``comfort.cross``, that is another one in this scene."""

    name: Annotated[str, Meta(pattern=r"^[a-z]+\.[a-z_]+$", max_length=60)]
    value: Number


class Accepted(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A finding that is as it should be: of what kind, about what, in which format ("": in all), between which frames.

    It is found again where it lasts longer than that, or is worse than ``worst`` by more than a tenth.
    """

    kind: _Word
    first: Number
    last: Number
    worst: Number
    format: Annotated[str, Meta(max_length=200)] = ""
    about: Annotated[str, Meta(max_length=200)] = ""
    note: Annotated[str, Meta(max_length=2000)] = ""

    def covers(self, found: "Accepted") -> bool:
        """Whether ``found`` (of which ``format`` is where it was found) is accepted by this."""
        within = self.first - _SLACK_FRAMES <= found.first and found.last <= self.last + _SLACK_FRAMES
        same = self._of_one_kind(found) and self.format in ("", found.format)
        return same and within and abs(found.worst) <= abs(self.worst) * _SLACK_WORST + 1e-9

    def overlaps(self, found: "Accepted") -> bool:
        """Whether this is about the same, at a time that overlaps."""
        same = self._of_one_kind(found) and (not found.format or self.format in ("", found.format))
        return same and self.first <= found.last and found.first <= self.last

    def _of_one_kind(self, found: "Accepted") -> bool:
        return (self.kind, self.about) == (found.kind, found.about)


class ChecksOfScene(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """All of it. ``off`` names checks that are not made. ``line``: two nodes across whose line no cut goes."""

    subjects: Annotated[tuple[Subject, ...], Meta(max_length=50)] = ()
    limits: Annotated[tuple[LimitOfScene, ...], Meta(max_length=100)] = ()
    off: Annotated[tuple[_Word, ...], Meta(max_length=50)] = ()
    accepted: Annotated[tuple[Accepted, ...], Meta(max_length=2000)] = ()
    line: tuple[Identity, Identity] | None = None

    def without(self, gone: set[str]) -> "ChecksOfScene":
        """The same without what is about nodes that are gone."""
        if not gone.intersection(self.named()):
            return self
        return msgspec.structs.replace(
            self,
            subjects=tuple(each for each in self.subjects if each.node not in gone),
            line=None if self.line is not None and gone.intersection(self.line) else self.line,
        )

    def named(self) -> tuple[str, ...]:
        """The nodes that it is about."""
        return (*(each.node for each in self.subjects), *(self.line or ()))
