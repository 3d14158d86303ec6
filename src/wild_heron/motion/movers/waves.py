"""Waves of an oscillator, a rate that is reached by and by, limits, and bursts that die away."""

import numpy as np

from ...arrays import Array, Rows
from ...scene.movers import Wave
from ...scene.spans import Ease
from ..easing import unit_ease


def wave(kind: Wave | Ease, phase: Array) -> Array:
    """Values 0 to 1 of a wave at phases (N,) in periods. Sine and triangle start in the middle and rise; a saw rises;
    a square is 1 first; an ease goes up by itself in the first half and back in the second."""
    share = phase - np.floor(phase)
    if kind == "sine":
        return 0.5 + 0.5 * np.sin(2.0 * np.pi * share)
    if kind == "triangle":
        shifted = share + 0.25 - np.floor(share + 0.25)
        return 1.0 - np.abs(2.0 * shifted - 1.0)
    if kind == "saw":
        return share
    if kind == "square":
        return np.where(share < 0.5, 1.0, 0.0)
    there = np.minimum(2.0 * share, 1.0)
    back = np.maximum(2.0 * share - 1.0, 0.0)
    ease = unit_ease(kind)
    return np.where(share < 0.5, ease(there), 1.0 - ease(back))


def eased_in(time: Array, ease_in: float) -> Array:
    """How far something goes by times (N,) ≥ 0 at a speed of 1 that is reached evenly over ``ease_in``: t²/(2T), then
    t − T/2. Before 0 it does not move."""
    gone = np.maximum(time, 0.0)
    if ease_in <= 1e-9:
        return gone
    return np.where(gone < ease_in, gone * gone / (2.0 * ease_in), gone - 0.5 * ease_in)


def limited(values: Array, low: float, high: float, soft: float) -> Array:
    """Values (N,) kept between two ends: hard, or bending towards them exponentially over the last ``soft`` of the way,
    with a slope of 1 where the bend begins."""
    soft = min(soft, 0.5 * (high - low))
    if soft <= 1e-9 * (high - low):
        return np.clip(values, low, high)
    over = np.maximum(values - (high - soft), 0.0)
    under = np.maximum((low + soft) - values, 0.0)
    bent = np.where(over > 0.0, high - soft * np.exp(-over / soft), values)
    return np.where(under > 0.0, low + soft * np.exp(-under / soft), bent)


def bursts(seconds: Array, at: Array, height: Array, half_life: float, speed: float, phase: Array) -> Array:
    """The sum (N,) of bursts at times (K,): each a swing of ``speed`` Hz that starts at nothing, halved every
    half-life, ``height`` (K,) times as strong, up first where ``phase`` (K,) is positive."""
    total = np.zeros(len(seconds))
    decay, omega = np.log(2.0) / half_life, 2.0 * np.pi * speed
    order, windows = lasting(seconds, at, 40.0 * half_life)  # By then it is 1e-12 of itself.
    for k, low, high in windows:
        here = order[low:high]
        since = seconds[here] - at[k]
        total[here] += height[k] * phase[k] * np.exp(-decay * since) * np.sin(omega * since)
    return total


def lasting(seconds: Array, at: Array, longest: float) -> tuple[Rows, list[tuple[int, int, int]]]:
    """The rows of times (N,) in order, and for each of some moments (K,) from which others it matters for, in the order
    of the moments: its number, and from which to which row that is."""
    order = np.argsort(seconds, kind="stable")
    ordered = seconds[order]
    low = np.searchsorted(ordered, at, side="left")
    high = np.searchsorted(ordered, at + longest, side="left")
    some = np.flatnonzero(high > low)
    return order, list(zip(some.tolist(), low[some].tolist(), high[some].tolist(), strict=True))


def treads(seconds: Array, stride: float) -> tuple[Array, Array]:
    """The bob (N,) of a walk, down with each step of ``stride`` seconds, and its sway (N,) from side to side with every
    two; both within -1 to 1 and of mean zero over two steps.

    A bob falls quicker than it rises: it is a sine and half as much of its octave, which together reach ±1.
    """
    step = 2.0 * np.pi * seconds / stride
    bob = (np.sin(step) + 0.5 * np.sin(2.0 * step)) / _TALLEST
    return bob, np.sin(0.5 * step)


_TALLEST = 0.75 * np.sqrt(3.0)
"""The height of sin x + ½ sin 2x, at 60°."""
