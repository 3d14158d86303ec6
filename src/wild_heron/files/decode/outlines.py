"""The outlines of vector art and of text, as polygons with their fill colours."""

import io
import re
import xml.etree.ElementTree as ET
from typing import Any, NamedTuple

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon

from ...arrays import Array
from ...scene import ImageFile, Text
from ...scene.artwork import rgb
from ...space.extrude import as_polygons, filled
from ..errors import FileError
from .lettering import lettering
from .source import Source
from .vector import parsed, plain_tag, read_svg

_TOLERANCE = 0.1
_MAX_SHAPES = 5000
_NO_COLOUR = (0.7, 0.7, 0.7)
Colour = tuple[float, float, float]


class Outline(NamedTuple):
    """A shape in artwork pixels, y up, around the middle of the artwork, and its colour (r, g, b in 0–1)."""

    shape: MultiPolygon
    colour: tuple[float, float, float]


class Outlines(NamedTuple):
    """Shapes that do not overlap, and the size of the artwork in pixels."""

    shapes: tuple[Outline, ...]
    width: float
    height: float


def outlines_of(source: ImageFile | Text, file: Source | None) -> Outlines:
    """The outlines of an SVG file or a text. FileError where there are none."""
    if isinstance(source, Text):
        set_ = lettering(source)
        found = [(set_.path, source.colour)]
        shapes = [(_filled(_parsed(data), False, set_.width, set_.height), rgb(colour)) for data, colour in found]
        return Outlines(_visible_parts(shapes), set_.width, set_.height)
    assert file is not None
    return _from_svg(file)


def _visible_parts(shapes: list[tuple[MultiPolygon, tuple[float, float, float]]]) -> tuple[Outline, ...]:
    """Each shape less what lies over it, so that no two faces share a plane."""
    over: shapely.Geometry = MultiPolygon()
    out: list[Outline] = []
    for shape, colour in reversed(shapes):
        seen = as_polygons(shape.difference(over)) if out else shape
        over = shapely.union(over, shape)
        if not seen.is_empty:
            out.append(Outline(seen, colour))
    return tuple(reversed(out))


def _from_svg(file: Source) -> Outlines:
    import svgelements

    root = parsed(file, read_svg(file))
    gradients = _gradient_colours(root)
    try:
        svg = svgelements.SVG.parse(io.StringIO(ET.tostring(root, encoding="unicode")), reify=True, ppi=96.0)
        width, height = float(svg.width or 0), float(svg.height or 0)
        if not (0 < width <= 65_536 and 0 < height <= 65_536):
            raise ValueError("it has no size that artwork can have")
        shapes: list[tuple[MultiPolygon, tuple[float, float, float]]] = []
        for element in svg.elements():
            if not isinstance(element, svgelements.Shape) or element.values.get("visibility") == "hidden":
                continue
            if element.values.get("display") == "none" or len(shapes) > _MAX_SHAPES:
                continue
            shapes.extend(_element_shapes(svgelements, element, gradients, width, height))
    except (
        ValueError, TypeError, AttributeError, LookupError, RecursionError, SyntaxError, ArithmeticError,
        shapely.errors.ShapelyError,
    ) as problem:  # fmt: skip
        raise FileError(
            file.path, f"could not be read as outlines: {problem}.", "Save it as plain SVG paths."
        ) from problem
    if not shapes:
        raise FileError(file.path, "has no filled shapes.", "Turn its text and strokes into paths.")
    return Outlines(_visible_parts(shapes), width, height)


def _element_shapes(
    svgelements: Any, element: Any, gradients: dict[str, Colour], width: float, height: float
) -> list[tuple[MultiPolygon, tuple[float, float, float]]]:
    out = []
    path = svgelements.Path(element)
    fill = _paint(element.fill, element.values.get("fill"), gradients)
    if fill is not None:
        shape = _filled(path, element.values.get("fill-rule") == "evenodd", width, height)
        if not shape.is_empty:
            out.append((shape, fill))
    stroke = _paint(element.stroke, element.values.get("stroke"), gradients)
    thickness = min(float(element.stroke_width or 0.0), 65_536.0)
    if stroke is not None and thickness > 0.0:
        lines = [LineString(_centred(ring, width, height)) for ring in _rings(path) if len(ring) >= 2]
        drawn = as_polygons(shapely.unary_union(lines).buffer(thickness / 2)) if lines else MultiPolygon()
        if not drawn.is_empty:
            out.append((drawn, stroke))
    return out


def _paint(colour: Any, written: object, gradients: dict[str, Colour]) -> Colour | None:
    """A fill's colour, of a gradient the mean of its stops; None for no fill."""
    found = re.match(r"url\(['\"]?#([^)'\"]+)", str(written or ""))
    if found:
        return gradients.get(found.group(1), _NO_COLOUR)
    if colour is None or colour.value is None or colour.alpha == 0:
        return None
    return colour.red / 255.0, colour.green / 255.0, colour.blue / 255.0


def _gradient_colours(root: ET.Element) -> dict[str, Colour]:
    """The mean colour of each gradient's stops by its id; one without stops has those of the one it refers to."""
    found: dict[str, Colour] = {}
    other: dict[str, str] = {}
    for element in root.iter():
        name = element.get("id")
        if name is None or not plain_tag(element).endswith("Gradient"):
            continue
        written = [f"{stop.get('stop-color', '')};{stop.get('style', '')}" for stop in element]
        stops = [rgb(match.group(0)) for text in written if (match := re.search(r"#[0-9a-fA-F]{6}", text))]
        link = next((value for key, value in element.attrib.items() if key.rpartition("}")[2] == "href"), "")
        if stops:
            red, green, blue = np.array(stops).mean(axis=0).tolist()
            found[name] = (red, green, blue)
        elif link.startswith("#"):
            other[name] = link[1:]
    for name in other:
        at = name
        for _ in range(8):
            at = other.get(at, at)
        if at in found:
            found.setdefault(name, found[at])
    return found


def _parsed(data: str) -> Any:
    import svgelements

    return svgelements.Path(data)


def _filled(path: Any, even_odd: bool, width: float, height: float) -> MultiPolygon:
    return filled([_centred(ring, width, height) for ring in _rings(path)], even_odd)


def _centred(ring: Array, width: float, height: float) -> Array:
    return np.stack([ring[:, 0] - width / 2, height / 2 - ring[:, 1]], axis=1)


def _rings(path: Any) -> list[Array]:
    """The path's subpaths as points (K, 2), curves divided until they deviate by less than the tolerance."""
    rings: list[list[tuple[float, float]]] = []
    for segment in path:
        kind = type(segment).__name__
        if kind == "Move":
            rings.append([])
        if segment.end is None:
            continue
        if not rings:
            rings.append([])
        ring = rings[-1]
        if kind in ("QuadraticBezier", "CubicBezier", "Arc") and ring:
            for share in _shares(segment, kind):
                point = segment.point(float(share))
                ring.append((float(point.x), float(point.y)))
        ring.append((float(segment.end.x), float(segment.end.y)))
    out = []
    for ring in rings:
        points = np.array(ring, dtype=np.float64).reshape(-1, 2)
        if len(points):
            moved = np.r_[True, np.hypot(*np.diff(points, axis=0).T) > 1e-9]
            points = points[moved]
        if len(points) > 2 and np.hypot(*(points[0] - points[-1])) <= 1e-9:
            points = points[:-1]
        if len(points) >= 2:
            out.append(points)
    return out


def _shares(segment: Any, kind: str) -> Array:
    """Where a curve is divided: as often as its second differences ask for, between its ends."""
    if kind == "Arc":
        radius = max(float(segment.rx), float(segment.ry), 1e-9)
        steps = abs(float(segment.sweep)) / (2.0 * np.arccos(max(0.0, 1.0 - min(_TOLERANCE / radius, 1.0))) + 1e-9)
    else:
        points = [segment.start, segment.control] if kind == "QuadraticBezier" else [
            segment.start, segment.control1, segment.control2,
        ]  # fmt: skip
        control = np.array([(p.x, p.y) for p in (*points, segment.end)], dtype=np.float64)
        bend = float(np.abs(np.diff(control, n=2, axis=0)).max(initial=0.0))
        order = len(control) - 1
        steps = np.sqrt(order * (order - 1) * bend / (8.0 * _TOLERANCE))
    count = int(min(max(np.ceil(steps), 2), 200))
    return np.asarray(np.arange(1, count) / count)
