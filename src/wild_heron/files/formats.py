"""The kinds of file that can be brought in, each told once: its name, its endings, what it becomes, what decodes it.

A decoder is a module of ``decode``, loaded in the reader process alone. Of pictures it has ``size`` and ``read``; of
layered artwork ``layers`` and ``layer``; see ``decode.images`` and ``decode.layered``.
"""

from pathlib import Path
from typing import Literal, NamedTuple

FONTS = Path(__file__).parent.parent / "fonts"
GUIDE = Path(__file__).parent.parent / "guide.md"
ICON = Path(__file__).parent.parent / "integration" / "wild-heron.svg"
SHIPPED_ART = Path(__file__).parent.parent / "demo"
Becomes = Literal["picture", "movie", "model", "layers", "sound"]


class ImportFormat(NamedTuple):
    """A kind of file. ``becomes`` is what it comes in as when nothing else is said."""

    name: str
    suffixes: tuple[str, ...]
    becomes: Becomes
    decoder: str = ""
    layer_decoder: str = ""
    """Where its parts can come in as layers."""
    is_vector: bool = False
    """Whether it can be drawn at any size."""


FORMATS = (
    ImportFormat("PNG", (".png",), "picture", "bitmaps"),
    ImportFormat("JPEG", (".jpg", ".jpeg"), "picture", "bitmaps"),
    ImportFormat("WebP", (".webp",), "picture", "bitmaps"),
    ImportFormat("TIFF", (".tif", ".tiff"), "picture", "bitmaps"),
    ImportFormat("OpenEXR", (".exr",), "picture", "deep_images"),
    ImportFormat("BMP", (".bmp",), "picture", "bitmaps"),
    ImportFormat("GIF", (".gif",), "picture", "bitmaps"),
    ImportFormat("SVG", (".svg", ".svgz"), "picture", "vector", layer_decoder="svg_layers", is_vector=True),
    ImportFormat("OpenRaster", (".ora",), "layers", layer_decoder="openraster"),
    ImportFormat("Movie", (".mp4", ".mov", ".webm", ".mkv", ".avi", ".m4v"), "movie"),
    ImportFormat("glTF", (".glb", ".gltf"), "model"),
    ImportFormat("Sound", (".wav", ".flac", ".ogg", ".mp3", ".m4a", ".aiff", ".opus"), "sound"),
)
_PLAIN = ImportFormat("Picture", (), "picture", "bitmaps")
_BY_SUFFIX = {suffix: each for each in FORMATS for suffix in each.suffixes}


def format_of(path: Path) -> ImportFormat:
    """A file's format, by its ending; one that is not known may be a picture all the same."""
    return _BY_SUFFIX.get(path.suffix.lower(), _PLAIN)


def suffixes(*becomes: Becomes) -> tuple[str, ...]:
    """The endings of what becomes one of these."""
    return tuple(suffix for each in FORMATS if each.becomes in becomes for suffix in each.suffixes)


PICTURE_SUFFIXES = suffixes("picture")
LAYERED_SUFFIXES = tuple(suffix for each in FORMATS if each.layer_decoder for suffix in each.suffixes)
VECTOR_SUFFIXES = tuple(suffix for each in FORMATS if each.is_vector for suffix in each.suffixes)
SOUND_SUFFIXES = suffixes("sound")
EVERY_SUFFIX = tuple(suffix for suffix in _BY_SUFFIX if suffix not in SOUND_SUFFIXES)
"""Of everything that becomes nodes."""


def is_vector(path: Path) -> bool:
    return format_of(path).is_vector
