"""A ball that drops, bounces and rolls over a ground and against boxes: rigid, small, and the same every time."""

import math
from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from ..arrays import Array

Vector = tuple[float, float, float]
Slope = Callable[[int, float, float, float], tuple[Vector, Vector]]
"""Of a frame's number and a point: the nearest surface point straight below or above it, and the normal there."""

STEPS_A_FRAME = 8
_INERTIA = 0.4
"""Moment of inertia of a full ball, over mass and radius squared."""
REST = 0.02
"""A rebound slower than this share of a second's fall is none."""
_STILL = 1e-9
"""A ball with less energy of motion than this stays where it is, while nothing moves under it."""


_NONE = (0.0, 0.0, 0.0)


class Ball(NamedTuple):
    radius: float
    gravity: float
    bounce: float
    friction: float


class Wall(NamedTuple):
    """A box: its middle, its three axes, and half sizes along them."""

    middle: Vector
    axes: tuple[Vector, Vector, Vector]
    half: Vector


class RollHits(NamedTuple):
    """Moments (H,) in frames at which the ball hits something, where its middle is (H, 3), and its velocities just
    before and just after (H, 3)."""

    moments: Array
    positions: Array
    before: Array
    after: Array


class Rolled(NamedTuple):
    """Positions (N, 3) of the ball's middle at frames, rotations (N, 4), velocities (N, 3) in units per second, spins
    (N, 3) in radians per second, and what it hits in between."""

    positions: Array
    rotations: Array
    velocities: Array
    spins: Array
    hits: RollHits

    def between(self, frames: Array, fps: float) -> Array:
        """Positions (M, 3) at frames between the first and the last: from frame to frame, and from hit to hit, the
        cubic with the velocities at both ends, which is how it flies."""
        times = np.concatenate([np.arange(len(self.positions), dtype=np.float64), self.hits.moments])
        order = np.argsort(times, kind="stable")
        times = times[order]
        at = np.concatenate([self.positions, self.hits.positions])[order]
        into = np.concatenate([self.velocities, self.hits.before])[order]
        out = np.concatenate([self.velocities, self.hits.after])[order]
        left = np.clip(np.searchsorted(times, frames, side="right") - 1, 0, len(times) - 2)
        long = times[left + 1] - times[left]
        share = ((frames - times[left]) / np.where(long > 0.0, long, 1.0))[:, None]
        rest, seconds = 1.0 - share, (long / fps)[:, None]
        run = at[left] + (at[left + 1] - at[left]) * share * share * (3.0 - 2.0 * share)
        return run + seconds * share * rest * (out[left] * rest - into[left + 1] * share)

    def energy(self, ball: Ball) -> Array:
        """Kinetic and potential energy (N,) for a mass of one."""
        turning = 0.5 * _INERTIA * ball.radius**2 * (self.spins**2).sum(axis=1)
        return 0.5 * (self.velocities**2).sum(axis=1) + turning + ball.gravity * self.positions[:, 1]


class _State(NamedTuple):
    at: Vector
    speed: Vector
    spin: Vector


def drop_and_roll(
    ball: Ball,
    start: Vector,
    push: Vector,
    count: int,
    fps: float,
    slope: Slope | None,
    walls: Callable[[int], list[Wall]],
    moving: bool = False,
) -> Rolled:
    """The motion of a ball over ``count`` frames from ``start`` with a velocity ``push``.

    Between contacts it flies exactly, and meets what it hits at the moment at which it does; a contact is an impulse
    with Coulomb friction, and takes energy or leaves it, but never gives any: a step that would, is scaled back.
    ``moving``: the ground or a wall moves, so that a ball at rest may not stay so. Plain numbers throughout: of one
    ball at a time they are faster than arrays.
    """
    dt = 1.0 / (fps * STEPS_A_FRAME)
    state = _State(start, push, _NONE)
    turned = (0.0, 0.0, 0.0, 1.0)
    rows: list[tuple[float, ...]] = []
    hits: list[_Hit] = []
    for frame in range(count):
        rows.append((*state.at, *turned, *state.speed, *state.spin))
        boxes = walls(frame)
        reach = ball.radius + (math.dist(state.speed, _NONE) + abs(ball.gravity) / fps) / fps
        middle, near = state.at, _within(boxes, state.at, ball.radius + reach)
        for number in range(STEPS_A_FRAME):
            # Pushed out of a wall, or driven by its spin, it may get farther than it would fly.
            step = (math.dist(state.speed, _NONE) + abs(ball.gravity) * dt) * dt
            strayed = math.dist(state.at, middle) + step > reach
            after, touches, struck = _stepped(ball, frame, state, dt, slope, boxes if strayed else near)
            hits += [(frame + (number + hit[0] / dt) / STEPS_A_FRAME, *hit[1:]) for hit in struck]
            if touches and not moving and _motion(ball, after) < _STILL and _motion(ball, state) < _STILL:
                still = (*state.at, *turned, *_NONE, *_NONE)
                rows.extend([still] * (count - len(rows)))
                return _as_arrays(rows, hits)
            state = after
            turned = _spun(turned, state.spin, dt)
    return _as_arrays(rows, hits)


_Hit = tuple[float, Vector, Vector, Vector]
"""When, where, and the velocities before and after."""


def _within(walls: list[Wall], at: Vector, distance: float) -> list[Wall]:
    """The walls of which a part may lie so near to a point."""
    return [wall for wall in walls if math.dist(wall.middle, at) < distance + math.hypot(*wall.half)]


def _as_arrays(rows: list[tuple[float, ...]], hits: list[_Hit]) -> Rolled:
    table = np.array(rows)
    met = np.array([(time, *at, *before, *after) for time, at, before, after in hits]).reshape(-1, 10)
    found = RollHits(met[:, 0], met[:, 1:4], met[:, 4:7], met[:, 7:])
    return Rolled(table[:, :3], table[:, 3:7], table[:, 7:10], table[:, 10:], found)


def _dot(a: Vector, b: Vector) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _plus(a: Vector, b: Vector, factor: float) -> Vector:
    return a[0] + b[0] * factor, a[1] + b[1] * factor, a[2] + b[2] * factor


def _cross(a: Vector, b: Vector) -> Vector:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def _motion(ball: Ball, state: _State) -> float:
    """Kinetic energy for a mass of one."""
    turning = _INERTIA * ball.radius * ball.radius * _dot(state.spin, state.spin)
    return 0.5 * (_dot(state.speed, state.speed) + turning)


_MOST_HITS = 4
"""In one step; what bounces quicker than that comes to rest."""
_BISECTIONS = 40


def _flown(ball: Ball, state: _State, time: float) -> _State:
    """The state after a free flight."""
    fall = -ball.gravity * time
    x, y, z = _plus(state.at, state.speed, time)
    return _State((x, y + 0.5 * fall * time, z), _plus(state.speed, (0.0, 1.0, 0.0), fall), state.spin)


def _stepped(
    ball: Ball, frame: int, state: _State, dt: float, slope: Slope | None, walls: list[Wall]
) -> tuple[_State, bool, list[_Hit]]:
    """The state a step later, whether the ball touches anything there, and what it hit meanwhile, by seconds from the
    start of the step."""
    hits: list[_Hit] = []
    gone = 0.0
    while len(hits) < _MOST_HITS:
        left = dt - gone
        if not _contacts(ball, frame, _flown(ball, state, left).at, slope, walls):
            return _flown(ball, state, left), False, hits
        if _contacts(ball, frame, state.at, slope, walls):
            break
        low, high = 0.0, left
        for _ in range(_BISECTIONS):
            middle = 0.5 * (low + high)
            if _contacts(ball, frame, _flown(ball, state, middle).at, slope, walls):
                high = middle
            else:
                low = middle
        there = _flown(ball, state, low)
        speed, spin = there.speed, there.spin
        normals = [normal for _, normal in _contacts(ball, frame, _flown(ball, state, high).at, slope, walls)]
        for normal in normals:
            speed, spin = _struck(ball, speed, spin, normal, 0.0)
        hits.append((gone + low, there.at, there.speed, speed))
        state, gone = _State(there.at, speed, spin), gone + low
        if min(_dot(speed, normal) for normal in normals) < 1e-9:
            break  # It does not come off again.
    after, touches = _pressed(ball, frame, state, dt - gone, slope, walls)
    return after, touches, hits


def _pressed(
    ball: Ball, frame: int, state: _State, dt: float, slope: Slope | None, walls: list[Wall]
) -> tuple[_State, bool]:
    """The same of a ball that lies or rolls on something: it is pushed out of what it has sunk into."""
    at, speed, spin = _flown(ball, state, dt)
    found = _contacts(ball, frame, at, slope, walls)
    if not found:
        return _State(at, speed, spin), False
    for surface, normal in found:
        at = _plus(surface, normal, ball.radius)
        speed, spin = _struck(ball, speed, spin, normal, dt)
    after = _State(at, speed, spin)
    # Being pushed out of the ground lifts the ball a little, which its motion has to pay for.
    surplus = _motion(ball, after) - _motion(ball, state) + ball.gravity * (at[1] - state.at[1])
    if surplus <= 0.0:
        return after, True
    moving = _motion(ball, after)
    if surplus >= moving:
        return _State(state.at, _NONE, _NONE), True
    share = math.sqrt((moving - surplus) / moving)
    return _State(at, _plus(_NONE, speed, share), _plus(_NONE, spin, share)), True


def _contacts(
    ball: Ball, frame: int, at: Vector, slope: Slope | None, walls: list[Wall]
) -> list[tuple[Vector, Vector]]:
    """Where the ball touches: surface points and the normals there."""
    found = []
    if slope is not None:
        surface, normal = slope(frame, *at)
        # The ground is taken as flat under the ball: near enough where hollows are wider than it.
        away = _dot(_plus(at, surface, -1.0), normal)
        if away < ball.radius:
            found.append((_plus(at, normal, -away), normal))
    for wall in walls:
        off = _plus(at, wall.middle, -1.0)
        inside = [_dot(off, axis) for axis in wall.axes]
        nearest = [min(max(x, -h), h) for x, h in zip(inside, wall.half, strict=True)]
        gap = [x - n for x, n in zip(inside, nearest, strict=True)]
        size = math.sqrt(gap[0] * gap[0] + gap[1] * gap[1] + gap[2] * gap[2])
        if 0.0 < size < ball.radius:
            surface, normal = wall.middle, _NONE
            for axis, n, g in zip(wall.axes, nearest, gap, strict=True):
                surface, normal = _plus(surface, axis, n), _plus(normal, axis, g / size)
            found.append((surface, normal))
        elif size == 0.0 and min(wall.half) > 0.0:
            k = min(range(3), key=lambda k: wall.half[k] - abs(inside[k]))
            side = 1.0 if inside[k] >= 0.0 else -1.0
            normal = _plus(_NONE, wall.axes[k], side)
            found.append((_plus(at, normal, wall.half[k] - abs(inside[k])), normal))
    return found


def _struck(ball: Ball, speed: Vector, spin: Vector, normal: Vector, dt: float) -> tuple[Vector, Vector]:
    """Velocity and spin after a contact: a rebound, and friction up to its limit against the slip of the surface."""
    into = _dot(speed, normal)
    if into >= 0.0:
        return speed, spin
    bounce = ball.bounce if -into > REST * ball.gravity else 0.0
    press = -(1.0 + bounce) * into
    speed = _plus(speed, normal, press)
    arm = _plus(_NONE, normal, -ball.radius)
    slip = _plus(_plus(speed, normal, -_dot(speed, normal)), _cross(spin, arm), 1.0)
    size = math.sqrt(_dot(slip, slip))
    if size > 1e-12:
        # What would stop the slip at once, for a ball that takes part of it as spin.
        grip = -min(ball.friction * press, size / (1.0 + 1.0 / _INERTIA)) / size
        push = (slip[0] * grip, slip[1] * grip, slip[2] * grip)
        speed = _plus(speed, push, 1.0)
        spin = _plus(spin, _cross(arm, push), 1.0 / (_INERTIA * ball.radius * ball.radius))
    # Rolling is not for nothing either.
    hold = max(0.0, 1.0 - 0.25 * ball.friction * dt)
    return _plus(_NONE, speed, hold), _plus(_NONE, spin, hold)


Quaternion = tuple[float, float, float, float]


def _spun(turned: Quaternion, spin: Vector, dt: float) -> Quaternion:
    rate = math.sqrt(_dot(spin, spin))
    if rate < 1e-12:
        return turned
    half = 0.5 * rate * dt
    s, aw = math.sin(half) / rate, math.cos(half)
    ax, ay, az = spin[0] * s, spin[1] * s, spin[2] * s
    bx, by, bz, bw = turned
    x, y = aw * bx + ax * bw + ay * bz - az * by, aw * by - ax * bz + ay * bw + az * bx
    z, w = aw * bz + ax * by - ay * bx + az * bw, aw * bw - ax * bx - ay * by - az * bz
    size = math.sqrt(x * x + y * y + z * z + w * w)
    return x / size, y / size, z / size, w / size
