"""The surroundings of a soak: a home of its own, processes that want the processors, and what is left over."""

import contextlib
import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from wild_heron.log import CRASHES


def fresh_home() -> dict[str, str]:
    """The environment of a user who has never started the program."""
    home = tempfile.mkdtemp(prefix="wild-heron-soak-")
    names = {f"XDG_{name}_HOME": f"{home}/{name.lower()}" for name in ("CONFIG", "DATA", "CACHE", "STATE")}
    return os.environ | names | {"HOME": home, "SOAK": home}


def crash_lines(environment: dict[str, str]) -> list[str]:
    """What the fault handler wrote."""
    found = [*Path(environment["XDG_STATE_HOME"]).rglob(CRASHES), *Path(environment["XDG_STATE_HOME"]).rglob("*.1.log")]
    return [line for path in found for line in path.read_text(errors="replace").splitlines()]


@contextlib.contextmanager
def busy(count: int) -> Iterator[None]:
    """So many processes that do nothing but work, at ordinary priority."""
    those = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(count)]
    try:
        yield
    finally:
        for each in those:
            each.kill()
            each.wait()


_A_MOMENT = 10.0
"""Seconds that what watches over others may take, on a busy machine, to see that it is alone."""


def left_over(environment: dict[str, str]) -> list[int]:
    """Processes that were started in this environment and live on for more than a moment."""
    until = time.monotonic() + _A_MOMENT
    while (found := _alive(environment)) and time.monotonic() < until:
        time.sleep(0.05)
    return found


def _alive(environment: dict[str, str]) -> list[int]:
    mark = f"SOAK={environment['SOAK']}".encode()
    found = []
    for path in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            if mark in (path / "environ").read_bytes().split(b"\0") and int(path.name) != os.getpid():
                found.append(int(path.name))
    return found


def end(numbers: list[int]) -> None:
    for number in numbers:
        with contextlib.suppress(ProcessLookupError):
            os.kill(number, signal.SIGKILL)


def memory(pid: int | str = "self") -> float:
    """What a process holds, in megabytes."""
    return int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6
