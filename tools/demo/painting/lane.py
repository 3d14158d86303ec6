"""A painted "photograph" of a market lane at dusk, in true perspective, to be projected on plain walls.

The lane is 6 units wide, 5 high and 20 long. It was taken from the middle of its open end, 1.7 units above the ground,
with a 24 mm lens on a sensor 36 mm wide, so that a projection with that lens in that place fits.
"""

import math
from random import Random

from .canvas import Canvas, number

WIDTH, HEIGHT = 2400, 1600
FOCAL_MM, SENSOR_MM = 24.0, 36.0
HALF, TALL, LONG, EYE = 3.0, 5.0, 20.0, 1.7
AHEAD = 2.0
"""How far before the lens the lane begins."""

_FOCAL = FOCAL_MM * WIDTH / SENSOR_MM
_LIGHT = WIDTH / 1500
_PLASTER = ("#8c6a86", "#7a5b7c", "#a0768a", "#6d5577", "#94728f")
_CLOTH = (("#d8923a", "#fbf0d2"), ("#2f7f79", "#f0e2bf"), ("#c8503c", "#f2dfb8"), ("#386a9c", "#f3e6c8"))


def _at(x: float, y: float, z: float) -> tuple[float, float]:
    """Where a point of the lane, z units before the lens, is in the picture."""
    z = max(z, 0.12)
    return WIDTH / 2 + _FOCAL * x / z, HEIGHT / 2 - _FOCAL * (y - EYE) / z


def _shape(*points: tuple[float, float, float]) -> str:
    return " ".join(f"{number(u)},{number(v)}" for u, v in (_at(*point) for point in points))


def _wall(side: float, z0: float, z1: float, y0: float, y1: float, off: float = 0.0) -> str:
    x = side * (HALF - off)
    return _shape((x, y0, z0), (x, y0, z1), (x, y1, z1), (x, y1, z0))


def _toward(tone: str, other: str, share: float) -> str:
    pair = [[int(c[k : k + 2], 16) for k in (1, 3, 5)] for c in (tone, other)]
    return "#" + "".join(f"{round(a + (b - a) * share):02x}" for a, b in zip(*pair, strict=True))


def market_lane() -> Canvas:
    c = Canvas(WIDTH, HEIGHT)
    far = AHEAD + LONG
    sky = c.fade((0, "#1b2456", 1), (0.35, "#5a4a86", 1), (0.55, "#e08c6c", 1), (1, "#f7cb86", 1))
    c.add(f'<rect width="{WIDTH}" height="{HEIGHT}" fill="{sky}"/>')
    _ground(c, far)
    _end(c, far)
    for side, seed in ((-1.0, 5), (1.0, 9)):
        _houses(c, side, far, Random(seed))
    _lanterns(c, far)
    grain = c.define(
        '<filter id="{id}" x="0" y="0" width="1" height="1"><feTurbulence type="fractalNoise" baseFrequency="0.8" '
        'numOctaves="2" seed="4"/><feColorMatrix type="matrix" values="0 0 0 0 1  0 0 0 0 0.9  0 0 0 0 0.8  0.2 0 0 0 -0.07"/>'
        "</filter>"
    )
    c.add(f'<rect width="{WIDTH}" height="{HEIGHT}" filter="{grain}"/>')
    return c


def _ground(c: Canvas, far: float) -> None:
    floor = c.fade((0, "#e39a72", 1), (0.3, "#6f4d74", 1), (1, "#2a2350", 1))
    c.add(
        f'<polygon points="{_shape((-HALF, 0, 0.2), (HALF, 0, 0.2), (HALF, 0, far), (-HALF, 0, far))}" fill="{floor}"/>'
    )
    chance = Random(3)
    stones = []
    # No row of stones ends where two rows of the compressed picture's blocks meet, which would show as noise.
    z = 1.02
    while z < far:
        depth = 0.42
        x = -HALF + chance.uniform(0, 0.3)
        while x < HALF:
            width = chance.uniform(0.4, 0.75)
            right = min(x + width - 0.06, HALF)
            tone = _toward(chance.choice(("#3b2f5e", "#4a3a68", "#564072")), "#e39a72", 0.75 * (z / far))
            stones.append(
                f'<polygon points="{_shape((x, 0, z), (right, 0, z), (right, 0, z + depth - 0.06), (x, 0, z + depth - 0.06))}" '
                f'fill="{tone}" opacity="0.75"/>'
            )
            x += width
        z += depth
    c.add("".join(stones))
    glow = c.glow((0, "#ffd99a", 0.55), (1, "#ffb061", 0))
    for x, z in ((-1.6, 4.6), (1.4, 7.0), (-1.2, 10.0), (1.2, 13.5)):
        u, v = _at(x, 0, z)
        c.add(
            f'<ellipse cx="{number(u)}" cy="{number(v)}" rx="{number(1500 * _LIGHT / z)}" ry="{number(420 * _LIGHT / z)}" fill="{glow}"/>'
        )


def _end(c: Canvas, far: float) -> None:
    """What closes the lane: a gate under a lit gable."""
    front = c.fade((0, "#8a5f86", 1), (1, "#d98a78", 1))
    c.add(
        f'<polygon points="{_shape((-HALF, 0, far), (HALF, 0, far), (HALF, TALL, far), (-HALF, TALL, far))}" fill="{front}"/>'
    )
    u0, v0 = _at(-1.1, 2.2, far)
    u1, v1 = _at(1.1, 0, far)
    c.add(
        f'<path d="M{number(u0)} {number(v1)}V{number(v0)}A{number((u1 - u0) / 2)} {number((u1 - u0) / 2)} 0 0 1 '
        f'{number(u1)} {number(v0)}V{number(v1)}z" fill="#ffe3a6"/>'
    )
    u, v = _at(0, 4.0, far)
    c.add(f'<circle cx="{number(u)}" cy="{number(v)}" r="{number(20 * _LIGHT)}" fill="#fff1c9"/>')


def _houses(c: Canvas, side: float, far: float, chance: Random) -> None:
    z = 0.15
    number_ = 0
    while z < far:
        length = chance.uniform(2.4, 3.6)
        end = min(z + length, far)
        share = 0.55 * (z / far)
        tone = _toward(chance.choice(_PLASTER), "#e8a07c", share)
        c.add(f'<polygon points="{_wall(side, z, end, 0, TALL)}" fill="{tone}"/>')
        c.add(f'<polygon points="{_wall(side, z, z + 0.1, 0, TALL)}" fill="#2a2350" opacity="0.5"/>')
        c.add(f'<polygon points="{_wall(side, z, end, 0, 0.35)}" fill="#2a2350" opacity="0.45"/>')
        middle = (z + end) / 2
        for y in (2.9, 4.0):
            for shift in (-0.24 * length, 0.24 * length):
                lit = chance.random() < 0.6
                window = "#ffd98c" if lit else _toward("#3a3468", "#e8a07c", share)
                a, b = middle + shift - 0.3, middle + shift + 0.3
                if b < end and a > z:
                    c.add(
                        f'<polygon points="{_wall(side, a - 0.07, b + 0.07, y - 0.07, y + 0.75)}" fill="#2a2350" opacity="0.55"/>'
                    )
                    c.add(f'<polygon points="{_wall(side, a, b, y, y + 0.68)}" fill="{window}"/>')
        c.add(f'<polygon points="{_wall(side, middle - 0.85, middle + 0.85, 0.35, 1.75)}" fill="#3a1f3a"/>')
        warm = c.fade((0, "#ffcf82", 1), (1, "#d9713c", 1))
        c.add(f'<polygon points="{_wall(side, middle - 0.75, middle + 0.75, 0.95, 1.7)}" fill="{warm}"/>')
        _awning(c, side, middle, _CLOTH[(number_ + (side > 0)) % len(_CLOTH)])
        z = end
        number_ += 1


def _awning(c: Canvas, side: float, middle: float, cloth: tuple[str, str]) -> None:
    """Stripes painted flat on the wall, so that the plain wall they are projected on is where they are."""
    stripes = 8
    low, high, half = 1.75, 2.45, 0.95
    for k in range(stripes):
        a = middle - half + 2 * half * k / stripes
        b = middle - half + 2 * half * (k + 1) / stripes
        c.add(f'<polygon points="{_wall(side, a, b, low, high)}" fill="{cloth[k % 2]}"/>')
        c.add(f'<polygon points="{_wall(side, a, b, low - 0.14, low)}" fill="{cloth[k % 2]}" opacity="0.85"/>')


def _lanterns(c: Canvas, far: float) -> None:
    """A lantern at each house front, on the walls."""
    glow = c.glow((0, "#fff3cf", 1), (0.18, "#ffcf7a", 0.85), (0.5, "#ff9a45", 0.25), (1, "#ff9a45", 0))
    for k in range(9):
        z = 2.6 + k * (far - 3.0) / 9
        for side in (-1.0, 1.0):
            u, v = _at(side * HALF, 2.75 + 0.12 * math.sin(3.0 * k + side), z)
            r = 330 * _LIGHT / z
            c.add(f'<circle cx="{number(u)}" cy="{number(v)}" r="{number(r)}" fill="{glow}"/>')
