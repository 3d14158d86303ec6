"""A disk cache of downscaled pictures, keyed by the content of their files."""

import contextlib
import hashlib
import os
import struct
import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np
import platformdirs

from ..arrays import Pixels
from .regular import open_regular

LIMIT_BYTES = 2 * 1024 * 1024 * 1024
_HEADER = struct.Struct("<4sII")
_MAGIC = b"WHd1"
_PRUNE_EVERY = 32


class Drafts:
    """A folder of drafts. It may be emptied at any time; what is missing is made again."""

    def __init__(self, folder: Path | None = None, limit: int = LIMIT_BYTES) -> None:
        self.folder = folder or Path(platformdirs.user_cache_dir("wild-heron")) / "drafts"
        self.limit = limit
        self._digests: dict[tuple[str, int, int], str] = {}
        self._written = 0
        self._lock = threading.Lock()

    def get(self, path: Path, part: str, level: int, make: Callable[[], Pixels], linear: bool = False) -> Pixels:
        """The picture (H, W, 4) reduced by 2^−level (level < 0), by the mean of values or of light, from the folder,
        or as ``make()`` gives it, and kept. FileError where the picture's file cannot be read."""
        try:
            kind = "light" if linear else "draft"
            place = self.folder / f"{self._digest(path)}-{_short(part)}-{-level}.{kind}"
        except OSError:
            return make()
        known = _read(place)
        if known is not None:
            return known
        small = make()
        self._write(place, small)
        return small

    def _digest(self, path: Path) -> str:
        """What a file holds, in 32 letters; looked at again when its time or size changed."""
        status = path.stat()
        key = (str(path), status.st_mtime_ns, status.st_size)
        known = self._digests.get(key)
        if known is None:
            with os.fdopen(open_regular(path), "rb") as file:
                known = hashlib.file_digest(file, lambda: hashlib.blake2b(digest_size=16)).hexdigest()
            self._digests[key] = known
        return known

    def _write(self, place: Path, pixels: Pixels) -> None:
        # A draft is a convenience: where it cannot be kept, it is made again next time.
        with contextlib.suppress(OSError):
            self.folder.mkdir(parents=True, exist_ok=True)
            unfinished = place.with_suffix(f".{os.getpid()}-{threading.get_ident()}")
            try:
                with unfinished.open("wb") as file:
                    file.write(_HEADER.pack(_MAGIC, pixels.shape[1], pixels.shape[0]))
                    file.write(np.ascontiguousarray(pixels).data)
                os.replace(unfinished, place)
            finally:
                unfinished.unlink(missing_ok=True)
            with self._lock:
                self._written += 1
                due = self._written % _PRUNE_EVERY == 1
            if due:
                self.prune()

    def prune(self) -> None:
        """Delete the drafts that were not used for longest, until the folder is within its limit."""
        with contextlib.suppress(OSError):
            found = []
            for entry in os.scandir(self.folder):
                status = entry.stat()
                found.append((status.st_mtime, status.st_size, entry.path))
            total = sum(size for _, size, _ in found)
            for _, size, path in sorted(found):
                if total <= self.limit:
                    break
                os.unlink(path)
                total -= size


def _short(text: str) -> str:
    return hashlib.blake2b(text.encode(), digest_size=6).hexdigest()


def _read(place: Path) -> Pixels | None:
    try:
        data = place.read_bytes()
        magic, width, height = _HEADER.unpack_from(data)
        if magic != _MAGIC or len(data) != _HEADER.size + width * height * 4:
            return None
        os.utime(place)
        return np.frombuffer(data, np.uint8, offset=_HEADER.size).reshape(height, width, 4)
    except (OSError, struct.error):
        return None
