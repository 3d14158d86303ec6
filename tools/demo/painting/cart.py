"""The lantern cart: a wagon of painted boards hung with lanterns, and one of its wheels."""

import math

from .canvas import Canvas, number, points

WHEEL = 300
"""Pixels across the wheel, rim to rim."""


def cart() -> Canvas:
    """The wagon without its wheels; its axles are 130 pixels above the lower edge."""
    c = Canvas(1100, 900)
    wood = c.fade((0, "#a2563c", 1), (0.6, "#7c3a34", 1), (1, "#54263a", 1))
    dark = c.fade((0, "#5a2c40", 1), (1, "#34182f", 1))
    cloth = c.fade((0, "#f0e3c0", 1), (1, "#d9a15c", 1))
    halo = c.glow((0, "#ffe7a8", 0.9), (0.3, "#ffc05c", 0.4), (0.7, "#ff9440", 0.1), (1, "#ff8a3c", 0))
    c.add(f'<g filter="{c.paper("#ffdca0", 0.7, 4, 21)}">')
    # Shafts, bed and side boards.
    c.add(f'<path d="M60 640L1050 600l6 26L64 676z" fill="{dark}"/>')
    c.add(f'<path d="M150 520h760l-40 200H210z" fill="{wood}"/>')
    for x in range(0, 7):
        c.add(f'<path d="M{178 + x * 112} 524l{6 + x * -2} 192" stroke="#43203a" stroke-width="5" opacity="0.6"/>')
    c.add('<path d="M140 506h780l-6 34H148z" fill="#c9764a"/>')
    # Posts and a roof of cloth in scallops.
    for x in (200, 860):
        c.add(f'<path d="M{x} 180h22v336h-22z" fill="{dark}"/>')
    roof = "M120 190Q540 10 960 190"
    scallops = "".join(f"q{number(-60)} 62 {number(-120)} 0" for _ in range(7))
    c.add(f'<path d="{roof}{scallops}z" fill="{cloth}"/>')
    for k in range(7):
        left = 960 - 120 * k
        tone = ("#d8603f", "#2f7f79", "#f2c25b")[k % 3]
        c.add(f'<path d="M{left} 190q-60 62 -120 0l14 -44q46 -20 92 0z" fill="{tone}" opacity="0.85"/>')
    c.add("</g>")
    # Lanterns under the roof, and their light.
    for k, (x, y, size) in enumerate(((300, 330, 44), (430, 372, 54), (565, 340, 60), (700, 376, 50), (808, 330, 42))):
        tone = ("#ffd27a", "#ffb25a", "#ffe3a4")[k % 3]
        c.add(f'<path d="M{x} {y - size - 60}V{y - size}" stroke="#43263a" stroke-width="4"/>')
        c.add(f'<circle cx="{x}" cy="{y}" r="{size * 2.6}" fill="{halo}"/>')
        c.add(
            f'<path d="M{x - size * 0.55} {y - size}h{size * 1.1}L{x + size * 0.8} {y}L{x + size * 0.55} {y + size}'
            f'h{-size * 1.1}L{x - size * 0.8} {y}z" fill="{tone}"/>'
            f'<path d="M{x - size * 0.2} {y - size}h{size * 0.4}L{x + size * 0.28} {y}L{x + size * 0.2} {y + size}'
            f'h{-size * 0.4}L{x - size * 0.28} {y}z" fill="#fff6d8"/>'
        )
    # A pennant behind.
    c.add('<path d="M872 190V60" stroke="#34182f" stroke-width="9"/><path d="M872 62l120 34l-120 36z" fill="#d8603f"/>')
    return c


def wheel() -> Canvas:
    c = Canvas(WHEEL, WHEEL)
    middle = WHEEL / 2
    c.add(f'<g filter="{c.paper("#ffdca0", 0.7, 3, 9)}">')
    c.add(f'<circle cx="{middle}" cy="{middle}" r="{middle - 16}" fill="none" stroke="#3a1b33" stroke-width="30"/>')
    c.add(f'<circle cx="{middle}" cy="{middle}" r="{middle - 16}" fill="none" stroke="#c9764a" stroke-width="14"/>')
    for k in range(8):
        angle = k * math.pi / 4
        side = (math.cos(angle + math.pi / 2) * 8, math.sin(angle + math.pi / 2) * 8)
        out = (middle + math.cos(angle) * (middle - 24), middle + math.sin(angle) * (middle - 24))
        spoke = points(
            (middle + side[0], middle + side[1]), (out[0] + side[0] * 0.7, out[1] + side[1] * 0.7),
            (out[0] - side[0] * 0.7, out[1] - side[1] * 0.7), (middle - side[0], middle - side[1]),
        )  # fmt: skip
        c.add(f'<polygon points="{spoke}" fill="{"#e0a05c" if k == 0 else "#9c5240"}"/>')
    c.add(
        f'<circle cx="{middle}" cy="{middle}" r="30" fill="#5a2c40"/><circle cx="{middle}" cy="{middle}" r="13" fill="#f2c25b"/>'
    )
    c.add("</g>")
    return c
