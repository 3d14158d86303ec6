"""Runs of numbered files on disk."""

import re
from itertools import islice
from pathlib import Path

import msgspec

from ..scene import Sequence, numbered

_MOST_NAMES = 200_000


class Numbered(msgspec.Struct, frozen=True):
    """A run of numbered files: its name with # for the number, first number and count."""

    source: Path
    first: int
    count: int


def find_sequence(path: Path) -> Numbered | None:
    """The run of numbered files around one of them, as far as there is no gap; None where it stands alone."""
    found = re.search(r"([0-9]+)(?!.*[0-9])", path.stem)
    if found is None:
        return None
    digits = found.group(1)
    head, tail = path.stem[: found.start()], path.stem[found.end() :] + path.suffix
    if "#" in head + tail or len(digits) > 12:
        return None
    name = re.compile(re.escape(head) + r"([0-9]+)" + re.escape(tail))
    numbers = {
        int(match.group(1))
        for each in islice(path.parent.iterdir(), _MOST_NAMES)
        if (match := name.fullmatch(each.name))
        and len(match.group(1)) == max(len(digits), len(str(int(match.group(1)))))
    }
    first = last = int(digits)
    while first - 1 in numbers:
        first -= 1
    while last + 1 in numbers:
        last += 1
    if last == first:
        return None
    # The shortest number says how far they are padded.
    return Numbered(path.with_name(f"{head}{'#' * len(digits)}{tail}"), first, last - first + 1)


def sequence_file(artwork: Sequence, base: Path | None, index: int) -> Path:
    """The file of a sequence's frame ``index`` (from 0)."""
    source = Path(numbered(artwork.source, artwork.first + index))
    return source if source.is_absolute() or base is None else base / source
