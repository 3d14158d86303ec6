"""The ``style`` of an SVG element: its CSS declarations as a dictionary."""

import xml.etree.ElementTree as ET
from collections.abc import Mapping


def style_of(element: ET.Element) -> dict[str, str]:
    """Properties and what is declared of them; of several declarations the last."""
    found = {}
    for declaration in _split(element.get("style", "")):
        name, colon, value = declaration.partition(":")
        if colon and name.strip():
            found[name.strip().lower()] = value.strip()
    return found


def set_style(element: ET.Element, style: Mapping[str, str]) -> None:
    """Declare these properties and no others."""
    if style:
        element.set("style", ";".join(f"{name}:{value}" for name, value in style.items()))
    else:
        element.attrib.pop("style", None)


def without(element: ET.Element, *names: str) -> None:
    """Take properties away, declared in the style or as attributes."""
    for name in names:
        element.attrib.pop(name, None)
    if "style" in element.attrib:
        set_style(element, {name: value for name, value in style_of(element).items() if name not in names})


def shown(element: ET.Element, name: str, default: str) -> str:
    """What a property is, by the style first, as CSS has it."""
    return style_of(element).get(name) or element.get(name) or default


def _split(text: str) -> list[str]:
    """At the semicolons that stand neither in quotes nor in brackets (CSS Syntax Level 3)."""
    parts, start, depth, quote = [], 0, 0, ""
    escaped = False
    for k, letter in enumerate(text):
        if escaped:
            escaped = False
        elif letter == "\\":
            escaped = True
        elif quote:
            quote = "" if letter == quote else quote
        elif letter in "\"'":
            quote = letter
        elif letter == "(":
            depth += 1
        elif letter == ")":
            depth = max(depth - 1, 0)
        elif letter == ";" and not depth:
            parts.append(text[start:k])
            start = k + 1
    return [*parts, text[start:]]
