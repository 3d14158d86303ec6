"""Atomic writes: a file is written whole or not at all."""

import contextlib
import fcntl
import os
import stat
from pathlib import Path

from .errors import FileError, why
from .sessions import unfinished


def write_atomically(path: Path, data: bytes, mode: int | None = None) -> None:
    """Write beside the file, flush to disk, and rename over it. FileError leaves the old file as it was.

    A link is followed, and the file that it leads to replaced. The file keeps its mode, and its owner as far as that is
    permitted; a new one has ``mode``, or what is usual.
    """
    target = Path(os.path.realpath(path))
    try:
        old = _old(path, target)
        _clear_leftovers(target)
        with unfinished(target) as partial:
            # O_EXCL: never through a link or a file that someone else put there.
            handle = os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o666 if mode is None else mode)
            with os.fdopen(handle, "wb") as out:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                out.write(data)
                out.flush()
                os.fsync(out.fileno())
                if old is not None:
                    with contextlib.suppress(OSError):
                        if (old.st_uid, old.st_gid) != (os.geteuid(), os.getegid()):
                            os.fchown(handle, old.st_uid, old.st_gid)
                    os.fchmod(handle, stat.S_IMODE(old.st_mode))
                os.replace(partial, target)
        _sync_folder(target.parent)
    except OSError as error:
        raise FileError(
            path, f"could not be written: {why(error)}", "The file on disk is as it was; save to another place."
        ) from error
    except ValueError as error:
        raise FileError(path, "has a name that no file can have.", "Save it under another name.") from error


def _old(path: Path, target: Path) -> os.stat_result | None:
    try:
        old = os.stat(target)
    except FileNotFoundError:
        return None
    if not stat.S_ISREG(old.st_mode):
        raise FileError(path, "is not a plain file, and is not written over.", "Save it under another name.")
    return old


def _clear_leftovers(target: Path) -> None:
    """Remove what writers of this file that were killed have left: their lock on it is gone."""
    with contextlib.suppress(OSError):
        for name in os.listdir(target.parent):
            if name.startswith(f".{target.name[:200]}.") and name.endswith(".partial"):
                left = target.with_name(name)
                handle = os.open(left, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK)
                try:
                    fcntl.flock(handle, fcntl.LOCK_SH | fcntl.LOCK_NB)
                    left.unlink(missing_ok=True)
                finally:
                    os.close(handle)


def _sync_folder(folder: Path) -> None:
    try:
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    except OSError:
        return
    try:
        os.fsync(handle)
    except OSError:
        pass  # Some file systems cannot sync a folder; the file itself is safe.
    finally:
        os.close(handle)
