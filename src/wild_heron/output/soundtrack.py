"""Encodes a movie's sound."""

from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import msgspec
import numpy as np

from ..files.artwork_files import resolve
from ..files.permission import allowed_folders, for_scene
from ..files.reader import Reader
from ..files.sounds import SoundBank, tracks_of
from ..motion.sound import RATE, Track, mixed
from ..scene import Rate, Scene

_PIECE = 1024
_SAME = 1e-6


def tracks_for(scene: Scene, base: Path | None, allowed: tuple[str, ...] | None) -> list[Track]:
    """The sounds of a scene that are on and there, decoded. FileError for one that is broken.

    Whoever exports asks about files that are missing, or may not be read, before.
    """
    permission = for_scene(base, allowed_folders() if allowed is None else allowed)
    paths = [resolve(base, sound.source) for sound in scene.sounds]
    there = tuple(
        sound
        for sound, path in zip(scene.sounds, paths, strict=True)
        if sound.on and path.is_file() and permission.allows(path)
    )
    if not there:
        return []
    with Reader(1, permission) as reader:
        return tracks_of(msgspec.structs.replace(scene, sounds=there), base, SoundBank(reader))


def stretches(frames: tuple[float, ...], rate: Rate, movie: Fraction) -> list[tuple[float, int]]:
    """Where in the scene, in seconds, the sound of a movie's frames is, and for how many frames it runs on there.

    Frames that follow on each other as the movie's rate has it are one stretch; a jump in between begins another.
    """
    step = float(rate.fraction / movie)
    found: list[tuple[float, int]] = []
    for k, frame in enumerate(frames):
        if k and abs(frame - frames[k - 1] - step) < _SAME:
            found[-1] = (found[-1][0], found[-1][1] + 1)
        else:
            found.append((frame / rate.fps, 1))
    return found


class Soundtrack:
    """A stream of sound in a movie that is being written."""

    def __init__(
        self,
        container: Any,
        codec: tuple[str, int],
        tracks: list[Track],
        frames: tuple[float, ...],
        rate: Rate,
        movie: Fraction,
    ) -> None:
        name, bits = codec
        self._container, self._tracks, self._rate = container, tracks, rate
        self._stream = container.add_stream(name, rate=RATE)
        if bits:
            self._stream.bit_rate = bits
        self._stream.layout = "stereo"
        self._fifo = av.AudioFifo()
        self._time_base = Fraction(1, RATE)
        self._done = 0
        self._per_frame = Fraction(RATE) / movie
        edges = [0]
        self._seconds: list[float] = []
        for seconds, count in stretches(frames, rate, movie):
            self._seconds.append(seconds)
            edges.append(edges[-1] + count)
        self._edges = [round(edge * self._per_frame) for edge in edges]

    def up_to(self, frame: int) -> None:
        """Write the sound of all frames before one of this number in the movie."""
        end = round(frame * self._per_frame)
        for (low, high), seconds in zip(pairwise(self._edges), self._seconds, strict=True):
            first, last = max(self._done, low), min(end, high)
            if first < last:
                self._write(mixed(self._tracks, self._rate, seconds + (first - low) / RATE, last - first))

    def _write(self, samples: Any) -> None:
        for start in range(0, len(samples), RATE):
            piece = np.ascontiguousarray(samples[start : start + RATE].T)
            frame = av.AudioFrame.from_ndarray(piece, format="fltp", layout="stereo")
            frame.sample_rate, frame.time_base, frame.pts = RATE, self._time_base, self._done
            self._done += piece.shape[1]
            self._fifo.write(frame)
        size = self._stream.codec_context.frame_size or _PIECE
        while (whole := self._fifo.read(size)) is not None:
            self._encode(whole)

    def _encode(self, frame: Any) -> None:
        for packet in self._stream.encode(frame):
            self._container.mux(packet)

    def finish(self) -> None:
        """Write what is left."""
        rest = self._fifo.read()
        if rest is not None:
            self._encode(rest)
        self._encode(None)
