"""The kinds of span: what happens between a key and the next one."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

Unit = Annotated[float, Meta(ge=0.0, le=1.0)]
Handle = Annotated[float, Meta(ge=-100.0, le=100.0)]
FamilyName = Literal["sine", "quad", "cubic", "quart", "quint", "expo", "circ", "back", "elastic", "bounce"]
Direction = Literal["in", "out", "in-out"]


class Hold(msgspec.Struct, frozen=True, tag="hold", forbid_unknown_fields=True):
    """The first key's value until the next key."""


class Linear(msgspec.Struct, frozen=True, tag="linear", forbid_unknown_fields=True):
    """Constant speed."""


class Flow(msgspec.Struct, frozen=True, tag="flow", forbid_unknown_fields=True):
    """Through the keys with automatic slopes that never overshoot (monotone cubic)."""


class Bezier(msgspec.Struct, frozen=True, tag="bezier", forbid_unknown_fields=True):
    """CSS ``cubic-bezier(x1, y1, x2, y2)``: x is the share of time (0–1), y the share of the change."""

    x1: Unit
    y1: Handle
    x2: Unit
    y2: Handle


class Steps(msgspec.Struct, frozen=True, tag="steps", forbid_unknown_fields=True):
    """CSS ``steps(count, jump-…)``."""

    count: Annotated[int, Meta(ge=1, le=10_000)]
    jump: Literal["start", "end", "both", "none"] = "end"

    def __post_init__(self) -> None:
        if self.jump == "none" and self.count < 2:
            raise ValueError("steps without a jump at either end need a count of 2 or more")


class Family(msgspec.Struct, frozen=True, tag="family", forbid_unknown_fields=True):
    """A named easing family, starting soft (in), landing soft (out), or both."""

    name: FamilyName
    direction: Direction = "in-out"


Span = Hold | Linear | Flow | Bezier | Steps | Family

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
        case Flow():
            return "flow"
        case Steps(count, jump):
            return f"{count} steps" + ("" if jump == "end" else f", jump {jump}")
        case Family(name, direction):
            return f"{name} {direction}"
        case Bezier(x1, y1, x2, y2):
            names = {CSS_EASE: "ease", CSS_EASE_IN: "ease in", CSS_EASE_OUT: "ease out", CSS_EASE_IN_OUT: "ease in-out"}
            return names.get(span, f"curve {x1:g} {y1:g} {x2:g} {y2:g}")
