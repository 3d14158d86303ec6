"""SVG files as layers: the elements on top, or where there is but one group on top, what is in it."""

import xml.etree.ElementTree as ET

import numpy as np

from ...arrays import Pixels
from ...scene import Layer
from ..contents import FoundLayer, Layers
from ..errors import FileError
from .layer_names import layer_name
from .layer_names import opacity as opacity_of
from .source import Source
from .style import shown, without
from .vector import Part, cropped, draw_svg, parsed, plain_tag, read_svg

_SVG = "http://www.w3.org/2000/svg"
_LABEL = "{http://www.inkscape.org/namespaces/inkscape}label"
_DRAWN = {"g", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "image", "use", "svg", "a"}
_MAX_SVG_LAYERS = 300
_MAX_DEPTH = 64
_PROBE_SIDE = 1024


def layer(file: Source, which: Layer, width: int | None, limit: int, part: Part | None = None) -> Pixels:
    """One layer's picture (H, W, 4), or a part of it, ``width`` pixels wide."""
    return draw_svg(file, svg_layer(read_svg(file), which, file), width, limit, part)


def _drawn_children(element: ET.Element) -> list[int]:
    return [k for k, child in enumerate(element) if isinstance(child.tag, str) and plain_tag(child) in _DRAWN]


def layers(file: Source) -> Layers:
    """The elements on top, far to near."""
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
    drawn = _drawn_children(holder)
    if len(drawn) > _MAX_SVG_LAYERS:
        raise FileError(file.path, f"has {len(drawn)} layers; up to {_MAX_SVG_LAYERS} work.", "Group some of them.")
    for number, k in enumerate(drawn):
        element = holder[k]
        name = layer_name(element.get(_LABEL) or _title(element) or element.get("id"), f"Layer {number + 1}")
        visible = shown(element, "display", "") != "none"
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
    try:
        return opacity_of(shown(element, "opacity", "1"))
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
                    without(holder[k], "display")
                    holder[k].set("display", "none")
            if depth == len(trail) - 1:
                without(kept, "opacity", "display")
            holder = kept
    except (IndexError, ValueError):
        raise FileError(file.path, f"has no layer {layer.layer}.", "Import its layers again.") from None
    if layer.crop is not None:
        cropped(root, *layer.crop)
    return ET.tostring(root, encoding="unicode")


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
