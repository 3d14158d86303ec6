"""Writing a file whole or not at all."""

import os
from pathlib import Path

from .errors import FileError, why


def write_atomically(path: Path, data: bytes) -> None:
    """Write beside the file, flush to disk, and rename over it. FileError leaves the old file as it was."""
    partial = path.with_name(f".{path.name}.{os.getpid()}.partial")
    try:
        # O_EXCL: never through a link or a file that someone else put there.
        handle = os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o666)
        try:
            with os.fdopen(handle, "wb") as out:
                out.write(data)
                out.flush()
                os.fsync(out.fileno())
            if path.exists():
                os.chmod(partial, path.stat().st_mode & 0o7777)
            os.replace(partial, path)
        except BaseException:
            partial.unlink(missing_ok=True)
            raise
        _sync_folder(path.parent)
    except FileExistsError:
        partial.unlink(missing_ok=True)
        raise FileError(path, "a leftover partial file was in the way.", "It is removed now; save again.") from None
    except OSError as error:
        raise FileError(
            path, f"could not be written: {why(error)}", "The file on disk is as it was; save to another place."
        ) from error


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
