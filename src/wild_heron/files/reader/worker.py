"""The reader process: begun with SOCKET.

It is handed files as descriptors, decodes them, hands results back in shared memory, and ends when the socket closes,
or when a job takes more time or memory than it may.
"""

import array
import contextlib
import lzma
import os
import signal
import socket
import struct
import sys
import zipfile
import zlib
from importlib import import_module
from pathlib import Path
from typing import Any

import msgspec

from ..errors import FileError
from ..extras import MissingExtra
from .confine import OUTPUT_BYTES, confine, limit_resources
from .messages import (
    Ask,
    BuildSolid,
    Done,
    Given,
    ListBeside,
    ListFamilies,
    MeasureText,
    Need,
    Probe,
    ProbeLogo,
    ProbeMovie,
    ProbeSound,
    ReadAnimation,
    ReadCameras,
    ReadCuts,
    ReadFrame,
    ReadHeights,
    ReadLayers,
    ReadPicture,
    ReadPixels,
    ReadSound,
    ReadSurface,
    ReadTable,
    ReadTake,
    Refused,
    Reply,
    Request,
    Summarise,
)
from .packing import pack

CPU_SECONDS = 7.0
"""What one job may take of the processors' time."""
SLOW_CPU_SECONDS = 30.0
"""What looking through all installed fonts, or decoding half an hour of sound, may take."""
MESSAGE_BYTES = 1024 * 1024
_KEPT_MOVIES = 3
_REMEDY = "Simplify it, or save it anew in a common kind."


_BROKEN: tuple[tuple[tuple[type[BaseException], ...], str], ...] = (
    ((zlib.error, lzma.LZMAError, zipfile.BadZipFile, EOFError), "what is packed in it cannot be unpacked"),
    ((LookupError,), "it refers to something that is not in it"),
    ((RecursionError,), "it is nested too deeply"),
    ((UnicodeError,), "a text in it is none"),
    ((ArithmeticError, ValueError, struct.error), "it holds a value that cannot be right"),
    ((OSError,), "it could not be read to its end"),
)
_OURS = (AttributeError, NameError, TypeError, AssertionError, ImportError)


def in_words(problem: BaseException) -> str:
    """What a library could not do with a file, as a sentence; of a mistake of ours what it is."""
    for kinds, what in _BROKEN:
        if isinstance(problem, kinds):
            return f"is broken: {what}."
    if isinstance(problem, _OURS):
        what = " ".join(str(problem).split())[:200]
        return f"could not be read, by a mistake of the program ({type(problem).__name__}: {what})."
    return "is broken, or of a kind that cannot be read."


DECODERS: dict[type, tuple[str, str]] = {
    Probe: ("images", "probe"),
    ReadPicture: ("images", "read_picture"),
    ReadPixels: ("pixels", "read_pixels"),
    ReadLayers: ("layered", "read_layers"),
    ProbeLogo: ("summaries", "logo_size"),
    Summarise: ("summaries", "model_summary"),
    BuildSolid: ("solid_meshes", "build"),
    MeasureText: ("summaries", "text_size"),
    ListFamilies: ("fonts", "families"),
    ReadHeights: ("heights", "heights_of_picture"),
    ReadSurface: ("heights", "heights_of_model"),
    ReadTable: ("motion_tracks", "read_table"),
    ReadTake: ("take_tables", "read_take"),
    ReadAnimation: ("motion_tracks", "read_animation"),
    ReadCameras: ("camera_files", "read_cameras"),
    ListBeside: ("files_beside", "files_beside"),
    ReadCuts: ("timeline_cuts", "read_cuts"),
    ProbeSound: ("sounds", "probe_sound"),
    ReadSound: ("sounds", "read_sound"),
}
"""By which function of which module of ``decode`` a job is done. It is given the file, and the job's fields by name;
modules are loaded when they are first wanted."""
_WITHOUT_FILE = (MeasureText, ListFamilies)


class ReaderWorker:
    """Carries out one job after the other."""

    def __init__(self, connection: socket.socket) -> None:
        self._connection = connection
        self._encoder = msgspec.msgpack.Encoder()
        self._decoder = msgspec.msgpack.Decoder(Request)
        self._movies: dict[tuple[int, int, int], Any] = {}

    def run(self) -> None:
        while True:
            request, handle = self._receive()
            if not isinstance(request, Ask):
                return
            seconds = SLOW_CPU_SECONDS if isinstance(request.job, ListFamilies | ReadSound) else CPU_SECONDS
            # Whoever takes longer is ended by the kernel, whatever it is doing.
            signal.setitimer(signal.ITIMER_PROF, seconds)
            try:
                reply, memory = self._carried_out(request, handle)
            finally:
                signal.setitimer(signal.ITIMER_PROF, 0.0)
            self._send(reply, memory)
            if memory is not None:
                os.close(memory)

    def _carried_out(self, request: Ask, handle: int | None) -> tuple[Reply, int | None]:
        try:
            memory, size = pack(self._result(request, handle), OUTPUT_BYTES)
            return Done(size), memory
        except FileError as problem:
            return Refused(str(problem.path), problem.what, problem.remedy), None
        except MissingExtra as lacking:
            return Refused(request.path, lacking.what, lacking.remedy), None
        except MemoryError:
            return Refused(request.path, "needs more memory to be read than any artwork should.", _REMEDY), None
        except (KeyboardInterrupt, SystemExit):
            raise
        except BaseException as problem:  # What a stranger's file makes a library do; a panic of Rust is no Exception.
            return Refused(request.path, in_words(problem), _REMEDY), None

    def _result(self, request: Ask, handle: int | None) -> object:
        from ..decode.source import Source

        file: Any = None if handle is None else Source(Path(request.path), handle, self._beside(Path(request.path)))
        match request.job:
            case ProbeMovie():
                return self._movie(file).info
            case ReadFrame(index, limit):
                from ..stand_in import fitted

                return fitted(self._movie(file).frame(index), limit)
        module, name = DECODERS[type(request.job)]
        decode = getattr(import_module(f"wild_heron.files.decode.{module}"), name)
        fields = msgspec.structs.asdict(request.job)
        return decode(**fields) if type(request.job) in _WITHOUT_FILE else decode(file=file, **fields)

    def _movie(self, file: Any) -> Any:
        """The movie's decoder, which goes on where it was."""
        from ..decode.moving import MovieReader

        reader = self._movies.pop(file.identity, None) or MovieReader(file)
        self._movies[file.identity] = reader
        while len(self._movies) > _KEPT_MOVIES:
            self._movies.pop(next(iter(self._movies)))
        return reader

    def _beside(self, path: Path) -> Any:
        """Opens files beside one, by asking for them."""
        from ..decode.source import Source

        def ask(name: str) -> Source:
            self._send(Need(name), None)
            given, handle = self._receive()
            if handle is None:
                problem, remedy = (given.problem, given.remedy) if isinstance(given, Given) else ("was not given.", "")
                raise FileError(path.parent / name, problem, remedy)
            return Source(path.parent / name, handle, ask)

        return ask

    def _send(self, reply: Reply, handle: int | None) -> None:
        extra = [] if handle is None else [(socket.SOL_SOCKET, socket.SCM_RIGHTS, array.array("i", [handle]))]
        self._connection.sendmsg([self._encoder.encode(reply)], extra)

    def _receive(self) -> tuple[Request, int | None]:
        data, handles, _, _ = socket.recv_fds(self._connection, MESSAGE_BYTES, 1)
        if not data:
            raise EOFError
        return self._decoder.decode(data), (handles[0] if handles else None)


def serve(handle: int) -> None:
    """Be a reader for whoever holds the other end of a socket, until that closes."""
    # Ctrl-C goes to every process of a terminal; the program decides, and closes the socket.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGPROF, signal.SIG_DFL)
    limit_resources()
    _load()
    confine()
    connection = socket.socket(fileno=handle)
    with contextlib.suppress(EOFError, BrokenPipeError, ConnectionResetError):
        ReaderWorker(connection).run()
    # At once: whatever a library still does in the background is of no use to anyone.
    os._exit(0)


def main() -> None:
    serve(int(sys.argv[1]))


def _load() -> None:
    """What most jobs need, before the first of them."""
    from ..decode import bitmaps, vector  # noqa: F401
