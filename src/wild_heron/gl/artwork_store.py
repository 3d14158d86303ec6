"""The texture cache of artwork: loaded in the background, mipmapped, within a memory budget."""

import math
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path
from typing import Any, NamedTuple

import moderngl
import numpy as np
from numpy.typing import NDArray

from ..arrays import Pixels
from ..files.artwork_files import resolve
from ..files.drafts import Drafts
from ..files.errors import FileError
from ..files.light import as_light, light_of
from ..files.pixels import file_of, is_drawn
from ..files.reader import Cancelled, Reader
from ..files.stand_in import placeholder
from ..log import log
from ..scene import Card, Layer, Movie, Picture, Sequence
from .loading import Loader
from .mipmaps import build_mipmaps
from .textures import as_texture

TEXTURE_BYTES = 1536 * 1024 * 1024
_SIDE = 8192
_DRAFT_PIXELS = 1_000_000
_DRAWN_PIXELS = 10_000_000
"""To which drawings are drawn at once: more could take longer than a reader may."""
_SMALLEST_LEVEL = -6
_FINEST = 4096.0
_READ_AHEAD = 4
_UPLOAD_SECONDS = 0.03
_FAMILY = 3


@dataclass
class Artwork:
    """A picture's texture.

    ``bounds`` (u0, v0, u1, v1) is the part that is not empty, v counted from the top; ``opaque`` whether all of it is
    solid; ``clear_rim`` whether its outermost pixels are empty; ``inside`` where the picture lies in the texture.
    """

    texture: moderngl.Texture
    bounds: tuple[float, float, float, float]
    opaque: bool = False
    clear_rim: bool = False
    problem: str | None = None
    size: int = 0
    inside: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    linear: bool = False
    """Whether a look-up gives linear light."""


class ArtworkWant(NamedTuple):
    """A picture to be shown: frame ``moment`` of a moving one, and how many output pixels an artwork pixel takes up."""

    picture: Picture
    moment: int
    scale: float
    seen: tuple[float, float, float, float] | None = None
    """What part of it may be in view, from u, v to u, v; None for all of it, or where a part will not do."""
    seen_scale: float = 0.0
    """How many output pixels an artwork pixel takes up at the most in that part."""


class _Key(NamedTuple):
    what: tuple[Hashable, ...]
    moment: int
    stamp: Hashable
    level: int
    linear: bool = False
    exact: bool = False
    """Whether it is read at its own depth, and turned to light by ourselves: graphics cards look that up coarsely."""
    part: tuple[int, int, int, int, int] | None = None
    """Of what is drawn very large, tiles from and to (columns, rows), and how many of them a side has."""

    @property
    def box(self) -> tuple[float, float, float, float] | None:
        """The part from u, v to u, v."""
        if self.part is None:
            return None
        left, top, right, bottom, count = self.part
        return left / count, top / count, right / count, bottom / count


class _Read(NamedTuple):
    pixels: NDArray[Any]
    bounds: tuple[float, float, float, float]
    opaque: bool
    clear_rim: bool
    problem: str | None


@dataclass
class ArtworkStore:
    """Textures by file, frame and level. Level 0 is full size, each one below half of the one above.

    Pictures are shown from the smallest version that has a texel for each pixel; vector art and cards are drawn anew
    when they are seen larger. Frames that are kept (``final``) always use the full version.
    """

    context: moderngl.Context
    reader: Reader
    budget: int = TEXTURE_BYTES
    drafts: Drafts = field(default_factory=Drafts)

    def __post_init__(self) -> None:
        self.longest_side = min(_SIDE, int(self.context.info["GL_MAX_TEXTURE_SIZE"]))
        """In pixels, of a texture; of what is larger only parts are drawn, or a smaller version."""
        self._loaded: OrderedDict[_Key, Artwork] = OrderedDict()
        self._loader = Loader()
        self._stamps: dict[Path, Hashable] = {}
        self._used: set[_Key] = set()
        self.linear = False
        """Whether what is asked for now is to give linear light."""
        self.exact = False
        """Whether what is asked for now is to be as deep as it is in its file."""
        self.arrived = 0
        """How many pictures came in since this was last set to 0."""

    @property
    def pending(self) -> int:
        """How many files are still being read."""
        return len(self._loader)

    def forget(self) -> None:
        """Look at every file anew; what did not change is kept."""
        self._stamps.clear()

    def forget_problems(self) -> None:
        """Read again what could not be read."""
        for key in [key for key, artwork in self._loaded.items() if artwork.problem]:
            self._loaded.pop(key).texture.release()

    # What is wanted

    def get_all(
        self, wanted: list[ArtworkWant], base: Path | None, final: bool, step: Callable[[int, int], None]
    ) -> list[Artwork | None]:
        """Textures of pictures; None, unless they are ``final``, for what is still being read and has no other version.

        A file that cannot be read gives a labelled placeholder and a ``problem``. ``step(done, total)`` is called
        while files are waited for, and may raise.
        """
        keys = [self._key(want, base, final) for want in wanted]
        self._used.update(keys)
        missing = {key for key in keys if key not in self._loaded}
        for key, want in zip(keys, wanted, strict=True):
            if key in missing:
                self._begin(key, want, base)
            if isinstance(want.picture.artwork, Sequence | Movie):
                self._read_ahead(want, base, final)
        if final:
            self._loader.finish(missing, self._take_in, step)
        else:
            self.collect()
        out = []
        for key in keys:
            if key in self._loaded:
                self._loaded.move_to_end(key)
            out.append(self._loaded.get(key) or self._nearest(key))
        return out

    def collect(self) -> None:
        """Send what was read to the graphics card, for a few milliseconds."""
        deadline = time.perf_counter() + _UPLOAD_SECONDS
        for key in self._loader:
            read = self._loader.take(key)
            if read is not None:
                assert isinstance(key, _Key)
                self._take_in(key, read)
                if time.perf_counter() > deadline:
                    break

    def _take_in(self, key: _Key, read: _Read) -> None:
        self._loaded[key] = _of_part(self._upload(read, key.linear), key.box)
        self._used.add(key)
        self.arrived += 1

    def _key(self, want: ArtworkWant, base: Path | None, final: bool) -> _Key:
        picture = want.picture
        artwork = picture.artwork
        family, drawn, path = _identity(picture, base)
        if isinstance(artwork, Sequence):
            path = file_of(picture, base, want.moment)
        index = want.moment if isinstance(artwork, Sequence | Movie) else 0
        stamp = self._stamp(path) if path is not None else ()
        if stamp is None:
            return _Key((*family, picture.name, picture.width, picture.height), index, None, 0, self.linear, self.exact)
        if isinstance(artwork, Movie) or (isinstance(artwork, Card) and artwork.is_flat):
            level = 0
        elif drawn:
            level = self._vector_level(picture, want.scale)
            finer = math.ceil(math.log2(min(max(want.seen_scale, 1 / 16), _FINEST)))
            if finer > level and want.seen is not None:
                part = self._part(picture, want.seen, level, finer)
                if part is not None:
                    return _Key(family, index, stamp, part[1], self.linear, self.exact, part[0])
        elif final or picture.width * picture.height <= _DRAFT_PIXELS:
            level = 0
        else:
            level = max(_SMALLEST_LEVEL, min(0, math.ceil(math.log2(max(want.scale, 1e-3)) - 0.05)))
        return self._sharper(_Key(family, index, stamp, level, self.linear, self.exact), exact=final)

    def _vector_level(self, picture: Picture, scale: float) -> int:
        level = math.ceil(math.log2(min(max(scale, 1 / 16), 64.0)))
        while level > -8 and not self._can_be_drawn(picture.width * 2.0**level, picture.height * 2.0**level):
            level -= 1
        return level

    def _can_be_drawn(self, width: float, height: float) -> bool:
        return max(width, height) <= self.longest_side and width * height <= _DRAWN_PIXELS

    def _part(
        self, picture: Picture, seen: tuple[float, float, float, float], level: int, finer: int
    ) -> tuple[tuple[int, int, int, int, int], int] | None:
        """The tiles of a drawing around what is seen of it, and how fine they can be; None where they are no finer than
        all of it."""
        while finer > level:
            count = 2 ** min(finer - level + 2, 12)
            low = [min(max(math.floor(seen[k] * count), 0), count - 1) for k in (0, 1)]
            high = [min(max(math.ceil(seen[2 + k] * count), low[k] + 1), count) for k in (0, 1)]
            sides = [(high[k] - low[k]) / count * (picture.width, picture.height)[k] * 2.0**finer for k in (0, 1)]
            if self._can_be_drawn(*sides):
                return (low[0], low[1], high[0], high[1], count), finer
            finer -= 1
        return None

    def _sharper(self, key: _Key, exact: bool) -> _Key:
        """A version that is there and at least as sharp as the one wanted does as well."""
        if exact or key in self._loaded:
            return key
        for level in range(key.level + 1, 7):
            other = key._replace(level=level)
            if other in self._loaded:
                return other
        return key

    def _nearest(self, key: _Key) -> Artwork | None:
        """Some version of the same picture: another size, an older file, the frame shown before."""
        found = [other for other in self._loaded if other.what == key.what and other.linear == key.linear
                 and other.exact == key.exact and other.part in (None, key.part)]  # fmt: skip
        if not found:
            return None
        best = min(found, key=lambda other: (other.stamp != key.stamp, abs(other.moment - key.moment), -other.level))
        self._used.add(best)
        return self._loaded[best]

    def _stamp(self, path: Path) -> Hashable:
        """The file's time and size, None where it is not there; looked at once until they are forgotten."""
        if path not in self._stamps:
            try:
                status = path.stat()
                self._stamps[path] = (status.st_mtime_ns, status.st_size, status.st_ino)
            except OSError:
                self._stamps[path] = None
        return self._stamps[path]

    # Reading, in threads

    def _begin(self, key: _Key, want: ArtworkWant, base: Path | None) -> None:
        limit, drafts, reader = self.longest_side, self.drafts, self.reader
        self._loader.begin(key, lambda: _read(key, want, base, limit, drafts, reader))

    def _read_ahead(self, want: ArtworkWant, base: Path | None, final: bool) -> None:
        artwork = want.picture.artwork
        assert isinstance(artwork, Sequence | Movie)
        for index in range(want.moment + 1, min(want.moment + 1 + _READ_AHEAD, artwork.count)):
            ahead = want._replace(moment=index)
            key = self._key(ahead, base, final)
            if key not in self._loaded:
                self._used.add(key)
                self._begin(key, ahead, base)

    # The graphics card

    def _upload(self, read: _Read, linear: bool) -> Artwork:
        pixels = read.pixels
        height, width = pixels.shape[:2]
        texture = as_texture(self.context, pixels, linear)
        build_mipmaps(self.context, texture, pixels, linear)
        texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
        texture.repeat_x = texture.repeat_y = False
        size = width * height * 4 * pixels.itemsize * 4 // 3
        return Artwork(texture, read.bounds, read.opaque, read.clear_rim, read.problem, size, linear=linear)

    def tidy(self) -> None:
        """Between frames: release smaller drawings of which there is a larger one, and what was not used for longest
        where the budget is exceeded."""
        largest: dict[tuple[Hashable, ...], int] = {}
        for key in self._loaded:
            family = (*key._replace(level=0),)
            largest[family] = max(key.level, largest.get(family, key.level))
        for key in [key for key in self._loaded if key.level < largest[(*key._replace(level=0),)]]:
            if key not in self._used:
                self._loaded.pop(key).texture.release()
        total = sum(artwork.size for artwork in self._loaded.values())
        for key in [key for key in self._loaded if key not in self._used]:
            if total <= self.budget:
                break
            artwork = self._loaded.pop(key)
            total -= artwork.size
            artwork.texture.release()
        self._used.clear()

    def drop_unused(self, pictures: list[tuple[Picture, Path | None]]) -> None:
        """Release what none of these pictures, with the folders that their paths start from, uses any more."""
        used = {_family(picture, base) for picture, base in pictures}
        for key in [key for key in self._loaded if key.what[:_FAMILY] not in used]:
            self._loaded.pop(key).texture.release()
        self._loader.drop(lambda key: isinstance(key, _Key) and key.what[:_FAMILY] in used)

    @property
    def bytes(self) -> int:
        """What all textures take up."""
        return sum(artwork.size for artwork in self._loaded.values())


@lru_cache(maxsize=8192)
def _identity(picture: Picture, base: Path | None) -> tuple[tuple[Hashable, ...], bool, Path | None]:
    """A picture's family, whether it is drawn, and its (first) file: asked for in every frame, and never changing."""
    return _family(picture, base), is_drawn(picture), file_of(picture, base)


def _family(picture: Picture, base: Path | None) -> tuple[Hashable, ...]:
    """What all versions of a picture have in common."""
    artwork = picture.artwork
    if isinstance(artwork, Card):
        return (artwork, picture.width, picture.height)
    part = (artwork.layer, artwork.crop) if isinstance(artwork, Layer) else None
    return ("file", str(resolve(base, artwork.source)), part)


def _read(key: _Key, want: ArtworkWant, base: Path | None, limit: int, drafts: Drafts, reader: Reader) -> _Read:
    """A picture's pixels, or a stand-in's and what is wrong."""
    picture = want.picture
    path = file_of(picture, base, want.moment)
    try:
        if isinstance(picture.artwork, Movie):
            assert path is not None
            frame = reader.movie_frame(path, want.moment, limit)
            if key.linear:
                return _looked_at(light_of(frame) if key.exact else as_light(frame), None)
            return _looked_at(frame, None)
        if key.level < 0 and path is not None and not is_drawn(picture):
            # A draft shows what is in the file too.
            reader.permission.check(path)
            part = picture.artwork.layer if isinstance(picture.artwork, Layer) else ""
            make = lambda: reader.pixels(picture, path, 1.0, limit, key.level, key.linear).pixels  # noqa: E731
            return _looked_at(drafts.get(path, part, key.level, make, key.linear), None)
        scale = 2.0**key.level if is_drawn(picture) else 1.0
        found = reader.pixels(picture, path, scale, limit, 0, key.linear, key.box, key.exact)
        return _looked_at(found.pixels, found.problem or None)
    except Cancelled:
        return _looked_at(_stand_in(picture, "not read"), None)
    except FileError as error:
        note = "missing" if error.what == "was not found." else "cannot be read"
        return _looked_at(_stand_in(picture, note), str(error))
    except Exception as error:  # Whatever it is, the other pictures go on.
        log.error("reading %s", picture.id, exc_info=error)
        return _looked_at(_stand_in(picture, "cannot be read"), f"{picture.name} could not be read: {error!r}.")


def _of_part(artwork: Artwork, box: tuple[float, float, float, float] | None) -> Artwork:
    """A part of a picture as the picture's artwork."""
    if box is None:
        return artwork
    u0, v0, u1, v1 = box
    w, h = u1 - u0, v1 - v0
    a, b, c, d = artwork.bounds
    artwork.bounds = (u0 + a * w, v0 + b * h, u0 + c * w, v0 + d * h)
    artwork.inside = (-u0 / w, -v0 / h, 1.0 / w, 1.0 / h)
    return artwork


def _stand_in(picture: Picture, note: str) -> Pixels:
    return placeholder(picture.name, picture.width, picture.height, note)


def _looked_at(pixels: NDArray[Any], problem: str | None) -> _Read:
    alpha, solid = pixels[..., 3], 255 if pixels.dtype == np.uint8 else 1
    rim = max(float(edge.max()) for edge in (alpha[0], alpha[-1], alpha[:, 0], alpha[:, -1]))
    return _Read(pixels, _bounds(alpha), bool((alpha >= solid).all()), rim == 0.0, problem)


def _bounds(alpha: NDArray[Any]) -> tuple[float, float, float, float]:
    """The box around what is not empty, in 0–1, with a margin for the smaller mipmaps to fade in."""
    height, width = alpha.shape
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not rows.size:
        return (0.0, 0.0, 0.0, 0.0)
    margin = 16
    left, right = max(0, columns[0] - margin), min(width, columns[-1] + 1 + margin)
    top, bottom = max(0, rows[0] - margin), min(height, rows[-1] + 1 + margin)
    return (left / width, top / height, right / width, bottom / height)
