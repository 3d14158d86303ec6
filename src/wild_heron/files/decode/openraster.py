"""OpenRaster files: ZIP archives whose stack.xml lists the layers, the nearest first (openraster.org, 0.0.6)."""

import xml.etree.ElementTree as ET
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import PurePosixPath

from ...arrays import Pixels
from ...scene import Layer
from ..contents import FoundGroup, FoundLayer, Layers
from ..errors import FileError, why
from .bitmaps import opened, read_stream
from .layer_names import layer_name
from .layer_names import opacity as opacity_of
from .source import Source

_MAX_DEPTH = 64
_MAX_MEMBER = 1024 * 1024 * 1024
_FARTHEST = 1e6


def layer(file: Source, which: Layer, width: int | None, limit: int) -> Pixels:
    """One layer's picture (H, W, 4)."""
    with _archive(file) as archive, archive.open(_member(archive, file, which.layer)) as stream:
        return read_stream(file, stream, limit)


@contextmanager
def _archive(file: Source) -> Iterator[zipfile.ZipFile]:
    try:
        with zipfile.ZipFile(file.open()) as archive:
            yield archive
    except FileError:
        raise
    except (
        OSError, ValueError, EOFError, LookupError, ET.ParseError, zipfile.BadZipFile, zlib.error,
        NotImplementedError, RuntimeError,
    ) as problem:  # fmt: skip
        raise FileError(
            file.path, f"is not an OpenRaster file: {_reason(problem)}", "Save it anew from your paint program."
        ) from problem


def layers(file: Source) -> Layers:
    """The stack, the nearest layer first."""
    with _archive(file) as archive:
        root = ET.fromstring(archive.read(_member(archive, file, "stack.xml", 16 * 1024 * 1024)))
        width, height = int(root.get("w", "0")), int(root.get("h", "0"))
        if root.tag != "image" or not (0 < width <= 65_536 and 0 < height <= 65_536):
            raise FileError(file.path, "does not say its size (stack.xml).", "Save it anew from your paint program.")
        stack = root.find("stack")
        children = _ora_stack(archive, file, stack, 1.0, 0) if stack is not None else ()
    return Layers(width, height, children)


def _ora_stack(
    archive: zipfile.ZipFile, file: Source, stack: ET.Element, opacity: float, depth: int
) -> tuple[FoundGroup | FoundLayer, ...]:
    if depth > _MAX_DEPTH:
        raise FileError(file.path, "is nested too deeply.", "Merge some of its groups.")
    found: list[FoundGroup | FoundLayer] = []
    for item in reversed(stack):
        share = opacity * opacity_of(item.get("opacity", "1"))
        visible = item.get("visibility", "visible") != "hidden"
        if item.tag == "stack":
            # A group has no opacity of its own in a scene; its layers take it over.
            found.append(
                FoundGroup(
                    layer_name(item.get("name"), "Group"), visible, _ora_stack(archive, file, item, share, depth + 1)
                )
            )
        elif item.tag == "layer":
            source = item.get("src", "")
            with archive.open(_member(archive, file, source)) as stream:
                size = _stream_size(file, stream)
            x, y = float(item.get("x", "0")), float(item.get("y", "0"))
            if not (abs(x) <= _FARTHEST and abs(y) <= _FARTHEST):
                raise FileError(file.path, f"puts “{source}” nowhere near the canvas.", "Move that layer back.")
            found.append(
                FoundLayer(
                    layer_name(item.get("name"), PurePosixPath(source).stem), source, x, y, *size, None, share, visible
                )
            )
    return tuple(found)


def _member(archive: zipfile.ZipFile, file: Source, name: str, limit: int = _MAX_MEMBER) -> zipfile.ZipInfo:
    try:
        info = archive.getinfo(name)
    except KeyError:
        raise FileError(file.path, f"has no “{name}” in it.", "Save it anew from your paint program.") from None
    if info.file_size > limit:
        raise FileError(file.path, f"holds “{name}”, which is too large.", "Save it anew from your paint program.")
    return info


def _stream_size(file: Source, stream: object) -> tuple[int, int]:
    with opened(file, stream) as image:  # type: ignore[arg-type]
        return image.size


def _reason(problem: Exception) -> str:
    return why(problem) if isinstance(problem, OSError) else f"{problem}."
