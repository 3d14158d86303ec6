"""The colours of the interface by theme, each with a name by what it is for; in code dusk's own stand for them."""

from collections.abc import Mapping

DEEP = "#1c262b"
PANEL = "#222e34"
RAISED = "#2c3a41"
HOVER = "#35464e"
LINE = "#394a52"
STRIPE = "#253239"
BRIGHT_LINE = "#4b606a"
FAINT = "#6d8189"
FADED = "#6f7e80"
TEXT = "#efe8d6"
SOFT = "#a3b0ac"
AMBER = "#f2c25b"
LIT_AMBER = "#f7d27f"
RUST = "#e07a4f"
REED = "#8fbf9f"
SKY = "#7fb2c9"
PLUM = "#c79bc2"
STRAW = "#e6d3a3"
SLATE = "#9aa8b8"
OFFER = "#33463f"
PENDING = "#4a3229"
SURROUND = "#2b2b2b"
BLANK = "#1f1f1f"
MISSING = "#8f6fc4"
AXES = ("#e5675f", "#86c26f", "#5f9ee0")

_MORNING = {
    DEEP: "#eceae2", PANEL: "#dddcd4", RAISED: "#cfd0ca", HOVER: "#c2c6c2", LINE: "#a9b1b0", STRIPE: "#d5d5ce",
    BRIGHT_LINE: "#7f8c8e", FAINT: "#66757a", FADED: "#7d8888", TEXT: "#1c262b", SOFT: "#465358", AMBER: "#764c00",
    LIT_AMBER: "#946200", RUST: "#933510", REED: "#2c6141", SKY: "#1d5a78", PLUM: "#7a4474", STRAW: "#6b5a24",
    SLATE: "#4b5a6b", OFFER: "#c5d5c8", PENDING: "#ecd0c2", SURROUND: "#d4d4d2", BLANK: "#9b9b9b", MISSING: "#5b3a96",
    AXES[0]: "#b3312a", AXES[1]: "#3b6f26", AXES[2]: "#235f9f",
}  # fmt: skip
"""The same marsh in the morning."""

_CONTRAST = {
    DEEP: "#000000", PANEL: "#000000", RAISED: "#161a1c", HOVER: "#2b3438", LINE: "#a3b0ac", STRIPE: "#0e1113",
    BRIGHT_LINE: "#efe8d6", FAINT: "#c2ccc8", FADED: "#9aa5a3", TEXT: "#ffffff", SOFT: "#e4e4de", AMBER: "#ffd23f",
    LIT_AMBER: "#ffe28a", RUST: "#ff9a6a", REED: "#a8f0bf", SKY: "#9edcff", PLUM: "#f0b8ea", STRAW: "#ffe9ad",
    SLATE: "#c9d9ee", OFFER: "#0f2a18", PENDING: "#3a1406", SURROUND: "#141414", BLANK: "#2b2b2b", MISSING: "#c3a6ff",
    AXES[0]: "#ff7a70", AXES[1]: "#8df06a", AXES[2]: "#7cc0ff",
}  # fmt: skip

THEMES: Mapping[str, Mapping[str, str]] = {"dusk": {}, "morning": _MORNING, "contrast": _CONTRAST}
"""By theme, what is shown in place of dusk's colours."""
