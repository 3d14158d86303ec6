"""Movies and numbered frames on disk: whole, or not at all."""

import contextlib
import os
import queue
import shutil
import tempfile
import threading
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from types import MappingProxyType
from typing import Protocol

import av
import av.error
import numpy as np
from PIL import Image

from ..arrays import Pixels
from ..files.errors import FileError, why
from ..files.sessions import Session, clear_stale
from ..motion.sound import Track
from ..scene import Rate, Scene, SceneError
from .messages import MAX_SIDE, FrameRequest, ThroughLens
from .soundtrack import Soundtrack, tracks_for
from .stream import FrameStream

MOVIE_SUFFIXES = (".mp4", ".webm")
_QUEUE = 4


def drawing_processes() -> int:
    """How many processes draw an export: one, or two where there are processors to spare."""
    return max(1, min(2, (os.cpu_count() or 1) // 4))


@dataclass(frozen=True)
class ExportJob:
    """What to write: an ``.mp4`` or ``.webm`` movie, or ``.png`` frames whose name has ``#`` for the digits."""

    path: Path
    frames: tuple[float, ...]
    camera: str | None
    """Through which camera or framing; None for the output."""
    size: tuple[int, int]
    format: str | None = None
    samples: int = 1
    processes: int = 1
    niceness: int = 0
    rate: Fraction | None = None
    """Frames of the movie a second; None for the scene's own."""
    allowed: tuple[str, ...] | None = None
    """Folders outside the scene's whose files may be read; None for those that the user has allowed."""
    sound: bool = True
    """Whether a movie has the scene's sound."""
    around: float = 1.0
    """How many frames wide the picture is."""
    overlay: Pixels | None = None
    """A picture (H, W, 4), of the job's size, that is laid over every frame."""
    drawn: tuple[int, int] | None = None
    """What size frames are drawn and held at, where it is not ``size``: they are cut to it at the right and below."""

    @property
    def picture(self) -> FrameRequest:
        """How each frame is drawn, at whatever moment."""
        view = ThroughLens(self.camera, self.format, around=self.around)
        return FrameRequest(0.0, view, *(self.drawn or self.size), self.samples)

    def check(self) -> None:
        """Raise FileError or SceneError where the job cannot be done, before anything is drawn."""
        suffix = self.path.suffix.lower()
        width, height = self.size
        if suffix not in (*MOVIE_SUFFIXES, ".png"):
            raise FileError(self.path, "is of no kind that can be written.", "Use .mp4, .webm or frame_####.png.")
        if not self.frames:
            raise SceneError("There are no frames to write: the range is empty.")
        if suffix == ".png" and "#" not in self.path.name and len(self.frames) > 1:
            raise FileError(self.path, "has no place for the frame number.", "Use a name such as frame_####.png.")
        if not self.path.parent.is_dir():
            raise FileError(self.path, "lies in a folder that is not there.", "Make the folder first.")
        if self.path.is_dir():
            raise FileError(self.path, "is a folder.", "Choose a file name.")
        if self.path.exists() and not self.path.is_file():
            raise FileError(self.path, "is not a plain file, and is not written over.", "Choose another name.")
        if (problem := _cannot_write(self.path.parent)) is not None:
            raise FileError(self.path, f"cannot be written: {why(problem)}", "Choose another place.")
        if not (1 <= width <= MAX_SIDE and 1 <= height <= 4320):
            raise SceneError(f"{width} × {height} cannot be written: sizes up to {MAX_SIDE} × 4320 work.")
        if suffix in MOVIE_SUFFIXES and (width % 2 or height % 2):
            raise SceneError(f"A movie needs an even width and height; {width} × {height} is not.")
        if suffix == ".png":
            names = [self.frame_path(frame) for frame in self.frames]
            if len(set(names)) < len(names):
                raise SceneError("Frames between whole frames would share a file name; use whole frames, or a movie.")

    def written(self) -> list[Path]:
        """The files that it writes."""
        return [self.frame_path(frame) for frame in self.frames] if self.path.suffix.lower() == ".png" else [self.path]

    def frame_path(self, frame: float) -> Path:
        """The file of one frame: the run of # holds the frame number, padded with zeros."""
        name = self.path.name
        if "#" not in name:
            return self.path
        start = name.index("#")
        end = start + len(name[start:]) - len(name[start:].lstrip("#"))
        return self.path.with_name(f"{name[:start]}{round(frame):0{end - start}d}{name[end:]}")


def _cannot_write(folder: Path) -> OSError | None:
    """Why nothing can be written in a folder; None where something can. A full disk is noticed too."""
    try:
        # Without a name, where the file system can: nothing is left whatever ends the program meanwhile.
        with tempfile.TemporaryFile(prefix=".trial.", suffix=".partial", dir=folder) as trial:
            trial.write(b"\0" * 65_536)
            trial.flush()
            os.fsync(trial.fileno())
    except OSError as problem:
        return problem
    return None


class _Sink(Protocol):
    """Where frames go. Nothing is on disk before ``begin``, and nothing but the result after ``abandon``."""

    def begin(self) -> None: ...
    def add(self, frame: float, pixels: Pixels) -> None: ...
    def finish(self) -> None: ...
    def abandon(self) -> None: ...


def export(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    progress: Callable[[int, int], None] = lambda done, total: None,
    cancelled: Callable[[], bool] = lambda: False,
    held: Mapping[float, Pixels] = MappingProxyType({}),
) -> bool:
    """Draw and write a job; False where it was cancelled. After a failure or a cancel nothing new is on disk.

    Frames that are ``held``, (H, W, 4) uint8 each, are written as they are.

    Drawing (other processes), encoding (a thread, with the interpreter lock released) and this thread overlap.
    """
    job.check()
    clear_stale()
    with Session() as session:
        return _exported(scene, base, job, session, progress, cancelled, held)


def _exported(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    session: Session,
    progress: Callable[[int, int], None],
    cancelled: Callable[[], bool],
    held: Mapping[float, Pixels],
) -> bool:
    if job.path.suffix.lower() == ".png":
        sink: _Sink = _Frames(job, session)
    else:
        tracks = tracks_for(scene, base, job.allowed) if job.sound else []
        sink = _Movie(job, scene.settings.rate, tracks, session)
    try:
        sink.begin()
        finished = _pump(scene, base, job, sink, progress, cancelled, held)
        if finished:
            sink.finish()
        return finished
    except (OSError, av.error.FFmpegError) as error:
        what = why(error) if isinstance(error, OSError) else f"{error}."
        raise FileError(
            job.path, f"could not be written: {what}", "Nothing was left behind; try another place."
        ) from error
    finally:
        sink.abandon()


def _pump(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    sink: _Sink,
    progress: Callable[[int, int], None],
    cancelled: Callable[[], bool],
    held: Mapping[float, Pixels],
) -> bool:
    waiting: queue.Queue[tuple[float, Pixels] | None] = queue.Queue(_QUEUE)
    failure: list[BaseException] = []
    written = 0

    def encode() -> None:
        nonlocal written
        while (item := waiting.get()) is not None:
            if failure:
                continue
            try:
                sink.add(*item)
                written += 1
            except BaseException as problem:
                failure.append(problem)

    def stop() -> bool:
        progress(written, len(job.frames))
        return bool(failure) or cancelled()

    thread = threading.Thread(target=encode, name="encoder", daemon=True)
    thread.start()
    sent = 0
    missing = [frame for frame in job.frames if frame not in held]
    width, height = job.size
    try:
        with contextlib.ExitStack() as opened:
            drawn: Iterator[Pixels] = iter(())
            if missing:
                stream = FrameStream(scene, base, job.picture, job.processes, job.niceness, job.allowed)
                drawn = opened.enter_context(stream).frames(missing, stop)
            for frame in job.frames:
                pixels = held[frame] if frame in held else next(drawn, None)
                if pixels is None or (frame in held and stop()):
                    break
                waiting.put((frame, _under(pixels[:height, :width], job.overlay)))
                sent += 1
    finally:
        waiting.put(None)
        thread.join()
    if failure:
        raise failure[0]
    progress(written, len(job.frames))
    return sent == len(job.frames) and not cancelled()


def _under(pixels: Pixels, overlay: Pixels | None) -> Pixels:
    """A picture (H, W, 4) with another over it."""
    if overlay is None:
        return pixels
    share = overlay[..., 3:].astype(np.uint16)
    out = pixels.copy()
    out[..., :3] = (pixels[..., :3] * (255 - share) + overlay[..., :3] * share + 127) // 255
    return out


class _Movie:
    """Encodes into a partial file beside the movie."""

    def __init__(self, job: ExportJob, scene_rate: Rate, tracks: list[Track], session: Session) -> None:
        self._job, self._session = job, session
        self._rate = rate = job.rate or scene_rate.fraction
        self._scene_rate, self._tracks = scene_rate, tracks
        self._sound: Soundtrack | None = None
        suffix = job.path.suffix.lower()
        self._partial = job.path.with_name(f".{job.path.stem[:200]}.{session.token}.partial{suffix}")
        self._open = False
        self._count = 0
        self._time_base = 1 / rate

    def begin(self) -> None:
        job = self._job
        self._session.begin(self._partial)
        try:
            # Made here, so that what is written to is nobody else's file or link.
            os.close(os.open(self._partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o666))
            if job.path.suffix.lower() == ".mp4":
                self._container = av.open(str(self._partial), "w", options={"movflags": "+faststart"})
                # A fast preset with the one costly step that keeps files small (measured: a third less work than
                # "veryfast", a sixth larger).
                parameters = "mbtree=1:rc-lookahead=10"
                codec, options = "libx264", {"crf": "16", "preset": "superfast", "x264-params": parameters}
            else:
                self._container = av.open(str(self._partial), "w")
                codec = "libvpx-vp9"
                options = {"crf": "22", "b": "0", "deadline": "realtime", "cpu-used": "6", "row-mt": "1"}
            self._stream = self._container.add_stream(codec, rate=self._rate, options=options)
        except (OSError, av.error.FFmpegError) as error:
            what = why(error) if isinstance(error, OSError) else f"{error}."
            raise FileError(job.path, f"could not be begun: {what}", "Choose another place.") from error
        self._stream.width, self._stream.height = job.size
        self._stream.pix_fmt = "yuv420p"
        # Tagged as BT.709, limited range, so that players show the colours that were drawn.
        context = self._stream.codec_context
        context.color_primaries = context.color_trc = context.colorspace = 1
        context.color_range = 1
        if self._tracks:
            self._sound = Soundtrack(
                self._container, job.path.suffix.lower(), self._tracks, job.frames, self._scene_rate, self._rate
            )
        self._open = True

    def add(self, frame: float, pixels: Pixels) -> None:
        picture = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgba")
        picture = picture.reformat(format="yuv420p", dst_colorspace="ITU709", dst_color_range="MPEG")
        picture.pts, picture.time_base = self._count, self._time_base
        self._count += 1
        for packet in self._stream.encode(picture):
            self._container.mux(packet)
        if self._sound is not None:
            self._sound.up_to(self._count)

    def finish(self) -> None:
        for packet in self._stream.encode():
            self._container.mux(packet)
        if self._sound is not None:
            self._sound.finish()
        self._close()
        with self._partial.open("rb") as written:
            os.fsync(written.fileno())
        os.replace(self._partial, self._job.path)

    def _close(self) -> None:
        if self._open:
            self._open = False
            self._container.close()

    def abandon(self) -> None:
        # It is thrown away; why it was given up is reported already.
        with contextlib.suppress(OSError, av.error.FFmpegError):
            self._close()
        self._partial.unlink(missing_ok=True)
        self._session.end(self._partial)


class _Frames:
    """Writes frames into a hidden folder beside their place, and moves them there when all are written."""

    def __init__(self, job: ExportJob, session: Session) -> None:
        self._job, self._session = job, session
        self._folder = job.path.parent / f".frames.{session.token}.partial"

    def begin(self) -> None:
        self._session.begin(self._folder)
        self._folder.mkdir(mode=0o700)

    def add(self, frame: float, pixels: Pixels) -> None:
        path = self._folder / self._job.frame_path(frame).name
        Image.fromarray(pixels).convert("RGB").save(path, compress_level=3)

    def finish(self) -> None:
        for frame in self._job.frames:
            target = self._job.frame_path(frame)
            os.replace(self._folder / target.name, target)

    def abandon(self) -> None:
        shutil.rmtree(self._folder, ignore_errors=True)
        self._session.end(self._folder)
