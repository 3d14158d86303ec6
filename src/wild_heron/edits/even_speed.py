"""Retimes position keys by arc length, for even speed or one ease."""

from functools import lru_cache
from itertools import pairwise

import numpy as np

from ..arrays import Array
from ..evaluate.evaluation import evaluate
from ..motion import unit_ease
from ..scene import Channel, Handles, Hold, Key, Linear, Scene, SceneError, Span, channel_or_default
from ..scene.channels import POSITION
from . import SAME_FRAME, check_unlocked, merge_keys, set_channel

_EVEN = 0.002
_OFF_THE_WAY = 4e-3
"""How far, in units, it may be from where on the way it should be at any moment."""
_DEEPEST = 10
_FINE = 20_001


def even_speed(scene: Scene, node_id: str, first: float, last: float, ease: Span | None = None) -> Scene:
    """A node's position keys between two of them retimed by the length of the way, so that it goes at one speed, or,
    with an ease, by it over the whole run. The way itself stays; keys are added where a curve needs them.

    SceneError where there are no keys at both ends, no way between them, or an axis is locked.
    """
    node = scene.node(node_id)
    check_unlocked(node, POSITION)
    channels = [channel_or_default(node, name) for name in POSITION]
    frames = sorted({k.frame for c in channels for k in c.keys if first - SAME_FRAME <= k.frame <= last + SAME_FRAME})
    if len(frames) < 2:
        raise SceneError(f"{node.name} needs two position keys for an even speed between them.")
    first, last = frames[0], frames[-1]
    fine = np.linspace(first, last, 64 * max(round(last - first), 8) + 1)
    here = evaluate(scene, fine, [node_id])
    points = np.stack([here.value(node_id, name) for name in POSITION], axis=1)
    steps = np.sqrt((np.diff(points, axis=0) ** 2).sum(axis=1))
    run = np.concatenate([[0.0], np.cumsum(steps)])
    if run[-1] < 1e-9:
        raise SceneError(f"{node.name} does not go anywhere between these keys.")
    way = _Way(points, run)
    inner = np.interp(frames, fine, run) / run[-1]
    cuts = _cuts(way, np.unique(np.round(inner, 9)).tolist(), ease)
    times = first + (last - first) * _times_of(cuts, ease)
    mean = way.length / (last - first)
    for k, channel in enumerate(channels):
        onward, arriving = (
            way.direction(np.array(cuts), side)[:, k] * _speeds_at(cuts, ease, side) * mean for side in (1.0, -1.0)
        )
        values = way.at(np.array(cuts))[:, k]
        new = [
            Key(float(t), round(float(v), 10), Handles(float(onward[i]), 1 / 3, float(arriving[i + 1]), 1 / 3))
            for i, (t, v) in enumerate(zip(times[:-1], values[:-1], strict=True))
        ]
        end = channel.key_at(last)
        if times[-1] < last - SAME_FRAME:
            new.append(Key(float(times[-1]), round(float(values[-1]), 10), Hold()))  # It is there early, and waits.
        new.append(Key(last, round(float(values[-1]), 10), end.span if end else Linear()))
        outside = [key for key in channel.keys if not first - SAME_FRAME <= key.frame <= last + SAME_FRAME]
        scene = set_channel(scene, node_id, Channel(channel.name, channel.value, merge_keys(outside, new)))
    return scene


class _Way:
    """A polyline by shares of its length."""

    def __init__(self, points: Array, run: Array) -> None:
        keep = np.concatenate([[True], np.diff(run) > 1e-12])
        self._points, self._share = points[keep], run[keep] / run[-1]
        self.length = float(run[-1])

    def at(self, share: Array) -> Array:
        return np.stack([np.interp(share, self._share, self._points[:, k]) for k in range(3)], axis=1)

    def direction(self, share: Array, side: float) -> Array:
        """Unit directions (N, 3) just after (``side`` 1) or before (−1) shares of the way: at a corner they differ."""
        near = np.clip(share + side * 1e-4, 0.0, 1.0)
        step = (self.at(near) - self.at(share)) * side
        return step / np.maximum(np.sqrt((step * step).sum(axis=1)), 1e-12)[:, None]


def _cuts(way: _Way, shares: list[float], ease: Span | None) -> list[float]:
    """Shares of the way between which cubics with its directions and the wanted speeds keep to both."""
    t = np.linspace(0.0, 1.0, 33)
    rest = 1.0 - t

    def keeps(a: float, b: float) -> bool:
        start, end = _times_of([a, b], ease)
        time = float(end - start)
        rate = way.length * time
        low, high = way.at(np.array([a, b]))
        onward = way.direction(np.array([a]), 1.0)[0] * _speeds_at([a], ease, 1.0)[0] * rate
        arriving = way.direction(np.array([b]), -1.0)[0] * _speeds_at([b], ease, -1.0)[0] * rate
        rise = high - low
        cubic = low + np.outer(t * t * (3.0 - 2.0 * t), rise)
        cubic = cubic + np.outer(t * rest * rest, onward) - np.outer(t * t * rest, arriving)
        wanted = way.at(np.clip(_gone(start + time * t, ease), a, b))
        if np.sqrt(((cubic - wanted) ** 2).sum(axis=1)).max() > _OFF_THE_WAY:
            return False
        if ease is not None:
            return True
        slope = 6.0 * np.outer(t * rest, rise) + np.outer(rest * (1.0 - 3.0 * t), onward)
        slope = slope + np.outer(t * (3.0 * t - 2.0), arriving)
        speed = np.sqrt((slope * slope).sum(axis=1)) / ((b - a) * way.length)
        return bool(np.abs(speed - 1.0).max() <= _EVEN)

    def divided(a: float, b: float, depth: int) -> list[float]:
        if depth == _DEEPEST or keeps(a, b):
            return [b]
        middle = 0.5 * (a + b)
        return [*divided(a, middle, depth + 1), *divided(middle, b, depth + 1)]

    out = [shares[0]]
    for a, b in pairwise(shares):
        out += divided(a, b, 0)
    return out


def _gone(times: Array, ease: Span | None) -> Array:
    """The share of the way (N,) that is behind at shares (N,) of the run."""
    if ease is None:
        return times
    t = np.linspace(0.0, 1.0, _FINE)
    return np.interp(times, t, _eased(ease))


@lru_cache(maxsize=8)
def _eased(ease: Span) -> Array:
    """How much of the way is behind at even times (M,), never going back."""
    return np.asarray(np.maximum.accumulate(np.clip(unit_ease(ease)(np.linspace(0.0, 1.0, _FINE)), 0.0, 1.0)))


def _times_of(shares: list[float], ease: Span | None) -> Array:
    """When, as a share of the run, each share of the way is reached."""
    wanted = np.array(shares)
    if ease is None:
        return wanted
    gone = _eased(ease)
    # Where it waits, what counts is when it came.
    came = np.concatenate([[True], np.diff(gone) > 0.0])
    return np.interp(wanted, gone[came], np.linspace(0.0, 1.0, _FINE)[came])


def _speeds_at(shares: list[float], ease: Span | None, side: float) -> Array:
    """How fast it goes just after there (``side`` 1) or just before (−1), as a multiple of the mean speed."""
    if ease is None:
        return np.ones(len(shares))
    at = _times_of(shares, ease)
    near = np.clip(at + side * 1e-4, 0.0, 1.0)
    step = near - at
    return np.asarray((_gone(near, ease) - _gone(at, ease)) / np.where(step == 0.0, 1.0, step))
