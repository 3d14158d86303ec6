"""Processes of the program beside the one that was started. What they run is not looked for where they stand."""

import contextlib
import ctypes
import faulthandler
import logging
import os
import signal
import subprocess
import sys
import threading
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from .blas_threads import use_one_thread

_PR_SET_PDEATHSIG = 1
_HOME = Path(__file__).parent.parent
"""The folder that this package lies in."""
_BEGIN = """
import gc, importlib, sys
gc.disable()
sys.path[:] = sys.argv.pop(1).split("\\n")
main = importlib.import_module(sys.argv.pop(1)).main
gc.freeze()
gc.enable()
main()
"""
"""While modules load nothing is garbage; looking for it takes a tenth of that time."""


def _search_path() -> list[str]:
    """Where this process finds modules: the package first, so that no folder of the same name goes before it, and
    without the folder that this process was started in."""
    try:
        here = os.getcwd()
    except OSError:
        here = ""
    if Path(here).is_relative_to(sys.prefix):
        here = ""
    return [str(_HOME), *(each for each in sys.path if os.path.isabs(each) and each not in (str(_HOME), here))]


def start_module(
    module: str,
    arguments: Sequence[object] = (),
    pass_fds: Sequence[int] = (),
    environment: Mapping[str, str] | None = None,
    **how: Any,
) -> "subprocess.Popen[bytes]":
    """Run ``main`` of a module of ours in another Python, from the root folder.

    It neither looks for modules in the folder that this process stands in, nor goes by variables that say where to
    look: a folder from a stranger can hold a package of any name.
    """
    plain = ["-B"] if sys.dont_write_bytecode else []
    command = [sys.executable, "-I", *plain, "-c", _BEGIN, "\n".join(_search_path()), module, *map(str, arguments)]
    how.setdefault("cwd", os.sep)
    how.setdefault("stdin", subprocess.DEVNULL)
    theirs = dict(os.environ if environment is None else environment)
    use_one_thread(theirs)
    return subprocess.Popen(command, pass_fds=tuple(pass_fds), env=theirs, **how)


class ForkedProcess:
    """A copy of this process, as far as it is spoken of like a ``subprocess.Popen``."""

    def __init__(self, pid: int) -> None:
        self.pid = pid
        self.returncode: int | None = None
        self._one_waits = threading.Lock()

    def poll(self) -> int | None:
        """How it ended, or None."""
        return self._waited(os.WNOHANG)

    def wait(self) -> int:
        found = self._waited(0)
        assert found is not None
        return found

    def kill(self) -> None:
        if self.poll() is None:
            os.kill(self.pid, signal.SIGKILL)

    def _waited(self, options: int) -> int | None:
        with self._one_waits:
            if self.returncode is None:
                pid, status = os.waitpid(self.pid, options)
                if pid:
                    self.returncode = os.waitstatus_to_exitcode(status)
            return self.returncode


def fork(work: Callable[[int], None], kept: int) -> ForkedProcess | None:
    """A copy of this process that does ``work(kept)`` and ends, with what is loaded loaded. Of what is open it keeps
    that descriptor alone. None where this process cannot be copied, since it has threads by now."""
    if threading.active_count() > 1:
        return None
    pid = os.fork()
    if pid:
        return ForkedProcess(pid)
    with contextlib.suppress(BaseException):
        _let_go_of_all_but(kept)
        work(kept)
    os._exit(0)


def _let_go_of_all_but(kept: int) -> None:
    """Have nothing open, nor written to, but a descriptor."""
    logging.disable()
    faulthandler.disable()
    for handle in map(int, os.listdir("/proc/self/fd")):
        if handle > 2 and handle != kept:
            with contextlib.suppress(OSError):
                os.close(handle)
    nothing = os.open(os.devnull, os.O_RDWR)
    for stream in (0, 1, 2):
        os.dup2(nothing, stream)
    os.close(nothing)


def end_with_parent() -> None:
    """Be killed when the program that started this one is gone, whatever this one is doing then."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
