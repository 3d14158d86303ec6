"""The fair's emblem: a lantern in a ring of rays, as vector art."""

import math

from .canvas import Canvas, number


def emblem() -> Canvas:
    c = Canvas(600, 600)
    halo = c.glow((0, "#ffdf9a", 0.9), (0.45, "#ffb85c", 0.4), (1, "#ff9a45", 0))
    c.add(f'<circle cx="300" cy="300" r="298" fill="{halo}"/>')
    rays = []
    for k in range(24):
        a = k * math.tau / 24
        inner, outer = 196, 258 if k % 2 == 0 else 230
        for_side = 0.045 if k % 2 == 0 else 0.03
        p = [(inner, a - for_side), (outer, a), (inner, a + for_side)]
        rays.append(
            "M" + "L".join(f"{number(300 + r * math.sin(t))} {number(300 - r * math.cos(t))}" for r, t in p) + "z"
        )
    c.add(f'<path d="{"".join(rays)}" fill="#f6cf73"/>')
    gold = c.fade((0, "#fff0bd", 1), (0.5, "#f2c25b", 1), (1, "#b9762f", 1))
    c.add(
        f'<circle cx="300" cy="300" r="186" fill="#3a1f3a"/><circle cx="300" cy="300" r="176" fill="none" stroke="{gold}" stroke-width="18"/>'
    )
    c.add(
        '<circle cx="300" cy="300" r="156" fill="none" stroke="#f6e0a8" stroke-width="3" stroke-dasharray="3 11" stroke-linecap="round"/>'
    )
    flame = c.define(
        '<radialGradient id="{id}" cx="0.5" cy="0.6" r="0.6"><stop offset="0" stop-color="#fffbe6"/><stop offset="0.4" stop-color="#ffd887"/>'
        '<stop offset="0.85" stop-color="#f0803f"/><stop offset="1" stop-color="#c8503c"/></radialGradient>'
    )
    c.add(
        f'<path d="M262 208h76l48 92l-48 100h-76l-48 -100z" fill="{flame}"/>'
        '<path d="M300 208V400M262 208Q236 300 262 400M338 208Q364 300 338 400" stroke="#8a3a34" stroke-width="5" fill="none" opacity="0.7"/>'
        f'<rect x="250" y="194" width="100" height="18" rx="6" fill="{gold}"/><rect x="250" y="396" width="100" height="18" rx="6" fill="{gold}"/>'
        f'<path d="M300 194v-22m0 0a14 14 0 1 1 0.1 0" stroke="{gold}" stroke-width="9" fill="none"/>'
        '<path d="M276 414v34M300 414v44M324 414v34" stroke="#f2c25b" stroke-width="7" stroke-linecap="round"/>'
    )
    c.add('<path d="M300 372C268 350 278 318 300 280C322 318 332 350 300 372z" fill="#fff6d6"/>')
    return c
