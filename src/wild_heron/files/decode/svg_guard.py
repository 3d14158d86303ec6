"""Refuses SVG that expands without bounds: nested copies, or copies of themselves."""

import xml.etree.ElementTree as ET
from pathlib import Path

from ..errors import FileError

MAX_ELEMENTS = 200_000
MAX_DEPTH = 200


def check_svg(path: Path | str, root: ET.Element) -> None:
    """FileError where what a drawing unfolds to, with every ``use`` in place of what it shows, is too much."""
    known = {element.get("id"): element for element in root.iter() if element.get("id")}
    sizes: dict[ET.Element, int] = {}
    # Depth first without recursion, each element counted once all that it shows is counted.
    trail: list[tuple[ET.Element, bool]] = [(root, False)]
    open_: set[ET.Element] = set()
    while trail:
        element, done = trail.pop()
        if done:
            open_.discard(element)
            sizes[element] = 1 + sum(sizes[each] for each in _shown(element, known))
            if sizes[element] > MAX_ELEMENTS:
                raise FileError(path, "unfolds into too many shapes.", "Simplify it in a vector program.")
            continue
        if element in sizes:
            continue
        if element in open_:
            raise FileError(path, "shows itself within itself.", "Check it in a vector program.")
        if len(open_) > MAX_DEPTH:
            raise FileError(path, "is nested too deeply.", "Take some of its groups apart.")
        open_.add(element)
        trail.append((element, True))
        trail.extend((each, False) for each in _shown(element, known))


def _shown(element: ET.Element, known: dict[str | None, ET.Element]) -> list[ET.Element]:
    """An element's children, and what it shows a copy of."""
    found = list(element)
    if str(element.tag).rpartition("}")[2] == "use":
        name = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
        target = known.get(name.removeprefix("#"))
        if target is not None:
            found.append(target)
    return found
