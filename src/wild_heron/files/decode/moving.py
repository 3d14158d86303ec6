"""Decodes movies in order, with bounded memory."""

from collections import OrderedDict
from typing import Any

import av
import av.error
import numpy as np

from ...arrays import Pixels
from ..contents import MovieInfo
from ..errors import FileError
from .source import Source

_KEPT_BYTES = 64 * 1024 * 1024
_SEEK_AHEAD = 48
_MAX_PIXELS = 18_000_000
_FORMATS = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi"
"""A playlist in a movie's clothes is none of them: it would fetch other files."""
_REMEDY = "Write it anew, or choose another movie."
_ERRORS = (av.error.FFmpegError, OSError, ValueError, LookupError, ArithmeticError, TypeError, AttributeError)


class MovieReader:
    """Decodes one movie. Frames that were decoded are kept up to a limit; going on from one is quick."""

    def __init__(self, file: Source) -> None:
        self.path = file.path
        self._kept: OrderedDict[int, Pixels] = OrderedDict()
        try:
            self._stream_in = file.open()
            self._container: Any = av.open(
                self._stream_in, options={"format_whitelist": _FORMATS, "protocol_whitelist": ""}
            )
            self._stream = self._container.streams.video[0]
            self._stream.thread_type = "AUTO"
            self._stream.codec_context.thread_count = 2
            self.info = self._probe()
        except _ERRORS as problem:
            raise FileError(self.path, f"could not be read as a movie: {problem}.", _REMEDY) from problem
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
        if not (width > 0 and height > 0):
            raise ValueError("it has no size")
        if width * height > _MAX_PIXELS:
            raise ValueError(
                f"{width} × {height} pixels are too large; up to {_MAX_PIXELS // 1_000_000} megapixels work"
            )
        if not (0.01 <= rate <= 1000.0 and count <= 10_000_000):
            raise ValueError(f"its rate ({rate:g} frames a second) or length is none that a movie has")
        return MovieInfo(width, height, max(1, count), rate)

    def frame(self, index: int) -> Pixels:
        """Frame ``index``, (H, W, 4) uint8 premultiplied; past the end, the last. FileError where it cannot be had."""
        known = self._kept.get(index)
        if known is not None:
            self._kept.move_to_end(index)
            return known
        try:
            return self._decode_to(index)
        except _ERRORS as problem:
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
