"""Lanes as shapes: a span is drawn as the filled outline of its own values."""

from functools import lru_cache

import msgspec
import numpy as np
from numpy.typing import NDArray

from ...motion import evaluate_channel
from ...scene import Channel, Scene, specs
from .axis import TimeAxis

Array = NDArray[np.float64]

_SAMPLE_PIXELS = 2.0


class Lane(msgspec.Struct, frozen=True):
    """A row: one keyed channel of one node."""

    node: str
    channel: str
    label: str
    colour: str
    data: Channel


def lanes_of(scene: Scene, only: tuple[str, ...] | None = None) -> list[Lane]:
    """Every keyed channel, in the order of the scene; or those of some nodes."""
    rows = []
    for node in scene.nodes:
        if only is not None and node.id not in only:
            continue
        known = specs(node)
        for name in known:
            channel = node.channel(name)
            if channel is not None and channel.keys:
                rows.append(Lane(node.id, name, f"{node.name} · {known[name].label}", node.colour, channel))
    return rows


@lru_cache(maxsize=4096)
def value_range(channel: Channel) -> tuple[float, float]:
    """Lowest and highest value of the lane, with whatever overshoots its keys."""
    first, last = channel.keys[0].frame, channel.keys[-1].frame
    values = (
        evaluate_channel(channel, np.linspace(first, last, 129)) if last > first else np.array([channel.keys[0].value])
    )
    keyed = [key.value for key in channel.keys]
    return min(float(values.min()), *keyed), max(float(values.max()), *keyed)


def heights(values: Array, low: float, high: float) -> Array:
    """Values as shares 0–1 of the lane's height; a lane that never changes sits low."""
    return (values - low) / (high - low) if high - low > 1e-12 else np.full(len(values), 0.25)


def span_outline(channel: Channel, index: int, axis: TimeAxis, low: float, high: float) -> tuple[Array, Array]:
    """Pixels x (M,) and shares of height (M,) of one span's curve, only where it is in view."""
    left, right = channel.keys[index], channel.keys[index + 1]
    start = max(left.frame, axis.start - 1.0)
    end = min(right.frame, axis.end + 1.0)
    if end <= start:
        return np.zeros(0), np.zeros(0)
    count = int(np.clip((end - start) * axis.pixels_per_frame / _SAMPLE_PIXELS, 2, 2000))
    frames = np.linspace(start, end, count)
    if end == right.frame:
        # The last sample belongs to this span, not to the one that begins there.
        frames[-1] = np.nextafter(right.frame, left.frame)
    return axis.xs(frames), heights(evaluate_channel(channel, frames), low, high)
