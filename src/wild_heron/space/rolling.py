"""A ball that drops, bounces and rolls over a ground and against boxes: rigid, small, and the same every time."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .rotation import multiply

Array = NDArray[np.float64]
Slope = Callable[[int, Array], tuple[Array, Array]]
"""Of a frame's number and a point (3,): the nearest surface point straight below or above it, and the normal there."""

STEPS_A_FRAME = 16
_INERTIA = 0.4
"""Moment of inertia of a full ball, over mass and radius squared."""
_REST = 0.02
"""A rebound slower than this share of a second's fall is none."""


class Ball(NamedTuple):
    radius: float
    gravity: float
    bounce: float
    friction: float


class Wall(NamedTuple):
    """A box: its middle (3,), axes as columns (3, 3), and half sizes (3,)."""

    middle: Array
    axes: Array
    half: Array


class Rolled(NamedTuple):
    """Positions (N, 3) of the ball's middle at frames, rotations (N, 4), velocities (N, 3) in units per second and
    spins (N, 3) in radians per second."""

    positions: Array
    rotations: Array
    velocities: Array
    spins: Array

    def energy(self, ball: Ball) -> Array:
        """Kinetic and potential energy (N,) for a mass of one."""
        turning = 0.5 * _INERTIA * ball.radius**2 * (self.spins**2).sum(axis=1)
        return 0.5 * (self.velocities**2).sum(axis=1) + turning + ball.gravity * self.positions[:, 1]


def drop_and_roll(
    ball: Ball,
    start: Array,
    push: Array,
    count: int,
    fps: float,
    slope: Slope | None,
    walls: Callable[[int], list[Wall]],
) -> Rolled:
    """The motion of a ball over ``count`` frames from ``start`` (3,) with a velocity ``push`` (3,).

    Between contacts it flies exactly; a contact is an impulse with Coulomb friction, and takes energy or leaves it, but
    never gives any: a step that would, is scaled back.
    """
    dt = 1.0 / (fps * STEPS_A_FRAME)
    at, speed, spin = start.astype(float).copy(), push.astype(float).copy(), np.zeros(3)
    turned = np.array([0.0, 0.0, 0.0, 1.0])
    out = Rolled(np.zeros((count, 3)), np.zeros((count, 4)), np.zeros((count, 3)), np.zeros((count, 3)))
    fall = np.array([0.0, -ball.gravity, 0.0])
    for frame in range(count):
        out.positions[frame], out.rotations[frame], out.velocities[frame], out.spins[frame] = at, turned, speed, spin
        boxes = walls(frame)
        for _ in range(STEPS_A_FRAME):
            before = _energy(ball, at, speed, spin)
            landed, faster, rolling = at + speed * dt + 0.5 * fall * dt * dt, speed + fall * dt, spin
            for surface, normal, depth in _contacts(ball, frame, landed, slope, boxes):
                landed = surface + normal * depth
                faster, rolling = _struck(ball, faster, rolling, normal, dt)
            at, speed, spin = _not_above(ball, before, (landed, faster, rolling), at)
            turned = _spun(turned, spin, dt)
    return out


def _energy(ball: Ball, at: Array, speed: Array, spin: Array) -> float:
    turning = 0.5 * _INERTIA * ball.radius**2 * float(spin @ spin)
    return 0.5 * float(speed @ speed) + turning + ball.gravity * float(at[1])


def _not_above(ball: Ball, limit: float, wanted: tuple[Array, Array, Array], old: Array) -> tuple[Array, Array, Array]:
    """The wanted place, velocity and spin, with no more energy than before: being pushed out of the ground lifts the
    ball a little, which its motion has to pay for."""
    at, speed, spin = wanted
    surplus = _energy(ball, at, speed, spin) - limit
    if surplus <= 0.0:
        return wanted
    moving = _energy(ball, at, speed, spin) - ball.gravity * float(at[1])
    if surplus < moving:
        share = float(np.sqrt((moving - surplus) / moving))
        return at, speed * share, spin * share
    return old, np.zeros(3), np.zeros(3)


def _contacts(
    ball: Ball, frame: int, at: Array, slope: Slope | None, walls: list[Wall]
) -> list[tuple[Array, Array, float]]:
    """Where the ball touches: a surface point, the normal, and how far from it the ball's middle belongs."""
    found = []
    if slope is not None:
        surface, normal = slope(frame, at)
        # The ground is taken as flat under the ball: near enough where hollows are wider than it.
        away = float((at - surface) @ normal)
        if away < ball.radius:
            found.append((at - normal * away, normal, ball.radius))
    for wall in walls:
        inside = (at - wall.middle) @ wall.axes
        nearest = np.clip(inside, -wall.half, wall.half)
        gap = inside - nearest
        size = float(np.linalg.norm(gap))
        if 0.0 < size < ball.radius:
            found.append((wall.middle + wall.axes @ nearest, wall.axes @ (gap / size), ball.radius))
        elif size == 0.0 and wall.half.min() > 0.0:
            k = int(np.argmin(wall.half - np.abs(inside)))
            normal = wall.axes[:, k] * (1.0 if inside[k] >= 0.0 else -1.0)
            found.append((at + normal * float(wall.half[k] - abs(inside[k])), normal, ball.radius))
    return found


def _struck(ball: Ball, speed: Array, spin: Array, normal: Array, dt: float) -> tuple[Array, Array]:
    """Velocity and spin after a contact: a rebound, and friction up to its limit against the slip of the surface."""
    into = float(speed @ normal)
    if into >= 0.0:
        return speed, spin
    bounce = ball.bounce if -into > _REST * ball.gravity else 0.0
    press = -(1.0 + bounce) * into
    speed = speed + press * normal
    slip = speed - normal * float(speed @ normal) + np.cross(spin, -ball.radius * normal)
    size = float(np.linalg.norm(slip))
    if size > 1e-12:
        # What would stop the slip at once, for a ball that takes part of it as spin.
        grip = min(ball.friction * press, size / (1.0 + 1.0 / _INERTIA))
        push = -slip / size * grip
        speed = speed + push
        spin = spin + np.cross(-ball.radius * normal, push) / (_INERTIA * ball.radius**2)
    # Rolling is not for nothing either.
    hold = max(0.0, 1.0 - 0.25 * ball.friction * dt)
    return speed * hold, spin * hold


def _spun(turned: Array, spin: Array, dt: float) -> Array:
    rate = float(np.linalg.norm(spin))
    if rate < 1e-12:
        return turned
    half = 0.5 * rate * dt
    out = multiply(np.array([*(spin / rate * np.sin(half)), np.cos(half)]), turned)
    return np.asarray(out / np.linalg.norm(out))
