"""Paths of a scene's files: relative to the scene, missing, and found again."""

import contextlib
import os
from pathlib import Path

import msgspec

from ..edits import change_sound
from ..scene import AnyNode, Picture, Scene, Sequence
from .sequences import sequence_file


def resolve(base: Path | None, source: str) -> Path:
    """A node's file. ``base`` is the folder of the scene file (None: not saved yet)."""
    path = Path(source)
    return path if path.is_absolute() or base is None else base / path


def source_for(base: Path | None, path: Path) -> str:
    """How a file is written into a scene in ``base``: relative, with forward slashes; absolute while unsaved."""
    path = Path(os.path.abspath(path))
    return path.as_posix() if base is None else Path(os.path.relpath(path, os.path.abspath(base))).as_posix()


def first_file(node: AnyNode, base: Path | None) -> Path | None:
    """The node's file, of a sequence its first picture; None where it needs none."""
    source = node.file
    if source is None:
        return None
    if isinstance(node, Picture) and isinstance(node.artwork, Sequence):
        return sequence_file(node.artwork, base, 0)
    return resolve(base, source)


def files_of(scene: Scene, base: Path | None) -> dict[Path, list[str]]:
    """Every file the scene comes from, sounds too, with the ids of nodes that use it; of sequences the first one."""
    found: dict[Path, list[str]] = {}
    for node in scene.nodes:
        path = first_file(node, base)
        if path is not None:
            found.setdefault(path, []).append(node.id)
    for sound in scene.sounds:
        found.setdefault(resolve(base, sound.source), [])
    return found


def rebase(scene: Scene, old: Path | None, new: Path | None) -> Scene:
    """The scene with its sources written for another folder."""
    for node in scene.nodes:
        now = node.file
        if now is not None:
            source = source_for(new, resolve(old, now))
            if source != now:
                scene = scene.with_node(node.with_file(source))
    if not scene.sounds:
        return scene
    sounds = [msgspec.structs.replace(e, source=source_for(new, resolve(old, e.source))) for e in scene.sounds]
    return msgspec.structs.replace(scene, sounds=tuple(sounds))


SOUND = "@sound/"


class Missing(msgspec.Struct, frozen=True):
    """A node or a sound whose file is not there; of a sound ``node`` is its number behind ``SOUND``."""

    node: str
    name: str
    path: Path


def missing_artwork(scene: Scene, base: Path | None) -> list[Missing]:
    """The nodes whose files are not there, in the order of the scene; then the sounds."""
    found: list[Missing] = []
    there: dict[Path, bool] = {}
    for node in scene.nodes:
        path = first_file(node, base)
        if path is not None:
            if path not in there:
                there[path] = path.is_file()
            if not there[path]:
                found.append(Missing(node.id, node.name, path))
    for number, sound in enumerate(scene.sounds):
        path = resolve(base, sound.source)
        if not path.is_file():
            found.append(Missing(f"{SOUND}{number}", sound.name, path))
    return found


def relink(scene: Scene, base: Path | None, node_id: str, path: Path) -> tuple[Scene, int]:
    """Point a missing node at ``path``, and every other missing one whose file lies in the same place beside it.

    A folder that moved whole is found whole: a file is looked for by its name in the new folder, and, where the old
    paths had folders in common, in the same folders below. Returns the scene and how many were found.
    """
    missing = missing_artwork(scene, base)
    old = next((each.path for each in missing if each.node == node_id), None)
    scene = _repointed(scene, base, node_id, path)
    found = 1
    for other in missing:
        if other.node == node_id:
            continue
        for place in _places(old, path, other.path):
            if place.is_file():
                scene = _repointed(scene, base, other.node, place)
                found += 1
                break
    return scene, found


def _places(old: Path | None, new: Path, other: Path) -> list[Path]:
    places = [new.parent / other.name]
    if old is not None:
        # As many folders up as the two files had to go to meet, in the new place as in the old one.
        with contextlib.suppress(ValueError):
            places.append(Path(os.path.normpath(new.parent / os.path.relpath(other, old.parent))))
    return places


def _repointed(scene: Scene, base: Path | None, node_id: str, path: Path) -> Scene:
    if node_id.startswith(SOUND):
        return change_sound(scene, int(node_id.removeprefix(SOUND)), source=source_for(base, path))
    node = scene.node(node_id)
    source = source_for(base, path)
    if isinstance(node, Picture) and isinstance(node.artwork, Sequence):
        # The number in the name that was chosen gives way to the run of # again.
        hashes = Path(node.artwork.source).name
        source = source_for(base, path.with_name(hashes)) if "#" in hashes else source
    return scene.with_node(node.with_file(source))
