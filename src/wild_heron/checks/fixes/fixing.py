"""Which fixes each kind of finding has, told once."""

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np

from ...arrays import Array
from ...evaluate import evaluate, output
from ...evaluate.film import film_of
from ...evaluate.joins import match_speed_at_cut, moving_at_cut
from ...evaluate.life import with_more_life
from ...scene import Blend, Family, Linear, Scene, SceneError, Span
from ...scene.channels import FAR, FOCAL, SHUTTER
from ...scene.edits import change_shot, roll_join, set_spans
from ...scene.film import shot_at
from ...scene.movers import LIFE
from ...scene.output import lens_node
from ..finding import Finding
from .backdrop import Backdrop, backdrop_of
from .centring import centred
from .changes import (
    dollied,
    keys_between,
    landing_later,
    moved,
    moving_span,
    scaled,
    slowed,
    starting_earlier,
    with_all_values,
)
from .trial import Fix, Passes, is_put_right, smallest

_MOST_SCALE = 3.0
_MOST_FRAMES = 96.0
_BLEND_FRAMES = 12.0


class Problem:
    """A finding in its scene, with what most fixes ask for: the camera, and the stretch between cuts that it is in."""

    def __init__(self, scene: Scene, finding: Finding) -> None:
        self.scene, self.finding = scene, finding
        settings = scene.settings
        self.first, self.last = float(settings.first), float(settings.last)
        self.shot: int | None = None
        self.camera = lens_node(scene, None).id
        if scene.shots:
            self.shot = shot_at(scene.shots, finding.at)
            film = film_of(evaluate(scene, finding.at, []).elsewhere, scene)
            self.camera = film.shots[int(film.number(np.array([finding.at]))[0])].camera
            low, high = film.segments.bounds(finding.at)
            self.first, self.last = max(self.first, low), min(self.last, np.ceil(high) - 1.0)
        self.passes: Passes = is_put_right(scene, finding, (self.first, self.last))

    @property
    def unit(self) -> float:
        """How far away what the camera is about is, in units."""
        seen = output(self.scene, self.finding.at)
        return float(np.linalg.norm(seen.subject()[0] - seen.position[0]))


Fixer = Callable[[Problem], Iterator[Fix]]


def fixes_for(scene: Scene, finding: Finding) -> list[Fix]:
    """What puts a finding right, the gentlest first; none where nothing that is tried does."""
    out = []
    try:
        problem = Problem(scene, finding)
    except SceneError:
        return []
    for fixer in FIXERS.get(finding.kind, ()):
        try:
            out += list(fixer(problem))
        except (SceneError, np.linalg.LinAlgError):
            continue
    return out


# Edges


def _behind(problem: Problem) -> tuple[Backdrop, Passes]:
    found = backdrop_of(problem.scene, problem.finding, problem.camera)
    if found is None:
        raise SceneError("Nothing lies behind.")
    return found, found.covers


def _scale_backdrop(problem: Problem) -> Iterator[Fix]:
    back, covers = _behind(problem)
    made = smallest(
        lambda more: scaled(problem.scene, back.node, 1.0 + more), covers, 0.1, _MOST_SCALE - 1.0, 0.01
    )  # fmt: skip
    if made is not None:
        name = problem.scene.node(back.node).name
        yield Fix(f"scale {name} to {100.0 * (1.0 + made[0]):.0f} %", f"Scale {name} over the edges", made[1])


def _move_backdrop(problem: Problem) -> Iterator[Fix]:
    back, covers = _behind(problem)
    by = back.least_move(problem.scene)
    if by is None or float(np.linalg.norm(by)) < 1e-6:
        return
    made = smallest(
        lambda share: moved(problem.scene, back.node, by * share, problem.finding.at), covers, 1.0, 1.5, 0.01
    )  # fmt: skip
    if made is not None:
        name = problem.scene.node(back.node).name
        yield Fix(f"move {name} {made[0] * float(np.linalg.norm(by)):.2f}", f"Move {name} over the edges", made[1])


def _dolly_in(problem: Problem) -> Iterator[Fix]:
    _, covers = _behind(problem)
    made = smallest(
        lambda by: dollied(problem.scene, problem.camera, by, problem.finding.at), covers, 0.05 * problem.unit,
        0.6 * problem.unit, 0.01,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"dolly in {made[0]:.2f}", "Dolly in to cover the edges", made[1])


def _longer_lens(problem: Problem) -> Iterator[Fix]:
    _, covers = _behind(problem)
    yield from _lens(problem, covers, longer=True, undo="Use a longer lens to cover the edges")


def _lens(problem: Problem, passes: Passes, longer: bool, undo: str) -> Iterator[Fix]:
    camera, scene = problem.camera, problem.scene
    now = float(evaluate(scene, problem.finding.at, [camera]).value(camera, FOCAL)[0])

    def made_by(millimetres: float) -> Scene:
        focal = now + millimetres if longer else now - millimetres
        if focal < 4.0:
            raise SceneError("There is no such lens.")
        return with_all_values(scene, camera, FOCAL, lambda value: value * focal / now)

    made = smallest(made_by, passes, 0.05 * now, 2.0 * now if longer else 0.7 * now, 0.5)
    if made is not None:
        focal = now + made[0] if longer else now - made[0]
        word = "longer lens" if longer else "wider lens"
        yield Fix(f"{word}, {focal:.1f} mm", undo, made[1])


def _far_plane(problem: Problem) -> Iterator[Fix]:
    camera, far = problem.camera, 0.0
    far = float(evaluate(problem.scene, problem.finding.at, [camera]).value(camera, FAR)[0])
    made = smallest(
        lambda more: with_all_values(problem.scene, camera, FAR, lambda value: value + more), problem.passes,
        0.1 * far, 1e5, 0.1,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"far clip plane at {far + made[0]:.1f}", "Move the far clip plane", made[1])


# Framing


def _aim_off(problem: Problem) -> Iterator[Fix]:
    """The smallest constant offset of the aim, or of the turn of a camera without one, that brings it back in."""
    made = centred(problem.scene, problem.finding, problem.camera, (problem.first, problem.last))
    if made is None or not problem.passes(made[1]):
        return
    (across, up), scene = made
    words = []
    if abs(across) >= 5e-4:
        words.append(f"{100.0 * abs(across):.1f} % {'right' if across > 0.0 else 'left'}")
    if abs(up) >= 5e-4:
        words.append(f"{100.0 * abs(up):.1f} % {'up' if up > 0.0 else 'down'}")
    yield Fix("aim " + " and ".join(words), "Aim so that it stays in", scene)


def _wider_lens(problem: Problem) -> Iterator[Fix]:
    yield from _lens(problem, problem.passes, longer=False, undo="Use a wider lens")


def _longer_to_read(problem: Problem) -> Iterator[Fix]:
    yield from _lens(problem, problem.passes, longer=True, undo="Use a longer lens")


def _pull_back(problem: Problem) -> Iterator[Fix]:
    made = smallest(
        lambda by: dollied(problem.scene, problem.camera, -by, problem.finding.at), problem.passes,
        0.05 * problem.unit, 3.0 * problem.unit, 0.01,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"pull the camera back {made[0]:.2f}", "Pull the camera back", made[1])


def _push_in(problem: Problem) -> Iterator[Fix]:
    made = smallest(
        lambda by: dollied(problem.scene, problem.camera, by, problem.finding.at), problem.passes,
        0.05 * problem.unit, 0.8 * problem.unit, 0.01,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"push the camera in {made[0]:.2f}", "Push the camera in", made[1])


# Comfort


def _another_ease(problem: Problem) -> Iterator[Fix]:
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


def _land_later(problem: Problem) -> Iterator[Fix]:
    span = moving_span(problem.scene, problem.camera, problem.finding.at)
    if span is None:
        return
    made = smallest(
        lambda by: landing_later(problem.scene, problem.camera, span, by, problem.last), problem.passes, 4.0,
        _MOST_FRAMES, 1.0,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"land {_frames(made[0])} later", "Let the move land later", made[1])


def _start_earlier(problem: Problem) -> Iterator[Fix]:
    span = moving_span(problem.scene, problem.camera, problem.finding.at)
    if span is None:
        return
    made = smallest(
        lambda by: starting_earlier(problem.scene, problem.camera, span, by, problem.first), problem.passes, 4.0,
        _MOST_FRAMES, 1.0,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"start {_frames(made[0])} earlier", "Let the move start earlier", made[1])


def _slower(problem: Problem) -> Iterator[Fix]:
    """Everything of the shot stretched; what no longer fits goes on beyond the cut."""
    made = smallest(
        lambda more: slowed(problem.scene, problem.camera, problem.first, problem.last, 1.0 + more), problem.passes,
        0.2, 4.0, 0.05,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"{100.0 / (1.0 + made[0]):.0f} % of the speed", "Slow the shot down", made[1])


def _longer_shutter(problem: Problem) -> Iterator[Fix]:
    camera = problem.camera
    now = float(evaluate(problem.scene, problem.finding.at, [camera]).value(camera, SHUTTER)[0])
    made = smallest(
        lambda more: with_all_values(problem.scene, camera, SHUTTER, lambda value: min(value + more, 360.0)),
        problem.passes, 45.0, max(360.0 - now, 0.0), 5.0,
    ) if now < 355.0 else None  # fmt: skip
    if made is not None:
        yield Fix(f"shutter {min(now + made[0], 360.0):.0f}°", "Open the shutter longer", made[1])


def _less_life(problem: Problem) -> Iterator[Fix]:
    made = smallest(
        lambda less: with_more_life(problem.scene, [problem.camera], max(1.0 - less, 0.0)), problem.passes, 0.25, 1.0,
        0.05,
    )  # fmt: skip
    if made is not None:
        yield Fix(f"{LIFE} at {100.0 * (1.0 - made[0]):.0f} %", "Less life", made[1])


# Cuts


def _cut_number(problem: Problem) -> int:
    """The shot that begins at the cut of a finding."""
    finding, shots = problem.finding, problem.scene.shots
    edge = finding.last + 1.0 if finding.about == "end" else finding.last if finding.kind != "dead" else finding.first
    return min(range(len(shots)), key=lambda k: abs(shots[k].first - edge))


def _through_the_cut(problem: Problem) -> Iterator[Fix]:
    made = moving_at_cut(problem.scene, _cut_number(problem))
    # It is measured on both sides of the cut, wherever that is now.
    if problem.passes(made):
        yield Fix("be in motion at the cut", "Move through the cut", made)


def _even_speed_over(problem: Problem) -> Iterator[Fix]:
    made = match_speed_at_cut(problem.scene, _cut_number(problem))
    if _passes_at_cut(problem)(made):
        yield Fix("match the speed", "Match the speed at the cut", made)


def _passes_at_cut(problem: Problem) -> Passes:
    """What two shots have to do with each other is measured over both."""
    cut = problem.finding.last
    return is_put_right(problem.scene, problem.finding, (cut - 6.0, cut + 6.0))


def _blend_over(problem: Problem) -> Iterator[Fix]:
    number = _cut_number(problem)
    made = change_shot(problem.scene, number, join=Blend(_BLEND_FRAMES))
    if _passes_at_cut(problem)(made):
        yield Fix(f"blend over {_BLEND_FRAMES:.0f} frames", "Blend in place of the cut", made)


def _longer_shot(problem: Problem) -> Iterator[Fix]:
    scene = problem.scene
    number = shot_at(scene.shots, problem.finding.last) + 1
    if number >= len(scene.shots):
        return
    end = scene.shots[number].first
    passes = is_put_right(scene, problem.finding, (problem.first, end + _MOST_FRAMES))
    made = smallest(lambda by: roll_join(scene, number, end + by), passes, 2.0, _MOST_FRAMES, 1.0)
    if made is not None:
        yield Fix(f"hold {_frames(made[0])} longer", f"Hold {scene.shots[number - 1].name} longer", made[1])


def _frames(count: float) -> str:
    return "1 frame" if count == 1.0 else f"{count:.0f} frames"


# Nearness


def _moved_by(scene: Scene, node_id: str, way: Array, frame: float, by: float) -> Scene:
    return moved(scene, node_id, way * by, frame)


def _push_layer_away(problem: Problem) -> Iterator[Fix]:
    """The layer moved along its own normal, away from the lens."""
    scene, finding = problem.scene, problem.finding
    here = evaluate(scene, finding.at)
    normal = here.world(finding.about)[0, :3, 2]
    normal = normal / max(float(np.linalg.norm(normal)), 1e-12)
    side = float(np.sign((output(scene, finding.at).position[0] - here.position(finding.about)[0]) @ normal)) or 1.0
    name = scene.node(finding.about).name
    for way in (-side, side):
        away = normal * way
        made = smallest(
            partial(_moved_by, scene, finding.about, away, finding.at), problem.passes, 0.1, 50.0, 0.05
        )  # fmt: skip
        if made is not None:
            yield Fix(f"move {name} {made[0]:.2f} away", f"Move {name} away from the lens", made[1])
            return


FIXERS: dict[str, tuple[Fixer, ...]] = {
    "bare": (_scale_backdrop, _move_backdrop, _dolly_in, _longer_lens),
    "margin": (_scale_backdrop, _move_backdrop, _dolly_in, _longer_lens),
    "hole": (_scale_backdrop, _dolly_in),
    "clipped": (_far_plane,),
    "out": (_aim_off, _wider_lens, _pull_back),
    "small": (_longer_to_read, _push_in),
    "hidden": (),
    "fast": (_another_ease, _land_later, _start_earlier, _slower),
    "busy": (_slower, _land_later),
    "shake": (_less_life,),
    "strobe": (_longer_shutter, _another_ease, _land_later),
    "roll": (_another_ease, _land_later, _start_earlier),
    "dead": (_through_the_cut,),
    "jump": (_even_speed_over, _blend_over),
    "angle": (_blend_over,),
    "line": (_blend_over,),
    "short": (_longer_shot,),
    "long": (),
    "through": (_push_layer_away, _pull_back),
    "near": (_push_layer_away, _pull_back),
    "soft": (_pull_back, _wider_lens),
    "stretched": (),
    "missing": (),
    "words": (_longer_shot,),
}
"""What is tried for each kind of finding, the gentlest change first."""
