"""Text as outlines: shaped with kerning and ligatures, set in lines, written as path data."""

from functools import lru_cache
from typing import NamedTuple

import uharfbuzz as hb

from ...scene import Text
from . import fonts


class Lettering(NamedTuple):
    """Path data (M, L, Q, C, Z; y down, origin at the top-left corner), the size it takes up in artwork pixels, and
    what is wrong with it ("" for nothing)."""

    path: str
    width: int
    height: int
    problem: str


class _Pen:
    """Takes outlines in font units, y up, and writes path data."""

    def __init__(self) -> None:
        self.parts: list[str] = []
        self.x = self.y = 0.0
        self.scale = 1.0

    def _at(self, *points: tuple[float, float]) -> str:
        return " ".join(f"{self.x + x * self.scale:.4g},{self.y - y * self.scale:.4g}" for x, y in points)

    def moveTo(self, point: tuple[float, float]) -> None:
        self.parts.append(f"M{self._at(point)}")

    def lineTo(self, point: tuple[float, float]) -> None:
        self.parts.append(f"L{self._at(point)}")

    def qCurveTo(self, *points: tuple[float, float]) -> None:
        self.parts.append(f"Q{self._at(*points)}")

    def curveTo(self, *points: tuple[float, float]) -> None:
        self.parts.append(f"C{self._at(*points)}")

    def closePath(self) -> None:
        self.parts.append("Z")

    def endPath(self) -> None:
        pass


@lru_cache(maxsize=64)
def lettering(text: Text) -> Lettering:
    """Set a text in lines. A font that is not there is replaced by the one that ships with the program, and said."""
    chosen = fonts.find(text.font, text.weight)
    problem = "" if chosen else f"The font “{text.font}” is not installed; {fonts.FALLBACK} stands in for it."
    font = fonts.opened(chosen or _fallback(text.weight), text.weight)
    scale = text.size / font.face.upem
    extents = font.get_font_extents("ltr")
    lines = [_shaped(font, line, text, scale) for line in text.text.split("\n")]
    width = max(length for _, length in lines)
    # Letters may reach beyond their advance and the font's own height.
    margin = 0.15 * text.size
    pen = _Pen()
    pen.scale = scale
    for row, (glyphs, length) in enumerate(lines):
        start = margin + {"left": 0.0, "middle": 0.5, "right": 1.0}[text.align] * (width - length)
        baseline = margin + extents.ascender * scale + row * text.leading * text.size
        for glyph, x, y in glyphs:
            pen.x, pen.y = start + x, baseline - y
            font.draw_glyph_with_pen(glyph, pen)
    height = (extents.ascender - extents.descender) * scale + (len(lines) - 1) * text.leading * text.size
    return Lettering(" ".join(pen.parts), _side(width + 2 * margin), _side(height + 2 * margin), problem)


def _fallback(weight: int) -> fonts.FontFile:
    font = fonts.find(fonts.FALLBACK, weight)
    assert font is not None
    return font


def _side(length: float) -> int:
    return min(max(1, round(length)), 65_536)


def _shaped(font: hb.Font, line: str, text: Text, scale: float) -> tuple[list[tuple[int, float, float]], float]:
    """Glyphs of a line with their places in artwork pixels, and its length."""
    buffer = hb.Buffer()
    buffer.add_str(line)
    buffer.guess_segment_properties()
    # Letters that are spaced out are not joined.
    hb.shape(font, buffer, {"kern": True, "liga": text.tracking == 0.0})
    tracking = text.tracking / 1000.0 * text.size
    glyphs: list[tuple[int, float, float]] = []
    x = 0.0
    for info, place in zip(buffer.glyph_infos or (), buffer.glyph_positions or (), strict=True):
        glyphs.append((info.codepoint, x + place.x_offset * scale, place.y_offset * scale))
        x += place.x_advance * scale + tracking
    return glyphs, max(0.0, x - tracking) if glyphs else 0.0
