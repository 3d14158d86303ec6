"""Moving pictures: numbered files on disk, and movies decoded in order with a bounded memory."""

import re
import threading
from collections import OrderedDict
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..scene import Sequence, numbered
from .errors import FileError

Pixels = NDArray[np.uint8]

_KEPT_BYTES = 256 * 1024 * 1024
_SEEK_AHEAD = 48
_REMEDY = "Write it anew, or choose another movie."


class Numbered(msgspec.Struct, frozen=True):
    """A run of numbered files: its name with # for the number, first number and count."""

    source: Path
    first: int
    count: int


def find_sequence(path: Path) -> Numbered | None:
    """The run of numbered files around one of them, as far as there is no gap; None where it stands alone."""
    found = re.search(r"(\d+)(?!.*\d)", path.stem)
    if found is None:
        return None
    digits = found.group(1)
    head, tail = path.stem[: found.start()], path.stem[found.end() :] + path.suffix
    if "#" in head + tail or len(digits) > 12:
        return None
    name = re.compile(re.escape(head) + r"(\d+)" + re.escape(tail))
    numbers = {
        int(match.group(1))
        for each in path.parent.iterdir()
        if (match := name.fullmatch(each.name))
        and len(match.group(1)) == max(len(digits), len(str(int(match.group(1)))))
    }
    first = last = int(digits)
    while first - 1 in numbers:
        first -= 1
    while last + 1 in numbers:
        last += 1
    if last == first:
        return None
    # The shortest number says how far they are padded.
    return Numbered(path.with_name(f"{head}{'#' * len(digits)}{tail}"), first, last - first + 1)


def sequence_file(artwork: Sequence, base: Path | None, index: int) -> Path:
    """The file of a sequence's frame ``index`` (from 0)."""
    source = Path(numbered(artwork.source, artwork.first + index))
    return source if source.is_absolute() or base is None else base / source


class MovieInfo(msgspec.Struct, frozen=True):
    width: int
    height: int
    count: int
    rate: float


def probe_movie(path: Path) -> MovieInfo:
    """Size, length and rate of a movie. FileError where it cannot be played."""
    reader = MovieReader(path)
    try:
        return reader.info
    finally:
        reader.close()


class MovieReader:
    """Decodes one movie. Frames that were decoded are kept up to a limit; going on from one is quick."""

    def __init__(self, path: Path) -> None:
        import av

        self.path = path
        self._errors = (av.error.FFmpegError, OSError, ValueError, MemoryError)
        self._lock = threading.Lock()
        self._kept: OrderedDict[int, Pixels] = OrderedDict()
        if not path.is_file():
            raise FileError(path, "was not found." if not path.exists() else "is not a plain file.", "Check the name.")
        try:
            # The plain file protocol alone: a playlist in a movie's clothes must not fetch anything.
            self._container: Any = av.open(str(path), options={"protocol_whitelist": "file"})
            self._stream = self._container.streams.video[0]
            self._stream.thread_type = "AUTO"
            self.info = self._probe()
        except (*self._errors, IndexError) as problem:
            raise FileError(path, f"could not be read as a movie: {problem}.", _REMEDY) from problem
        self._frames = self._container.decode(self._stream)
        self._next = 0

    def _probe(self) -> MovieInfo:
        stream = self._stream
        rate = float(stream.average_rate or stream.guessed_rate or 25)
        count = int(stream.frames)
        if count < 1 and stream.duration:
            count = round(float(stream.duration * stream.time_base) * rate)
        if count < 1 and self._container.duration:
            count = round(self._container.duration / 1e6 * rate)
        width, height = int(stream.width), int(stream.height)
        if not (0 < width <= 32_768 and 0 < height <= 32_768):
            raise ValueError("it has no size")
        return MovieInfo(width, height, max(1, count), rate)

    def frame(self, index: int) -> Pixels:
        """Frame ``index``, (H, W, 4) uint8 premultiplied; past the end, the last. FileError where it cannot be had."""
        with self._lock:
            known = self._kept.get(index)
            if known is not None:
                self._kept.move_to_end(index)
                return known
            try:
                return self._decode_to(index)
            except self._errors as problem:
                raise FileError(self.path, f"could not be read at frame {index}: {problem}.", _REMEDY) from problem

    def _decode_to(self, index: int) -> Pixels:
        if not self._next <= index <= self._next + _SEEK_AHEAD:
            start = self._stream.start_time or 0
            target = start + int(max(0, index - 1) / self.info.rate / self._stream.time_base)
            self._container.seek(target, stream=self._stream)
            self._frames = self._container.decode(self._stream)
            self._next = 0
        last: Pixels | None = None
        start_seconds = float((self._stream.start_time or 0) * self._stream.time_base)
        for frame in self._frames:
            at = self._next if frame.time is None else round((frame.time - start_seconds) * self.info.rate)
            self._next = at + 1
            if at >= index or at >= index - 2:
                last = self._keep(at, frame)
            if at >= index:
                return last if last is not None else self._keep(at, frame)
        # Some movies promise more frames than they hold.
        self._next = 1 << 60
        if last is not None:
            return last
        kept = [at for at in self._kept if at <= index]
        if kept:
            return self._kept[max(kept)]
        raise ValueError("there is no such frame")

    def _keep(self, at: int, frame: Any) -> Pixels:
        pixels = np.asarray(frame.to_ndarray(format="rgba"))
        if frame.format.name in ("rgba", "bgra", "argb", "abgr", "yuva420p", "yuva444p10le", "yuva444p12le", "pal8"):
            cover = pixels[..., 3:].astype(np.uint16)
            pixels = np.concatenate([(pixels[..., :3] * cover + 127) // 255, cover], axis=-1).astype(np.uint8)
        self._kept[at] = pixels
        while len(self._kept) > 2 and sum(each.nbytes for each in self._kept.values()) > _KEPT_BYTES:
            self._kept.popitem(last=False)
        return pixels

    def close(self) -> None:
        self._container.close()
