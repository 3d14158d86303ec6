"""Expands folders into the files that can be imported from them."""

from collections.abc import Iterable
from pathlib import Path

from .formats import EVERY_SUFFIX

MOST_FILES = 2000


def expanded(paths: Iterable[Path]) -> list[Path]:
    """The paths with each folder's own artwork, by name, in its place; what lies in folders inside it is left alone.

    OSError where a folder cannot be listed.
    """
    out: list[Path] = []
    for path in paths:
        if not path.is_dir():
            out.append(path)
            continue
        inside = (each for each in path.iterdir() if not each.name.startswith(".") and each.is_file())
        out += sorted(each for each in inside if each.suffix.lower() in EVERY_SUFFIX)[:MOST_FILES]
    return out
