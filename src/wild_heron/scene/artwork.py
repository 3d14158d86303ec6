"""What a picture shows: a file, a moving picture, a layer of a layered file, or a card that is drawn from its numbers.

Sources are relative to the scene file, with forward slashes.
"""

from typing import Annotated, ClassVar, Literal, TypeVar

import msgspec
from msgspec import Meta

__all__ = [
    "Artwork",
    "Card",
    "Gradient",
    "ImageFile",
    "Layer",
    "Movie",
    "Sequence",
    "Solid",
    "Stop",
    "Text",
    "Timing",
    "numbered",
    "source_of",
]


Source = Annotated[str, Meta(min_length=1, max_length=4096)]
Tone = Annotated[str, Meta(pattern=r"^#[0-9a-fA-F]{6}$")]
Share = Annotated[float, Meta(ge=0.0, le=1.0)]
Count = Annotated[int, Meta(ge=0, le=10_000_000)]
_Finite = Annotated[float, Meta(ge=-1e9, le=1e9)]


class ImageFile(msgspec.Struct, frozen=True, tag="image", forbid_unknown_fields=True):
    """A still picture."""

    source: Source


class Layer(msgspec.Struct, frozen=True, tag="layer", forbid_unknown_fields=True):
    """One layer of a layered file: a picture inside an OpenRaster file, or a top-level group of an SVG file.

    ``layer`` is the picture's name inside the archive, or the group's place among the top-level elements, counted
    from 0. ``crop`` (x, y, width, height in canvas pixels) is the part of the canvas that an SVG group takes up.
    """

    source: Source
    layer: Annotated[str, Meta(min_length=1, max_length=1024)]
    crop: tuple[_Finite, _Finite, _Finite, _Finite] | None = None


class Timing(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """When a moving picture shows which of its frames.

    It begins at scene frame ``start`` and plays at ``speed`` times its own rate. Before and after it holds its first
    and last frame, loops, runs back and forth, or shows nothing.
    """

    start: _Finite = 0.0
    speed: Annotated[float, Meta(ge=-1000.0, le=1000.0)] = 1.0
    ends: Literal["hold", "loop", "swing", "nothing"] = "hold"


class Sequence(msgspec.Struct, frozen=True, tag="sequence", forbid_unknown_fields=True):
    """Numbered pictures. ``source`` has a run of # where the number stands: ``walk_####.png``."""

    source: Annotated[str, Meta(pattern=r"^[^#]*#{1,12}[^#]*$", max_length=4096)]
    first: Count
    count: Annotated[int, Meta(ge=1, le=1_000_000)]
    rate: Annotated[float, Meta(ge=0.01, le=1000.0)]
    timing: Timing = Timing()


class Movie(msgspec.Struct, frozen=True, tag="movie", forbid_unknown_fields=True):
    """A movie file of ``count`` frames at ``rate`` frames per second."""

    source: Source
    count: Annotated[int, Meta(ge=1, le=10_000_000)]
    rate: Annotated[float, Meta(ge=0.01, le=1000.0)]
    timing: Timing = Timing()


class Solid(msgspec.Struct, frozen=True, tag="solid", forbid_unknown_fields=True):
    """A card of one colour."""

    is_flat: ClassVar[bool] = True

    colour: Tone = "#f2c25b"
    strength: Share = 1.0


class Stop(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A colour at a place along a gradient, 0 to 1."""

    at: Share
    colour: Tone
    strength: Share = 1.0


class Gradient(msgspec.Struct, frozen=True, tag="gradient", forbid_unknown_fields=True):
    """A card of colours that run into each other: along a direction (degrees, 0 upwards, clockwise), or from the
    middle outwards."""

    is_flat: ClassVar[bool] = False

    stops: Annotated[tuple[Stop, ...], Meta(min_length=2, max_length=32)]
    form: Literal["along", "around"] = "along"
    angle: _Finite = 180.0


class Text(msgspec.Struct, frozen=True, tag="text", forbid_unknown_fields=True):
    """Words drawn from the outlines of a font.

    ``font`` is a family's name, ``size`` in artwork pixels, ``weight`` 100 to 900, ``tracking`` extra space between
    letters in thousandths of the size, ``leading`` the distance of lines as a factor of the size.
    """

    is_flat: ClassVar[bool] = False

    text: Annotated[str, Meta(min_length=1, max_length=10_000)]
    font: Annotated[str, Meta(min_length=1, max_length=200)] = "Inter"
    size: Annotated[float, Meta(ge=1.0, le=10_000.0)] = 120.0
    weight: Annotated[int, Meta(ge=1, le=1000)] = 600
    tracking: Annotated[float, Meta(ge=-1000.0, le=10_000.0)] = 0.0
    leading: Annotated[float, Meta(ge=0.1, le=10.0)] = 1.2
    align: Literal["left", "middle", "right"] = "middle"
    colour: Tone = "#efe8d6"


Card = Solid | Gradient | Text
"""What is drawn from its numbers. One that ``is_flat`` is the same in every pixel, however large."""
FileArtwork = ImageFile | Layer | Sequence | Movie
Artwork = FileArtwork | Card

_Any = TypeVar("_Any", bound=Artwork)


def source_of(artwork: Artwork) -> str | None:
    """The file an artwork comes from (for a sequence with its run of #), or None for a card."""
    return artwork.source if isinstance(artwork, FileArtwork) else None


def with_source(artwork: _Any, source: str) -> _Any:
    """The artwork from another file. TypeError for a card."""
    if not isinstance(artwork, FileArtwork):
        raise TypeError("a card comes from no file")
    return msgspec.structs.replace(artwork, source=source)


def numbered(source: str, number: int) -> str:
    """A sequence's source with a number in place of its run of #."""
    width = source.count("#")
    return source.replace("#" * width, str(number).zfill(width), 1)


def rgb(colour: str) -> tuple[float, float, float]:
    """#rrggbb as three numbers in 0–1."""
    return int(colour[1:3], 16) / 255.0, int(colour[3:5], 16) / 255.0, int(colour[5:7], 16) / 255.0
