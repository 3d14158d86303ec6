"""A channel of a node: its keys, and what else has a say in it."""

from bisect import bisect_left
from typing import Annotated

import msgspec
from msgspec import Meta

from .formulas import MAX_LENGTH
from .inputs import Link
from .spans import Beyond, Linear, Span
from .types import Number

SAME_FRAME = 1e-6
"""Frames that differ by no more are one."""

MAX_KEYS = 100_000
"""Of one channel."""


class Key(msgspec.Struct, frozen=True, gc=False, forbid_unknown_fields=True):
    """A value at a frame, and the span that leads from it to the next key."""

    frame: Number
    value: Number
    span: Span = Linear()


class Channel(msgspec.Struct, frozen=True, gc=False, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """One animatable number of a node. ``value`` holds while there are no keys; keys are in order of frame.

    What the links give is added to that, and a formula makes of the sum what it says.
    """

    name: str
    value: Number = 0.0
    keys: Annotated[tuple[Key, ...], Meta(max_length=MAX_KEYS)] = ()
    locked: bool = False
    before: Beyond = "hold"
    after: Beyond = "hold"
    links: Annotated[tuple[Link, ...], Meta(max_length=32)] = ()
    formula: Annotated[str, Meta(max_length=MAX_LENGTH)] = ""

    @property
    def has_inputs(self) -> bool:
        """Whether something else than its own keys has a say in it."""
        return bool(self.links or self.formula)

    @property
    def is_animated(self) -> bool:
        """Whether it may change over time."""
        return bool(self.keys) or self.has_inputs

    def key_at(self, frame: float) -> Key | None:
        at = bisect_left(self.keys, frame - SAME_FRAME, key=lambda key: key.frame)
        return self.keys[at] if at < len(self.keys) and abs(self.keys[at].frame - frame) <= SAME_FRAME else None
