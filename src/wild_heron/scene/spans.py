"""The kinds of span: what happens between a key and the next one."""

from typing import Annotated, Literal, get_args

import msgspec
from msgspec import Meta

from .ease_families import FAMILIES

__all__ = [
    "BEYOND",
    "DEFAULT_SPAN",
    "Beyond",
    "Bezier",
    "Ease",
    "EasePart",
    "Family",
    "Flow",
    "Handles",
    "Hold",
    "Linear",
    "Span",
    "Spring",
    "Steps",
    "span_label",
]


Unit = Annotated[float, Meta(ge=0.0, le=1.0)]
Handle = Annotated[float, Meta(ge=-100.0, le=100.0)]
Slope = Annotated[float, Meta(ge=-1e9, le=1e9)]
FamilyName = Annotated[str, Meta(pattern=f"^({'|'.join(FAMILIES)})$")]
Direction = Literal["in", "out", "in-out"]


class Hold(msgspec.Struct, frozen=True, gc=False, tag="hold", forbid_unknown_fields=True):
    """The first key's value until the next key."""


class Linear(msgspec.Struct, frozen=True, gc=False, tag="linear", forbid_unknown_fields=True):
    """Constant speed."""


HandleLength = Annotated[float, Meta(ge=0.0, le=4.0 / 3.0)]
"""A third more than the span at most: the longest handle beside which time can still run on."""


class Flow(msgspec.Struct, frozen=True, gc=False, tag="flow", forbid_unknown_fields=True, omit_defaults=True):
    """Through the keys with automatic slopes: that never overshoot (monotone cubic), or smooth (Catmull-Rom)."""

    style: Literal["monotone", "smooth"] = "monotone"


class Handles(msgspec.Struct, frozen=True, gc=False, tag="handles", forbid_unknown_fields=True):
    """Slopes set by hand: a cubic Bézier kept a function of time.

    Slopes in values per frame; lengths of the handles along time as shares of the span. Up to 1 any two lengths will
    do. Beyond, which is what cutting a span may leave, the two must keep time from running back: inside the ellipse of
    Fritsch and Carlson, "Monotone Piecewise Cubic Interpolation", SIAM J. Numer. Anal. 17 (1980), with α = 3·out and
    β = 3·in.
    """

    out_slope: Slope = 0.0
    out_length: HandleLength = 1.0 / 3.0
    in_slope: Slope = 0.0
    in_length: HandleLength = 1.0 / 3.0

    def __post_init__(self) -> None:
        if self.out_length > 1.0 or self.in_length > 1.0:
            a, b = 3.0 * self.out_length, 3.0 * self.in_length
            if a * a + a * b + b * b - 6.0 * (a + b) + 9.0 > 1e-6:
                raise ValueError("handles so long would make time run back; shorten one to the length of the span")


class Bezier(msgspec.Struct, frozen=True, gc=False, tag="bezier", forbid_unknown_fields=True):
    """CSS ``cubic-bezier(x1, y1, x2, y2)``: x is the share of time (0–1), y the share of the change."""

    x1: Unit
    y1: Handle
    x2: Unit
    y2: Handle


class Steps(msgspec.Struct, frozen=True, gc=False, tag="steps", forbid_unknown_fields=True):
    """CSS ``steps(count, jump-…)``."""

    count: Annotated[int, Meta(ge=1, le=10_000)]
    jump: Literal["start", "end", "both", "none"] = "end"

    def __post_init__(self) -> None:
        if self.jump == "none" and self.count < 2:
            raise ValueError("steps without a jump at either end need a count of 2 or more")


class Family(msgspec.Struct, frozen=True, gc=False, tag="family", forbid_unknown_fields=True):
    """A named easing family, starting soft (in), landing soft (out), or both."""

    name: FamilyName
    direction: Direction = "in-out"


class Spring(msgspec.Struct, frozen=True, gc=False, tag="spring", forbid_unknown_fields=True):
    """A spring that is let go: it swings past the end ``swings`` times, each time ``bounce`` as far as the last."""

    swings: Annotated[float, Meta(ge=0.5, le=20.0)] = 2.0
    bounce: Annotated[float, Meta(ge=0.0, le=0.95)] = 0.35


Ease = Linear | Bezier | Steps | Family | Spring
"""What is the same curve between any two keys."""


class EasePart(msgspec.Struct, frozen=True, gc=False, tag="cut", forbid_unknown_fields=True):
    """A part of an ease, from one share of its time to another: what a key put into it leaves on either side."""

    of: Ease
    start: Unit
    end: Unit

    def __post_init__(self) -> None:
        if not self.start < self.end:
            raise ValueError("a part of an ease must end after it starts")


Span = Hold | Linear | Flow | Handles | Bezier | Steps | Family | Spring | EasePart
Beyond = Literal["hold", "go", "repeat", "offset", "swing"]
BEYOND: tuple[Beyond, ...] = get_args(Beyond)
"""What a channel does before its first and after its last key: hold, keep going at the speed it has there, repeat,
repeat with offset, or run back and forth."""

CSS_EASE = Bezier(0.25, 0.1, 0.25, 1.0)
CSS_EASE_IN = Bezier(0.42, 0.0, 1.0, 1.0)
CSS_EASE_OUT = Bezier(0.0, 0.0, 0.58, 1.0)
CSS_EASE_IN_OUT = Bezier(0.42, 0.0, 0.58, 1.0)

DEFAULT_SPAN: Span = CSS_EASE_IN_OUT


def span_label(span: Span) -> str:
    """What a span is called on screen."""
    match span:
        case Hold():
            return "hold"
        case Linear():
            return "linear"
        case Flow(style):
            return "flow" if style == "monotone" else "smooth"
        case Handles():
            return "by hand"
        case Spring():
            return "spring"
        case EasePart(of):
            return f"part of {span_label(of)}"
        case Steps(count, jump):
            return f"{count} steps" + ("" if jump == "end" else f", jump {jump}")
        case Family(name, direction):
            return f"{name} {direction}"
        case Bezier(x1, y1, x2, y2):
            names = {CSS_EASE: "ease", CSS_EASE_IN: "ease in", CSS_EASE_OUT: "ease out", CSS_EASE_IN_OUT: "ease in-out"}
            return names.get(span, f"curve {x1:g} {y1:g} {x2:g} {y2:g}")
