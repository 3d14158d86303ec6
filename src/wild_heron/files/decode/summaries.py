"""Summaries of files before they are imported: sizes, boxes, names of animations."""

from ...scene import Text
from ..contents import ModelSummary, PictureInfo, TextSize
from .gltf import read_model
from .lettering import lettering
from .outlines import outlines_of
from .source import Source


def logo_size(file: Source) -> PictureInfo:
    """The size of vector art whose outlines can be read. FileError where they cannot."""
    from ...scene import ImageFile

    outlines = outlines_of(ImageFile("-"), file)
    return PictureInfo(max(1, round(outlines.width)), max(1, round(outlines.height)), True)


def model_summary(file: Source) -> ModelSummary:
    """The box of a glTF model at rest, and its animations."""
    contents = read_model(file)
    (lx, ly, lz), (hx, hy, hz) = (corner.tolist() for corner in contents.bounds())
    moved = {name: len({track.node for track in tracks}) for name, tracks in contents.animations.items()}
    return ModelSummary((lx, ly, lz), (hx, hy, hz), moved)


def text_size(text: Text) -> TextSize:
    """How large a text is when it is set, and whether its font is there."""
    found = lettering(text)
    return TextSize(found.width, found.height, found.problem)
