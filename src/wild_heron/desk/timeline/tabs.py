"""The tabs at the bottom of the window, all on one time axis. Each is told here once."""

from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtWidgets import QWidget

from ..commands.action_spec import ActionSpec
from ..state.document import Document
from .curves.panel import CurvesPanel
from .lanes.panel import LanesPanel


class Tab(NamedTuple):
    """One tab: the word on it, what it shows, the action that goes there and back (the first has none), and its page,
    which is given the row of tabs to place."""

    name: str
    word: str
    tip: str
    action: ActionSpec | None
    make: Callable[[Document, QWidget], QWidget]


TABS = (
    Tab("lanes", "LANES", "Keys and spans, a row for each channel", None, LanesPanel),
    Tab(
        "curves", "CURVES", "Values and speeds as curves",
        ActionSpec("view.curves", "Curves", "Show curves in place of lanes", "V, C", checkable=True), CurvesPanel,
    ),
)  # fmt: skip
