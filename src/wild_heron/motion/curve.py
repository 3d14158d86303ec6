"""Key curves as functions of the frame, evaluated for arrays of frames; see ``pieces`` for how."""

from bisect import bisect_right
from functools import lru_cache

import numpy as np

from ..arrays import Array
from ..scene.channel import Channel, Key
from ..scene.spans import Beyond, Flow, Handles
from .pieces import Pieces, flow_slopes


class Curve:
    """Keys (at least one, in order of frame) as a function of the frame, and what it does beyond them.

    All of them are compiled when it is asked for more than a frame, or for a second one: of a curve that is being
    edited hardly more than the span under the playhead is ever looked at.
    """

    def __init__(self, keys: tuple[Key, ...], before: Beyond = "hold", after: Beyond = "hold") -> None:
        self._keys, self.before, self.after = keys, before, after
        self.first, self.last = keys[0].frame, keys[-1].frame
        self._whole: Pieces | None = None
        self._was_asked = False

    def __call__(self, frames: Array) -> Array:
        """Values (N,) at frames (N,)."""
        if self._whole is None and len(frames) == 1 and not self._was_asked:
            self._was_asked = True
            frame = float(frames[0])
            if (frame >= self.first or self.before == "hold") and (frame <= self.last or self.after == "hold"):
                return Pieces(self._around(frame), "hold", "hold")(frames)
        return self._compiled()(frames)

    def end_speeds(self) -> tuple[float, float]:
        """Values per frame just after the first and just before the last key, from the first and last piece; 0 where
        the curve is vertical there."""
        return self._compiled().end_speeds()

    def _compiled(self) -> "Pieces":
        whole = self._whole
        if whole is None:
            whole = self._whole = Pieces(self._keys, self.before, self.after)
        return whole

    def _around(self, frame: float) -> tuple[Key, ...]:
        """The keys that decide about a frame: those of its span, and of a flow all that it runs through, with what it
        heeds beyond."""
        keys = self._keys
        low = max(bisect_right(keys, frame, key=lambda key: key.frame) - 1, 0)
        if low == len(keys) - 1:
            return keys[low:]
        high = low + 1
        span = keys[low].span
        if isinstance(span, Flow):
            while low > 0 and keys[low - 1].span == span:
                low -= 1
            while high < len(keys) - 1 and keys[high].span == span:
                high += 1
            low -= low > 0 and isinstance(keys[low - 1].span, Flow | Handles)
            high += high < len(keys) - 1 and isinstance(keys[high].span, Flow | Handles)
        return keys[low : high + 1]


def end_slopes(keys: tuple[Key, ...]) -> dict[int, tuple[float, float]]:
    """Slopes, in values per frame, at both ends of each flow span, by the number of the key it begins at."""
    frames = np.array([key.frame for key in keys])
    return flow_slopes(frames, np.array([key.value for key in keys]), [key.span for key in keys])


@lru_cache(maxsize=8192)
def _compiled(keys: tuple[Key, ...], before: Beyond, after: Beyond) -> Curve:
    return Curve(keys, before, after)


@lru_cache(maxsize=8192)
def compiled(channel: Channel) -> Curve | None:
    """The channel's curve, or None where it has no keys. Cached by the channel, whose hash is kept with it."""
    return _compiled(channel.keys, channel.before, channel.after) if channel.keys else None


def evaluate_channel(channel: Channel, frames: Array) -> Array:
    """Values of a channel at frames (N,): (N,), or (1,) where it has no keys and so never changes."""
    curve = compiled(channel)
    return np.array([channel.value]) if curve is None else curve(frames)


def speed(channel: Channel, frames: Array) -> Array:
    """How fast a channel changes at frames (N,), in values per frame: over a thousandth of a frame, not across keys."""
    curve = compiled(channel)
    if curve is None:
        return np.zeros(len(frames))
    half = 5e-4
    left, right = frames - half, frames + half
    for key in channel.keys:
        near = np.abs(frames - key.frame) < half
        # A key belongs to the span that it begins.
        left = np.where(near & (frames >= key.frame), key.frame, left)
        right = np.where(near & (frames < key.frame), np.nextafter(key.frame, -np.inf), right)
    return (curve(right) - curve(left)) / np.maximum(right - left, 1e-9)
