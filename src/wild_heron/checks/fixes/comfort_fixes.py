"""Fixes for moves that are too fast, or too much at once."""

from collections.abc import Iterator

from ...edits import set_spans
from ...edits.mover_baking import with_more_life
from ...edits.shifting import keys_between, landing_later, moving_span, slowed, starting_earlier, with_all_values
from ...evaluate import evaluate
from ...scene import Family, Linear, Span
from ...scene.channels import SHUTTER
from ...scene.movers import LIFE
from .problem import MOST_FRAMES, Problem, frames
from .trial import Fix, smallest


def another_ease(problem: Problem) -> Iterator[Fix]:
    """The gentlest shape of the span whose peak can be followed."""
    span = moving_span(problem.scene, problem.camera, problem.finding.at)
    if span is None:
        return
    refs = keys_between(problem.scene, problem.camera, span[0], span[0])
    choices: tuple[tuple[str, Span], ...] = (
        ("ease it softly", Family("sine", "in-out")), ("even speed", Linear()),
    )  # fmt: skip
    for label, ease in choices:
        made = set_spans(problem.scene, refs, ease)
        if made is not problem.scene and problem.passes(made):
            yield Fix(label, "Ease the move so that it can be followed", made)
            return


def land_later(problem: Problem) -> Iterator[Fix]:
    span = moving_span(problem.scene, problem.camera, problem.finding.at)
    if span is None:
        return
    made = smallest(
        lambda by: landing_later(problem.scene, problem.camera, span, by, problem.last), problem.passes, 4.0,
        MOST_FRAMES, 1.0,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"land {frames(made[0])} later", "Let the move land later", made[1])


def start_earlier(problem: Problem) -> Iterator[Fix]:
    span = moving_span(problem.scene, problem.camera, problem.finding.at)
    if span is None:
        return
    made = smallest(
        lambda by: starting_earlier(problem.scene, problem.camera, span, by, problem.first), problem.passes, 4.0,
        MOST_FRAMES, 1.0,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"start {frames(made[0])} earlier", "Let the move start earlier", made[1])


def slower(problem: Problem) -> Iterator[Fix]:
    """Everything of the shot stretched; what no longer fits goes on beyond the cut."""
    made = smallest(
        lambda more: slowed(problem.scene, problem.camera, problem.first, problem.last, 1.0 + more), problem.passes,
        0.2, 4.0, 0.05,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"{100.0 / (1.0 + made[0]):.0f} % of the speed", "Slow the shot down", made[1])


def longer_shutter(problem: Problem) -> Iterator[Fix]:
    camera = problem.camera
    now = float(evaluate(problem.scene, problem.finding.at, [camera]).value(camera, SHUTTER)[0])
    made = smallest(
        lambda more: with_all_values(problem.scene, camera, SHUTTER, lambda value: min(value + more, 360.0)),
        problem.passes, 45.0, max(360.0 - now, 0.0), 5.0,
    ) if now < 355.0 else None  # fmt: skip
    if made is not None:
        yield Fix(f"shutter {min(now + made[0], 360.0):.0f}°", "Open the shutter longer", made[1])


def less_life(problem: Problem) -> Iterator[Fix]:
    made = smallest(
        lambda less: with_more_life(problem.scene, [problem.camera], max(1.0 - less, 0.0)), problem.passes, 0.25, 1.0,
        0.05,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"{LIFE} at {100.0 * (1.0 - made[0]):.0f} %", "Less life", made[1])
