"""A file as decoders see it: an open descriptor under the name that messages use."""

import io
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..errors import FileError
from ..regular import open_regular

MAX_ROWS = 200_000
"""Of a table, or frames of a motion, that are read."""


class _Handle(io.RawIOBase):
    """Reads a descriptor from a place of its own, so that several can read the same one."""

    def __init__(self, handle: int, size: int) -> None:
        self._handle, self._size, self._at = handle, size, 0

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(buffer).cast("B")  # type: ignore[arg-type]
        data = os.pread(self._handle, len(view), self._at)
        view[: len(data)] = data
        self._at += len(data)
        return len(data)

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        start = {os.SEEK_SET: 0, os.SEEK_CUR: self._at, os.SEEK_END: self._size}[whence]
        if start + offset < 0:
            raise ValueError("a place before the file's start")
        self._at = start + offset
        return self._at


class Source:
    """An open file. ``beside`` opens another one by its name relative to it, as far as that is allowed."""

    def __init__(self, path: Path, handle: int, beside: "Callable[[str], Source] | None" = None) -> None:
        self.path = path
        self._handle = handle
        self._beside = beside

    def __del__(self) -> None:
        os.close(self._handle)

    @property
    def suffix(self) -> str:
        return self.path.suffix.lower()

    @property
    def size(self) -> int:
        return os.fstat(self._handle).st_size

    @property
    def identity(self) -> tuple[int, int, int]:
        """What tells whether two of them are the same file, unchanged."""
        status = os.fstat(self._handle)
        return status.st_dev, status.st_ino, status.st_mtime_ns

    def open(self) -> "io.BufferedReader[Any]":
        """Read it from the start."""
        reader = io.BufferedReader(_Handle(self._handle, self.size), 256 * 1024)
        reader.source = self  # type: ignore[attr-defined]  # It must stay open for as long as it is read.
        return reader

    def read(self, limit: int, remedy: str) -> bytes:
        """All of it. FileError where it is larger than ``limit`` bytes."""
        if self.size > limit:
            raise FileError(self.path, f"is larger than {limit // 1_000_000} MB.", remedy)
        with self.open() as stream:
            return stream.read(limit + 1)

    def beside(self, name: str) -> "Source":
        """A file in the same folder or below. FileError where there is none, or it may not be read."""
        if self._beside is None:
            raise FileError(self.path, f"refers to “{name}”, which may not be read.", "Put all of it in one file.")
        return self._beside(name)


def on_disk(path: Path) -> Source:
    """A file opened right here, for tools and tests."""
    return Source(path, open_regular(path), lambda name: on_disk(path.parent / name))
