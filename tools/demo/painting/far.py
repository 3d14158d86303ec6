"""What lies far off: the sky, the moon, two ridges and the mist between."""

import math
from random import Random

from .canvas import Canvas, number, points


def sky() -> Canvas:
    c = Canvas(2048, 1152)
    dusk = c.fade(
        (0, "#0b1230", 1),
        (0.3, "#1b2456", 1),
        (0.52, "#41407f", 1),
        (0.68, "#8a5788", 1),
        (0.8, "#d97a6c", 1),
        (0.9, "#f3ac6c", 1),
        (1, "#f7cb86", 1),
    )
    c.add(f'<rect width="2048" height="1152" fill="{dusk}"/>')
    chance = Random(7)
    band = c.blur(46)
    for x, y, rx, ry, tone, strength in (
        (520, 330, 700, 70, "#5d5da6", 0.34),
        (1500, 240, 620, 60, "#4c56a0", 0.3),
        (1180, 520, 860, 60, "#a06aa2", 0.3),
        (300, 640, 640, 48, "#dd8a86", 0.36),
        (1720, 690, 620, 44, "#f0a47c", 0.4),
        (980, 780, 760, 36, "#ffce93", 0.4),
    ):
        c.add(f'<ellipse cx="{x}" cy="{y}" rx="{rx}" ry="{ry}" fill="{tone}" opacity="{strength}" filter="{band}"/>')
    for _ in range(430):
        left, top = chance.uniform(0, 2048), 640 * chance.random() ** 1.4
        size = 0.7 + 1.9 * chance.random() ** 4
        shine = (0.35 + 0.6 * chance.random()) * (1 - top / 760)
        tone = chance.choice(["#ffffff", "#ffe9c4", "#cfdcff"])
        c.add(f'<circle cx="{number(left)}" cy="{number(top)}" r="{size:.2f}" fill="{tone}" opacity="{shine:.2f}"/>')
    star = c.glow((0, "#ffffff", 1), (0.12, "#ffffff", 0.75), (0.3, "#cfd8ff", 0.2), (1, "#cfd8ff", 0))
    for x, y, r in ((250, 150, 20), (820, 90, 15), (1330, 330, 17), (1890, 140, 22), (560, 410, 13)):
        c.add(f'<circle cx="{x}" cy="{y}" r="{r}" fill="{star}"/>')
    return c


def moon() -> Canvas:
    c = Canvas(1100, 1100)
    halo = c.glow(
        (0, "#ffe7b0", 0.95),
        (0.36, "#ffd99a", 0.42),
        (0.55, "#f5b98a", 0.16),
        (0.8, "#c78bb0", 0.05),
        (1, "#8a7ac0", 0),
    )
    c.add(f'<circle cx="550" cy="550" r="550" fill="{halo}"/>')
    face = c.define(
        '<radialGradient id="{id}" cx="0.4" cy="0.36" r="0.72"><stop offset="0" stop-color="#fffbe9"/>'
        '<stop offset="0.6" stop-color="#fdebbd"/><stop offset="1" stop-color="#f1c98c"/></radialGradient>'
    )
    c.add(f'<g filter="{c.paper("#ffffff", 0.8, 4, 3)}"><circle cx="550" cy="550" r="205" fill="{face}"/></g>')
    soft = c.blur(7)
    for x, y, r, a in (
        (480, 500, 46, 0.22),
        (610, 610, 62, 0.2),
        (630, 470, 30, 0.2),
        (520, 650, 26, 0.18),
        (450, 590, 20, 0.16),
    ):
        c.add(f'<circle cx="{x}" cy="{y}" r="{r}" fill="#d5a465" opacity="{a}" filter="{soft}"/>')
    return c


def _hills(chance: Random, width: int, base: float, rise: float, waves: int) -> list[tuple[float, float]]:
    tones = [(rise / (k + 1) ** 0.9, chance.uniform(0.6, 1.3) * (k + 1), chance.uniform(0, 6.28)) for k in range(waves)]
    return [
        (x, base - sum(a * (0.5 + 0.5 * math.sin(f * x / width * 6.28 + p)) for a, f, p in tones))
        for x in range(0, width + 1, 8)
    ]


def far_ridge() -> Canvas:
    c = Canvas(2600, 760)
    fill = c.fade((0, "#5d5590", 1), (0.55, "#7a5f96", 1), (1, "#b8788f", 1))
    line = _hills(Random(21), 2600, 560, 190, 5)
    shape = points((0, 760), *line, (2600, 760))
    c.add(f'<g filter="{c.paper("#ffd9b4", 0.28, 4, 5)}"><polygon points="{shape}" fill="{fill}"/></g>')
    mist = c.fade((0, "#ffd0a0", 0), (0.7, "#f2a98a", 0.35), (1, "#f2b58f", 0.7))
    c.add(f'<polygon points="{shape}" fill="{mist}"/>')
    return c


def near_ridge() -> Canvas:
    c = Canvas(2600, 760)
    chance = Random(38)
    fill = c.fade((0, "#2f3566", 1), (0.6, "#3c3f74", 1), (1, "#6a5583", 1))
    line = _hills(chance, 2600, 560, 150, 4)
    trees = []
    for _ in range(190):
        x, y = line[chance.randrange(4, len(line) - 4)]
        h = chance.uniform(26, 78)
        w = h * chance.uniform(0.2, 0.3)
        y += 6
        tiers = [
            (x - w * s, y - h * t)
            for s, t in ((0.2, 0), (1, 0.06), (0.45, 0.36), (0.8, 0.36), (0.3, 0.66), (0.5, 0.66))
        ]
        mirrored = [(2 * x - px, py) for px, py in reversed(tiers)]
        trees.append(f'<polygon points="{points(*tiers, (x, y - h), *mirrored)}"/>')
    c.add(
        f'<g filter="{c.paper("#f2b49a", 0.42, 3, 9)}" fill="{fill}"><polygon points="{points((0, 760), *line, (2600, 760))}"/>'
        f'<g fill="#31366a">{"".join(trees)}</g></g>'
    )
    mist = c.fade((0, "#8d6a98", 0), (0.6, "#8d6a98", 0.12), (1, "#c8838b", 0.55))
    c.add(f'<polygon points="{points((0, 760), *line, (2600, 760))}" fill="{mist}"/>')
    return c


def mist() -> Canvas:
    c = Canvas(1600, 420)
    soft = c.blur(38)
    for x, y, rx, ry, tone, a in (
        (400, 250, 420, 70, "#ffc98c", 0.55),
        (1120, 270, 470, 64, "#ffbe83", 0.55),
        (780, 220, 360, 52, "#ffe0ac", 0.5),
        (240, 300, 300, 40, "#f5a37a", 0.4),
        (1400, 230, 260, 46, "#f5a37a", 0.35),
    ):
        c.add(f'<ellipse cx="{x}" cy="{y}" rx="{rx}" ry="{ry}" fill="{tone}" opacity="{a}" filter="{soft}"/>')
    return c
