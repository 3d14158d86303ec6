"""Lists and decodes the layers of layered files, by the decoder of their format."""

from importlib import import_module
from types import ModuleType

from ...arrays import Pixels
from ...scene import Layer
from ..contents import Layers
from ..errors import FileError
from ..formats import format_of
from .bitmaps import MAX_SIDE
from .source import Source
from .vector import Part

_MAX_LAYERS = 2000


def _decoder(file: Source) -> ModuleType:
    name = format_of(file.path).layer_decoder
    if not name:
        raise FileError(file.path, "is not layered artwork.", "Choose an .ora or .svg file.")
    return import_module(f"{__package__}.{name}")


def read_layers(file: Source) -> Layers:
    """What is in a layered file. FileError where it is none, or holds nothing."""
    found: Layers = _decoder(file).layers(file)
    count = found.count()
    if not count:
        raise FileError(file.path, "has no layers.", "Add it as one picture.")
    if count > _MAX_LAYERS:
        raise FileError(file.path, f"has {count} layers; up to {_MAX_LAYERS} work.", "Merge some of them.")
    return found


def read_layer(
    file: Source, layer: Layer, width: int | None, limit: int = MAX_SIDE, part: Part | None = None
) -> Pixels:
    """One layer's picture, (H, W, 4) uint8 premultiplied; ``width`` is the raster width wanted of vector art, of which
    a ``part`` will do."""
    if part is not None:
        vector: Pixels = _decoder(file).layer(file, layer, width, limit, part)
        return vector
    found: Pixels = _decoder(file).layer(file, layer, width, limit)
    return found
