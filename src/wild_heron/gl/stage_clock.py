"""Measures where the time of a frame goes, by stage."""

import time
from collections.abc import Iterator
from contextlib import contextmanager

import moderngl


class StageClock:
    """Seconds by stage, told while it is ``on``. A stage ends when the graphics card is done with it, so a frame takes
    a little longer then; what a stage within another takes is not counted for that one."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self.on = False
        self._seconds: dict[str, float] = {}
        self._within: list[float] = []

    @contextmanager
    def stage(self, name: str) -> Iterator[None]:
        """For what belongs to a stage."""
        if not self.on:
            yield
            return
        self._context.finish()
        started = time.perf_counter()
        self._within.append(0.0)
        try:
            yield
        finally:
            self._context.finish()
            took, inner = time.perf_counter() - started, self._within.pop()
            self._seconds[name] = self._seconds.get(name, 0.0) + took - inner
            if self._within:
                self._within[-1] += took

    def take(self) -> dict[str, float]:
        """The seconds by stage since they were last taken."""
        taken, self._seconds = self._seconds, {}
        return taken
