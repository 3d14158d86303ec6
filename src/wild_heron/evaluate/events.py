"""Finds when the conditions of events come true, and the stretches that they show.

Conditions are signals over time that are true where they are at least 0. They are looked at over the whole scene, four
times a frame (once in a scene of more than 4,000), at keys, and where they are highest in between; and where one
passes 0 the moment is found by bisection. So it is the same however frames are asked for.
"""

from collections.abc import Callable
from math import ceil
from typing import NamedTuple

import msgspec
import numpy as np

from ..arrays import Array, ascending
from ..intervals import outside
from ..scene import (
    AtMarker,
    ChannelPasses,
    Condition,
    DistancePasses,
    Event,
    HeightPasses,
    Hits,
    InFrame,
    Scene,
    Shot,
    SpeedPasses,
    View,
)
from ..scene.dependencies import PoseStage, final_stage, position_stage, subscene
from ..scene.film import joined_by_rule, settled, shot_at
from ..scene.lookup import nodes_by_id
from ..sized_cache import cached_by_size
from ..space.transform import length
from .binds.rolling import hits
from .cameras import own_view
from .context import EvaluationContext, Evaluator, in_blocks

_PER_FRAME = 4
_LONG_SCENE = 4_000
_PARTS, _DIVISIONS = 128, 6
_MANY_PARTS, _MANY_DIVISIONS = 32, 8
_MANY = 64
_GOLDEN = 0.5 * (5.0**0.5 - 1.0)
_ROUNDS = 16
_NEAR = 4.0
"""Times what a signal changes by from one look at it to the next: farther it is not taken to rise between two."""
_STEP = 0.02
"""How many frames to either side a speed is measured over."""

Signal = Callable[[EvaluationContext], Array]


class MadeShot(NamedTuple):
    """A shot of the film, the number it has in the scene, or -1 where the event of number ``event`` made it."""

    shot: Shot
    source: int
    event: int = -1
    aim: str | None = None
    tilt: float = 0.0


class Showing(NamedTuple):
    """An event shows its camera from one frame up to another."""

    event: int
    start: float
    end: float


def with_events(evaluator: Evaluator, scene: Scene, shots: tuple[Shot, ...]) -> list[MadeShot]:
    """The film with what events show over it; what it would have shown comes back after them."""
    film = [MadeShot(shot, number) for number, shot in enumerate(shots)]
    showings = event_showings(evaluator, scene) if shots else []
    if not showings:
        return film
    made: list[MadeShot] = []
    edges = sorted({shot.first for shot in shots[1:]} | {each for s in showings for each in (s.start, s.end)})
    for start in [shots[0].first, *(each for each in edges if each > shots[0].first)]:
        showing = next((each for each in showings if each.start <= start < each.end), None)
        number = shot_at(shots, start)
        before = made[-1] if made else None
        if showing is not None:
            if before is not None and before.event == showing.event and start > showing.start:
                continue
            event = scene.events[showing.event]
            join = joined_by_rule(scene.rules, before.shot.camera, event.camera) if before else shots[0].join
            made.append(
                MadeShot(Shot(event.name, event.camera, start, join=join), -1, showing.event, event.aim, event.tilt)
            )
            continue
        shot = shots[number]
        if before is not None and before.event >= 0:
            join = joined_by_rule(scene.rules, before.shot.camera, shot.camera)
            shot = msgspec.structs.replace(shot, first=start, join=join)
        elif before is not None and before.source == number:
            continue
        made.append(MadeShot(shot, number))
    fitted = settled([each.shot for each in made], scene.settings.rate)
    return [each._replace(shot=shot) for each, shot in zip(made, fitted, strict=True)]


def event_showings(evaluator: Evaluator, scene: Scene) -> list[Showing]:
    """When the events of a scene show their cameras, in order: where two are true at once that of the higher priority
    does, of two of the same that which was first."""
    wanted: list[Showing] = []
    for number, event in enumerate(scene.events):
        if event.on:
            wanted += [Showing(number, *each) for each in _true_for(evaluator, scene, event)]
    wanted.sort(key=lambda each: (-scene.events[each.event].priority, each.start, each.event))
    taken: list[Showing] = []
    for each in wanted:
        free = outside((each.start, each.end), [(other.start, other.end) for other in taken])
        taken += [Showing(each.event, *piece) for piece in free]
    return sorted(taken, key=lambda each: each.start)


def _true_for(evaluator: Evaluator, scene: Scene, event: Event) -> list[tuple[float, float]]:
    """From which whole frame up to which one an event shows its camera."""
    fps = scene.settings.rate.fps
    starts = crossings(evaluator, scene, event.when)
    ends = crossings(evaluator, scene, event.until) if event.until is not None else ()
    found: list[tuple[float, float]] = []
    free = -np.inf
    for each in starts:
        if each < free:
            continue
        start = float(ceil(each + event.delay * fps - 1e-9))
        end = start + max(1.0, float(round(event.hold * fps)))
        end = min([end, *(float(ceil(until - 1e-9)) for until in ends if until > start)])
        if end > start and start <= scene.settings.last:
            found.append((start, end))
            free = end + event.cooling * fps
    return found


def crossings(evaluator: Evaluator, scene: Scene, condition: Condition) -> tuple[float, ...]:
    """The frames at which a condition comes true, in order, between frames too."""
    if isinstance(condition, AtMarker):
        return tuple(each.frame for each in scene.markers if each.name == condition.marker)
    nodes = nodes_by_id(scene)
    if isinstance(condition, Hits):
        needed = subscene(scene, (final_stage(nodes[condition.node]),))
        return hits(evaluator, needed, condition.node, condition.value)
    return _passes(evaluator, subscene(scene, tuple(_stages(scene, condition))), condition)


def _stages(scene: Scene, condition: Condition) -> list[PoseStage]:
    nodes = nodes_by_id(scene)
    if isinstance(condition, InFrame):
        return [position_stage(nodes[condition.node]), final_stage(nodes[condition.camera])]
    if isinstance(condition, ChannelPasses):
        return [final_stage(nodes[condition.node])]
    return [position_stage(nodes[each]) for each in condition.named()]


@cached_by_size
def _passes(evaluator: Evaluator, scene: Scene, condition: Condition) -> tuple[float, ...]:
    stages = _stages(scene, condition)
    fps = scene.settings.rate.fps

    def signal(frames: Array) -> Array:
        if not len(frames):
            return frames
        if isinstance(condition, SpeedPasses):
            # The mean of the speeds before and after, which does not vanish where it turns round.
            a, b, c = (_read(evaluator, scene, stages, condition, frames + step) for step in (-_STEP, 0.0, _STEP))
            speed = 0.5 * (length(b - a) + length(c - b)) / _STEP * fps
            return _signed(speed - condition.value, condition.way)
        return _read(evaluator, scene, stages, condition, frames)

    first, last = scene.settings.first, scene.settings.last
    per_frame = _PER_FRAME if last - first <= _LONG_SCENE else 1
    grid = first + np.arange((last - first) * per_frame + 1) / per_frame
    # Where something is keyed it may turn round at once.
    keyed = np.array([key.frame for node in scene.nodes for channel in node.channels for key in channel.keys])
    inside = keyed[(keyed > first) & (keyed < last)]
    grid = ascending(np.concatenate([grid, inside, np.nextafter(inside, -np.inf)]))
    grid, values = _with_peaks(signal, grid, signal(grid))
    at = np.flatnonzero((values[:-1] < 0.0) & (values[1:] >= 0.0))
    low, high = grid[at], grid[at + 1]
    # Many moments cost hardly more than one of them: a few rounds that look at many are faster than halving.
    parts, rounds = (_PARTS, _DIVISIONS) if len(low) <= _MANY else (_MANY_PARTS, _MANY_DIVISIONS)
    inner = np.arange(1, parts) / parts
    each = np.arange(len(low))
    for _ in range(rounds if len(low) else 0):
        times = np.concatenate([low[:, None], low[:, None] + (high - low)[:, None] * inner, high[:, None]], axis=1)
        true = signal(times[:, 1:-1].ravel()).reshape(len(low), parts - 1) >= 0.0
        reached = np.where(true.any(axis=1), true.argmax(axis=1) + 1, parts)
        low, high = times[each, reached - 1], times[each, reached]
    return tuple(high.tolist())


def _with_peaks(signal: Callable[[Array], Array], grid: Array, values: Array) -> tuple[Array, Array]:
    """The grid with the highest points that a signal comes to between its frames, where it may come true there: found
    by the golden section, in rounds that look at all of them at once."""
    inner = values[1:-1]
    reach = _NEAR * np.maximum(np.abs(np.diff(values))[:-1], np.abs(np.diff(values))[1:])
    top = (inner >= values[:-2]) & (inner >= values[2:]) & (inner < 0.0) & (inner + reach >= 0.0)
    at = np.flatnonzero(top) + 1
    if not len(at):
        return grid, values
    low, high = grid[at - 1], grid[at + 1]
    left, right = high - _GOLDEN * (high - low), low + _GOLDEN * (high - low)
    seen_left, seen_right = signal(left), signal(right)
    for _ in range(_ROUNDS):
        up = seen_right > seen_left
        low, high = np.where(up, left, low), np.where(up, high, right)
        kept, seen = np.where(up, right, left), np.where(up, seen_right, seen_left)
        fresh = np.where(up, low + _GOLDEN * (high - low), high - _GOLDEN * (high - low))
        made = signal(fresh)
        left, right = np.where(up, kept, fresh), np.where(up, fresh, kept)
        seen_left, seen_right = np.where(up, seen, made), np.where(up, made, seen)
    better = seen_right > seen_left
    times, found = np.where(better, right, left), np.where(better, seen_right, seen_left)
    every = np.concatenate([grid, times])
    order = np.argsort(every, kind="stable")
    return every[order], np.concatenate([values, found])[order]


def _signed(value: Array, way: str) -> Array:
    return value if way == "up" else -value


def _read(evaluator: Evaluator, scene: Scene, stages: list[PoseStage], condition: Condition, frames: Array) -> Array:
    """A condition's signal (N,); of a speed the positions (N, 3)."""

    def read(there: EvaluationContext) -> tuple[Array, ...]:
        if isinstance(condition, DistancePasses):
            apart = length(there.position_of(condition.node) - there.position_of(condition.other))
            return (_signed(apart - condition.value, condition.way),)
        if isinstance(condition, HeightPasses):
            return (_signed(there.position_of(condition.node)[:, 1] - condition.value, condition.way),)
        if isinstance(condition, ChannelPasses):
            value = there.number(there.node(condition.node), condition.channel)
            return (_signed(value - condition.value, condition.way),)
        if isinstance(condition, InFrame):
            return (_signed(_inside(there, condition), condition.way),)
        assert isinstance(condition, SpeedPasses)
        return (there.position_of(condition.node),)

    return in_blocks(evaluator, scene, frames, stages, read)[0]


def _inside(there: EvaluationContext, condition: InFrame) -> Array:
    """How far inside the frame a node is, as a share of its width; negative outside, and behind the lens."""
    lens = there.node(condition.camera)
    assert isinstance(lens, View)
    view = own_view(there, lens)
    point = np.broadcast_to(there.position_of(condition.node), (len(view), 3))
    off = point - view.position
    across, up, back = (
        off[:, 0] * view.pose[:, 0, k] + off[:, 1] * view.pose[:, 1, k] + off[:, 2] * view.pose[:, 2, k]
        for k in range(3)
    )
    # Distances to the sides of the pyramid that is seen, which have no pole behind the lens.
    wide, high = 0.5 * view.width / view.focal_px, 0.5 * view.height / view.focal_px
    return np.minimum(-back * wide - np.abs(across), -back * high - np.abs(up))
