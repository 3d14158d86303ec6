"""Fixes for cuts, and for how long shots are."""

from collections.abc import Iterator

from ...edits import change_shot, roll_join
from ...edits.matched_cuts import match_speed_at_cut, moving_at_cut
from ...scene import Blend
from ...scene.film import shot_at
from .problem import MOST_FRAMES, Problem, frames
from .trial import Fix, Passes, is_put_right, smallest

_BLEND_FRAMES = 12.0


def _cut_number(problem: Problem) -> int:
    """The shot that begins at the cut of a finding."""
    finding, shots = problem.finding, problem.scene.shots
    edge = finding.last + 1.0 if finding.about == "end" else finding.last if finding.kind != "dead" else finding.first
    return min(range(len(shots)), key=lambda k: abs(shots[k].first - edge))


def through_the_cut(problem: Problem) -> Iterator[Fix]:
    made = moving_at_cut(problem.scene, _cut_number(problem))
    # It is measured on both sides of the cut, wherever that is now.
    if problem.passes(made):
        yield Fix("be in motion at the cut", "Move through the cut", made)


def even_speed_over(problem: Problem) -> Iterator[Fix]:
    made = match_speed_at_cut(problem.scene, _cut_number(problem))
    if _passes_at_cut(problem)(made):
        yield Fix("match the speed", "Match the speed at the cut", made)


def _passes_at_cut(problem: Problem) -> Passes:
    """What two shots have to do with each other is measured over both."""
    cut = problem.finding.last
    return is_put_right(problem.scene, problem.finding, (cut - 6.0, cut + 6.0))


def blend_over(problem: Problem) -> Iterator[Fix]:
    number = _cut_number(problem)
    made = change_shot(problem.scene, number, join=Blend(_BLEND_FRAMES))
    if _passes_at_cut(problem)(made):
        yield Fix(f"blend over {_BLEND_FRAMES:.0f} frames", "Blend in place of the cut", made)


def longer_shot(problem: Problem) -> Iterator[Fix]:
    scene = problem.scene
    number = shot_at(scene.shots, problem.finding.last) + 1
    if number >= len(scene.shots):
        return
    end = scene.shots[number].first
    passes = is_put_right(scene, problem.finding, (problem.first, end + MOST_FRAMES))
    made = smallest(lambda by: roll_join(scene, number, end + by), passes, 2.0, MOST_FRAMES, 1.0)
    if made is not None:
        yield Fix(f"hold {frames(made[0])} longer", f"Hold {scene.shots[number - 1].name} longer", made[1])


def shorter_shot(problem: Problem) -> Iterator[Fix]:
    """The shot ends earlier, or, the last one of a film, begins later; what is beside it lasts longer."""
    scene = problem.scene
    number = shot_at(scene.shots, problem.finding.last) if scene.shots else 0
    if len(scene.shots) < 2:
        return
    is_last = number == len(scene.shots) - 1
    join, way = (number, 1.0) if is_last else (number + 1, -1.0)
    start = scene.shots[join].first
    passes = is_put_right(scene, problem.finding, (float(scene.settings.first), float(scene.settings.last)))
    room = problem.finding.last - problem.finding.first
    made = smallest(lambda by: roll_join(scene, join, start + way * by), passes, 2.0, room, 1.0)
    if made is not None:
        name = scene.shots[number].name
        words = f"begin {frames(made[0])} later" if is_last else f"cut {frames(made[0])} earlier"
        yield Fix(words, f"Shorten {name}", made[1])
