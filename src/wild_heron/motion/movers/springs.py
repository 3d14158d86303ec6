"""Springs and lags that follow a value: exact solutions of their differential equations over steps of a grid.

Between points of the grid the value u that is followed is taken to run straight, and it may jump at a point. Then a
particular solution of x'' + 2ζωx' + ω²x = ω²u is u − 2ζs/ω (s being the slope of u), and what is left of x to it goes
by the homogeneous solution H, which is known in closed form for every length of time. So a step of any length is exact,
and so is any point between two of the grid.
"""

from typing import NamedTuple

import numpy as np

from ...arrays import Array
from .waves import lasting


class SpringMotion(NamedTuple):
    """Damping ratio ζ and natural frequency ω in radians a second."""

    damping: float
    omega: float

    @property
    def decay(self) -> float:
        """ζω: how quickly what is left of a swing dies, per second."""
        return self.damping * self.omega

    @property
    def swing(self) -> float:
        """ω√(1−ζ²), the frequency with which it swings; 0 where it does not."""
        return self.omega * max(1.0 - self.damping * self.damping, 0.0) ** 0.5


def spring(bounce: float, speed: float) -> SpringMotion:
    """The spring that overshoots a step by ``bounce`` of its height: exp(−πζ/√(1−ζ²)) = bounce, so
    ζ = −ln b / √(π² + ln² b). ``speed`` is ω in Hz."""
    omega = 2.0 * np.pi * speed
    if bounce <= 0.0:
        return SpringMotion(1.0, omega)
    log = float(np.log(bounce))
    return SpringMotion(-log / (np.pi**2 + log * log) ** 0.5, omega)


def homogeneous(law: SpringMotion, time: Array) -> Array:
    """What matrices (N, 2, 2) do to distance and speed over times (N,) while nothing pulls."""
    swing = law.swing
    fade = np.exp(-law.decay * time)
    cosine = np.cos(swing * time)
    # sin(ωt)/ω, which is t where nothing swings.
    sine = np.sin(swing * time) / swing if swing > 1e-9 * law.omega else np.array(time, dtype=np.float64)
    out = np.empty((*np.shape(time), 2, 2))
    out[..., 0, 0] = fade * (cosine + law.decay * sine)
    out[..., 0, 1] = fade * sine
    out[..., 1, 0] = -fade * law.omega**2 * sine
    out[..., 1, 1] = fade * (cosine - law.decay * sine)
    return out


def _target(law: SpringMotion, value: Array, slope: Array) -> Array:
    """The particular solution: place and speed (…, 2)."""
    return np.stack([value - (2.0 * law.damping / law.omega) * slope, slope], axis=-1)


def followed(law: SpringMotion, after: Array, before: Array, step: float, periodic: bool = False) -> Array:
    """Place and speed (N, C, 2) of springs on a grid of ``step`` seconds, at rest on its first point.

    ``after`` and ``before`` (N, C): the values just after and just before each point. ``periodic``: the steady state of
    a motion that repeats; the last point is the first one again.
    """
    slope = (before[1:] - after[:-1]) / step
    start, end = _target(law, after[:-1], slope), _target(law, before[1:], slope)
    matrix = homogeneous(law, np.array(step))
    forcing = end - start @ matrix.T
    first = np.stack([after[0], np.zeros(after.shape[1])], axis=-1)
    states = _scanned(matrix, np.concatenate([np.zeros((1, *first.shape)), forcing]))
    powers = homogeneous(law, step * np.arange(len(after), dtype=np.float64))
    if periodic:
        # x₀ = Hⁿ·x₀ + what the period adds.
        first = np.linalg.solve(np.eye(2) - powers[-1], states[-1].T).T
    return states + _times(powers[:, None].transpose(2, 3, 0, 1), np.broadcast_to(first, states.shape))


def followed_between(law: SpringMotion, state: Array, left: Array, right: Array, step: float, share: Array) -> Array:
    """Places (M, C) at shares (M,) of the step from states (M, C, 2), while the value runs from ``left`` to ``right``
    (M, C)."""
    slope = (right - left) / step
    rest = state - _target(law, left, slope)
    matrix = homogeneous(law, share * step)
    swung = matrix[:, None, 0, 0] * rest[..., 0] + matrix[:, None, 0, 1] * rest[..., 1]
    here = left + (right - left) * share[:, None]
    return here - (2.0 * law.damping / law.omega) * slope + swung


def lagged(rate: float, after: Array, before: Array, step: float) -> Array:
    """Values (N, C) of a first-order low-pass y' = k·(u − y), at rest on the first point of a grid; k ``rate`` a
    second."""
    slope = (before[1:] - after[:-1]) / step
    fade = np.exp(-rate * step)
    forcing = (before[1:] - slope / rate) - fade * (after[:-1] - slope / rate)
    start = np.zeros((1, after.shape[1]))
    driven = _scanned(np.array([[fade]]), np.concatenate([start, forcing])[..., None])[..., 0]
    return driven + after[0] * np.exp(-rate * step * np.arange(len(after)))[:, None]


def lagged_between(rate: float, lagging: Array, left: Array, right: Array, step: float, share: Array) -> Array:
    """The same (M, C) at shares (M,) of the step."""
    slope = (right - left) / step
    here = left + (right - left) * share[:, None]
    fade = np.exp(-rate * step * share)[:, None]
    return here - slope / rate + (lagging - left + slope / rate) * fade


def _scanned(matrix: Array, forcing: Array) -> Array:
    """Xₙ = M·Xₙ₋₁ + Fₙ for forcing (N, C, K), with X before the first being 0: by doubling, in log N array steps
    (Hillis and Steele 1986). The order of its sums depends on the grid alone."""
    out = forcing.copy()
    stride, power = 1, matrix
    while stride < len(out):
        reached = out[:-stride]
        out[stride:] += _times(power, reached)
        power = power @ power
        stride *= 2
    return out


def _times(matrix: Array, rows: Array) -> Array:
    made = np.zeros_like(rows)
    for i in range(matrix.shape[0]):
        for j in range(matrix.shape[1]):
            made[..., i] += matrix[i, j] * rows[..., j]
    return made


def swung_on(law: SpringMotion, seconds: Array, stops: Array, apart: Array, speeds: Array, loop: float = 0.0) -> Array:
    """How far (N,) springs that were carried along are from where what they follow stopped, at times (K,) in seconds:
    they were ``apart`` (K,) from it then and going at ``speeds`` (K,), and swing on by the homogeneous solution.

    ``loop``: of a motion that repeats after so many seconds, all that went before added up as a geometric series.
    """
    total = np.zeros(len(seconds))
    if not loop:
        order, windows = lasting(seconds, stops, 30.0 / max(law.decay, 1e-6))
        for k, low, high in windows:
            here = order[low:high]
            gone = homogeneous(law, seconds[here] - stops[k])
            total[here] += apart[k] * gone[:, 0, 0] + speeds[k] * gone[:, 0, 1]
        return total
    root = np.linalg.inv(np.eye(2) - homogeneous(law, np.array(loop)))
    for stop, start in zip(stops.tolist(), np.stack([apart, speeds], axis=1), strict=True):
        gone = homogeneous(law, np.mod(seconds - stop, loop))
        place, speed = (root @ start).tolist()
        total += place * gone[:, 0, 0] + speed * gone[:, 0, 1]
    return total


def swing_height(law: SpringMotion) -> float:
    """How far a spring swings that goes at 1 a second through where it rests: e^(−ζ·acos ζ/√(1−ζ²))/ω."""
    apart = max(1.0 - law.damping * law.damping, 0.0) ** 0.5
    turn = float(np.arccos(min(law.damping, 1.0))) / apart if apart > 1e-9 else 1.0
    return float(np.exp(-law.damping * turn)) / law.omega
