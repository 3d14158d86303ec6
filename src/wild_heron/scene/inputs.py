"""Dials and links: what drives a channel besides its keys."""

from typing import Annotated

import msgspec
from msgspec import Meta

from .spans import Linear, Span
from .types import Identity, Name, Number, ShortId, UnitName

ChannelName = Annotated[str, Meta(pattern=r"^[a-z][a-z0-9._-]{0,79}$")]


ChannelRef = tuple[str, str]
"""A node's id and a channel's name."""


class Dial(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """A slider of a node, whose channel is ``dial.`` and its id. Dials of one ``board`` are shown together.

    An ``open`` one can be typed and keyed beyond the slider's range, as an angle that goes round and round.
    """

    id: ShortId
    name: Name
    unit: UnitName = "units"
    low: Number = 0.0
    high: Number = 10.0
    default: Number = 0.0
    board: Annotated[str, Meta(min_length=1, max_length=80)] = "Board"
    open: bool = False
    pad: Annotated[str, Meta(pattern=r"^([a-z][a-z0-9-]{0,39})?$")] = ""
    """The dial of the same node that stands for up where this one is across: the two are one pad."""

    def __post_init__(self) -> None:
        if not self.low < self.high:
            raise ValueError("a dial must end above where it starts")
        if not self.low <= self.default <= self.high:
            raise ValueError("a dial's default must lie in its range")

    @property
    def channel(self) -> str:
        return f"dial.{self.id}"

    @property
    def limits(self) -> tuple[float, float]:
        """The least and the greatest value it takes."""
        return (-float("inf"), float("inf")) if self.open else (self.low, self.high)


class Link(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """Adds to a channel what another one gives: its range ``low`` to ``high`` becomes ``out_low`` to ``out_high``.

    Inside the range by way of an ease. Outside, ``clamp`` holds the ends; without, it goes on straight from them.
    """

    node: Identity
    channel: ChannelName
    low: Number = 0.0
    high: Number = 1.0
    out_low: Number = 0.0
    out_high: Number = 1.0
    ease: Span = Linear()
    clamp: bool = True

    def __post_init__(self) -> None:
        if self.low == self.high:
            raise ValueError("a link needs an input range with two different ends")
