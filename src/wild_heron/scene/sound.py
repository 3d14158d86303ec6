"""Sound that plays along with the scene."""

from typing import Annotated

import msgspec
from msgspec import Meta

from .artwork import Source
from .types import Name, Number

__all__ = ["Beats", "Sound"]

_Seconds = Annotated[float, Meta(ge=0.0, le=3600.0)]


SLOWEST_TEMPO, FASTEST_TEMPO = 20.0, 400.0
"""Beats a minute."""


class Beats(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """When the beats of a piece are: so many a minute from frame ``first`` on, or, where they were found one by one,
    the frames in ``at``. The first beat of each bar of ``bar`` beats is number ``downbeat`` of them."""

    tempo: Annotated[float, Meta(ge=SLOWEST_TEMPO, le=FASTEST_TEMPO)] = 120.0
    first: Number = 0.0
    bar: Annotated[int, Meta(ge=1, le=32)] = 4
    downbeat: Annotated[int, Meta(ge=0, le=31)] = 0
    at: Annotated[tuple[Number, ...], Meta(max_length=100_000)] = ()


class Sound(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A sound file that begins at frame ``start``, ``skip`` seconds into it, made louder by ``gain`` decibels and faded
    over seconds at either end."""

    name: Name
    source: Source
    seconds: Annotated[float, Meta(gt=0.0, le=86_400.0)]
    start: Number = 0.0
    skip: _Seconds = 0.0
    gain: Annotated[float, Meta(ge=-60.0, le=24.0)] = 0.0
    fade_in: _Seconds = 0.0
    fade_out: _Seconds = 0.0
    on: bool = True
