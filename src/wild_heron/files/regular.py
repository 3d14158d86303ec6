"""Opens regular files only: a device or a pipe could be read for ever."""

import os
import stat
from pathlib import Path

from .errors import FileError, why


def open_regular(path: Path) -> int:
    """A descriptor for reading a plain file. FileError where there is none, or it cannot be read."""
    try:
        # Looked at before it is opened, since to open a device may do something; and after, as it may have changed.
        if not stat.S_ISREG(os.stat(path).st_mode):
            raise FileError(path, "is not a plain file.", "Check the name.")
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC | os.O_NOCTTY)
        if not stat.S_ISREG(os.fstat(handle).st_mode):
            os.close(handle)
            raise FileError(path, "is not a plain file.", "Check the name.")
        return handle
    except (FileNotFoundError, NotADirectoryError) as error:
        raise FileError(path, "was not found.", "Check the name.") from error
    except OSError as error:
        raise FileError(path, f"could not be read: {why(error)}", "Check that you may read it.") from error
    except ValueError as error:  # A name with a zero byte in it.
        raise FileError(path, "has a name that no file can have.", "Rename it.") from error


def read_regular(path: Path, most: int, what: str) -> bytes:
    """What a plain file holds. FileError where it cannot be read, or is larger than so many bytes."""
    with os.fdopen(open_regular(path), "rb") as file:
        try:
            data = file.read(most + 1)
        except OSError as error:
            raise FileError(path, f"could not be read: {why(error)}", "Check that you may read it.") from error
    if len(data) > most:
        raise FileError(path, f"is larger than {what} can be.", "Choose another file.")
    return data
