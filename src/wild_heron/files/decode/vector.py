"""SVG as a tree: read, looked through for what could go wrong, freed of what lies outside it, and drawn."""

import gzip
import io
import re
import xml.etree.ElementTree as ET
import zlib

import resvg_py

from ...arrays import Pixels
from ..contents import PictureInfo
from ..errors import FileError
from ..formats import FONTS
from .bitmaps import MAX_PIXELS, MAX_SIDE, opened, prepared
from .source import Source
from .svg_guard import check_svg

_MAX_BYTES = 32 * 1024 * 1024
_MAX_SIDE = 32_768
_REMEDY = "Check it in a vector program."
_LENGTH = re.compile(r"\s*([-+]?[\d.]+(?:[eE][-+]?\d+)?)\s*(px|pt|pc|mm|cm|in|em|ex|%|)\s*")
_UNITS = {"pt": 4 / 3, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "em": 16.0, "ex": 8.0}

for _prefix, _space in (("", "http://www.w3.org/2000/svg"), ("xlink", "http://www.w3.org/1999/xlink")):
    ET.register_namespace(_prefix, _space)


def read_svg(file: Source) -> str:
    """An SVG file's text, unpacked where it is packed. FileError where it is too large or no text."""
    data = file.read(_MAX_BYTES, "Simplify it, or use a PNG.")
    try:
        if file.suffix == ".svgz":
            with gzip.GzipFile(fileobj=io.BytesIO(data)) as packed:
                data = packed.read(_MAX_BYTES + 1)
            if len(data) > _MAX_BYTES:
                raise FileError(file.path, "unpacks to more than vector art holds.", "Simplify it, or use a PNG.")
        return data.decode("utf-8-sig")
    except (ValueError, OSError, EOFError, OverflowError, zlib.error) as problem:
        raise FileError(file.path, f"could not be read: {problem}.", _REMEDY) from problem


def parsed(file: Source | None, text: str) -> ET.Element:
    """SVG text as a tree, without links to other files. FileError where it is no SVG, or unfolds into too much."""
    name = "card" if file is None else file.path
    try:
        root = ET.fromstring(text)
    except (ET.ParseError, ValueError, RecursionError) as problem:
        raise FileError(name, f"is not SVG: {problem}.", _REMEDY) from problem
    if plain_tag(root) != "svg":
        raise FileError(name, "is not SVG.", "Choose an .svg file.")
    check_svg(name, root)
    _take_links_out(root)
    return root


def plain_tag(element: ET.Element) -> str:
    """An element's tag without its namespace."""
    return str(element.tag).rpartition("}")[2]


def _take_links_out(root: ET.Element) -> None:
    """Take out references to other files; embedded pictures and references inside the file stay."""
    for element in root.iter():
        for key, value in list(element.attrib.items()):
            if key.rpartition("}")[2] == "href" and not _is_inside(value):
                del element.attrib[key]


def _is_inside(link: str) -> bool:
    link = link.strip().lower()
    # A drawing within a drawing could link to files in turn.
    return link.startswith("#") or (link.startswith("data:image/") and not link.startswith("data:image/svg"))


def canvas(root: ET.Element) -> tuple[float, float]:
    """Width and height of the drawing in pixels, as it is drawn without a size being asked for."""
    box = numbers(root.get("viewBox", ""))
    sizes = []
    for k, name in enumerate(("width", "height")):
        length = _LENGTH.fullmatch(root.get(name, ""))
        whole = box[2 + k] if len(box) == 4 else 100.0
        if length and length.group(2) == "%":
            sizes.append(whole * float(length.group(1)) / 100.0)
        else:
            sizes.append(float(length.group(1)) * _UNITS.get(length.group(2), 1.0) if length else whole)
    return sizes[0], sizes[1]


def numbers(text: str) -> list[float]:
    try:
        return [float(part) for part in text.replace(",", " ").split()]
    except ValueError:
        return []


Part = tuple[float, float, float, float]
"""Of a drawing: from u, v to u, v, each from 0 to 1, v from the top."""


def units(root: ET.Element, width: float, height: float) -> tuple[float, float, float, float]:
    """Origin of the canvas and the size of a canvas pixel in the drawing's own units."""
    box = numbers(root.get("viewBox", ""))
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
        return 0.0, 0.0, 1.0, 1.0
    if root.get("preserveAspectRatio", "").strip() == "none":
        return box[0], box[1], box[2] / width, box[3] / height
    unit = max(box[2] / width, box[3] / height)
    return box[0] - (unit * width - box[2]) / 2, box[1] - (unit * height - box[3]) / 2, unit, unit


def cropped(root: ET.Element, x: float, y: float, w: float, h: float) -> None:
    """Leave of a drawing a part of its canvas, in canvas pixels."""
    left, top, unit_x, unit_y = units(root, *canvas(root))
    root.set("viewBox", f"{left + x * unit_x:.9g} {top + y * unit_y:.9g} {w * unit_x:.9g} {h * unit_y:.9g}")
    root.set("width", f"{w:.9g}")
    root.set("height", f"{h:.9g}")
    root.set("preserveAspectRatio", "none")


def drawn(file: Source | None, text: str, width: int | None, most_pixels: int, part: Part | None = None) -> bytes:
    """SVG text, or a ``part`` of it, drawn as a PNG, ``width`` pixels wide or as large as it says. FileError where it
    cannot be drawn."""
    name = "card" if file is None else file.path
    root = parsed(file, text)
    if part is not None:
        whole = canvas(root)
        if min(whole) > 0.0:
            u0, v0, u1, v1 = part
            w, h = (u1 - u0) * whole[0], (v1 - v0) * whole[1]
            cropped(root, u0 * whole[0], v0 * whole[1], w, h)
            if width:
                # In whole pixels, since that is what a drawing's size is rounded to.
                root.set("width", f"{width}")
                root.set("height", f"{max(1, round(width * h / w))}")
    across, down = canvas(root)
    scale = width / across if width and across > 0.0 else 1.0
    if not (across > 0.0 and down > 0.0 and max(across, down) * scale <= _MAX_SIDE) or (
        across * down * scale * scale > most_pixels
    ):
        raise FileError(
            name, f"is {across:.5g} × {down:.5g} pixels, no size to draw.", f"Sides up to {_MAX_SIDE} work."
        )
    # Looking through the system's fonts takes a while, and only text has use for them.
    plain = not any(plain_tag(element) == "text" for element in root.iter())
    try:
        return bytes(
            resvg_py.svg_to_bytes(
                svg_string=ET.tostring(root, encoding="unicode"),
                width=width,
                skip_system_fonts=plain,
                font_dirs=None if plain else [str(FONTS)],
            )
        )
    except (ValueError, OSError, OverflowError, RecursionError) as problem:
        raise FileError(name, f"could not be drawn: {problem}.", _REMEDY) from problem


def draw_svg(
    file: Source | None, text: str, width: int | None = None, limit: int = MAX_SIDE, part: Part | None = None
) -> Pixels:
    """SVG text, or a part of it, drawn as (H, W, 4) uint8, premultiplied."""
    data = drawn(file, text, width and max(1, min(width, limit)), MAX_PIXELS, part)
    return prepared(file, opened(file, io.BytesIO(data)), limit)


def size(file: Source) -> PictureInfo:
    """The size that the drawing gives itself, in pixels."""
    height, width = draw_svg(file, read_svg(file)).shape[:2]
    return PictureInfo(width, height, True)


def read(file: Source, width: int | None, limit: int, part: Part | None = None) -> Pixels:
    """The drawing, or a part of it, as (H, W, 4) uint8, premultiplied, ``width`` pixels wide."""
    return draw_svg(file, read_svg(file), width, limit, part)
