"""Going on where a job stopped: frames are put in place as they are made, and a small file beside them tells of what
scene they are, so that the whole ones of the same scene are not drawn again.
"""

import contextlib
import hashlib
from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import islice
from pathlib import Path
from typing import Any

import av
import av.error
import msgspec
import numpy as np

from ..files.artwork_files import files_of
from ..files.atomic import write_atomically
from ..files.errors import FileError
from ..files.project import encode
from ..files.sessions import Session, clear_stale
from ..process.client import DrawnFrame
from ..process.stream import FrameStream
from ..scene import Scene
from .frame_files import FramesOneByOne
from .job import ExportJob
from .movies import MovieWriter
from .running import Progress, fill, sink_for, tags_of

CHUNK = 12
"""Frames of a movie that are kept together until it is joined."""
_VERSION = 1


class Sidecar(msgspec.Struct, forbid_unknown_fields=True):
    """Which frames are whole: of what scene, and each one's size in bytes and time of writing."""

    version: int
    scene: str
    frames: dict[str, tuple[int, int]] = {}


def digest(scene: Scene, base: Path | None, job: ExportJob) -> str:
    """What a job's frames depend on: the scene, its files, and how they are drawn and written."""
    told = hashlib.blake2b(digest_size=20)
    told.update(encode(scene))
    for path in files_of(scene, base):
        with contextlib.suppress(OSError):
            status = path.stat()
            told.update(f"{path.name} {status.st_size} {status.st_mtime_ns}".encode())
    picture = job.picture
    told.update(msgspec.json.encode([picture, job.size, job.numbers, job.clear, _VERSION]))
    if not job.kind.movie and job.kind.lossy:
        told.update(f"{job.quality}".encode())
    return told.hexdigest()


def sidecar_path(job: ExportJob) -> Path:
    return job.path.with_name(f".{job.path.name}.frames.json")


def _stamp(path: Path) -> tuple[int, int] | None:
    try:
        status = path.stat()
    except OSError:
        return None
    return status.st_size, status.st_mtime_ns


def whole_frames(scene: Scene, base: Path | None, job: ExportJob) -> set[float]:
    """The frames of a job that are in place, whole and of the same scene."""
    try:
        known = msgspec.json.decode(sidecar_path(job).read_bytes(), type=Sidecar)
    except (OSError, ValueError, msgspec.MsgspecError):
        return set()
    if known.version != _VERSION or known.scene != digest(scene, base, job):
        return set()
    there = {frame: known.frames[f"{frame:g}"] for frame in job.frames if f"{frame:g}" in known.frames}
    return {frame for frame, stamp in there.items() if stamp == _stamp(job.frame_path(frame))}


def export_on(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    progress: Progress = lambda done, total: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> bool:
    """Write a job, going on where it stopped; False where it was cancelled. What is whole stays for the next time.

    Numbered frames are put in place one by one. A movie's frames are kept in a folder beside it, in lossless pieces of
    ``CHUNK`` frames, until it is joined; the folder goes when it is.
    """
    job.check()
    return write_on(scene, base, job, progress, cancelled)


def write_on(
    scene: Scene, base: Path | None, job: ExportJob, progress: Progress, cancelled: Callable[[], bool]
) -> bool:
    """The same for a job that was checked."""
    clear_stale()
    if job.kind.movie:
        return _movie_on(scene, base, job, progress, cancelled)
    return _frames_on(scene, base, job, progress, cancelled)


def _frames_on(
    scene: Scene, base: Path | None, job: ExportJob, progress: Progress, cancelled: Callable[[], bool]
) -> bool:
    whole = whole_frames(scene, base, job)
    there = Sidecar(_VERSION, digest(scene, base, job))
    for frame in whole:
        _note(there, job, frame)
    missing = tuple(frame for frame in job.frames if frame not in whole)
    before, total = len(whole), len(job.frames)
    progress(before, total)
    if not missing:
        return True
    part = replace(job, frames=missing)

    def placed(frame: float) -> None:
        _note(there, job, frame)
        write_atomically(sidecar_path(job), msgspec.json.encode(there))

    def told(done: int, _: int) -> None:
        progress(before + done, total)

    with Session() as session:
        sink = FramesOneByOne(part, tags_of(scene, job), session, placed)
        try:
            return fill(scene, base, part, sink, told, cancelled)
        except FileError as problem:
            raise FileError(problem.path, problem.what, _GO_ON) from problem


def _note(there: Sidecar, job: ExportJob, frame: float) -> None:
    stamp = _stamp(job.frame_path(frame))
    if stamp is not None:
        there.frames[f"{frame:g}"] = stamp


_GO_ON = "The frames that are whole are kept; go on once there is room."


def work_folder(job: ExportJob) -> Path:
    """Where a movie's pieces are until it is joined."""
    return job.path.with_name(f".{job.path.name}.pieces")


def piece_job(job: ExportJob, folder: Path, number: int) -> ExportJob:
    """The job of one piece of a movie: lossless and without sound."""
    frames = job.frames[number * CHUNK : (number + 1) * CHUNK]
    return job.piece(folder / f"piece_{number:05d}.mkv", frames)


def _movie_on(
    scene: Scene, base: Path | None, job: ExportJob, progress: Progress, cancelled: Callable[[], bool]
) -> bool:
    folder = work_folder(job)
    mark, own = folder / "scene", digest(scene, base, job)
    if not mark.is_file() or mark.read_text(encoding="utf-8", errors="replace") != own:
        remove_pieces(job)
    pieces = [piece_job(job, folder, number) for number in range(-(-len(job.frames) // CHUNK))]
    done = 0

    def told(drawn: int, _: int) -> None:
        progress(done + drawn, len(job.frames))

    def waiting() -> bool:
        progress(done, len(job.frames))
        return cancelled()

    try:
        folder.mkdir(exist_ok=True)
        write_atomically(mark, own.encode())
        missing = [piece for piece in pieces if not piece.path.is_file()]
        lacking = {piece.path for piece in missing}
        with contextlib.ExitStack() as opened:
            drawn: Iterator[DrawnFrame] = iter(())
            if missing:
                # One renderer for all of them: it takes seconds to start, and to read the artwork.
                stream = FrameStream(scene, base, job.picture, job.processes, job.niceness, job.allowed)
                wanted = [frame for piece in missing for frame in piece.frames]
                drawn = opened.enter_context(stream).results(wanted, waiting)
            for piece in pieces:
                if piece.path in lacking:
                    with Session() as session:
                        sink = MovieWriter(piece, scene.settings.rate, [], (), session)
                        read = islice(drawn, len(piece.frames))
                        if not fill(scene, base, piece, sink, told, cancelled, read=read):
                            return False
                done += len(piece.frames)
                progress(done, len(job.frames))
    except OSError as problem:
        raise FileError(job.path, f"could not be written: {problem.strerror}.", _GO_ON) from problem
    except FileError as problem:
        raise FileError(problem.path, problem.what, _GO_ON) from problem
    if not join(scene, base, job, [piece.path for piece in pieces], cancelled):
        return False
    remove_pieces(job)
    return True


def remove_pieces(job: ExportJob) -> None:
    """Take away the folder of a movie's pieces, and nothing in it that is not one."""
    folder = work_folder(job)
    for path in [*folder.glob("piece_*.mkv"), *folder.glob(".piece_*.partial*"), folder / "scene"]:
        path.unlink(missing_ok=True)
    with contextlib.suppress(OSError):
        folder.rmdir()


def join(
    scene: Scene,
    base: Path | None,
    job: ExportJob,
    pieces: list[Path],
    cancelled: Callable[[], bool] = lambda: False,
    progress: Progress = lambda done, total: None,
) -> bool:
    """Make a movie of lossless pieces, in order, with the scene's sound. FileError where one is missing."""
    job.check()
    with Session() as session:
        return fill(scene, base, job, sink_for(scene, base, job, session), progress, cancelled, read=_read(pieces, job))


def _read(pieces: list[Path], job: ExportJob) -> Iterator[DrawnFrame]:
    count = 0
    for path in pieces:
        try:
            with av.open(str(path)) as container:
                for frame in container.decode(video=0):
                    pixels = _bytes_of(frame)
                    if pixels.shape[:2] != (job.size[1], job.size[0]):
                        raise FileError(path, "is of another size than the movie.", "Draw it again.")
                    count += 1
                    yield DrawnFrame(pixels)
        except (OSError, av.error.FFmpegError) as problem:
            raise FileError(path, f"could not be read: {problem}.", "Draw it again.") from problem
    if count != len(job.frames):
        where = pieces[-1] if pieces else job.path
        raise FileError(where, f"is where {len(job.frames) - count} frames are missing.", "Draw them again.")


def _bytes_of(frame: Any) -> Any:
    """A decoded frame as (H, W, 4), bytes or, of more than eight bits, numbers from 0 to 1."""
    if "16" in frame.format.name:
        deep = np.asarray(frame.to_ndarray(format="rgba64le"))
        return deep.astype(np.float32) * np.float32(1.0 / 65_535.0)
    pixels = frame.to_ndarray(format="bgra" if frame.format.name == "bgra" else "bgr24")
    if pixels.shape[2] == 3:
        pixels = np.concatenate([pixels, np.full((*pixels.shape[:2], 1), 255, np.uint8)], axis=2)
    return np.ascontiguousarray(pixels[..., [2, 1, 0, 3]])
