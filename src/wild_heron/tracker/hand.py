"""A made hand: where it holds a camera and how that is turned, as a function of time and a seed."""

from typing import Literal, NamedTuple, get_args

import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..motion.noise import fractal_noise
from ..space.rotation import euler_to_quaternion

Gesture = Literal["walk", "look", "push"]
GESTURES: tuple[Gesture, ...] = get_args(Gesture)
"""A walk straight on; a look round on the spot; a push in that slows down."""


class Hand(NamedTuple):
    """Positions (N, 3) in units and quaternions (N, 4), x y z w."""

    position: Array
    quaternion: Array


def made_hand(gesture: Gesture, seconds: Array, seed: int = 0) -> Hand:
    """What the hand means to do, with its weight and breath but without jitter, at times (N,)."""
    position, angles = _MEANT[gesture](seconds)
    for k, (amount, period) in enumerate(((0.03, 2.6), (0.02, 2.1), (0.02, 3.0))):
        position[:, k] += amount * fractal_noise(seconds, seed * 16 + k, period, 2, 0.3)
    for k, (amount, period) in enumerate(((0.9, 2.4), (1.2, 2.8), (0.5, 3.2))):
        angles[:, k] += amount * fractal_noise(seconds, seed * 16 + 8 + k, period, 2, 0.3)
    return Hand(position, euler_to_quaternion(np.radians(angles), "yxz"))


def _walk(seconds: Array) -> tuple[Array, Array]:
    step = 2.0 * np.pi * seconds / 0.56
    speed = np.minimum(seconds, 1.0)
    position = np.stack(
        [
            0.03 * speed * np.sin(0.5 * step),
            1.6 + 0.03 * speed * np.abs(np.sin(0.5 * step)),
            -1.1 * (seconds - 0.5 * np.minimum(seconds, 1.0) * (2.0 - np.minimum(seconds, 1.0))),
        ],
        axis=1,
    )
    angles = np.stack([0.4 * np.sin(step), 1.5 * np.sin(0.25 * step), 0.6 * speed * np.sin(0.5 * step)], axis=1)
    return position, angles


def _look(seconds: Array) -> tuple[Array, Array]:
    turn = 0.5 - 0.5 * np.cos(2.0 * np.pi * seconds / 9.0)
    angles = np.stack([-6.0 + 10.0 * np.sin(2.0 * np.pi * seconds / 6.5), -35.0 + 70.0 * turn, 0.0 * turn], axis=1)
    radians = np.radians(angles[:, 1])
    position = np.stack([0.25 * np.sin(radians), 1.6 + 0.0 * turn, 0.25 * np.cos(radians)], axis=1)
    return position, angles


def _push(seconds: Array) -> tuple[Array, Array]:
    share = np.clip(seconds / 6.0, 0.0, 1.0)
    eased = share * share * share * (share * (share * 6.0 - 15.0) + 10.0)
    position = np.stack([0.15 * eased, 1.6 - 0.1 * eased, -3.0 * eased], axis=1)
    return position, np.stack([2.0 - 4.0 * eased, 3.0 * eased, 0.0 * eased], axis=1)


_MEANT = {"walk": _walk, "look": _look, "push": _push}


class Flaws(NamedTuple):
    """What a cheap tracker adds: jitter in units and degrees, the share of packets that are lost in bursts, how many a
    minute arrive late and out of order, how many jumps a minute its tracking makes, and how unevenly it looks, as a
    share of the time between two looks."""

    units: float = 0.004
    degrees: float = 0.12
    lost: float = 0.02
    late: float = 20.0
    jumps: float = 4.0
    uneven: float = 0.15


CLEAN = Flaws(0.0, 0.0, 0.0, 0.0, 0.0, 0.0)


class Tracked(NamedTuple):
    """What is sent: times (N,) in seconds, the hand then, and how much later (N,) each message goes out; lost ones are
    not there."""

    times: Array
    hand: Hand
    delay: Array


def tracked(gesture: Gesture, length: float, rate: float, seed: int = 0, flaws: Flaws | None = None) -> Tracked:
    """A recording as the tracker sends it: ``rate`` messages a second, with its flaws."""
    flaws = flaws or Flaws()
    chance = np.random.default_rng(seed)
    count = max(round(length * rate), 2)
    times = (np.arange(count) + chance.uniform(-flaws.uneven, flaws.uneven, count)) / rate
    position, quaternion = made_hand(gesture, times, seed)
    position = position + chance.normal(0.0, flaws.units, position.shape)
    for start, end, move in _jumps(chance, count, rate, flaws.jumps):
        position[start:end] += move
    shaken = quaternion + chance.normal(0.0, 0.5 * np.radians(flaws.degrees), quaternion.shape)
    quaternion = shaken / np.linalg.norm(shaken, axis=1, keepdims=True)
    late = chance.random(count) < flaws.late / 60.0 / rate
    delay = np.where(late, chance.uniform(1.5, 4.0, count) / rate, chance.uniform(0.0, 0.1, count) / rate)
    kept = ~_lost(chance, count, rate, flaws.lost)
    return Tracked(times[kept], Hand(position[kept], quaternion[kept]), delay[kept])


def _jumps(chance: np.random.Generator, count: int, rate: float, a_minute: float) -> list[tuple[int, int, Array]]:
    """Stretches in which the tracking is somewhere else, and where."""
    found = []
    for _ in range(chance.poisson(a_minute * count / rate / 60.0)):
        start = int(chance.integers(max(count // 20, 1), max(count - count // 20, 2)))
        length = int(chance.uniform(0.08, 0.5) * rate) + 1
        direction = chance.normal(size=3)
        move = direction / np.linalg.norm(direction) * chance.uniform(0.12, 0.5)
        found.append((start, min(start + length, count), move))
    return found


def _lost(chance: np.random.Generator, count: int, rate: float, share: float) -> NDArray[np.bool_]:
    """Which messages get lost: mostly several in a row."""
    lost = np.zeros(count, dtype=bool)
    while lost.mean() < share:
        start = int(chance.integers(0, count))
        lost[start : start + int(chance.geometric(0.2))] = True
    return lost
