"""``Order``: an export as a file can hold it, for the queue and for bundles."""

from fractions import Fraction
from pathlib import Path
from typing import Annotated

import msgspec
from msgspec import Meta

from ...scene import SceneError
from ..job import ExportJob
from ..kinds import Depth

MOST_FRAMES = 1_000_000


class Run(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Frames from ``first`` on, ``count`` of them, a ``step`` apart."""

    first: float
    count: Annotated[int, Meta(ge=1, le=MOST_FRAMES)]
    step: float = 1.0

    def frames(self) -> tuple[float, ...]:
        return tuple(self.first + k * self.step for k in range(self.count))


def runs_of(frames: tuple[float, ...]) -> tuple[Run, ...]:
    """Frames in order as runs of even steps."""
    out: list[Run] = []
    for frame in frames:
        last = out[-1] if out else None
        if last is not None:
            step = last.step if last.count > 1 else frame - last.first
            if abs(last.first + last.count * step - frame) < 1e-9 and step != 0.0:
                out[-1] = Run(last.first, last.count + 1, step)
                continue
        out.append(Run(frame, 1))
    return tuple(out)


class Order(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """What an ``ExportJob`` asks for."""

    path: str
    runs: tuple[Run, ...]
    size: tuple[int, int]
    camera: str | None = None
    format: str | None = None
    samples: Annotated[int, Meta(ge=1, le=1024)] = 1
    fine: bool = True
    codec: str | None = None
    depth: Depth | None = None
    quality: Annotated[float, Meta(ge=0.0, le=100.0)] = 80.0
    transparent: bool | None = None
    passes: bool = False
    rate: tuple[int, int] | None = None
    allowed: tuple[str, ...] | None = None
    sound: bool = True

    @property
    def frames(self) -> tuple[float, ...]:
        return tuple(frame for run in self.runs for frame in run.frames())

    def job(self, processes: int = 1, niceness: int = 0, path: Path | None = None) -> ExportJob:
        """As a job; ``path``: to another place."""
        return ExportJob(
            path=path or Path(self.path), frames=self.frames, camera=self.camera, size=self.size, format=self.format,
            samples=self.samples, fine=self.fine, codec=self.codec, depth=self.depth, quality=self.quality,
            transparent=self.transparent, passes=self.passes, processes=processes, niceness=niceness,
            rate=None if self.rate is None else Fraction(*self.rate), allowed=self.allowed, sound=self.sound,
        )  # fmt: skip


def order_of(job: ExportJob) -> Order:
    """A job as a file can hold it. SceneError for one with pictures of its own."""
    if job.overlay is not None or job.drawn is not None or job.around != 1.0:
        raise SceneError("A preview is written at once; it cannot wait in the queue.")
    rate = None if job.rate is None else (job.rate.numerator, job.rate.denominator)
    return Order(
        path=str(job.path.absolute()), runs=runs_of(job.frames), size=job.size, camera=job.camera, format=job.format,
        samples=job.samples, fine=job.fine, codec=job.codec, depth=job.depth, quality=job.quality,
        transparent=job.transparent, passes=job.passes, rate=rate, allowed=job.allowed, sound=job.sound,
    )  # fmt: skip
