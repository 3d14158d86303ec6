"""Fonts by family and weight: those that ship with the program, then the user's and the system's."""

from functools import cache
from pathlib import Path
from typing import NamedTuple

import uharfbuzz as hb

from ..formats import FONTS

FALLBACK = "Inter"
_PLACES = (
    FONTS,
    Path("~/.local/share/fonts"),
    Path("~/.fonts"),
    Path("/usr/local/share/fonts"),
    Path("/usr/share/fonts"),
)
_SUFFIXES = (".ttf", ".otf", ".ttc", ".otc")


class FontFile(NamedTuple):
    """One face of a font file, by its number there; ``low`` to ``high`` are the weights it can have."""

    path: Path
    face: int
    family: str
    low: int
    high: int
    slanted: bool


@cache
def installed() -> tuple[FontFile, ...]:
    """Every upright or slanted face that can be read, those that ship with the program first."""
    found: list[FontFile] = []
    for place in _PLACES:
        folder = place.expanduser()
        for path in sorted(folder.rglob("*")) if folder.is_dir() else ():
            if path.suffix.lower() in _SUFFIXES:
                found.extend(_faces(path))
    return tuple(found)


def families() -> list[str]:
    """The names of all families, in alphabetical order."""
    return sorted({font.family for font in installed()}, key=str.casefold)


def _faces(path: Path) -> list[FontFile]:
    try:
        blob = hb.Blob.from_file_path(str(path))
        return [_described(path, index, hb.Face(blob, index)) for index in range(min(hb.Face(blob).count, 64))]
    except (OSError, ValueError, RuntimeError, hb.HarfBuzzError):
        return []


def _described(path: Path, index: int, face: hb.Face) -> FontFile:
    family = face.get_name(hb.OTNameIdPredefined.TYPOGRAPHIC_FAMILY) or face.get_name(hb.OTNameIdPredefined.FONT_FAMILY)
    table = bytes(face.reference_table("OS/2").data)
    weight = int.from_bytes(table[4:6], "big") if len(table) >= 64 else 400
    slanted = bool(int.from_bytes(table[62:64], "big") & 0b10_0000_0001) if len(table) >= 64 else False
    low = high = weight
    for axis in face.axis_infos:
        if axis.tag == "wght":
            low, high = int(axis.min_value), int(axis.max_value)
    if path.parent == FONTS:
        family = FALLBACK  # Its faces each give a family name of their own.
    return FontFile(path, index, family or path.stem, low, high, slanted)


@cache
def find(family: str, weight: int) -> FontFile | None:
    """The upright face of a family that is nearest to a weight, or None where there is no such family."""
    if family == FALLBACK:
        # Nothing else need be looked through for what ships with the program.
        fonts = [font for path in sorted(FONTS.glob("*.otf")) for font in _faces(path)]
    else:
        fonts = [font for font in installed() if font.family.casefold() == family.casefold()]
    return min(fonts, key=lambda font: (font.slanted, max(font.low - weight, weight - font.high, 0)), default=None)


@cache
def opened(font: FontFile, weight: int) -> hb.Font:
    """The face ready to shape and draw, at a weight where it has an axis for that."""
    out = hb.Font(hb.Face(hb.Blob.from_file_path(str(font.path)), font.face))
    if font.low < font.high:
        out.set_variations({"wght": float(min(max(weight, font.low), font.high))})
    return out
