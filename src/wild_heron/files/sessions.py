"""Session locks: which autosaves and partial exports belong to a running process.

The kernel lets go of a lock when its holder dies, however it dies, so nothing depends on process numbers.
"""

import contextlib
import fcntl
import os
from collections.abc import Iterator
from pathlib import Path

import msgspec
import platformdirs

_PARTIAL = ".partial"


def sessions_folder() -> Path:
    return Path(platformdirs.user_state_dir("wild-heron")) / "sessions"


class Session:
    """A token of one's own, and which unfinished files belong to it."""

    def __init__(self, folder: Path | None = None) -> None:
        self.token = os.urandom(6).hex()
        self._folder = folder or sessions_folder()
        self._path = self._folder / f"{self.token}.lock"
        self._partials: list[str] = []
        self._lock: int | None = None
        # Without a place for it, one works without being known to others.
        with contextlib.suppress(OSError):
            self._folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            self._lock = os.open(self._path, os.O_CREAT | os.O_EXCL | os.O_RDWR, 0o600)
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)

    def begin(self, partial: Path) -> None:
        """Note an unfinished file or folder before it is made, so that it can be cleared away whatever happens."""
        self._partials.append(os.path.abspath(partial))
        self._write()

    def end(self, partial: Path) -> None:
        """It is finished, or gone."""
        with contextlib.suppress(ValueError):
            self._partials.remove(os.path.abspath(partial))
        self._write()

    def _write(self) -> None:
        if self._lock is not None:
            with contextlib.suppress(OSError):
                os.pwrite(self._lock, data := msgspec.json.encode(self._partials), 0)
                os.ftruncate(self._lock, len(data))

    def close(self) -> None:
        # A signal may have come between a file and its end.
        for name in self._partials:
            _remove(Path(name))
        if self._lock is not None:
            self._path.unlink(missing_ok=True)
            os.close(self._lock)
            self._lock = None

    def __enter__(self) -> "Session":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()


@contextlib.contextmanager
def unfinished(target: Path) -> Iterator[Path]:
    """The name of a file or folder beside ``target``, to be written and then renamed. What is there at the end is
    cleared away: at once, or where this process is killed, by the next that starts."""
    with Session() as session:
        partial = target.with_name(f".{target.name[:200]}.{session.token}{_PARTIAL}")
        session.begin(partial)
        yield partial


def is_alive(token: str, folder: Path | None = None) -> bool:
    """Whether the session of this token still runs."""
    path = (folder or sessions_folder()) / f"{token}.lock"
    try:
        handle = os.open(path, os.O_RDONLY)
    except (OSError, ValueError):
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_SH | fcntl.LOCK_NB)
        return False
    except OSError:
        return True
    finally:
        os.close(handle)


def clear_stale(folder: Path | None = None) -> list[Path]:
    """Clear away what sessions that were killed left unfinished; returns what was removed."""
    removed = []
    for path in sorted((folder or sessions_folder()).glob("*.lock")):
        if is_alive(path.stem, folder):
            continue
        with contextlib.suppress(OSError, ValueError):
            for name in msgspec.json.decode(path.read_bytes() or b"[]", type=list[str]):
                if _remove(Path(name)):
                    removed.append(Path(name))
        path.unlink(missing_ok=True)
    return removed


def _remove(partial: Path) -> bool:
    """Remove an unfinished file, or folder of frames; nothing but what is named as one."""
    import shutil

    if _PARTIAL not in partial.name or not partial.name.startswith("."):
        return False
    with contextlib.suppress(OSError):
        if partial.is_dir() and not partial.is_symlink():
            shutil.rmtree(partial, ignore_errors=True)
        else:
            partial.unlink()
        return True
    return False
