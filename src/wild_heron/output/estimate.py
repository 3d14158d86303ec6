"""Estimates the size and the time of an export, by drawing and encoding a few stretches of it."""

import io
import os
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import av
import numpy as np

from ..process.client import DrawnFrame
from ..process.stream import FrameStream
from ..scene import Scene
from .frame_files import write_frame
from .gif import GifEncoder
from .job import ExportJob
from .movies import as_video_frame, encoder_options, pixel_format
from .running import cuts_of, tags_of

_STRETCHES, _LENGTH = 2, 3
_SECONDS = 5.0
"""How long frames are drawn for, once the first ones are there, to tell how long all of them take."""
_PATIENT = 15
_GOLDEN = 0.61803399


class SizeEstimate:
    """Keeps the frames that were drawn, so that another quality costs only the encoding."""

    def __init__(self, scene: Scene, base: Path | None, job: ExportJob) -> None:
        # Edges make no difference to speak of.
        self._scene, self._base, self._job = scene, base, replace(job, fine=False, samples=1)
        self._drawn: list[list[DrawnFrame]] = []

    def draw(self, cancelled: Callable[[], bool] = lambda: False) -> bool:
        """Draw stretches of the job, spread over it; False where it was cancelled."""
        frames = self._job.frames
        length = min(_LENGTH, len(frames))
        count = min(_STRETCHES, max(1, len(frames) // length))
        starts = [round(k * (len(frames) - length) / max(count - 1, 1)) for k in range(count)]
        wanted = [frame for start in starts for frame in frames[start : start + length]]
        with FrameStream(self._scene, self._base, self._job.picture, 1, _PATIENT, self._job.allowed) as stream:
            found = list(stream.results(wanted, cancelled))
        self._drawn = [found[k * length : (k + 1) * length] for k in range(count)]
        return len(found) == len(wanted)

    def bytes(self, quality: float) -> int:
        """What the whole of it takes up at a quality, without sound."""
        job = replace(self._job, quality=quality)
        if not job.kind.movie:
            drawn = [frame for stretch in self._drawn for frame in stretch]
            return round(sum(self._picture(job, each) for each in drawn) / len(drawn) * len(job.frames))
        firsts, others = [], []
        for stretch in self._drawn:
            sizes = _encoded(job, self._scene, stretch)
            firsts.append(sizes[0])
            others += sizes[1:]
        between = sum(others) / len(others) if others else firsts[0]
        # Encoders begin anew at times: about every ten seconds.
        whole = len(job.frames)
        anew = max(1.0, whole / (10.0 * self._scene.settings.rate.fps))
        return round(sum(firsts) / len(firsts) * anew + between * max(whole - anew, 0.0))

    def _picture(self, job: ExportJob, drawn: DrawnFrame) -> int:
        return _written(job, self._scene, drawn)


def estimated_seconds(
    scene: Scene, base: Path | None, job: ExportJob, cancelled: Callable[[], bool] = lambda: False
) -> float | None:
    """About how long an export takes on this machine; None where it was cancelled.

    Stretches from all over it are drawn as they will be, until it has taken a while. In each the first frames, which
    find everything new, are told from those that follow; the very first start the processes.
    """
    count, width = len(job.frames), job.processes
    starts = [int((k * _GOLDEN % 1.0) * max(count - 2 * width, 0)) for k in range(min(60, count))]
    wanted = [frame for start in starts for frame in job.frames[start : start + 2 * width]]
    drawn: list[DrawnFrame] = []
    with FrameStream(scene, base, job.picture, width, _PATIENT, job.allowed) as stream:
        begun = time.monotonic()
        there = begun
        for each in stream.results(wanted, cancelled):
            drawn.append(each)
            if len(drawn) <= width:
                there = time.monotonic()
            elif len(drawn) >= 2 * width and time.monotonic() - there > _SECONDS:
                break
    if cancelled():
        return None
    seconds = np.array([each.seconds for each in drawn[width:]])
    follows = (np.arange(len(seconds)) // width) % 2 == 0
    usual = float(seconds[follows].mean()) if len(seconds) else 0.0
    anew = float(seconds[~follows].mean()) if (~follows).any() else usual
    cuts = sum(job.frames[0] < cut <= job.frames[-1] for cut in cuts_of(scene, job))
    drawing = there - begun + cuts * max(anew - usual, 0.0) + usual * max(count - width, 0) / width
    return _with_encoding(scene, job, drawn[-2:], drawing)


def _with_encoding(scene: Scene, job: ExportJob, drawn: list[DrawnFrame], drawing: float) -> float:
    """What drawing takes with the encoding beside it, which has a processor of its own, or takes part of one."""
    started = time.process_time()
    if job.kind.movie:
        _encoded(job, scene, drawn)
    else:
        for each in drawn:
            _written(job, scene, each)
    encoding = (time.process_time() - started) / len(drawn) * len(job.frames)
    processors = os.cpu_count() or 1
    return max(drawing, encoding) if processors > 2 * job.processes else drawing + encoding / processors


def _written(job: ExportJob, scene: Scene, drawn: DrawnFrame) -> int:
    """The size of a frame's file."""
    with TemporaryDirectory(prefix="wild-heron-") as folder:
        path = Path(folder) / f"frame{job.path.suffix}"
        write_frame(path, drawn, job, tags_of(scene, job))
        return path.stat().st_size


def _encoded(job: ExportJob, scene: Scene, frames: list[DrawnFrame]) -> list[int]:
    """The sizes of encoded frames."""
    codec, rate = job.encoding, scene.settings.rate.fraction
    if codec.encoder == "gif":
        gif = GifEncoder(job.size, rate)
        told = [gif.add(each.pixels[: job.size[1], : job.size[0]]) for each in frames]
        return [len(each) for each in (*told[1:], gif.finish())]
    name = {"libwebp_anim": "webp", "apng": "apng"}.get(codec.encoder, "matroska")
    sizes: list[int] = []
    memory = io.BytesIO()
    with av.open(memory, "w", format=name) as container:
        stream: Any = container.add_stream(
            codec.encoder, rate=scene.settings.rate.fraction, options=encoder_options(codec, job.quality, job.clear)
        )
        stream.width, stream.height = job.size
        stream.pix_fmt = pixel_format(codec, job.clear, job.numbers)
        for number, each in enumerate(frames):
            frame = as_video_frame(each.pixels[: job.size[1], : job.size[0]], codec, job.clear, job.numbers)
            frame.pts, frame.time_base = number, 1 / scene.settings.rate.fraction
            sizes += [packet.size for packet in stream.encode(frame)]
        sizes += [packet.size for packet in stream.encode()]
    return [each for each in sizes if each] or [len(memory.getvalue())]


def told(size: int) -> str:
    """A size in words."""
    for unit, worth in (("GB", 1e9), ("MB", 1e6), ("kB", 1e3)):
        if size >= worth:
            return f"{size / worth:.1f} {unit}" if size < 100 * worth else f"{size / worth:.0f} {unit}"
    return f"{size} bytes"


def told_time(seconds: float) -> str:
    """A time in words."""
    if seconds < 90.0:
        return f"{max(round(seconds), 1)} s"
    if seconds < 600.0:
        minutes, rest = divmod(round(seconds / 5.0) * 5, 60)
        return f"{minutes} min {rest} s" if rest else f"{minutes} min"
    minutes = round(seconds / 60.0)
    return f"{minutes} min" if minutes < 90 else f"{minutes // 60} h {minutes % 60:02d} min"
