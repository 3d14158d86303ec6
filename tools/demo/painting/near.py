"""What is close to the lens: the crowd's edge, and reeds with a heron."""

from random import Random

from .canvas import Canvas, number


def crowd() -> Canvas:
    c = Canvas(3000, 640)
    chance = Random(16)
    coat = c.fade((0, "#2a1d3a", 1), (0.5, "#190f28", 1), (1, "#0c0818", 1))
    people, lamps = [], []
    halo = c.glow((0, "#ffe2a0", 0.95), (0.25, "#ffc05c", 0.55), (0.6, "#ff9440", 0.16), (1, "#ff8a3c", 0))
    x = -40.0
    while x < 3060:
        tall = chance.uniform(190, 320) if chance.random() < 0.75 else chance.uniform(120, 180)
        head = 25 + tall * 0.07
        y = 640 - tall
        wide = head * chance.uniform(1.75, 2.25)
        hat = chance.random()
        person = (
            f'<circle cx="{number(x)}" cy="{number(y)}" r="{number(head)}"/>'
            f'<path d="M{number(x - wide)} 660C{number(x - wide)} {number(y + head * 1.4)} {number(x - head)} {number(y + head * 0.9)} {number(x)} {number(y + head * 0.8)}'
            f'S{number(x + wide)} {number(y + head * 1.4)} {number(x + wide)} 660z"/>'
        )
        if hat < 0.28:
            person += f'<path d="M{number(x - head * 1.5)} {number(y - head * 0.35)}q{number(head * 1.5)} -16 {number(head * 3)} 0l{number(-head * 0.6)} -9q{number(-head * 0.2)} {number(-head * 1.1)} {number(-head * 0.9)} {number(-head * 1.1)}t{number(-head * 0.9)} {number(head * 1.1)}z"/>'
        elif hat < 0.45:
            person += (
                f'<circle cx="{number(x + head * 0.2)}" cy="{number(y - head * 1.02)}" r="{number(head * 0.42)}"/>'
            )
        people.append(person)
        if chance.random() < 0.26:
            lx, ly = x + wide * chance.choice([-0.9, 0.9]), y - chance.uniform(30, 110)
            lamps.append((lx, ly, x, y + head * 2))
        x += chance.uniform(46, 104)
    c.add(f'<g filter="{c.paper("#ffb870", 0.75, 4, 61)}" fill="{coat}">{"".join(people)}</g>')
    for lx, ly, hx, hy in lamps:
        c.add(
            f'<path d="M{number(hx)} {number(hy)}Q{number(lx)} {number(hy)} {number(lx)} {number(ly - 26)}" stroke="#1a1028" stroke-width="9" fill="none" stroke-linecap="round"/>'
            f'<circle cx="{number(lx)}" cy="{number(ly)}" r="120" fill="{halo}"/>'
            f'<path d="M{number(lx - 17)} {number(ly - 24)}h34l8 24l-8 24h-34l-8 -24z" fill="#ffd27a"/>'
            f'<path d="M{number(lx - 9)} {number(ly - 24)}h18l4 24l-4 24h-18l-4 -24z" fill="#fff3c8"/>'
        )
    return c


def _blade(chance: Random, x: float, base: float, tall: float, lean: float, wide: float) -> str:
    tip, side = x + lean, x + lean * 0.35
    return (
        f'<path d="M{number(x - wide)} {number(base)}Q{number(side - wide * 0.6)} {number(base - tall * 0.6)} {number(tip)} {number(base - tall)}'
        f'Q{number(side + wide * 0.6)} {number(base - tall * 0.55)} {number(x + wide)} {number(base)}z"/>'
    )


def grass() -> Canvas:
    c = Canvas(3200, 900)
    chance = Random(3)
    back = c.fade((0, "#233a4a", 1), (0.6, "#14232f", 1), (1, "#0a1119", 1))
    front = c.fade((0, "#1a2c38", 1), (0.5, "#0e1922", 1), (1, "#070c12", 1))

    def tuft(count: int, low: float, high: float) -> str:
        blades = []
        for _ in range(count):
            x = chance.uniform(-20, 3220)
            # Taller towards the sides, so that the reeds frame the picture.
            frame = 0.42 + 0.58 * abs(x / 1600 - 1) ** 1.3
            blades.append(
                _blade(chance, x, 910, chance.uniform(low, high) * frame, chance.uniform(-95, 95), chance.uniform(3, 9))
            )
        return "".join(blades)

    c.add(f'<g fill="{back}" filter="{c.paper("#8fb7b0", 0.4, 3, 71)}">{tuft(330, 240, 640)}</g>')
    for _ in range(34):
        x = chance.choice([chance.uniform(0, 900), chance.uniform(2300, 3200)])
        tall = chance.uniform(430, 660)
        lean = chance.uniform(-40, 40)
        c.add(
            f'<g stroke="#14232f" stroke-width="6" fill="none"><path d="M{number(x)} 910Q{number(x)} {number(910 - tall * 0.6)} {number(x + lean)} {number(910 - tall)}"/></g>'
            f'<rect x="{number(x + lean - 11)}" y="{number(910 - tall - 44)}" width="22" height="96" rx="11" fill="#4a3330"/>'
        )
    # The heron stands in the reeds and watches the fair.
    c.add(
        f'<g transform="translate(700 330) scale(0.92)"><g filter="{c.paper("#ffd9a6", 0.75, 4, 90)}" fill="#1b2b35" stroke="none">'
        '<path d="M-95 250C-110 210 -60 168 0 163C50 158 88 172 102 200C92 242 40 286 -30 291C-72 294 -112 326 -158 348C-134 312 -110 286 -95 250z"/>'
        '<path d="M62 190C118 160 74 118 66 78C60 40 84 14 90 -16L116 -12C112 22 92 46 97 76C104 112 142 168 100 214z"/>'
        '<path d="M82 -20C82 -44 118 -50 134 -30L228 -10L132 -12C120 0 90 2 82 -20z"/><path d="M92 -34L14 -52L84 -16z"/></g>'
        '<path d="M-14 286L-24 620M22 284L30 620" stroke="#1b2b35" stroke-width="9"/><circle cx="116" cy="-26" r="4.5" fill="#f2c25b"/>'
        '<path d="M-70 236C-30 206 40 200 84 208C40 226 -10 240 -60 270z" fill="#2c4552"/></g>'
    )
    c.add(f'<g fill="{front}" filter="{c.paper("#6f9a98", 0.3, 3, 72)}">{tuft(260, 150, 420)}</g>')
    c.add('<rect y="868" width="3200" height="40" fill="#070c12"/>')
    return c
