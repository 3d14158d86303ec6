"""Drafts of offers: kept and shipped moves and seeded variations of them, different from each other."""

import random
from collections.abc import Sequence
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np

from ...arrays import Array
from ...evaluate.evaluation import evaluate
from ...scene import Null, Scene
from ...scene.moves import Move
from ..nodes import add_nodes
from ..rigs import FrameRange
from .putting import Placing, put

Mood = Literal["calm", "lively", "bold"]
MOODS: tuple[Mood, ...] = ("calm", "lively", "bold")
_VARIATIONS = 2
_MOMENTS = 9
_STRENGTHS: dict[Mood, tuple[float, float]] = {"calm": (0.4, 0.9), "lively": (0.8, 1.2), "bold": (1.1, 1.6)}
_WRONG_MOOD = 0.45
_UNLIKE = 1.5
"""From about this distance on two moves are as different as any."""
_AGAIN = 0.6
"""What one more of the same move is worth."""
_WEIGHTS = {"path": 1.0, "turn": 2.0, "lens": 1.0, "speed": 1.0}
"""What differences in the lens's way (in sizes of the subject), its direction, the logarithm of its focal length, and
its speed in shares of the way count."""


class Draft(NamedTuple):
    """A move, how it would be put, and how well it suits a mood (0 to 1)."""

    move: Move
    how: Placing
    suits: float


def drafts(moves: Sequence[Move], mood: Mood, seed: int, how: Placing | None = None, two: bool = False) -> list[Draft]:
    """Every move as it is, and seeded variations of it: mirrored, from another side, stronger or weaker, nearer or
    farther. Those from one subject to another one only where there are ``two``. The same for the same seed."""
    how, out = how or Placing(), []
    for move in moves:
        if move.has_other and not two:
            continue
        # By its name: another move in the list changes nothing about this one.
        chance = random.Random(f"{seed} {mood} {move.name}")
        suits = 1.0 if mood in move.tags else _WRONG_MOOD
        if seed == 0:
            out.append(Draft(move, how, suits))
        for _ in range(_VARIATIONS):
            out.append(Draft(move, _varied(chance, how, _STRENGTHS[mood]), suits * 0.95))
    return out


def like(draft: Draft, seed: int, count: int = 24) -> list[Draft]:
    """A draft, and others near to it."""
    chance = random.Random(f"{seed} {draft.move.name} {draft.how.side} {draft.how.strength}")
    low, high = 0.75 * draft.how.strength, 1.3 * draft.how.strength
    return [draft, *(Draft(draft.move, _varied(chance, draft.how, (low, high), 0.12), 1.0) for _ in range(count))]


def _varied(chance: random.Random, how: Placing, strengths: tuple[float, float], mirrors: float = 0.5) -> Placing:
    return how._replace(
        mirrored=how.mirrored != (chance.random() < mirrors),
        side=how.side + round(chance.uniform(-22.0, 22.0)),
        strength=round(chance.uniform(*strengths), 2),
        size=round(how.size * chance.uniform(0.85, 1.2), 2),
    )


def distance(a: Array, b: Array) -> float:
    """How different two moves are, by what was told of them."""
    return float(np.sqrt(((a - b) ** 2).mean()))


@lru_cache(maxsize=4096)
def told(move: Move, how: Placing) -> Array:
    """What a draft does, as numbers (K,) to be compared: the lens's way, turn, focal length and speed over the move, in
    front of a subject of no account."""
    span = FrameRange(0.0, move.frames)
    scene, ids = put(_stage(), move, "subject", span, how._replace(format=None, reach=1.0, shown="no"), "other")
    view = evaluate(scene, np.linspace(0.0, move.frames, _MOMENTS), [ids[-1]]).camera(ids[-1])
    steps = np.linalg.norm(np.diff(view.position, axis=0), axis=1)
    parts = {
        "path": view.position.ravel() / 3.0, "turn": view.pose[:, :3, 2].ravel(), "lens": np.log(view.focal_mm),
        "speed": steps / max(float(steps.sum()), 1e-6),
    }  # fmt: skip
    return np.concatenate([_WEIGHTS[name] * each / len(each) ** 0.5 for name, each in parts.items()]) * _MOMENTS


@lru_cache(maxsize=1)
def _stage() -> Scene:
    return add_nodes(Scene(), [Null(id=each, name=each) for each in ("subject", "other")])


def chosen(found: Sequence[Draft], count: int) -> list[Draft]:
    """So many drafts, each as different as can be from those before it, and suiting the mood."""
    numbers = [told(each.move, each.how) for each in found]
    left = list(range(len(found)))
    out: list[int] = []
    nearest = np.full(len(found), np.inf)
    while left and len(out) < count:
        known = [found[k].move.name for k in out]
        scores = [
            found[k].suits * (1.0 - np.exp(-nearest[k] / _UNLIKE)) * _AGAIN ** known.count(found[k].move.name)
            for k in left
        ]
        best = left[int(np.argmax(scores))]
        left.remove(best)
        out.append(best)
        for k in left:
            nearest[k] = min(nearest[k], distance(numbers[k], numbers[best]))
    return [found[k] for k in out]
