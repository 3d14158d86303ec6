"""Renders what the checks need, and checks a whole scene."""

from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from itertools import islice
from pathlib import Path

import numpy as np

from ..arrays import Pixels
from ..checks import Judged, Measures, judged
from ..checks.check_renders import (
    CheckRender,
    coverage_look,
    looks_at,
    looks_at_frame,
    photograph_look,
    read_looks,
    stretched,
)
from ..checks.fit import Look
from ..checks.fixes import PhotographLook
from ..checks.measures import Pictured
from ..gl.request import FrameRequest, ThroughLens
from ..scene import Scene
from .client import RenderClient
from .messages import ProcessEnded
from .stream import FrameStream

_AHEAD = 6
"""Pictures that are asked for before the first of them has come."""
_BLOCK = 64


def request_of(look: CheckRender, frame: float) -> FrameRequest:
    """The picture that a check looks at."""
    if look.kind == "stretched":
        view = ThroughLens(stretch=True)
    else:
        view = ThroughLens(around=look.times, mattes=look.groups, alone=look.kind == "alone")
    return FrameRequest(frame, view, *look.size)


def check_scene(
    scene: Scene,
    base: Path | None,
    allowed: tuple[str, ...] = (),
    formats: tuple[str, ...] = (),
    progress: Callable[[int, int], None] = lambda done, total: None,
    every: int = 1,
) -> list[Judged]:
    """A scene judged in the formats of these names, or in all; every frame of it is drawn once, or one of so many.

    RenderError where it cannot be drawn.
    """
    measures = Measures(scene)
    total = len(measures)
    for start in range(0, total, _BLOCK):
        measures.measure(scene, np.arange(start, min(start + _BLOCK, total)))
    looks = looks_at(scene)
    if looks:
        rows = range(0, total, every)
        each = [looks_at_frame(looks, measures, row) for row in rows]
        frames = measures.frames[rows].tolist()
        wishes = [request_of(look, frame) for frame, here in zip(frames, each, strict=True) for look in here]
        largest = max(wishes, key=lambda wish: wish.all_bytes, default=request_of(looks[0], 0.0))
        with FrameStream(scene, base, largest, allowed=allowed, slots=_AHEAD) as stream:
            drawn = stream.pictures(wishes)
            for k, (row, here) in enumerate(zip(rows, each, strict=True)):
                pictures = [found.pixels for found in islice(drawn, len(here))]
                measures.put_picture(row, read_looks(scene, frames[k], here, pictures))
                progress(k + 1, len(rows))
    numbers = [k for k, shape in enumerate(measures.formats) if not formats or shape.name in formats]
    return [judged(scene, measures, k) for k in numbers]


@contextmanager
def looking(base: Path | None, allowed: tuple[str, ...] = ()) -> Iterator[PhotographLook]:
    """How photographs fare in whatever scene, drawn by a process of its own, or by another one where that ends.
    RenderError where it cannot be drawn."""
    with ExitStack() as opened:
        client = opened.enter_context(RenderClient())

        def drawn(scene: Scene, frame: float) -> Pixels:
            client.set_scene(scene, base, allowed=allowed)
            return client.draw(request_of(photograph_look(scene), frame))

        def look(scene: Scene, frame: float) -> tuple[float, float]:
            nonlocal client
            try:
                return stretched(scene, drawn(scene, frame))
            except ProcessEnded:
                client = opened.enter_context(RenderClient())
                return stretched(scene, drawn(scene, frame))

        yield look


@contextmanager
def covering(base: Path | None, allowed: tuple[str, ...] = ()) -> Iterator[Look]:
    """What is bare of a frame, in whatever scene, drawn by a process of its own, or by another one where that ends.
    RenderError where it cannot be drawn."""
    with ExitStack() as opened:
        client = opened.enter_context(RenderClient())
        known: tuple[Scene, CheckRender] | None = None

        def looked(scene: Scene, frame: float, look: CheckRender) -> Pictured:
            client.set_scene(scene, base, allowed=allowed)
            return read_looks(scene, frame, (look,), [client.draw(request_of(look, frame))])

        def look(scene: Scene, measures: Measures, row: int) -> Pictured:
            nonlocal client, known
            if known is None or known[0] is not scene:
                known = scene, coverage_look(scene)
            frame = float(measures.frames[row])
            try:
                return looked(scene, frame, known[1])
            except ProcessEnded:
                client = opened.enter_context(RenderClient())
                return looked(scene, frame, known[1])

        yield look
