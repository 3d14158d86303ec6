"""Which files are which, without reading any."""

from pathlib import Path

FONTS = Path(__file__).parent.parent / "fonts"
SHIPPED_ART = Path(__file__).parent.parent / "demo"
PICTURE_SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".exr", ".bmp", ".gif", ".svg", ".svgz")
MOVIE_SUFFIXES = (".mp4", ".mov", ".webm", ".mkv", ".avi", ".m4v")
LAYERED_SUFFIXES = (".ora", ".svg", ".svgz")
MODEL_SUFFIXES = (".glb", ".gltf")


def is_vector(path: Path) -> bool:
    return path.suffix.lower() in (".svg", ".svgz")
