"""What everything in one sample is drawn with: light, shadow and haze, or the colours of a matte."""

from typing import NamedTuple

from ..scene import Distance, Ground, Logo, Model, Picture
from .lighting import Lighting
from .shadows import ShadowMap

_Drawn = Picture | Logo | Model | Ground


class Paint(NamedTuple):
    """``drafts``: what is seen small may be drawn coarsely."""

    lights: Lighting
    shadow: ShadowMap | None
    distance: Distance | None
    drafts: bool = False
    mattes: dict[str, Distance] | None = None
    """By node id, the colour that it has in a matte, told as haze that leaves nothing else; all others are black."""

    def haze_on(self, node: _Drawn) -> Distance | None:
        """What fades a node; None for nothing."""
        if self.mattes is not None:
            return self.mattes.get(node.id, _BLACK)
        return self.distance if node.takes_haze else None

    def lights_on(self, node: _Drawn) -> bool:
        """Whether light shades a node."""
        return self.mattes is None and node.takes_light


def matte(red: float, green: float, blue: float) -> Distance:
    """Haze that leaves nothing of a node but one colour, told in shares."""
    return Distance(f"#{round(255 * red):02x}{round(255 * green):02x}{round(255 * blue):02x}", -2.0, -1.0, 1.0)


_BLACK = matte(0.0, 0.0, 0.0)
