"""Nearness: layers that the lens goes through or comes too close to, pictures shown above their own pixels, photographs
stretched or missing, and text that is gone before it is read."""

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene import Picture
from .case import CheckCase
from .check import Check
from .finding import Finding, Row, least_in, most_in, runs
from .layers import words_of
from .limit import CheckLimit

NAME = "nearness"
TOUCH = CheckLimit(
    "nearness.touch", "Distance from the lens", 0.15, "units", 0.0, 100.0,
    "nearer, a layer bursts through the frame",
)  # fmt: skip
SOFT = CheckLimit(
    "nearness.soft", "Pixels of the film to a pixel of artwork", 1.5, "×", 1.0, 64.0,
    "from here on it looks soft at its full size",
)  # fmt: skip
STRETCH = CheckLimit(
    "nearness.stretch", "Pixels of the film to a pixel of a photograph", 3.0, "×", 1.0, 64.0,
    "along the most stretched direction",
)  # fmt: skip
WORDS = CheckLimit(
    "nearness.words", "Words a second on a text card", 3.0, "words", 0.5, 20.0,
    "read aloud in the head, without haste; half a second more to find the card",
)  # fmt: skip
_FIND_SECONDS = 0.5
"""To find a card before reading it."""
_WHOLE_CARD = 0.85
"""Of it that must be in the frame to be read."""
_PASSING = 0.3
"""Of the distance of what the camera is about: a layer nearer than that goes by."""
MISSED = 0.02
"""Of what is in the frame and should receive a photograph."""


def judge(case: CheckCase) -> tuple[Row, list[Finding]]:
    """The lens in or through a layer (“through”, “near”), softness (“soft”), photographs (“stretched”, “missing”), text
    (“words”)."""
    numbers = case.numbers
    touch, soft = case.limit(TOUCH), case.limit(SOFT)
    found: list[Finding] = []
    worst_size = np.full(len(case), np.nan)
    bad = np.zeros(len(case), dtype=bool)
    for k, node_id in enumerate(case.measures.layers):
        distance = numbers.distance[:, k]
        found += _passed(case, distance, numbers.beside[:, k], node_id, touch)
        size = numbers.magnified[:, k] * case.windows.scale
        with np.errstate(invalid="ignore"):
            # What passes close by, before what the camera is about, is not looked at.
            size = np.where(np.abs(distance) < _PASSING * numbers.about, np.nan, size)
            is_soft = size > soft
        worst_size = np.fmax(worst_size, size)
        found += _softest(case, size, is_soft, node_id, soft)
        found += _unread(case, node_id, numbers.shown[:, k])
    found += _photographs(case)
    for each in found:
        bad |= (case.frames >= each.first) & (case.frames <= each.last)
    return Row(NAME, worst_size * 100.0, soft * 100.0, "% of own pixels", bad), found


def _passed(case: CheckCase, distance: Array, beside: Array, node_id: str, touch: float) -> list[Finding]:
    """Where the lens changes sides of a layer within arm's reach of it, and where it comes too close."""
    name, found = case.name_of(node_id), []
    near = np.abs(distance)
    with np.errstate(invalid="ignore"):
        # It goes through where it changes sides while it is before the layer, as the two frames tell between them.
        ahead = np.sqrt(np.maximum(near**2 - beside**2, 0.0))
        share = ahead[:-1] / np.maximum(ahead[:-1] + ahead[1:], 1e-12)
        aside = beside[:-1] + share * (beside[1:] - beside[:-1])
        crossed = (np.diff(case.segment) == 0) & (distance[1:] * distance[:-1] < 0.0) & (aside < 1e-6)
    through = np.zeros(len(case), dtype=bool)
    through[1:] |= crossed
    through[:-1] |= crossed
    for first, last in runs(through, case.segment):
        at = least_in(near, first, last)
        found.append(
            case.finding(
                "through", (first, last), at, float(near[at]), 2.0, f"The camera goes through {name}",
                "the layer bursts over the whole frame", node_id,
            )
        )  # fmt: skip
    with np.errstate(invalid="ignore"):
        close = (near < touch) & ~through
    for first, last in runs(close, case.segment):
        if through[max(first - 3, 0) : last + 4].any():
            continue
        at = least_in(near, first, last)
        least = float(near[at])
        found.append(
            case.finding(
                "near", (first, last), at, least, touch / max(least, 1e-3), f"The camera nearly touches {name}",
                f"{least:.2f} units from the lens, of {touch:.2f}", node_id,
            )
        )  # fmt: skip
    return found


def _softest(case: CheckCase, size: Array, is_soft: NDArray[np.bool_], node_id: str, limit: float) -> list[Finding]:
    """One finding for a layer: where it is softest, and in how many other places."""
    stretches = runs(is_soft, case.segment)
    if not stretches:
        return []
    first, last = max(stretches, key=lambda each: float(np.nanmax(size[each[0] : each[1] + 1])))
    at = most_in(size, first, last)
    value, others = float(size[at]), len(stretches) - 1
    also = f", and {others} more time{'s' * (others > 1)}" if others else ""
    return [
        case.finding(
            "soft", (first, last), at, value, value / limit, f"{case.name_of(node_id)} is soft",
            f"shown at {value * 100.0:.0f} % of its own pixels{also}", node_id,
        )
    ]  # fmt: skip


def _unread(case: CheckCase, node_id: str, shown: Array) -> list[Finding]:
    """A text card that is in the frame for less time than its words need."""
    node = case.scene.node(node_id)
    words = words_of(node) if isinstance(node, Picture) else 0
    if not words:
        return []
    needed = words / case.limit(WORDS) + _FIND_SECONDS
    found = []
    with np.errstate(invalid="ignore"):
        whole = shown >= _WHOLE_CARD
    stretches = runs(whole, None, gap=0)
    if not stretches:
        return []
    # It may be read in several goes; the longest of them has to do.
    first, last = max(stretches, key=lambda each: each[1] - each[0])
    seconds = (last - first + 1) / case.fps
    if seconds < needed:
        found.append(
            case.finding(
                "words", (first, last), first, seconds, needed / seconds, f"{node.name} is gone too soon",
                f"{words} word{'s' * (words > 1)} in {seconds:.1f} s; reading takes {needed:.1f} s", node_id,
            )
        )  # fmt: skip
    return found


def _photographs(case: CheckCase) -> list[Finding]:
    stretch, missing, found = case.measures.stretch * case.windows.scale, case.measures.missing, []
    limit = case.limit(STRETCH)
    with np.errstate(invalid="ignore"):
        stretched, missed = stretch > limit, missing > MISSED
    for first, last in runs(stretched, case.segment):
        at = most_in(stretch, first, last)
        value = float(stretch[at])
        found.append(
            case.finding(
                "stretched", (first, last), at, value, value / limit, "A photograph is stretched",
                f"{value:.1f} pixels of the film to one of its own",
            )
        )  # fmt: skip
    for first, last in runs(missed, case.segment):
        at = most_in(missing, first, last)
        value = float(missing[at])
        found.append(
            case.finding(
                "missing", (first, last), at, value * 100.0, value / MISSED, "A photograph does not reach",
                f"{value * 100.0:.1f} % of what is in the frame and should show it does not",
            )
        )  # fmt: skip
    return found


CHECK = Check(
    NAME, "Nearness", "artwork above its own pixels", ("through", "near", "soft", "stretched", "missing", "words"),
    (TOUCH, SOFT, STRETCH, WORDS), judge, everywhere=("through", "near", "words"),
)  # fmt: skip
