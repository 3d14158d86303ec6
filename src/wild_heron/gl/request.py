"""``FrameRequest``: what to render: frame, view, size, quality and number format."""

from typing import Literal

import msgspec

MAX_SIDE = 8192

RANKS = 6
"""How many nodes a pixel can tell of."""
PASS_NUMBERS = 3 + 2 * RANKS
"""Numbers to a pixel in passes: depth, motion across and down, and for each rank a node's number and its share."""


class ThroughLens(msgspec.Struct, frozen=True, tag="lens"):
    """Through a camera (None: what the output shows), in the named format (None: the scene's own frame).

    ``stretch``: instead of the picture, how far the first projection's photograph is stretched on what receives it.
    Red is 0.5 + log₂(output pixels to a photograph pixel) / 8, green whether it is received, alpha whether there is
    a receiver. Without ``projected`` no photographs are projected. ``camera`` may be a projection.

    ``around``: so many times as much is seen in each direction, about the same middle. ``mattes``: instead of the
    picture, where up to three groups of nodes are seen, in red, green and blue, without light and haze; alpha is how
    far artwork covers the background, as ever. ``alone``: nothing else but those nodes is drawn. ``transparent``:
    the background is left out, and colours are told without their alpha. Without ``blurs`` artwork is as sharp as it
    is: blur may take longer than all else, and is hardly seen in a small picture.
    """

    camera: str | None = None
    format: str | None = None
    stretch: bool = False
    projected: bool = True
    around: float = 1.0
    mattes: tuple[tuple[str, ...], ...] | None = None
    alone: bool = False
    transparent: bool = False
    blurs: bool = True


class FreeView(msgspec.Struct, frozen=True, tag="free"):
    """From anywhere. ``pose`` is a rigid world matrix, row-major; ``focal_px`` is the focal length in pixels of the
    picture that is asked for, or None for a parallel view of ``pixels_per_unit``."""

    pose: tuple[float, ...]
    focal_px: float | None
    pixels_per_unit: float = 0.0
    background: str = "#1c262b"


Tile = tuple[int, int, int, int]
"""A part of a frame in pixels: first column, first row, width and height."""

Numbers = Literal["bytes", "shown", "light", "full light"]
Precision = Literal["bytes", "half", "full"]


class FrameRequest(msgspec.Struct, frozen=True):
    """One picture: of which moment and how it is seen, how large, the mean of how many ``samples`` in time, and of
    which ``version`` of the scene.

    ``fine``: artwork and edges are averaged over each pixel, as in frames that go out. ``numbers``: bytes as a display
    is sent them; the same as 32-bit floats; or linear light as 32-bit floats, premultiplied, worked out in half or in
    full floats. ``passes``: depth, motion and nodes come with it.
    """

    frame: float
    view: ThroughLens | FreeView
    width: int
    height: int
    samples: int = 1
    version: int = 0
    fine: bool = False
    numbers: Numbers = "bytes"
    passes: bool = False
    ahead: tuple[float, ...] = ()
    """Frames that are asked for next, in the same way: where everything is then can be worked out with it at once."""

    profile: bool = False
    """Whether it is told where its time went."""
    tile: Tile | None = None
    """The part of it that is drawn, where that is not all."""

    @property
    def size(self) -> tuple[int, int]:
        """Of the whole frame."""
        return self.width, self.height

    @property
    def drawn(self) -> tuple[int, int]:
        """The size of what is drawn of it."""
        return self.size if self.tile is None else self.tile[2:]

    @property
    def precision(self) -> Precision:
        """In what its picture is put together: fine enough for its numbers, and for colours that alpha is taken out
        of."""
        if self.numbers in ("shown", "full light"):
            return "full"
        clear = isinstance(self.view, ThroughLens) and self.view.transparent
        return "half" if clear or self.numbers == "light" else "bytes"

    @property
    def picture_bytes(self) -> int:
        """What its picture takes up."""
        width, height = self.drawn
        return width * height * (4 if self.numbers == "bytes" else 16)

    @property
    def all_bytes(self) -> int:
        """What it takes up with its passes."""
        return self.picture_bytes + self.width * self.height * 4 * PASS_NUMBERS * self.passes
