"""Runs an export: drawing (other processes), encoding (a thread) and the caller overlap."""

import contextlib
import os
import queue
import threading
import time
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Protocol

import av.error
import numpy as np

from ..arrays import Pixels
from ..evaluate.film_output import output
from ..files.errors import FileError, why
from ..files.sessions import Session, clear_stale
from ..process.client import DrawnFrame
from ..process.stream import FrameStream
from ..scene import Scene
from .frame_files import Frames, Tags
from .job import ExportJob
from .movies import MovieWriter
from .soundtrack import tracks_for
from .tiled import write_tiled

_QUEUE = 4

Held = Mapping[float, Pixels]
Progress = Callable[[int, int], None]


def drawing_processes() -> int:
    """How many processes draw an export: one, or two where there are processors to spare."""
    return max(1, min(2, (os.cpu_count() or 1) // 4))


class Sink(Protocol):
    """Where frames go. Nothing is on disk before ``begin``, and nothing but the result after ``abandon``."""

    def begin(self) -> None: ...
    def add(self, frame: float, drawn: DrawnFrame) -> None: ...
    def finish(self) -> None: ...
    def abandon(self) -> None: ...


def export(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    progress: Progress = lambda done, total: None,
    cancelled: Callable[[], bool] = lambda: False,
    held: Held = MappingProxyType({}),
) -> bool:
    """Draw and write a job; False where it was cancelled. After a failure or a cancel nothing new is on disk.

    Frames that are ``held``, (H, W, 4) uint8 each, are written as they are.
    """
    job.check()
    return write(scene, base, job, progress, cancelled, held)


def write(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    progress: Progress,
    cancelled: Callable[[], bool],
    held: Held = MappingProxyType({}),
) -> bool:
    """The same for a job that was checked."""
    clear_stale()
    with Session() as session:
        if job.tiled:
            with _told(job):
                return write_tiled(scene, base, job, tags_of(scene, job), session, progress, cancelled)
        return fill(scene, base, job, sink_for(scene, base, job, session), progress, cancelled, held)


def sink_for(scene: Scene, base: Path | None, job: ExportJob, session: Session) -> Sink:
    """Where a job's frames go."""
    if not job.kind.movie:
        return Frames(job, tags_of(scene, job), session)
    audible = job.sound and job.encoding.sound is not None
    tracks = tracks_for(scene, base, job.allowed) if audible else []
    return MovieWriter(job, scene.settings.rate, tracks, scene.markers, session, cuts_of(scene, job))


def tags_of(scene: Scene, job: ExportJob) -> Tags:
    """What is told in files of frames besides them."""
    return Tags(tuple(node.name for node in scene.nodes), job.rate or scene.settings.rate.fraction)


def cuts_of(scene: Scene, job: ExportJob) -> tuple[float, ...]:
    """The frames at which what is seen changes from one to the next."""
    if job.camera is not None or not scene.shots:
        return ()
    return output(scene, job.frames[:1]).segments.starts


def fill(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    sink: Sink,
    progress: Progress,
    cancelled: Callable[[], bool],
    held: Held = MappingProxyType({}),
    read: Iterator[DrawnFrame] | None = None,
) -> bool:
    """Draw a job's frames, or take those that are ``read``, into a sink; False where it was cancelled."""
    try:
        with _told(job):
            sink.begin()
            finished = _pump(scene, base, job, sink, progress, cancelled, held, read)
            if finished:
                sink.finish()
            return finished
    finally:
        sink.abandon()


@contextlib.contextmanager
def _told(job: ExportJob) -> Iterator[None]:
    """What goes wrong with writing is told as a FileError."""
    try:
        yield
    except (OSError, av.error.FFmpegError) as error:
        what = why(error) if isinstance(error, OSError) else f"{error}."
        raise FileError(
            job.path, f"could not be written: {what}", "Nothing was left behind; try another place."
        ) from error


def _pump(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    sink: Sink,
    progress: Progress,
    cancelled: Callable[[], bool],
    held: Held,
    read: Iterator[DrawnFrame] | None,
) -> bool:
    waiting: queue.Queue[tuple[float, DrawnFrame] | None] = queue.Queue(_QUEUE)
    failure: list[BaseException] = []
    written = 0

    def encode() -> None:
        nonlocal written
        while (item := waiting.get()) is not None:
            if failure:
                continue
            try:
                started = time.thread_time()
                sink.add(*item)
                written += 1
                if job.profile is not None:
                    job.profile.add({**item[1].stages, "encoding": time.thread_time() - started}, 1)
            except BaseException as problem:
                failure.append(problem)

    def stop() -> bool:
        progress(written, len(job.frames))
        return bool(failure) or cancelled()

    thread = threading.Thread(target=encode, name="encoder", daemon=True)
    thread.start()
    sent = 0
    missing = [frame for frame in job.frames if frame not in held]
    try:
        with contextlib.ExitStack() as opened:
            drawn = read or iter(())
            if missing and read is None:
                stream = FrameStream(scene, base, job.picture, job.processes, job.niceness, job.allowed)
                drawn = opened.enter_context(stream).results(missing, stop)
            for frame in job.frames:
                found = DrawnFrame(held[frame]) if frame in held else next(drawn, None)
                if found is None or ((frame in held or read is not None) and stop()):
                    break
                waiting.put((frame, _cut(found, job)))
                sent += 1
    finally:
        waiting.put(None)
        thread.join()
    if failure:
        raise failure[0]
    progress(written, len(job.frames))
    return sent == len(job.frames) and not cancelled()


def _cut(drawn: DrawnFrame, job: ExportJob) -> DrawnFrame:
    """A frame of the job's size, with what lies over it."""
    width, height = job.size
    pixels = drawn.pixels[:height, :width]
    return drawn._replace(pixels=pixels if job.overlay is None else _under(pixels, job.overlay))


def _under(pixels: Pixels, overlay: Pixels) -> Pixels:
    """A picture (H, W, 4) with another over it."""
    share = overlay[..., 3:].astype(np.uint16)
    out = pixels.copy()
    out[..., :3] = (pixels[..., :3] * (255 - share) + overlay[..., :3] * share + 127) // 255
    return out
