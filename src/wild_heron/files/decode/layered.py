"""Layered artwork: what is in an OpenRaster file or among an SVG file's groups, and the pictures of single layers."""

import re
import xml.etree.ElementTree as ET
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import PurePosixPath

import numpy as np

from ...arrays import Pixels
from ...scene import Layer
from ..contents import FoundGroup, FoundLayer, Layers
from ..errors import FileError, why
from .images import MAX_SIDE, draw_svg, opened, read_stream
from .source import Source
from .vector import canvas, numbers, parsed, plain_tag, read_svg

_SVG = "http://www.w3.org/2000/svg"
_LABEL = "{http://www.inkscape.org/namespaces/inkscape}label"
_DRAWN = {"g", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "image", "use", "svg", "a"}
_MAX_LAYERS = 2000
_MAX_SVG_LAYERS = 300
_MAX_DEPTH = 64
_MAX_MEMBER = 1024 * 1024 * 1024
_PROBE_SIDE = 1024
_FARTHEST = 1e6


def read_layers(file: Source) -> Layers:
    """What is in a layered file. FileError where it is none, or holds nothing."""
    layers = _ora_layers(file) if file.suffix == ".ora" else _svg_layers(file)
    count = layers.count()
    if not count:
        raise FileError(file.path, "has no layers.", "Add it as one picture.")
    if count > _MAX_LAYERS:
        raise FileError(file.path, f"has {count} layers; up to {_MAX_LAYERS} work.", "Merge some of them.")
    return layers


def read_layer(file: Source, layer: Layer, width: int | None, limit: int = MAX_SIDE) -> Pixels:
    """One layer's picture, (H, W, 4) uint8 premultiplied; ``width`` is the raster width wanted of vector art."""
    if file.suffix != ".ora":
        return draw_svg(file, svg_layer(read_svg(file), layer, file), width, limit)
    with _archive(file) as archive, archive.open(_member(archive, file, layer.layer)) as stream:
        return read_stream(file, stream, limit)


# OpenRaster: a ZIP archive whose stack.xml lists the layers, the nearest first (openraster.org, baseline 0.0.6).


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


def _ora_layers(file: Source) -> Layers:
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
        share = opacity * _share(item.get("opacity", "1"))
        visible = item.get("visibility", "visible") != "hidden"
        if item.tag == "stack":
            # A group has no opacity of its own in a scene; its layers take it over.
            found.append(
                FoundGroup(_name(item.get("name"), "Group"), visible, _ora_stack(archive, file, item, share, depth + 1))
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
                    _name(item.get("name"), PurePosixPath(source).stem), source, x, y, *size, None, share, visible
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


def _share(text: str) -> float:
    value = float(text)
    return min(max(value, 0.0), 1.0) if value == value else 1.0


def _name(given: str | None, fallback: str) -> str:
    return (given or "").strip()[:180] or fallback or "Layer"


def _reason(problem: Exception) -> str:
    return why(problem) if isinstance(problem, OSError) else f"{problem}."


# SVG: the elements on top are the layers, far to near. Where there is but one group on top, what is in it.


def _drawn_children(element: ET.Element) -> list[int]:
    return [k for k, child in enumerate(element) if isinstance(child.tag, str) and plain_tag(child) in _DRAWN]


def _svg_layers(file: Source) -> Layers:
    text = read_svg(file)
    root = parsed(file, text)
    whole = draw_svg(file, text)
    height, width = whole.shape[:2]
    holder, trail = root, ""
    for _ in range(_MAX_DEPTH):
        drawn = _drawn_children(holder)
        if len(drawn) != 1 or plain_tag(holder[drawn[0]]) != "g" or len(_drawn_children(holder[drawn[0]])) < 1:
            break
        trail += f"{drawn[0]}."
        holder = holder[drawn[0]]
    found = []
    shown = _drawn_children(holder)
    if len(shown) > _MAX_SVG_LAYERS:
        raise FileError(file.path, f"has {len(shown)} layers; up to {_MAX_SVG_LAYERS} work.", "Group some of them.")
    for number, k in enumerate(shown):
        element = holder[k]
        name = _name(element.get(_LABEL) or _title(element) or element.get("id"), f"Layer {number + 1}")
        visible = element.get("display") != "none" and "display:none" not in element.get("style", "").replace(" ", "")
        crop = _svg_extent(text, f"{trail}{k}", file, width, height)
        if crop is not None:
            x, y, w, h = crop
            found.append(
                FoundLayer(name, f"{trail}{k}", x, y, round(w), round(h), crop, _svg_opacity(element), visible)
            )
    return Layers(width, height, tuple(found))


def _title(element: ET.Element) -> str:
    title = element.find(f"{{{_SVG}}}title")
    return (title.text or "") if title is not None else ""


def _svg_opacity(element: ET.Element) -> float:
    found = re.search(r"(?:^|;)\s*opacity\s*:\s*([\d.]+)", element.get("style", ""))
    try:
        return _share(found.group(1) if found else element.get("opacity", "1"))
    except ValueError:
        return 1.0


def svg_layer(text: str, layer: Layer, file: Source) -> str:
    """SVG text that draws one layer alone, at full opacity, cropped to it. FileError where there is no such layer."""
    root = parsed(file, text)
    trail = layer.layer.split(".")
    holder = root
    try:
        for depth, step in enumerate(trail):
            index = int(step)
            kept = holder[index]
            for k in _drawn_children(holder):
                if k != index:
                    # Emptied rather than taken out, so that places stay; what others refer to is still defined.
                    holder[k].set("display", "none")
                    holder[k].set("style", re.sub(r"display\s*:[^;]*;?", "", holder[k].get("style", "")))
            if depth == len(trail) - 1:
                kept.attrib.pop("opacity", None)
                kept.attrib.pop("display", None)
                kept.set("style", re.sub(r"(?:(?<=;)|^)\s*(?:opacity|display)\s*:[^;]*;?", "", kept.get("style", "")))
            holder = kept
    except (IndexError, ValueError):
        raise FileError(file.path, f"has no layer {layer.layer}.", "Import its layers again.") from None
    if layer.crop is not None:
        width, height = canvas(root)
        left, top, unit_x, unit_y = _svg_units(root, width, height)
        x, y, w, h = layer.crop
        root.set("viewBox", f"{left + x * unit_x:g} {top + y * unit_y:g} {w * unit_x:g} {h * unit_y:g}")
        root.set("width", f"{w:g}")
        root.set("height", f"{h:g}")
        root.set("preserveAspectRatio", "none")
    return ET.tostring(root, encoding="unicode")


def _svg_units(root: ET.Element, width: float, height: float) -> tuple[float, float, float, float]:
    """Origin of the canvas and the size of a canvas pixel in the drawing's own units."""
    box = numbers(root.get("viewBox", ""))
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
        return 0.0, 0.0, 1.0, 1.0
    if root.get("preserveAspectRatio", "").strip() == "none":
        return box[0], box[1], box[2] / width, box[3] / height
    unit = max(box[2] / width, box[3] / height)
    return box[0] - (unit * width - box[2]) / 2, box[1] - (unit * height - box[3]) / 2, unit, unit


def _svg_extent(
    text: str, layer: str, file: Source, width: int, height: int
) -> tuple[float, float, float, float] | None:
    """The part of the canvas (x, y, width, height, whole pixels) where a layer draws anything."""
    scale = min(1.0, _PROBE_SIDE / max(width, height))
    pixels = draw_svg(file, svg_layer(text, Layer("-", layer), file), max(1, round(width * scale)))
    alpha = pixels[..., 3]
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if not rows.size:
        return None
    across, down = width / alpha.shape[1], height / alpha.shape[0]
    left, top = max(0, int((columns[0] - 1) * across)), max(0, int((rows[0] - 1) * down))
    right = min(width, int(np.ceil((columns[-1] + 2) * across)))
    bottom = min(height, int(np.ceil((rows[-1] + 2) * down)))
    return float(left), float(top), float(right - left), float(bottom - top)
