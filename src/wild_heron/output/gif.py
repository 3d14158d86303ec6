"""Animated GIF (GIF89a), every frame in colours of its own: what changes is told, and only that."""

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import GifImagePlugin, Image

from ..arrays import Pixels

_FOR_EVER = b"!\xff\x0bNETSCAPE2.0\x03\x01\x00\x00\x00"
_TRAILER = b";"


class GifEncoder:
    """Frames (H, W, 4) in, bytes out. Each is told by the box in which it differs from the one that is shown, in up to
    256 colours of its own; one that does not differ stays on for longer.
    """

    def __init__(self, size: tuple[int, int], rate: Fraction) -> None:
        self._size, self._rate = size, rate
        self._shown: NDArray[np.uint8] | None = None
        self._waiting: tuple[Image.Image, tuple[int, int], int] | None = None
        self._count = 0

    def begin(self) -> bytes:
        width, height = self._size
        return b"GIF89a" + width.to_bytes(2, "little") + height.to_bytes(2, "little") + b"\x70\0\0" + _FOR_EVER

    def add(self, pixels: Pixels) -> bytes:
        """What can be written now that a frame (H, W, 4) is there: how long a frame is shown is known once the next one
        differs."""
        picture = Image.fromarray(pixels[..., :3]).quantize(
            256, Image.Quantize.MEDIANCUT, dither=Image.Dither.FLOYDSTEINBERG
        )
        seen = np.asarray(picture.convert("RGB"))
        number, self._count = self._count, self._count + 1
        box = (0, 0, *self._size)
        if self._shown is not None:
            changed = (seen != self._shown).any(axis=2)
            rows, columns = np.flatnonzero(changed.any(axis=1)), np.flatnonzero(changed.any(axis=0))
            if not len(rows):
                return b""
            box = (int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)
        told = self._told(number)
        self._shown, self._waiting = seen, (picture.crop(box), box[:2], number)
        return told

    def finish(self) -> bytes:
        return self._told(self._count) + _TRAILER

    def _told(self, until: int) -> bytes:
        """The frame that waits, shown up to another one's number. Moments are hundredths of a second in GIF."""
        if self._waiting is None:
            return b""
        picture, place, number = self._waiting
        self._waiting = None
        begins, ends = (round(each * 100 / self._rate) for each in (number, until))
        blocks: Iterator[bytes] | list[Any] = GifImagePlugin.getdata(
            picture, place, duration=10 * max(ends - begins, 1), disposal=1, include_color_table=True
        )
        return b"".join(blocks)
