"""The tabs at the bottom of the window, all on one time axis. Each is told here once."""

from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtWidgets import QWidget

from ..commands.action_spec import ActionSpec
from ..state.document import Document
from .film_parts import FilmParts


class Tab(NamedTuple):
    """One tab: the word on it, what it shows, the action that goes there and back (the first has none), and its page,
    which is given the row of tabs to place."""

    name: str
    word: str
    tip: str
    action: ActionSpec | None
    make: Callable[[Document, QWidget, FilmParts], QWidget]


# Pages are loaded when they are made, which is when they are first shown.


def _lanes(document: Document, row: QWidget, parts: FilmParts) -> QWidget:
    from .lanes.lanes_panel import LanesPanel

    return LanesPanel(document, row)


def _curves(document: Document, row: QWidget, parts: FilmParts) -> QWidget:
    from .curves.curves_panel import CurvesPanel

    return CurvesPanel(document, row)


def _shots(document: Document, row: QWidget, parts: FilmParts) -> QWidget:
    from .shots.shots_panel import ShotsPanel

    return ShotsPanel(document, row, parts)


def _takes(document: Document, row: QWidget, parts: FilmParts) -> QWidget:
    from .takes.takes_panel import TakesPanel

    return TakesPanel(document, row, parts)


def _checks(document: Document, row: QWidget, parts: FilmParts) -> QWidget:
    from .checks.checks_panel import ChecksPanel

    return ChecksPanel(document, row, parts)


TABS = (
    Tab("lanes", "LANES", "Keys and spans, a row for each channel", None, _lanes),
    Tab(
        "curves", "CURVES", "Values and speeds as curves",
        ActionSpec("view.curves", "Curves", "Show curves in place of lanes", "V, C", checkable=True), _curves,
    ),
    Tab(
        "shots", "SHOTS", "The film: shots and joins, sound, events, and the shelf of framings",
        ActionSpec("view.shots", "Shots", "Show the film in place of lanes", "V, H", checkable=True), _shots,
    ),
    Tab(
        "takes", "TAKES", "Recorded motions: record, mend, steady, and use them",
        ActionSpec("view.takes", "Takes", "Show takes in place of lanes", "V, A", checkable=True), _takes,
    ),
    Tab(
        "checks", "CHECKS", "What is wrong with the film, where, and what would mend it",
        ActionSpec("view.checks", "Checks", "Show what is wrong in place of lanes", "V, N", checkable=True),
        _checks,
    ),
)  # fmt: skip
