"""The tabs at the bottom of the window, all on one time axis. Each is told here once."""

from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtWidgets import QWidget

from ..commands.action_spec import ActionSpec
from ..state.document import Document
from .checks.panel import ChecksPanel
from .curves.panel import CurvesPanel
from .film_parts import FilmParts
from .lanes.panel import LanesPanel
from .shots.panel import ShotsPanel
from .takes.panel import TakesPanel


class Tab(NamedTuple):
    """One tab: the word on it, what it shows, the action that goes there and back (the first has none), and its page,
    which is given the row of tabs to place."""

    name: str
    word: str
    tip: str
    action: ActionSpec | None
    make: Callable[[Document, QWidget, FilmParts], QWidget]


TABS = (
    Tab(
        "lanes", "LANES", "Keys and spans, a row for each channel", None,
        lambda document, row, parts: LanesPanel(document, row),
    ),
    Tab(
        "curves", "CURVES", "Values and speeds as curves",
        ActionSpec("view.curves", "Curves", "Show curves in place of lanes", "V, C", checkable=True),
        lambda document, row, parts: CurvesPanel(document, row),
    ),
    Tab(
        "shots", "SHOTS", "The film: shots and joins, sound, events, and the shelf of framings",
        ActionSpec("view.shots", "Shots", "Show the film in place of lanes", "V, H", checkable=True), ShotsPanel,
    ),
    Tab(
        "takes", "TAKES", "Recorded motions: record, mend, steady, and use them",
        ActionSpec("view.takes", "Takes", "Show takes in place of lanes", "V, A", checkable=True), TakesPanel,
    ),
    Tab(
        "checks", "CHECKS", "What is wrong with the film, where, and what would mend it",
        ActionSpec("view.checks", "Checks", "Show what is wrong in place of lanes", "V, N", checkable=True),
        ChecksPanel,
    ),
)  # fmt: skip
