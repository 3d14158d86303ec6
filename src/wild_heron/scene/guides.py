"""What is drawn over a format's picture in the Lens to compose by; it is saved with the format and never written."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from .artwork import Tone

Guide = Literal["thirds", "centre", "safe", "text"]
"""Lines at thirds; the middle; the areas for action and titles; the band at the bottom where text is safe."""
GUIDES: tuple[Guide, ...] = ("thirds", "centre", "safe", "text")
MASK: Tone = "#11181c"
_Share = Annotated[float, Meta(ge=0.0, le=1.0)]


class Guides(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """``shown``: which guides. ``text``: from where to where text is safe, in shares of the frame's height from its
    bottom: players lay their own buttons and words over the lowest part of a tall picture.

    ``mask``: the Lens shows what lies beyond the frame as well, under this colour with a ``strength``; None: it ends at
    the frame.
    """

    shown: Annotated[tuple[Guide, ...], Meta(max_length=16)] = ()
    text: tuple[_Share, _Share] = (0.20, 0.38)
    mask: Tone | None = None
    strength: _Share = 0.8

    def __post_init__(self) -> None:
        if not self.text[0] < self.text[1]:
            raise ValueError("the band for text must end above where it begins")
