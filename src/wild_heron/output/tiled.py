"""Frames larger than can be drawn in one piece: drawn in tiles, joined row by row of tiles, and written as they come.

No more of a frame is held than one row of tiles. Each tile is drawn with a rim, which is cut off: what is smoothed
depends on what lies beside it.
"""

import struct
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Pixels
from ..files.sessions import Session
from ..gl.request import FrameRequest, Tile
from ..process.client import DrawnFrame
from ..process.stream import FrameStream
from ..scene import Scene
from .frame_files import Frames, Tags, channels, srgb_profile
from .job import ExportJob

SIDE = 1024
RIM = 64
"""Whole tiles of edges that are smoothed, which so lie in the same places whatever is drawn at once."""

_TIFF_TILE = 128
"""The side of a TIFF's own tiles, of which a row of ours has a whole number."""

Progress = Callable[[int, int], None]
Band = NDArray[Any]
"""Some rows of a picture (H, W, 3 or 4), bytes or 16-bit numbers."""


class DrawnTile(msgspec.Struct, frozen=True):
    """A tile of a frame, and the part of the frame that is drawn for it."""

    own: Tile
    drawn: Tile

    def cut(self, pixels: Pixels) -> Pixels:
        """The tile itself, of what was drawn."""
        (x, y, width, height), (left, top, _, _) = self.own, self.drawn
        return pixels[y - top : y - top + height, x - left : x - left + width]


def rows_of_tiles(size: tuple[int, int], side: int) -> list[list[DrawnTile]]:
    """The tiles of a frame, row by row from the top."""
    width, height = size

    def part(first: int, whole: int) -> tuple[int, int, int, int]:
        end = min(first + side, whole)
        low, high = max(0, first - RIM), min(whole, end + RIM)
        return first, end - first, low, high - low

    rows = []
    for y in range(0, height, side):
        top, down, low, high = part(y, height)
        row = []
        for x in range(0, width, side):
            left, across, first, wide = part(x, width)
            row.append(DrawnTile((left, top, across, down), (first, low, wide, high)))
        rows.append(row)
    return rows


def write_tiled(
    scene: Scene, base: Path | None, job: ExportJob, tags: Tags, session: Session, progress: Progress,
    cancelled: Callable[[], bool],
) -> bool:  # fmt: skip
    """Draw a job's frames in tiles and write them; False where it was cancelled. OSError where they cannot be
    written."""
    sink, drawing = Frames(job, tags, session), _Drawing(job, progress, cancelled)
    try:
        sink.begin()
        with FrameStream(scene, base, drawing.picture, job.processes, job.niceness, job.allowed) as stream:
            drawn = stream.pictures(drawing.wishes(), drawing.stop)
            for frame in job.frames:
                path = sink.folder / job.frame_path(frame).name
                _WRITERS[job.kind.name](path, job, drawing.bands(drawn))
        sink.finish()
        progress(len(job.frames), len(job.frames))
        return True
    except _Cancelled:
        return False
    finally:
        sink.abandon()


class _Cancelled(Exception):
    """Somebody does not want it any more."""


class _Drawing:
    """Which tiles are drawn, and how far that is."""

    def __init__(self, job: ExportJob, progress: Progress, cancelled: Callable[[], bool]) -> None:
        self._job, self._progress, self._cancelled = job, progress, cancelled
        self._rows = rows_of_tiles(job.size, SIDE)
        self._tiles = [tile for row in self._rows for tile in row]
        largest = max((tile.drawn for tile in self._tiles), key=lambda tile: tile[2] * tile[3])
        self.picture = msgspec.structs.replace(job.picture, tile=largest)
        self._done = 0

    def wishes(self) -> list[FrameRequest]:
        """Every tile of every frame, in order."""
        return [
            msgspec.structs.replace(self.picture, frame=frame, tile=tile.drawn)
            for frame in self._job.frames
            for tile in self._tiles
        ]

    def stop(self) -> bool:
        count = len(self._job.frames)
        self._progress(self._done * count // (len(self._tiles) * count), count)
        return self._cancelled()

    def bands(self, drawn: Iterator[DrawnFrame]) -> Iterator[Band]:
        """A frame from the top, a row of tiles at a time."""
        for row in self._rows:
            parts = []
            for tile in row:
                found = next(drawn, None)
                if found is None:
                    raise _Cancelled
                parts.append(channels(tile.cut(found.pixels), self._job))
                self._done += 1
                if self._job.profile is not None:
                    self._job.profile.add(dict(found.stages), int(tile is self._tiles[-1]))
            yield np.concatenate(parts, axis=1)


def _write_png(path: Path, job: ExportJob, bands: Iterator[Band]) -> None:
    """A PNG (ISO/IEC 15948) as its rows come: each is told by how it differs from the one above."""
    packed, (width, height) = zlib.compressobj(3), job.size
    deep, kind = (16 if job.numbers == "16" else 8), (6 if job.clear else 2)
    above = np.zeros((1, width * (deep // 8) * (4 if job.clear else 3)), np.uint8)
    with path.open("wb") as file:

        def chunk(name: bytes, data: bytes) -> None:
            file.write(struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data)))

        file.write(b"\x89PNG\r\n\x1a\n")
        chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, deep, kind, 0, 0, 0))
        chunk(b"sRGB", b"\0")
        for band in bands:
            rows = (band.astype(">u2").view(np.uint8) if deep == 16 else band).reshape(len(band), -1)
            told = np.full((len(rows), rows.shape[1] + 1), 2, np.uint8)
            np.subtract(rows, np.concatenate([above, rows[:-1]]), out=told[:, 1:])
            above = rows[-1:].copy()
            chunk(b"IDAT", packed.compress(told.tobytes()))
        chunk(b"IDAT", packed.flush())
        chunk(b"IEND", b"")


def _write_tiff(path: Path, job: ExportJob, bands: Iterator[Band]) -> None:
    import tifffile

    (width, height), numbers = job.size, np.uint16 if job.numbers == "16" else np.uint8
    # Those at the right and below are filled up.
    tiles = (
        band[y : y + _TIFF_TILE, x : x + _TIFF_TILE]
        for band in bands
        for y in range(0, len(band), _TIFF_TILE)
        for x in range(0, width, _TIFF_TILE)
    )
    tifffile.imwrite(
        path, tiles, shape=(height, width, 4 if job.clear else 3), dtype=numbers, tile=(_TIFF_TILE, _TIFF_TILE),
        photometric="rgb", extrasamples=["unassalpha"] if job.clear else None, iccprofile=srgb_profile(),
        compression="zlib", metadata=None,
    )  # fmt: skip


_WRITERS = {"png": _write_png, "tiff": _write_tiff}
