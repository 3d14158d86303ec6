"""Stretches of time, from a start up to an end."""

from collections.abc import Iterable


def outside(
    stretch: tuple[float, float], others: Iterable[tuple[float, float]], least: float = 0.0
) -> list[tuple[float, float]]:
    """The parts of a stretch that no others cover, in order; those that are not longer than ``least`` are left out."""
    free = [stretch]
    for begins, ends in others:
        free = [
            part
            for low, high in free
            for part in ((low, min(high, begins)), (max(low, ends), high))
            if part[1] - part[0] > least
        ]
    return free
