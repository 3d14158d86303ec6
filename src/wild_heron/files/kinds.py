"""Which files are which, without reading any."""

from pathlib import Path

FONTS = Path(__file__).parent.parent / "fonts"
PICTURE_SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".bmp", ".gif", ".svg", ".svgz")


def is_vector(path: Path) -> bool:
    return path.suffix.lower() in (".svg", ".svgz")
