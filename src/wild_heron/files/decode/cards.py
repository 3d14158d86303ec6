"""Cards as SVG text, so that they are drawn sharp at any size."""

import math

from ...scene import Gradient, Solid, Text
from .lettering import lettering


def card_svg(card: Solid | Gradient | Text, width: int, height: int) -> str:
    """SVG text of a card of ``width`` × ``height`` artwork pixels."""
    if isinstance(card, Text):
        # Where another font stands in for it, the text is wider or narrower than its card: keep it in the middle.
        set_ = lettering(card)
        x, y = (width - set_.width) / 2, (height - set_.height) / 2
        body = f'<path transform="translate({x:g} {y:g})" fill="{card.colour}" d="{set_.path}"/>'
    elif isinstance(card, Solid):
        body = f'<rect width="{width}" height="{height}" fill="{card.colour}" fill-opacity="{card.strength:g}"/>'
    else:
        body = f'<defs>{_gradient(card, width, height)}</defs><rect width="{width}" height="{height}" fill="url(#g)"/>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0 {width} {height}">'
        f"{body}</svg>"
    )


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
