"""The fair's emblem as outlines to be extruded: a lantern in a ring of rays; and the glow behind it."""

import math

from .canvas import Canvas, number


def emblem_glow() -> Canvas:
    c = Canvas(900, 900)
    halo = c.glow((0, "#ffdf9a", 0.85), (0.4, "#ffb85c", 0.36), (1, "#ff9a45", 0))
    c.add(f'<circle cx="450" cy="450" r="448" fill="{halo}"/>')
    return c


def emblem() -> Canvas:
    """Shapes that lie over each other: what is covered is cut away when they are made solid."""
    c = Canvas(600, 600)
    rays = []
    for k in range(24):
        a = k * math.tau / 24
        inner, outer = 180, 282 if k % 2 == 0 else 244
        for_side = 0.06 if k % 2 == 0 else 0.042
        p = [(inner, a - for_side), (outer, a), (inner, a + for_side)]
        rays.append(
            "M" + "L".join(f"{number(300 + r * math.sin(t))} {number(300 - r * math.cos(t))}" for r, t in p) + "z"
        )
    c.add(f'<path d="{"".join(rays)}" fill="#f6cf73"/>')
    c.add('<circle cx="300" cy="300" r="190" fill="#e0a646"/><circle cx="300" cy="300" r="164" fill="#43234a"/>')
    beads = "".join(
        f'<circle cx="{number(300 + 146 * math.sin(k * math.tau / 32))}" '
        f'cy="{number(300 - 146 * math.cos(k * math.tau / 32))}" r="4.5"/>'
        for k in range(32)
    )
    c.add(f'<g fill="#f6e0a8">{beads}</g>')
    c.add('<path d="M262 208h76l48 92l-48 100h-76l-48 -100z" fill="#f0803f"/>')
    c.add('<path d="M274 214h52l30 86l-30 94h-52l-30 -94z" fill="#f7b155"/>')
    c.add('<path d="M300 376C264 352 276 318 300 276C324 318 336 352 300 376z" fill="#fff6d6"/>')
    c.add(
        '<g fill="#f2c25b"><rect x="248" y="190" width="104" height="22" rx="7"/>'
        '<rect x="248" y="394" width="104" height="22" rx="7"/>'
        '<path d="M293 192v-18h14v18z"/><path d="M300 148a15 15 0 1 0 0.1 0zm0 9a6 6 0 1 1 -0.1 0z"/>'
        '<rect x="273" y="416" width="8" height="30" rx="3"/><rect x="296" y="416" width="8" height="40" rx="3"/>'
        '<rect x="319" y="416" width="8" height="30" rx="3"/></g>'
    )
    return c
