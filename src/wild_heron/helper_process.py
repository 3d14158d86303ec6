"""Processes of the program beside the one that was started. What they run is not looked for where they stand."""

import contextlib
import ctypes
import os
import signal
import subprocess
import sys
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

_PR_SET_PDEATHSIG = 1
_HOME = Path(__file__).parent.parent
"""The folder that this package lies in."""
_BEGIN = """
import runpy, sys
sys.path[:] = sys.argv.pop(1).split("\\n")
runpy.run_module(sys.argv.pop(1), run_name="__main__", alter_sys=True)
"""


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
    """Start a module of ours as ``__main__`` in another Python, from the root folder.

    It neither looks for modules in the folder that this process stands in, nor goes by variables that say where to
    look: a folder from a stranger can hold a package of any name.
    """
    plain = ["-B"] if sys.dont_write_bytecode else []
    command = [sys.executable, "-I", *plain, "-c", _BEGIN, "\n".join(_search_path()), module, *map(str, arguments)]
    how.setdefault("cwd", os.sep)
    how.setdefault("stdin", subprocess.DEVNULL)
    return subprocess.Popen(command, pass_fds=tuple(pass_fds), env=environment, **how)


def end_with_parent() -> None:
    """Be killed when the program that started this one is gone, whatever this one is doing then."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
