"""Rendered frames as the window shows and holds them."""

from functools import cached_property
from typing import NamedTuple

from PyQt6.QtGui import QImage

from ...arrays import Pixels
from ..widgets.images import image_of, opaque_image_of

_COVERED = 250
"""The alpha from which on a pixel is taken for covered by artwork."""


class HeldPicture(NamedTuple):
    """An opaque picture, and the sides at which it shows bare background."""

    image: QImage
    bare: tuple[str, ...]


class ShownFrame:
    """A frame in the render process's memory, (H, W, 4), alpha being how far artwork covers it.

    It is there only while the signal that brings it is told, and every picture of it takes one pass over it.
    """

    def __init__(self, pixels: Pixels, frame: float, complete: bool, around: float = 1.0) -> None:
        self.pixels, self.frame, self.complete = pixels, frame, complete
        self._around = around
        """How many frames wide it is."""

    @property
    def size(self) -> tuple[int, int]:
        return self.pixels.shape[1], self.pixels.shape[0]

    @cached_property
    def picture(self) -> HeldPicture:
        """As it is shown. Asked for again it is the same."""
        return HeldPicture(opaque_image_of(self.pixels), bare_sides(self.pixels, self._around))

    def see_through(self) -> QImage:
        """As it is laid over another picture."""
        return image_of(self.pixels).copy()


def bare_sides(pixels: Pixels, around: float = 1.0) -> tuple[str, ...]:
    """Which sides of a frame show bare background, by the alpha of its outermost pixels in a picture (H, W, 4) of so
    many frames."""
    spare = [round(0.5 * (1.0 - 1.0 / around) * side) for side in pixels.shape[:2]]
    alpha = pixels[spare[0] : pixels.shape[0] - spare[0], spare[1] : pixels.shape[1] - spare[1], 3]
    sides = {"left": alpha[:, 0], "right": alpha[:, -1], "top": alpha[0], "bottom": alpha[-1]}
    return tuple(name for name, edge in sides.items() if edge.min() < _COVERED)
