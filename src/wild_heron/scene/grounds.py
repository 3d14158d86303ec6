"""The surfaces of grounds: heights over a level rectangle around the node's origin, in units."""

from typing import Annotated

import msgspec
from msgspec import Meta

from .types import Number, Size

__all__ = [
    "HeightMap",
    "Surface",
    "Wave",
    "Waves",
]


_MAX_SIDE = 257


class Wave(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A rolling wave: the direction it runs in (degrees from +X towards −Z), from crest to crest ``wavelength``
    units, ``height`` from trough to crest, ``speed`` in units per second, ``phase`` in degrees."""

    direction: Number = 0.0
    wavelength: Size = 8.0
    height: Annotated[float, Meta(ge=0.0, le=1e5)] = 0.6
    speed: Number = 0.0
    phase: Number = 0.0


class Waves(msgspec.Struct, frozen=True, tag="waves", forbid_unknown_fields=True, cache_hash=True):
    """Sines that add up."""

    waves: Annotated[tuple[Wave, ...], Meta(max_length=16)] = (Wave(),)


class HeightMap(msgspec.Struct, frozen=True, tag="heights", forbid_unknown_fields=True, cache_hash=True):
    """A grid of heights, kept in the scene so that a move does not depend on a file: ``rows`` from −Z to +Z of
    ``columns`` from −X to +X, as little-endian 16-bit numbers from 0 (lowest) to 65535 (``low`` to ``high``).

    ``source`` is the picture or model it was read from, "" for none.
    """

    columns: Annotated[int, Meta(ge=2, le=_MAX_SIDE)]
    rows: Annotated[int, Meta(ge=2, le=_MAX_SIDE)]
    heights: bytes
    low: Number = 0.0
    high: Number = 2.0
    source: Annotated[str, Meta(max_length=4096)] = ""

    def __post_init__(self) -> None:
        if len(self.heights) != 2 * self.columns * self.rows:
            raise ValueError("a height map needs one 16-bit number for each of its columns and rows")


Surface = Waves | HeightMap
