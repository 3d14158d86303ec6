"""Maps scene frames to source frames of movies, sequences and animations."""

import math

from ..scene import Movie, Sequence, Timing

_SLIVER = 1e-6
"""Added to a count of frames, so that frames of equal rates fall on, not just before, their time."""


def source_frame(artwork: Sequence | Movie, frame: float, scene_rate: float) -> int | None:
    """Which of its frames (from 0) a moving picture shows at a scene frame; None where it shows nothing.

    ``scene_rate`` is the scene's frames per second.
    """
    timing = artwork.timing
    at = math.floor((frame - timing.start) / scene_rate * artwork.rate * timing.speed + _SLIVER)
    last = artwork.count - 1
    if 0 <= at <= last:
        return at
    if timing.ends == "nothing":
        return None
    if timing.ends == "loop":
        return at % artwork.count
    if timing.ends == "swing" and last > 0:
        place = at % (2 * last)
        return place if place <= last else 2 * last - place
    return min(max(at, 0), last)


def source_seconds(timing: Timing, length: float, frame: float, scene_rate: float) -> float | None:
    """The second of an animation of ``length`` seconds at a scene frame; None where it shows nothing."""
    at = (frame - timing.start) / scene_rate * timing.speed
    if 0.0 <= at <= length:
        return at
    if timing.ends == "nothing":
        return None
    if timing.ends == "loop" and length > 0.0:
        return at % length
    if timing.ends == "swing" and length > 0.0:
        place = at % (2.0 * length)
        return place if place <= length else 2.0 * length - place
    return min(max(at, 0.0), length)
