"""Artwork on the graphics card: read when first needed, mipmapped, kept while it is used."""

import math
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import moderngl
import numpy as np
from numpy.typing import NDArray

from ..files.artwork import resolve
from ..files.errors import FileError
from ..files.images import placeholder, read_picture
from ..files.kinds import is_vector
from ..scene import Picture

_MAX_VECTOR_SIDE = 8192
_DRAW_SIDE = 8192
_READERS = 2


@dataclass
class Artwork:
    """A picture's texture; ``bounds`` (u0, v0, u1, v1) is the part that is not empty, v counted from the top."""

    texture: moderngl.Texture
    bounds: tuple[float, float, float, float]
    problem: str | None = None


class ArtworkStore:
    """Textures by file. Vector art is drawn anew, at a power of two of its size, when it is seen larger."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._limit = min(_DRAW_SIDE, int(context.info["GL_MAX_TEXTURE_SIZE"]))
        self._loaded: dict[tuple[str, int, int], Artwork] = {}

    def forget(self) -> None:
        for artwork in self._loaded.values():
            artwork.texture.release()
        self._loaded.clear()

    def _key(self, picture: Picture, base: Path | None, scale: float) -> tuple[str, int, int]:
        path = resolve(base, picture.source)
        present = path.exists()
        if not is_vector(path):
            return str(path), 0, 0 if present else hash((picture.name, picture.width, picture.height))
        level = math.ceil(math.log2(min(max(scale, 1 / 16), 64.0)))
        while level > -8 and max(picture.width, picture.height) * 2.0**level > _MAX_VECTOR_SIDE:
            level -= 1
        # A larger drawing that is there does as well.
        drawn = [known for name, known, _ in self._loaded if name == str(path) and known >= level]
        stamp = 0 if present else hash((picture.name, picture.width, picture.height))
        return str(path), min(drawn, default=level), stamp

    def get_all(
        self, wanted: list[tuple[Picture, float]], base: Path | None, step: Callable[[int, int], None]
    ) -> tuple[list[Artwork], int]:
        """Textures of pictures, each with the scale it is seen at (output pixels to an artwork pixel), and how many of
        them had to be read.

        A file that cannot be read gives a labelled placeholder and a ``problem``. ``step(done, total)`` is called
        before each is read, and may raise.
        """
        keys = [self._key(picture, base, scale) for picture, scale in wanted]
        pictures = {key: picture for key, (picture, _) in zip(keys, wanted, strict=True) if key not in self._loaded}
        if pictures:
            self._load(pictures, step)
        return [self._loaded[key] for key in keys], len(pictures)

    def _load(self, pictures: dict[tuple[str, int, int], Picture], step: Callable[[int, int], None]) -> None:
        """Read files in threads while others are sent to the graphics card; only a few at a time are in memory."""
        jobs = iter(pictures.items())
        ahead: deque[tuple[tuple[str, int, int], Future[tuple[NDArray[np.uint8], str | None]]]] = deque()
        with ThreadPoolExecutor(_READERS) as readers:
            try:
                for done in range(len(pictures)):
                    step(done, len(pictures))
                    while len(ahead) <= _READERS and (job := next(jobs, None)) is not None:
                        key, picture = job
                        ahead.append((key, readers.submit(_read, picture, Path(key[0]), 2.0 ** key[1], self._limit)))
                    key, reading = ahead.popleft()
                    self._loaded[key] = self._upload(*reading.result())
            finally:
                for _, reading in ahead:
                    reading.cancel()

    def drop_smaller(self) -> None:
        """Release drawings of vector art of which there is a larger one. Not in the midst of a frame."""
        largest: dict[str, int] = {}
        for path, level, _ in self._loaded:
            largest[path] = max(level, largest.get(path, level))
        for key in [key for key in self._loaded if key[1] < largest[key[0]]]:
            self._loaded.pop(key).texture.release()

    def drop_unused(self, pictures: list[Picture], base: Path | None) -> None:
        """Release what no picture of the scene uses any more."""
        used = {str(resolve(base, picture.source)) for picture in pictures}
        for key in [key for key in self._loaded if key[0] not in used]:
            self._loaded.pop(key).texture.release()

    def _upload(self, pixels: NDArray[np.uint8], problem: str | None) -> Artwork:
        height, width = pixels.shape[:2]
        texture = self._context.texture((width, height), 4, np.ascontiguousarray(pixels).data, alignment=1)
        texture.build_mipmaps()
        texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
        texture.repeat_x = texture.repeat_y = False
        if "llvmpipe" not in str(self._context.info["GL_RENDERER"]):
            # Sharper at a slant; on a processor it would cost more than it shows.
            texture.anisotropy = 8.0
        alpha = pixels[..., 3]
        return Artwork(texture, _bounds(alpha), problem)


def _bounds(alpha: NDArray[np.uint8]) -> tuple[float, float, float, float]:
    """The box around what is not empty, in 0–1, with a margin for the smaller mipmaps to fade in."""
    height, width = alpha.shape
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not rows.size:
        return (0.0, 0.0, 0.0, 0.0)
    margin = 16
    left, right = max(0, columns[0] - margin), min(width, columns[-1] + 1 + margin)
    top, bottom = max(0, rows[0] - margin), min(height, rows[-1] + 1 + margin)
    return (left / width, top / height, right / width, bottom / height)


def _read(picture: Picture, path: Path, scale: float, limit: int) -> tuple[NDArray[np.uint8], str | None]:
    """A picture's pixels, or a stand-in's and what is wrong."""
    try:
        return read_picture(path, round(picture.width * scale) if is_vector(path) else None, limit), None
    except FileError as error:
        note = "cannot be read" if path.exists() else "missing"
        return placeholder(picture.name, picture.width, picture.height, note), str(error)
