"""Render processes and readers of the tests, forked from a process that has loaded them.

Each does what it would do by itself, as a process of its own, but for the half second of loading: a run of all tests
starts hundreds. The command line's are started as they are anywhere.
"""

import contextlib
import os
import select
import signal
import socket
import subprocess
import sys
import threading
from importlib import import_module
from pathlib import Path

import msgspec

FORKED = ("wild_heron.process.worker", "wild_heron.files.reader.worker")
_LOADED = (
    *FORKED, "wild_heron.files.decode.images", "wild_heron.files.decode.pixels", "wild_heron.files.decode.vector",
    "wild_heron.files.decode.bitmaps", "scipy.ndimage",
)  # fmt: skip
_ROOM = 1 << 20
_ABOVE = 512
"""Descriptors are put here first, out of the way of the numbers that they are to have."""


class Start(msgspec.Struct, tag=True):
    """Fork a process that runs a module's ``main`` with arguments, and with descriptors under the given numbers."""

    module: str
    arguments: list[str]
    numbers: list[int]
    environment: dict[str, str]
    silent: bool


class Ended(msgspec.Struct, tag=True):
    """Say how a process ended, or that it has not."""

    pid: int


class ForkedHelper:
    """One that was started, as far as it is spoken of like a ``subprocess.Popen``."""

    def __init__(self, server: "Server", pid: int) -> None:
        self._server, self.pid = server, pid
        self.returncode: int | None = None
        self._told = threading.Lock()

    def poll(self) -> int | None:
        # How it ended can be asked for once: of several threads the others get what that one was told.
        with self._told:
            if self.returncode is None:
                self.returncode = self._server.ask(Ended(self.pid))
            return self.returncode

    def wait(self) -> int:
        if self.poll() is None:
            # Another thread may have been told meanwhile, and nobody goes by this number any more.
            with contextlib.suppress(ProcessLookupError):
                handle = os.pidfd_open(self.pid)
                select.select([handle], [], [])
                os.close(handle)
        found = self.poll()
        assert found is not None
        return found

    def kill(self) -> None:
        if self.poll() is None:
            os.kill(self.pid, signal.SIGKILL)


class Server:
    """The process that they are forked from."""

    def __init__(self) -> None:
        self._socket, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        source = str(Path(import_module("wild_heron").__file__).parents[1])
        self._process = subprocess.Popen(
            [sys.executable, __file__, str(theirs.fileno())], pass_fds=[theirs.fileno()],
            env=os.environ | {"PYTHONPATH": source},
        )  # fmt: skip
        theirs.close()
        self._lock = threading.Lock()

    def ask(self, what: Start | Ended, handles: list[int] = ()) -> int | None:
        with self._lock:
            socket.send_fds(self._socket, [msgspec.msgpack.encode(what)], handles)
            return msgspec.msgpack.decode(self._socket.recv(_ROOM), type=int | None)

    def start(self, module, arguments=(), pass_fds=(), environment=None, **how) -> ForkedHelper:
        """As ``helper_process.start_module``."""
        numbers = list(pass_fds)
        silent = how.get("stdout") == subprocess.DEVNULL
        theirs = dict(os.environ if environment is None else environment)
        pid = self.ask(Start(module, [str(each) for each in arguments], numbers, theirs, silent), numbers)
        assert pid is not None
        return ForkedHelper(self, pid)


def _serve(connection: socket.socket) -> None:
    while True:
        data, handles, _, _ = socket.recv_fds(connection, _ROOM, 16)
        if not data:
            return
        asked = msgspec.msgpack.decode(data, type=Start | Ended)
        if isinstance(asked, Ended):
            pid, status = os.waitpid(asked.pid, os.WNOHANG)
            answer = os.waitstatus_to_exitcode(status) if pid else None
        else:
            answer = os.fork()
            if not answer:
                connection.close()
                _be(asked, handles)
            for each in handles:
                os.close(each)
        connection.send(msgspec.msgpack.encode(answer))


def _be(asked: Start, handles: list[int]) -> None:
    """Be the process that is asked for."""
    status = 1
    try:
        above = [_ABOVE + k for k in range(len(handles))]
        for old, new in zip(handles, above, strict=True):
            os.dup2(old, new)
            os.close(old)
        for old, new in zip(above, asked.numbers, strict=True):
            os.dup2(old, new)
            os.close(old)
        nothing = os.open(os.devnull, os.O_RDWR)
        for stream in (0, 1, 2) if asked.silent else (0,):
            os.dup2(nothing, stream)
        os.environ.clear()
        os.environ.update(asked.environment)
        os.chdir(os.sep)
        sys.argv = [asked.module, *asked.arguments]
        import_module(asked.module).main()
        status = 0
    except BaseException as problem:
        sys.excepthook(type(problem), problem, problem.__traceback__)
    os._exit(status)


if __name__ == "__main__":
    import gc

    # Ctrl-C goes to every process of a terminal; this one ends with whoever asks.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    for each in _LOADED:
        import_module(each)
    gc.freeze()
    _serve(socket.socket(fileno=int(sys.argv[1])))
    os._exit(0)
