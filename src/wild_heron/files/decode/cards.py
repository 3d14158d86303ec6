"""Cards as SVG text, so that they are drawn sharp at any size."""

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from ...scene import Card, Gradient, Solid, Text
from ..contents import PixelsRead
from .lettering import lettering
from .vector import Part, draw_svg


def card_pixels(card: Card, size: tuple[int, int], width: int, limit: int, part: Part | None = None) -> PixelsRead:
    """A card of so many artwork pixels, or a part of it, drawn ``width`` pixels wide, no side longer than ``limit``."""
    if isinstance(card, Solid):
        tone = [int(card.colour[k : k + 2], 16) * card.strength for k in (1, 3, 5)]
        return PixelsRead(np.full((4, 4, 4), [*tone, 255.0 * card.strength]).round().astype(np.uint8))
    problem = lettering(card).problem if isinstance(card, Text) else ""
    return PixelsRead(draw_svg(None, card_svg(card, *size), width, limit, part), problem)


def card_svg(card: Card, width: int, height: int) -> str:
    """SVG text of a card of ``width`` × ``height`` artwork pixels."""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0 {width} {height}">'
        f"{BODIES[type(card)](card, width, height)}</svg>"
    )


def _text_body(card: Text, width: int, height: int) -> str:
    # Where another font stands in for it, the text is wider or narrower than its card: keep it in the middle.
    set_ = lettering(card)
    x, y = (width - set_.width) / 2, (height - set_.height) / 2
    return f'<path transform="translate({x:g} {y:g})" fill="{card.colour}" d="{set_.path}"/>'


def _solid_body(card: Solid, width: int, height: int) -> str:
    return f'<rect width="{width}" height="{height}" fill="{card.colour}" fill-opacity="{card.strength:g}"/>'


def _gradient_body(card: Gradient, width: int, height: int) -> str:
    return f'<defs>{_gradient(card, width, height)}</defs><rect width="{width}" height="{height}" fill="url(#g)"/>'


BODIES: dict[type, Callable[[Any, int, int], str]] = {
    Solid: _solid_body, Gradient: _gradient_body, Text: _text_body,
}  # fmt: skip
"""What is inside the SVG of each kind of card."""


def _gradient(card: Gradient, width: int, height: int) -> str:
    stops = "".join(
        f'<stop offset="{stop.at:g}" stop-color="{stop.colour}" stop-opacity="{stop.strength:g}"/>'
        for stop in sorted(card.stops, key=lambda stop: stop.at)
    )
    x, y = width / 2, height / 2
    if card.form == "around":
        radius = math.hypot(x, y)
        return (
            f'<radialGradient id="g" gradientUnits="userSpaceOnUse" cx="{x:g}" cy="{y:g}" r="{radius:g}">'
            f"{stops}</radialGradient>"
        )
    # As long as it takes for the first and last colour to sit in the corners.
    right, down = math.sin(math.radians(card.angle)), -math.cos(math.radians(card.angle))
    reach = abs(x * right) + abs(y * down)
    return (
        f'<linearGradient id="g" gradientUnits="userSpaceOnUse" x1="{x - right * reach:g}" y1="{y - down * reach:g}" '
        f'x2="{x + right * reach:g}" y2="{y + down * reach:g}">{stops}</linearGradient>'
    )
