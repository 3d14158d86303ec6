"""Migrations of older project files: one function for each version."""

from collections.abc import Callable, Iterator
from typing import Any


def newest(data: Any) -> Any:
    """A file's contents as of the newest version. What is not as it should be stays so, for the reader to name."""
    while isinstance(data.get("version"), int) and data["version"] in _STEPS:
        _STEPS[data["version"]](data)
        data["version"] += 1
    return data


def _from_1(data: Any) -> None:
    """A picture had a file rather than artwork."""
    for node in _nodes(data, "picture"):
        if "source" in node:
            node["artwork"] = {"type": "image", "source": node.pop("source")}


def _from_2(data: Any) -> None:
    """A camera had its aim apart from binds."""
    for node in _nodes(data, "camera"):
        if "aim" in node:
            aim = node.pop("aim")
            if isinstance(aim, dict):
                bind = {"type": "aim"} | ({"targets": [aim.get("node")]} if aim.get("type") == "node" else {})
                node["binds"] = [bind, *node.get("binds", ())]


def _from_3(data: Any) -> None:
    """There was no film: whatever the scene's camera saw was shown, which it still is where there are no shots."""


def _from_4(data: Any) -> None:
    """There were no movers and no takes."""


def _from_5(data: Any) -> None:
    """Colours were mixed as display values."""
    scene = data.get("scene")
    if isinstance(scene, dict):
        settings = scene.setdefault("settings", {})
        if isinstance(settings, dict):
            settings["light"] = "display"


def _from_6(data: Any) -> None:
    """There were no moves."""


_STEPS: dict[int, Callable[[Any], None]] = {
    1: _from_1, 2: _from_2, 3: _from_3, 4: _from_4, 5: _from_5, 6: _from_6,
}  # fmt: skip


def _nodes(data: Any, kind: str) -> Iterator[dict[str, Any]]:
    scene = data.get("scene")
    nodes = scene.get("nodes") if isinstance(scene, dict) else None
    for node in nodes if isinstance(nodes, list) else ():
        if isinstance(node, dict) and node.get("kind") == kind:
            yield node
