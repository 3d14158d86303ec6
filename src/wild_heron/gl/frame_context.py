"""State of a frame that is being drawn: request, precision, tile, and problems found."""

import contextlib
from collections.abc import Callable, Iterator
from typing import NamedTuple

from ..evaluate import CameraView
from ..gl.request import FreeView, Precision, ThroughLens, Tile
from ..log import log
from ..scene import AnyNode, Distance
from .edge_pixels import EdgePixels
from .uniforms import matte


class PixelPart(NamedTuple):
    """What part of a pixel a sample stands for: where the middle of that, and of the pixel, lie from the sample, its
    sides in pixels, and how many places in it are looked at in artwork at least (0: as its sides have it)."""

    shift: tuple[float, float]
    middle: tuple[float, float]
    sides: tuple[float, float]
    fewest: float = 0.0


WHOLE_PIXEL = PixelPart((0.0, 0.0), (0.0, 0.0), (1.0, 1.0))


class Overtaken(Exception):
    """Drawing was given up for a newer request."""


Report = Callable[[int, int, dict[str, str]], None]


class FrameContext:
    """One frame under way: how it is drawn, and what is found out on the way."""

    def __init__(
        self,
        view: ThroughLens | FreeView,
        seen: CameraView | FreeView,
        final: bool,
        check: Callable[[], None],
        report: Report,
    ) -> None:
        self.view, self.seen, self.final = view, seen, final
        self.check, self.report = check, report
        self.stretch = isinstance(view, ThroughLens) and view.stretch
        self.part = WHOLE_PIXEL
        """What part of a pixel a sample stands for."""
        self.fine = False
        """Whether artwork is averaged over what each sample stands for."""
        self.precision: Precision = "bytes"
        self.exact = False
        """Whether artwork is read at its own depth, and turned to light by ourselves."""
        self.size = (0, 0)
        """Of the whole frame."""
        self.tile: Tile | None = None
        """The part of it that is drawn."""
        self.edges: EdgePixels | None = None
        """The pixels of that which are drawn, where not all are."""
        groups = view.mattes if isinstance(view, ThroughLens) else None
        self.mattes: dict[str, Distance] | None = None
        """By node id, the colour in a matte."""
        self.alone_ids: set[str] | None = None
        """The nodes that are drawn, where not all are."""
        if groups is not None:
            colours = (matte(1.0, 0.0, 0.0), matte(0.0, 1.0, 0.0), matte(0.0, 0.0, 1.0))
            self.mattes = {each: tone for group, tone in zip(groups, colours, strict=False) for each in group}
            if isinstance(view, ThroughLens) and view.alone:
                self.alone_ids = set(self.mattes)
        self.problems: dict[str, str] = {}
        """By node id, what is wrong with what is drawn."""
        self.complete = True

    @property
    def drawn(self) -> tuple[int, int]:
        """The size of what is drawn of it."""
        return self.size if self.tile is None else self.tile[2:]

    def step(self, done: int, total: int) -> None:
        self.check()
        self.report(done, total, {})

    @contextlib.contextmanager
    def alone(self, node: AnyNode) -> Iterator[None]:
        """For what is done for one node: where it fails, the others are drawn without it."""
        try:
            yield
        except Overtaken:
            raise
        except Exception as problem:
            if node.id not in self.problems:
                log.error("drawing %s", node.id, exc_info=problem)
            self.problems[node.id] = f"{node.name} cannot be drawn ({type(problem).__name__}: {problem})."
