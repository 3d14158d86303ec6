"""The table of movie and picture kinds that can be written."""

from pathlib import Path
from typing import Literal, NamedTuple

Depth = Literal["8", "10", "16", "half", "float"]


class Codec(NamedTuple):
    """How a movie is encoded: FFmpeg's name, whether it can have alpha, and the rate factors of the lowest and the
    highest quality; None where it has none."""

    name: str
    label: str
    encoder: str
    alpha: bool = False
    factors: tuple[float, float] | None = None
    sound: tuple[str, int] | None = None
    """FFmpeg's name for the sound's, and bits a second (0: as it is)."""
    depths: tuple[Depth, ...] = ("8",)
    """Of its numbers, the usual one first."""


class OutputKind(NamedTuple):
    """``movie``: all frames in one file. ``depths``: of numbers in a picture, the usual one first. ``alpha``: whether
    the background can be left out; ``clear`` that it is, where nothing else is said. ``lossy``: its quality can be
    chosen."""

    name: str
    label: str
    suffixes: tuple[str, ...]
    movie: bool = False
    depths: tuple[Depth, ...] = ("8",)
    alpha: bool = False
    clear: bool = False
    lossy: bool = False
    codecs: tuple[Codec, ...] = ()


_AAC, _OPUS, _FLAC = ("aac", 192_000), ("libopus", 128_000), ("flac", 0)
_AV1_FACTORS = (60.0, 12.0)

KINDS: tuple[OutputKind, ...] = (
    OutputKind(
        "mp4", "MP4 movie", (".mp4",), True, lossy=True,
        codecs=(
            Codec("h264", "H.264, plays everywhere", "libx264", factors=(36.0, 11.0), sound=_AAC),
            Codec("av1", "AV1, smaller files", "libsvtav1", factors=_AV1_FACTORS, sound=_AAC, depths=("8", "10")),
        ),
    ),
    OutputKind(
        "webm", "WebM movie", (".webm",), True, alpha=True, lossy=True,
        codecs=(
            Codec("vp9", "VP9, with transparency", "libvpx-vp9", True, (54.0, 14.0), _OPUS),
            Codec("av1", "AV1, smaller files", "libsvtav1", False, _AV1_FACTORS, _OPUS, ("8", "10")),
        ),
    ),
    OutputKind(
        "mkv", "MKV movie, lossless", (".mkv",), True, alpha=True,
        codecs=(Codec("ffv1", "FFV1, every value kept", "ffv1", True, None, _FLAC, ("8", "16")),),
    ),
    OutputKind(
        "webp-anim", "Animated WebP", (".webp",), True, alpha=True, lossy=True,
        codecs=(Codec("webp", "WebP", "libwebp_anim", True, (20.0, 100.0)),),
    ),
    OutputKind(
        "apng", "Animated PNG, lossless", (".apng",), True, alpha=True,
        codecs=(Codec("apng", "PNG", "apng", True, depths=("8", "16")),),
    ),
    OutputKind("gif", "Animated GIF", (".gif",), True, codecs=(Codec("gif", "GIF, 256 colours", "gif"),)),
    OutputKind("png", "PNG frames", (".png",), depths=("8", "16"), alpha=True),
    OutputKind("tiff", "TIFF frames", (".tif", ".tiff"), depths=("16", "8"), alpha=True),
    OutputKind("exr", "EXR frames, linear light", (".exr",), depths=("half", "float"), alpha=True, clear=True),
    OutputKind("jpeg", "JPEG frames", (".jpg", ".jpeg"), lossy=True),
    OutputKind("webp", "WebP frames", (".webp",), alpha=True, lossy=True),
)  # fmt: skip

BY_NAME = {kind.name: kind for kind in KINDS}
SUFFIXES = tuple(dict.fromkeys(suffix for kind in KINDS for suffix in kind.suffixes))
MOVIE_SUFFIXES = tuple(suffix for kind in KINDS if kind.movie for suffix in kind.suffixes)


def kind_of(path: Path, frames: int = 1) -> OutputKind | None:
    """What a file is by its name: where one kind's suffix is another's too, numbered or single frames are pictures."""
    found = [kind for kind in KINDS if path.suffix.lower() in kind.suffixes]
    pictures = "#" in path.name or frames == 1
    return next((kind for kind in found if kind.movie != pictures), found[0] if found else None)
