"""Drawing what the checks look at, and checking a whole scene."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np

from ..arrays import Pixels
from ..checks import Judged, Measures, judged
from ..checks.fixes import Look as PhotographLook
from ..checks.looks import Look, looks_at, looks_at_frame, photograph_look, read_looks, stretched
from ..scene import Scene
from .client import RenderClient
from .messages import Drawn, Failed, FrameRequest, Refused, RenderError, ThroughLens

_AHEAD = 6
"""Pictures that are asked for before the first of them has come."""
_BLOCK = 64


def request_of(look: Look, frame: float) -> FrameRequest:
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
        with RenderClient(_AHEAD) as client:
            client.set_scene(scene, base, allowed=allowed)
            rows = range(0, total, every)
            each = [looks_at_frame(looks, measures, row) for row in rows]
            for k, pictures in enumerate(_drawn(client, each, measures.frames[rows].tolist())):
                frame = float(measures.frames[rows[k]])
                measures.put_picture(rows[k], read_looks(scene, frame, each[k], pictures))
                progress(k + 1, len(rows))
    numbers = [k for k, shape in enumerate(measures.formats) if not formats or shape.name in formats]
    return [judged(scene, measures, k) for k in numbers]


@contextmanager
def looking(base: Path | None, allowed: tuple[str, ...] = ()) -> Iterator[PhotographLook]:
    """How photographs fare in whatever scene, drawn by a process of its own. RenderError where it cannot be drawn."""
    with RenderClient() as client:

        def look(scene: Scene, frame: float) -> tuple[float, float]:
            client.set_scene(scene, base, allowed=allowed)
            return stretched(scene, client.draw(request_of(photograph_look(scene), frame)))

        yield look


def _drawn(client: RenderClient, looks: list[tuple[Look, ...]], frames: list[float]) -> Iterator[list[Pixels]]:
    """The pictures of each frame, some always asked for ahead of those that are waited for."""
    wishes = [request_of(look, frame) for frame, here in zip(frames, looks, strict=True) for look in here]
    asked: dict[int, tuple[int, int]] = {}
    came: dict[int, Pixels] = {}
    free, upcoming = list(range(_AHEAD)), 0
    first = 0
    for each in looks:
        here = range(first, first + len(each))
        first = here.stop
        while not all(number in came for number in here):
            while free and upcoming < len(wishes):
                slot = free.pop()
                asked[client.request(f"check {slot}", slot, wishes[upcoming], keep=True)] = (upcoming, slot)
                upcoming += 1
            for reply in client.wait():
                if isinstance(reply, Refused) or (isinstance(reply, Failed) and reply.id in (0, *asked)):
                    raise RenderError(reply.message)
                if isinstance(reply, Drawn):
                    number, slot = asked.pop(reply.id)
                    came[number] = client.frame(slot, *wishes[number].size).copy()
                    free.append(slot)
        yield [came.pop(number) for number in here]
