"""Where a scene's artwork lies: relative paths, what is missing, and finding it again."""

import os
from pathlib import Path

import msgspec

from ..scene import Picture, Scene
from ..scene.edits import change_node


def resolve(base: Path | None, source: str) -> Path:
    """A picture's file. ``base`` is the folder of the scene file (None: not saved yet)."""
    path = Path(source)
    return path if path.is_absolute() or base is None else base / path


def source_for(base: Path | None, path: Path) -> str:
    """How a file is written into a scene in ``base``: relative, with forward slashes; absolute while unsaved."""
    path = Path(os.path.abspath(path))
    return path.as_posix() if base is None else Path(os.path.relpath(path, os.path.abspath(base))).as_posix()


def rebase(scene: Scene, old: Path | None, new: Path | None) -> Scene:
    """The scene with its sources written for another folder."""
    for node in scene.nodes:
        if isinstance(node, Picture):
            source = source_for(new, resolve(old, node.source))
            if source != node.source:
                scene = change_node(scene, node.id, source=source)
    return scene


class Missing(msgspec.Struct, frozen=True):
    """A picture whose file is not there."""

    node: str
    name: str
    path: Path


def missing_artwork(scene: Scene, base: Path | None) -> list[Missing]:
    """The pictures whose files are not there, in the order of the scene."""
    found = []
    for node in scene.nodes:
        if isinstance(node, Picture):
            path = resolve(base, node.source)
            if not path.is_file():
                found.append(Missing(node.id, node.name, path))
    return found


def relink(scene: Scene, base: Path | None, node_id: str, path: Path) -> tuple[Scene, int]:
    """Point a missing picture at ``path``, and every other missing one whose file of the same name lies beside it.

    Returns the scene and how many pictures were found.
    """
    missing = missing_artwork(scene, base)
    scene = change_node(scene, node_id, source=source_for(base, path))
    found = 1
    for other in missing:
        beside = path.parent / other.path.name
        if other.node != node_id and beside.is_file():
            scene = change_node(scene, other.node, source=source_for(base, beside))
            found += 1
    return scene, found
