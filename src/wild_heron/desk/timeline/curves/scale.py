"""The value axis, and which channels are drawn. Free of Qt."""

from functools import lru_cache

import msgspec
import numpy as np

from ....arrays import Array
from ....edits import KeyRef
from ....motion import evaluate_channel
from ....motion.curve import speed
from ....scene import Channel, Scene, spec, specs
from ....scene.types import UnitName
from ...widgets.theme import AMBER, AXES, PLUM, REED, RUST, SKY, SLATE, STRAW

MOST = 24
"""How many curves are drawn at once."""


class ValueAxis(msgspec.Struct, frozen=True):
    """Values up pixels: ``low`` at the bottom, ``high`` at the top."""

    top: float
    height: float
    low: float
    high: float

    def y(self, value: float) -> float:
        return self.top + (self.high - value) / (self.high - self.low) * self.height

    def ys(self, values: Array) -> Array:
        """Where values (N,) lie, in pixels (N,)."""
        return self.top + (self.high - values) / (self.high - self.low) * self.height

    def value(self, y: float) -> float:
        return self.high - (y - self.top) / self.height * (self.high - self.low)

    @property
    def pixels_per_value(self) -> float:
        return self.height / (self.high - self.low)

    def zoomed(self, factor: float, about: float) -> "ValueAxis":
        """Seen ``factor`` times as tall, a value kept in place."""
        size = min(max((self.high - self.low) / factor, 1e-6), 1e9)
        share = (about - self.low) / (self.high - self.low)
        low = about - share * size
        return msgspec.structs.replace(self, low=low, high=low + size)

    def moved(self, values: float) -> "ValueAxis":
        return msgspec.structs.replace(self, low=self.low + values, high=self.high + values)

    def ticks(self, least_pixels: float = 26.0) -> list[float]:
        """Round values at readable distances: ones, twos and fives."""
        wanted = least_pixels / self.pixels_per_value
        power = 10.0 ** np.floor(np.log10(wanted))
        step = next(float(power * k) for k in (1.0, 2.0, 5.0, 10.0) if power * k >= wanted)
        first = int(np.ceil(self.low / step))
        return [k * step for k in range(first, int(np.floor(self.high / step)) + 1)]


class ShownChannel(msgspec.Struct, frozen=True):
    """One curve: whose it is, its unit and colour, and the range that normalising makes 0 to 1."""

    node: str
    channel: str
    label: str
    unit: UnitName
    colour: str
    data: Channel
    low: float
    high: float

    def units(self, normal: bool) -> tuple[float, float]:
        """What is taken away from values, and what they are divided by, before they are drawn."""
        return (self.low, max(self.high - self.low, 1e-9)) if normal else (0.0, 1.0)


_TONES = (AMBER, REED, SKY, RUST, PLUM, STRAW, SLATE, AXES[1])
_AXIS_TONES = dict(zip("xyz", AXES, strict=True))


def curves_of(scene: Scene, keys: frozenset[KeyRef], nodes: tuple[str, ...]) -> list[ShownChannel]:
    """The curves of selected keys' channels, else of the selected nodes' keyed ones, else of all that are keyed."""
    places = {(ref.node, ref.channel) for ref in keys}
    found: list[ShownChannel] = []
    # Red, green and blue say x, y and z as long as there is one node to say it of.
    alone = len(nodes) == 1 or len({node for node, _ in places}) == 1
    for node in scene.nodes:
        if not places and nodes and node.id not in nodes:
            continue
        for name in specs(node):
            channel = node.channel(name)
            if channel is None or not channel.keys or (places and (node.id, name) not in places):
                continue
            known = spec(node, name)
            low, high = extent(channel)
            tone = _AXIS_TONES.get(name[-1], "") if alone and name.startswith("position.") else ""
            tone = tone or _TONES[len(found) % len(_TONES)]
            found.append(
                ShownChannel(node.id, name, f"{node.name} · {known.label}", known.unit, tone, channel, low, high)
            )
            if len(found) == MOST:
                return found
    return found


@lru_cache(maxsize=2048)
def extent(channel: Channel) -> tuple[float, float]:
    """Lowest and highest value between the keys."""
    frames = np.linspace(channel.keys[0].frame, channel.keys[-1].frame, 257)
    values = evaluate_channel(channel, frames)
    keyed = [key.value for key in channel.keys]
    return min(float(values.min()), *keyed), max(float(values.max()), *keyed)


def drawn(shown: ShownChannel, frames: Array, speeds: bool, fps: float, normal: bool) -> Array:
    """What is drawn of a curve at frames (N,): its values, or its speeds in units per second."""
    base, unit = shown.units(normal)
    if speeds:
        return speed(shown.data, frames) * fps / unit
    return (evaluate_channel(shown.data, frames) - base) / unit


def framing(
    curves: list[ShownChannel], first: float, last: float, speeds: bool, fps: float, normal: bool
) -> tuple[float, float]:
    """The lowest and highest that there is to see, with room around it."""
    if not curves:
        return 0.0, 1.0
    frames = np.linspace(first, max(last, first + 1e-6), 257)
    values = np.concatenate([drawn(each, frames, speeds, fps, normal) for each in curves])
    low, high = float(values.min()), float(values.max())
    room = 0.12 * (high - low) if high - low > 1e-9 else max(0.5 * abs(high), 0.5)
    return low - room, high + room
