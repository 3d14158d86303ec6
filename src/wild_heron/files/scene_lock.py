"""A lock beside a scene file, so that two windows do not save over each other."""

import contextlib
import fcntl
import os
import socket
import time
from pathlib import Path

import msgspec


class Holder(msgspec.Struct, frozen=True):
    """Who has a scene open."""

    host: str = ""
    process: int = 0
    since: float = 0.0


class SceneLock:
    """Held for as long as a scene is open to be changed. The kernel lets go of it when its holder dies."""

    def __init__(self, scene: Path) -> None:
        """Take the lock if it is free. ``holder`` says who has it otherwise; None where nobody else does."""
        real = Path(os.path.realpath(scene))
        self._path = real.with_name(f".{real.name}.lock")
        self._handle: int | None = None
        self.holder: Holder | None = None
        # In a folder that cannot be written nobody saves, so no lock is needed.
        with contextlib.suppress(OSError):
            self._take()

    def _take(self) -> None:
        while True:
            handle = os.open(self._path, os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW, 0o666)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                self.holder = _read(handle)
                os.close(handle)
                return
            except OSError:
                os.close(handle)
                raise
            # Whoever had it may have removed it between opening and locking.
            with contextlib.suppress(FileNotFoundError):
                if os.stat(self._path).st_ino == os.fstat(handle).st_ino:
                    break
            os.close(handle)
        self._handle = handle
        os.pwrite(handle, data := msgspec.json.encode(Holder(socket.gethostname(), os.getpid(), time.time())), 0)
        os.ftruncate(handle, len(data))

    @property
    def is_held(self) -> bool:
        return self._handle is not None

    def release(self) -> None:
        if self._handle is not None:
            with contextlib.suppress(OSError):
                self._path.unlink(missing_ok=True)
            os.close(self._handle)
            self._handle = None


def _read(handle: int) -> Holder:
    try:
        return msgspec.json.decode(os.pread(handle, 4096, 0), type=Holder)
    except (OSError, ValueError):
        return Holder()
