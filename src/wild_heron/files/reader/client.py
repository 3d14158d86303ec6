"""The program's end of reader processes. Free of Qt; may be used by several threads at once."""

import array
import contextlib
import fcntl
import mmap
import os
import select
import signal
import socket
import subprocess
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from ...arrays import Pixels
from ...helper_process import fork, start_module
from ...scene import Logo, Model, Picture, Text
from ..contents import (
    FilmCuts,
    FoundCameras,
    Layers,
    ModelSummary,
    MotionTrack,
    MovieInfo,
    PictureInfo,
    PixelsRead,
    SeenFromAbove,
    SolidData,
    SoundInfo,
    SoundRead,
    TakeTable,
    TextSize,
)
from ..errors import FileError
from ..permission import Permission
from ..regular import open_regular
from . import messages
from .confine import OUTPUT_BYTES
from .packing import unpack
from .worker import MESSAGE_BYTES, serve

WALL_SECONDS = 40.0
"""How long a job may take by the clock, for what waits rather than works."""
_POLL_SECONDS = 0.05
_REMEDY = "Simplify it, or save it anew in a common kind."


class Cancelled(Exception):
    """A job was given up because its caller no longer wants it."""


class _Process:
    """One reader process; ``forked``: a copy of this one, if that can be had."""

    def __init__(self, forked: bool = False) -> None:
        self.socket, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        copy = fork(serve, theirs.fileno()) if forked else None
        self.process = copy if copy is not None else self._started(theirs)
        theirs.close()

    def _started(self, theirs: socket.socket) -> "subprocess.Popen[bytes]":
        return start_module(
            "wild_heron.files.reader.worker", [theirs.fileno()], [theirs.fileno()],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip

    def send(self, request: messages.Request, handle: int | None) -> None:
        extra = [] if handle is None else [(socket.SOL_SOCKET, socket.SCM_RIGHTS, array.array("i", [handle]))]
        self.socket.sendmsg([msgspec.msgpack.encode(request)], extra)

    def end(self) -> int:
        """Kill it, and say how it ended."""
        self.socket.close()
        with contextlib.suppress(OSError):
            self.process.kill()
        return self.process.wait()


class Reader:
    """Reads files from strangers. What it is asked for is decoded elsewhere, and either comes back or is a FileError.

    Only files that ``permission`` allows are read. Its processes start when they are needed.
    """

    def __init__(self, processes: int = 1, permission: Permission | None = None) -> None:
        self.permission = permission or Permission()
        self._free = threading.Condition()
        self._busy = [False] * processes
        self._processes: list[_Process | None] = [None] * processes
        self._closed = False

    # What can be asked for

    def probe(self, path: Path, cancelled: Callable[[], bool] | None = None) -> PictureInfo:
        """A picture's size."""
        return self._ask(messages.Probe(), path, cancelled)

    def picture(self, path: Path, limit: int) -> Pixels:
        """A whole picture, (H, W, 4) uint8 premultiplied, no side longer than ``limit``."""
        return self._ask(messages.ReadPicture(limit), path)

    def pixels(
        self, picture: Picture, path: Path | None, scale: float, limit: int, level: int = 0, linear: bool = False,
        part: tuple[float, float, float, float] | None = None, exact: bool = False,
    ) -> PixelsRead:  # fmt: skip
        """The pixels of any artwork but a movie, as ``decode.pixels`` has them; ``path`` is None for a card."""
        return self._ask(messages.ReadPixels(picture, scale, limit, level, linear, part, exact), path)

    def movie(self, path: Path, cancelled: Callable[[], bool] | None = None) -> MovieInfo:
        """A movie's size, length and rate."""
        return self._ask(messages.ProbeMovie(), path, cancelled)

    def movie_frame(self, path: Path, index: int, limit: int) -> Pixels:
        """A movie's frame, (H, W, 4) uint8 premultiplied; past the end, the last."""
        return self._ask(messages.ReadFrame(index, limit), path, same=True)

    def cameras(self, path: Path, fps: float, cancelled: Callable[[], bool] | None = None) -> FoundCameras:
        """The cameras of a glTF, USD or table, with their motion."""
        return self._ask(messages.ReadCameras(fps), path, cancelled)

    def cuts(self, path: Path, cancelled: Callable[[], bool] | None = None) -> FilmCuts:
        """The cuts of a timeline."""
        return self._ask(messages.ReadCuts(), path, cancelled)

    def files_beside(self, path: Path) -> list[str]:
        """The names of the files that lie beside a glTF file and belong to it."""
        return self._ask(messages.ListBeside(), path)

    def layers(self, path: Path, cancelled: Callable[[], bool] | None = None) -> Layers:
        """What is in a layered file."""
        return self._ask(messages.ReadLayers(), path, cancelled)

    def logo_size(self, path: Path, cancelled: Callable[[], bool] | None = None) -> PictureInfo:
        """The size of vector art whose outlines can be read."""
        return self._ask(messages.ProbeLogo(), path, cancelled)

    def model(self, path: Path, cancelled: Callable[[], bool] | None = None) -> ModelSummary:
        """What is in a glTF file."""
        return self._ask(messages.Summarise(), path, cancelled)

    def solid(self, node: Model | Logo, path: Path | None) -> SolidData:
        """The mesh of a logo, or of a model from a file."""
        return self._ask(messages.BuildSolid(node), path)

    def text_size(self, text: Text) -> TextSize:
        """How large a text is when it is set."""
        return self._ask(messages.MeasureText(text), None)

    def families(self) -> list[str]:
        """The names of the installed fonts' families."""
        return self._ask(messages.ListFamilies(), None)

    def heights(self, path: Path) -> Any:
        """A picture's greys (rows, columns) from 0 to 1, on a coarse grid."""
        return self._ask(messages.ReadHeights(), path)

    def surface(self, node: Model, path: Path | None) -> SeenFromAbove:
        """A model seen from above."""
        return self._ask(messages.ReadSurface(node), path)

    def table(self, path: Path) -> MotionTrack:
        """A table of frames."""
        return self._ask(messages.ReadTable(), path)

    def take(self, path: Path, fps: float) -> TakeTable:
        """A table of samples at times, or at frames of a rate."""
        return self._ask(messages.ReadTake(fps), path)

    def animation(self, path: Path, name: str, fps: float, start: float = 0.0) -> MotionTrack:
        """The motion of a glTF animation's first node."""
        return self._ask(messages.ReadAnimation(name, fps, start), path)

    def sound(self, path: Path) -> SoundInfo:
        """How long a sound is."""
        return self._ask(messages.ProbeSound(), path)

    def samples(self, path: Path, cancelled: Callable[[], bool] | None = None) -> SoundRead:
        """All of a sound, at 48 kHz."""
        return self._ask(messages.ReadSound(), path, cancelled)

    # How it is done

    def warm_up(self, forked: bool = False) -> None:
        """Start the processes now, so that the first file need not wait for one. ``forked``: as copies of this one, for
        a process that has nothing yet which they must not have."""
        with self._free:
            for k, process in enumerate(self._processes):
                if process is None and not self._busy[k] and not self._closed:
                    self._processes[k] = _Process(forked)

    def close(self) -> None:
        """End the processes. What is under way fails."""
        with self._free:
            self._closed = True
            for process in self._processes:
                if process is not None:
                    process.end()
            self._processes = [None] * len(self._processes)
            self._free.notify_all()

    def __enter__(self) -> "Reader":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def _ask(
        self, job: messages.Job, path: Path | None, cancelled: Callable[[], bool] | None = None, same: bool = False
    ) -> Any:
        """The result of a job. FileError where the file cannot be read, Cancelled where it is not wanted any more.

        ``same``: by the same process as before for the same file, since it goes on from there.
        """
        handle = None
        if path is not None:
            self.permission.check(path)
            handle = open_regular(path)
        try:
            number = self._take(hash(path) if same else None)
            try:
                return self._asked(number, job, path, handle, cancelled or (lambda: False))
            finally:
                with self._free:
                    self._busy[number] = False
                    self._free.notify_all()
        finally:
            if handle is not None:
                os.close(handle)

    def _take(self, affinity: int | None) -> int:
        """The number of a process that nobody else uses now."""
        with self._free:
            while True:
                if self._closed:
                    raise Cancelled
                count = len(self._busy)
                fit = range(count) if affinity is None else [affinity % count]
                # Those that run already come first.
                free = [k for k in fit if not self._busy[k]]
                if free:
                    number = min(free, key=lambda k: self._processes[k] is None)
                    self._busy[number] = True
                    return number
                self._free.wait()

    def _asked(
        self, number: int, job: messages.Job, path: Path | None, handle: int | None, cancelled: Callable[[], bool]
    ) -> Any:
        process = self._processes[number]
        if process is None or process.process.poll() is not None:
            process = self._processes[number] = _Process()
        # A name that is no proper text can be opened, but not sent as it is.
        name = "" if path is None else str(path).encode("utf-8", "replace").decode()
        deadline = time.monotonic() + WALL_SECONDS
        try:
            process.send(messages.Ask(name, job), handle)
            while True:
                reply, memory = self._receive(process, deadline, cancelled)
                if isinstance(reply, messages.Need):
                    self._give(process, path, reply.name)
                    continue
                if isinstance(reply, messages.Refused):
                    raise FileError(reply.path or "The artwork", reply.what, reply.remedy)
                return _result(reply, memory, job)
        except (Cancelled, KeyboardInterrupt):
            self._drop(number, process)
            raise
        except FileError:
            raise
        except TimeoutError:
            self._drop(number, process)
            raise FileError(name or "The artwork", "takes too long to be read.", _REMEDY) from None
        except (OSError, EOFError, ValueError, msgspec.MsgspecError, UnicodeError) as problem:
            ended = self._drop(number, process)
            if self._closed:
                raise Cancelled from None
            raise FileError(name or "The artwork", _how_it_ended(ended, problem), _REMEDY) from problem

    def _drop(self, number: int, process: _Process) -> int:
        self._processes[number] = None
        return process.end()

    @staticmethod
    def _receive(
        process: _Process, deadline: float, cancelled: Callable[[], bool]
    ) -> tuple[messages.Reply, int | None]:
        poll = select.poll()
        poll.register(process.socket, select.POLLIN)
        while not poll.poll(_POLL_SECONDS * 1000):
            if cancelled():
                raise Cancelled
            if time.monotonic() > deadline:
                raise TimeoutError
        data, handles, _, _ = socket.recv_fds(process.socket, MESSAGE_BYTES, 1)
        if not data:
            raise EOFError
        memory = handles[0] if handles else None
        return msgspec.msgpack.decode(data, type=messages.Reply), memory

    def _give(self, process: _Process, path: Path | None, name: str) -> None:
        """Hand over a file that lies beside the one that is read."""
        handle = None
        try:
            if path is None:
                raise FileError(name, "was asked for without reason.", "")
            other = path.parent / name
            Permission((str(path.parent),)).check(other)
            handle = open_regular(other)
            process.send(messages.Given(), handle)
        except FileError as problem:
            process.send(messages.Given(problem.what, problem.remedy), None)
        finally:
            if handle is not None:
                os.close(handle)


def _result(reply: messages.Done, handle: int | None, job: messages.Job) -> Any:
    if handle is None:
        raise ValueError("a result without its memory")
    try:
        if not 0 < reply.size <= min(os.fstat(handle).st_size, OUTPUT_BYTES):
            raise ValueError("a result of another size than it says")
        # It must not become shorter while it is looked at.
        fcntl.fcntl(handle, fcntl.F_ADD_SEALS, fcntl.F_SEAL_SHRINK)
        memory = mmap.mmap(handle, reply.size, prot=mmap.PROT_READ, flags=mmap.MAP_SHARED)
    finally:
        os.close(handle)
    return unpack(memory, reply.size, messages.RESULTS[type(job)])


def _how_it_ended(code: int, problem: Exception) -> str:
    if code == -signal.SIGPROF:
        return "takes too long to be read."
    if code in (-signal.SIGSEGV, -signal.SIGABRT, -signal.SIGBUS, -signal.SIGILL, -signal.SIGFPE):
        return "is broken, or too complex: its reader broke down over it."
    if code == -signal.SIGKILL and isinstance(problem, EOFError):
        return "could not be read: its reader was ended from outside."
    return f"could not be read ({type(problem).__name__})."
