"""The fair itself: the town, the street of stalls, the lantern strings and the kite."""

import math
from random import Random

from .canvas import Canvas, number, points
from .layered import Layered


def _house(chance: Random, x: float, base: float, width: float, wall: float, roof: float, tone: str) -> tuple[str, str]:
    """Silhouette and lit windows of one house."""
    top = base - wall
    steep = chance.random() < 0.35
    ridge = (x + width * (0.5 if steep else chance.uniform(0.4, 0.6)), top - roof * (1.5 if steep else 1))
    shape = f'<polygon points="{points((x, base), (x, top), (x - 7, top + 2), ridge, (x + width + 7, top + 2), (x + width, top), (x + width, base))}" fill="{tone}"/>'
    if chance.random() < 0.6:
        cx = x + width * chance.uniform(0.15, 0.3)
        shape = (
            f'<rect x="{number(cx)}" y="{number(top - roof * 0.85)}" width="13" height="{number(roof * 0.8)}" fill="{tone}"/>'
            + shape
        )
    lights = []
    columns, rows = max(1, int(width // 34)), max(1, int(wall // 46))
    for i in range(columns):
        for j in range(rows):
            if chance.random() < 0.62:
                wx = x + (i + 0.5) * width / columns - 7
                wy = top + 18 + j * 44
                tone = chance.choice(["#ffd27a", "#ffbf5e", "#ffe3a1", "#ff9f52"])
                lights.append(
                    f'<path d="M{number(wx)} {number(wy + 22)}v-15q7 -9 14 0v15z" fill="{tone}" opacity="{chance.uniform(0.75, 1):.2f}"/>'
                )
    return shape, "".join(lights)


def town() -> Layered:
    """The town in four layers, far to near."""
    chance = Random(11)
    rows = []
    for base, low, high, tone in ((760, 150, 330, "#2c3268"), (860, 110, 260, "#1d2450")):
        shapes, lights = [], []
        x = -20.0
        while x < 2820:
            width = chance.uniform(74, 168)
            shape, lit = _house(
                chance, x, 900, width, 900 - base + chance.uniform(low, high), chance.uniform(46, 96), tone
            )
            shapes.append(shape)
            lights.append(lit)
            x += width + chance.uniform(-10, 9)
        rows.append((shapes, lights))
    towers, back, front, fog = (Canvas(2800, 900) for _ in range(4))
    clock = towers.glow((0, "#fff3cf", 1), (0.55, "#ffdf94", 1), (0.6, "#ffcf7a", 0.5), (1, "#ffcf7a", 0))
    towers.add(
        f'<g filter="{towers.paper("#a987b8", 0.5, 3, 12)}" fill="#262c5e">'
        '<rect x="1830" y="250" width="92" height="650"/><polygon points="1818,254 1876,96 1934,254"/>'
        '<rect x="1872" y="52" width="8" height="60"/><rect x="1816" y="246" width="120" height="16"/>'
        '<rect x="760" y="330" width="64" height="570"/><path d="M750 334q42 -96 84 0z"/>'
        '<rect x="788" y="236" width="7" height="56"/></g>'
        f'<circle cx="1876" cy="322" r="56" fill="{clock}"/>'
        '<path d="M1876 322v-24M1876 322l15 10" stroke="#262c5e" stroke-width="4"/>'
    )
    for c, (shapes, lights), rim, seed in ((back, rows[0], "#a987b8", 12), (front, rows[1], "#d79a8a", 13)):
        c.add(f'<g filter="{c.paper(rim, 0.5, 3, seed)}">{"".join(shapes)}</g>')
        c.add(f'<g opacity="0.7" filter="{c.blur(9)}">{"".join(lights)}</g><g>{"".join(lights)}</g>')
    haze = fog.fade((0, "#f0a070", 0), (1, "#ffb877", 0.5))
    fog.add(f'<rect y="770" width="2800" height="130" fill="{haze}"/>')
    roofs = Layered(2800, 900, (("Back roofs", back), ("Front roofs", front)))
    return Layered(2800, 900, (("Towers", towers), ("Rooftops", roofs), ("Low fog", fog)))


_CANOPIES = (
    ("#c8503c", "#f2dfb8"),
    ("#2f7f79", "#f0e2bf"),
    ("#d8923a", "#fbf0d2"),
    ("#7c3f78", "#f0d8c0"),
    ("#386a9c", "#f3e6c8"),
)


def stalls() -> Canvas:
    c = Canvas(3000, 1000)
    chance = Random(5)
    floor = c.fade((0, "#3a2741", 1), (0.25, "#2a1f3a", 1), (1, "#150f22", 1))
    wash = c.glow((0, "#ffdc94", 0.95), (0.4, "#ffb660", 0.5), (1, "#ff9a45", 0))
    c.add(
        f'<g filter="{c.paper("#ffcf94", 0.5, 3, 21)}"><path d="M0 606q750 -30 1500 -8t1500 -2v410h-3000z" fill="{floor}"/></g>'
    )
    width = 330
    for i in range(9):
        x, top = i * 336 - 14, 300 + chance.uniform(-26, 26)
        cloth, pale = _CANOPIES[(i * 3) % 5]
        # Lit inside, behind the counter.
        c.add(f'<rect x="{x + 26}" y="{top + 60}" width="{width - 52}" height="{640 - top - 50}" fill="#5a2f35"/>')
        c.add(f'<ellipse cx="{x + width / 2}" cy="{top + 170}" rx="{width * 0.5}" ry="170" fill="{wash}"/>')
        wares = "".join(
            f'<circle cx="{number(x + 52 + k * 26)}" cy="{number(top + 104 + chance.uniform(0, 26))}" r="{number(chance.uniform(7, 12))}" '
            f'fill="{chance.choice(["#f2c25b", "#e07a4f", "#8fbf9f", "#f6e3b4", "#c8503c"])}"/>'
            for k in range(9)
        )
        figure = x + chance.uniform(90, 230)
        c.add(
            f'<g>{wares}</g><g fill="#2b1a2c"><circle cx="{number(figure)}" cy="{number(top + 176)}" r="24"/>'
            f'<path d="M{number(figure - 42)} {number(top + 290)}q6 -86 42 -88q36 2 42 88z"/></g>'
        )
        board = c.fade((0, "#9a5b3c", 1), (1, "#4a2a30", 1))
        c.add(
            f'<g filter="{c.paper("#ffd9a0", 0.6, 3, 30 + i)}"><rect x="{x + 14}" y="{number(top + 250)}" width="{width - 28}" height="34" rx="4" fill="#b8794a"/>'
            f'<rect x="{x + 24}" y="{number(top + 284)}" width="{width - 48}" height="{number(660 - top - 284)}" fill="{board}"/>'
            f'<rect x="{x + 18}" y="{number(top + 40)}" width="12" height="{number(620 - top)}" fill="#6b3f35"/>'
            f'<rect x="{x + width - 30}" y="{number(top + 40)}" width="12" height="{number(620 - top)}" fill="#6b3f35"/></g>'
        )
        stripes = []
        count = 8
        for k in range(count):
            a, b = x + k * width / count, x + (k + 1) * width / count
            ta, tb = x + width / 2 + (a - x - width / 2) * 0.62, x + width / 2 + (b - x - width / 2) * 0.62
            tone = cloth if k % 2 == 0 else pale
            mid = (a + b) / 2
            stripes.append(
                f'<path d="M{number(ta)} {number(top - 74)}L{number(tb)} {number(top - 74)}L{number(b)} {number(top + 46)}Q{number(mid)} {number(top + 82)} {number(a)} {number(top + 46)}z" fill="{tone}"/>'
            )
        shade = c.fade((0, "#fff0c8", 0.28), (0.5, "#000000", 0.0), (1, "#1a0f24", 0.42))
        c.add(
            f'<g filter="{c.paper("#fff2cc", 0.7, 3, 50 + i)}">{"".join(stripes)}</g>'
            f'<path d="M{number(x + width * 0.19)} {number(top - 74)}h{number(width * 0.62)}L{x + width} {number(top + 74)}H{x}z" fill="{shade}"/>'
        )
        c.add(
            f'<path d="M{x + width / 2} {number(top - 74)}v-46l34 13l-34 13" fill="{cloth}" stroke="#4a2a30" stroke-width="4"/>'
        )
    return c


def lantern_string(seed: int, count: int, sag: float) -> Canvas:
    c = Canvas(2600, 560)
    chance = Random(seed)

    def height(x: float) -> float:
        share = (x / 2600 * 2) % 1.0
        return 70 + sag * 4 * share * (1 - share)

    cord = " ".join(f"L{x} {number(height(x))}" for x in range(0, 2601, 20))
    c.add(f'<path d="M0 {number(height(0))} {cord}" fill="none" stroke="#1a1430" stroke-width="5"/>')
    halo = c.glow((0, "#ffe2a0", 0.85), (0.22, "#ffc566", 0.5), (0.55, "#ff9d45", 0.16), (1, "#ff8a3c", 0))
    tones = [
        ("#ffd887", "#ff9a3e", "#c8503c"),
        ("#ffe6a8", "#f7b24c", "#b8653a"),
        ("#ffc98a", "#ec6f45", "#98384a"),
        ("#f6efc0", "#a9c877", "#4f7f68"),
    ]
    for k in range(count):
        x = 2600 * (k + 0.5) / count + chance.uniform(-16, 16)
        y = height(x) + 16
        w, h = chance.uniform(44, 62), chance.uniform(66, 92)
        light, body, rim = chance.choice(tones)
        c.add(f'<circle cx="{number(x)}" cy="{number(y + h * 0.55)}" r="{number(h * 1.9)}" fill="{halo}"/>')
        skin = c.define(
            f'<radialGradient id="{{id}}" cx="0.5" cy="0.58" r="0.62"><stop offset="0" stop-color="#fffbe6"/><stop offset="0.35" stop-color="{light}"/>'
            f'<stop offset="0.8" stop-color="{body}"/><stop offset="1" stop-color="{rim}"/></radialGradient>'
        )
        round_ = chance.random() < 0.5
        shape = (
            f'<ellipse cx="{number(x)}" cy="{number(y + h / 2)}" rx="{number(w * 0.62)}" ry="{number(h / 2)}" fill="{skin}"/>'
            if round_
            else f'<polygon points="{points((x - w * 0.3, y), (x + w * 0.3, y), (x + w * 0.62, y + h / 2), (x + w * 0.3, y + h), (x - w * 0.3, y + h), (x - w * 0.62, y + h / 2))}" fill="{skin}"/>'
        )
        ribs = "".join(
            f'<path d="M{number(x - w * 0.5)} {number(y + h * s)}q{number(w * 0.5)} 9 {number(w)} 0" stroke="{rim}" stroke-width="2" fill="none" opacity="0.5"/>'
            for s in (0.28, 0.5, 0.72)
        )
        c.add(
            f'<path d="M{number(x)} {number(y - 16)}v16" stroke="#1a1430" stroke-width="4"/>{shape}{ribs}'
            f'<rect x="{number(x - w * 0.26)}" y="{number(y - 5)}" width="{number(w * 0.52)}" height="8" rx="3" fill="#5a2f35"/>'
            f'<rect x="{number(x - w * 0.26)}" y="{number(y + h - 3)}" width="{number(w * 0.52)}" height="8" rx="3" fill="#5a2f35"/>'
            f'<path d="M{number(x)} {number(y + h + 5)}v{number(chance.uniform(16, 30))}" stroke="{rim}" stroke-width="5"/>'
        )
    return c


def kite() -> Canvas:
    c = Canvas(520, 760)
    c.add(
        f'<g filter="{c.paper("#fff6dc", 0.8, 3, 77)}"><polygon points="260,20 480,210 260,230" fill="#d8603f"/><polygon points="260,20 40,210 260,230" fill="#f0e3c0"/>'
        '<polygon points="40,210 260,230 260,470" fill="#2f7f79"/><polygon points="480,210 260,230 260,470" fill="#f2c25b"/></g>'
        '<path d="M260 20V470M40 210Q260 250 480 210" stroke="#43263a" stroke-width="5" fill="none"/>'
    )
    tail = [(260 + 46 * math.sin(t / 5.0), 470 + t * 7) for t in range(41)]
    c.add(f'<polyline points="{points(*tail)}" fill="none" stroke="#43263a" stroke-width="4"/>')
    for t in range(6, 40, 8):
        x, y = tail[t]
        tone = ("#f2c25b", "#d8603f", "#8fbf9f")[t % 3]
        c.add(f'<path d="M{number(x)} {number(y)}l-26 -13v26zM{number(x)} {number(y)}l26 -13v26z" fill="{tone}"/>')
    return c
