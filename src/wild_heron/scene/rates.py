"""Exact frame rates, and frames shown as seconds or SMPTE timecode."""

from fractions import Fraction
from math import floor
from typing import Annotated

import msgspec

MAX_FPS = 1000


class Rate(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Frames per second as an exact fraction, e.g. ``Rate(24000, 1001)``."""

    numerator: Annotated[int, msgspec.Meta(ge=1, le=1_000_000)] = 24
    denominator: Annotated[int, msgspec.Meta(ge=1, le=1_000_000)] = 1

    def __post_init__(self) -> None:
        if not self.denominator <= self.numerator <= MAX_FPS * self.denominator:
            raise ValueError(f"a rate must lie between 1 and {MAX_FPS} frames per second")

    @property
    def fraction(self) -> Fraction:
        return Fraction(self.numerator, self.denominator)

    @property
    def fps(self) -> float:
        return self.numerator / self.denominator

    @property
    def label(self) -> str:
        return f"{self.fps:.3f}".rstrip("0").rstrip(".")

    @property
    def drops_frames(self) -> bool:
        """Whether timecode at this rate is drop-frame (30000/1001 and 60000/1001)."""
        return self.denominator == 1001 and self.numerator in (30000, 60000)


STANDARD_RATES = (Rate(24), Rate(25), Rate(30), Rate(50), Rate(60), Rate(24000, 1001), Rate(30000, 1001))


def seconds(frame: float, rate: Rate) -> float:
    """Frame number to seconds; frame 0 is second 0."""
    return frame * rate.denominator / rate.numerator


def timecode(frame: float, rate: Rate) -> str:
    """``HH:MM:SS:FF`` of the frame shown at ``frame``; ``HH:MM:SS;FF`` where SMPTE ST 12-1 drops frame numbers."""
    number = floor(frame)
    sign = "-" if number < 0 else ""
    number = abs(number)
    nominal = round(rate.fps)
    if rate.drops_frames:
        dropped = nominal // 15
        per_ten_minutes = nominal * 600 - dropped * 9
        tens, rest = divmod(number, per_ten_minutes)
        number += dropped * 9 * tens
        if rest >= dropped:
            number += dropped * ((rest - dropped) // (nominal * 60 - dropped))
    whole, frames = divmod(number, nominal)
    mark = ";" if rate.drops_frames else ":"
    return f"{sign}{whole // 3600:02d}:{whole // 60 % 60:02d}:{whole % 60:02d}{mark}{frames:02d}"
