"""A scene with all that it comes from in one folder or zip, for handing over: paths relative, nothing left behind."""

import os
import shutil
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path, PurePosixPath
from typing import NamedTuple

import msgspec

from ..scene import AnyNode, Picture, Scene, Sequence
from .artwork_files import resolve
from .errors import FileError, why
from .project import SUFFIX, encode
from .reader import Reader
from .sequences import sequence_file
from .sessions import unfinished

ARTWORK = "artwork"


class Gathered(NamedTuple):
    """A scene whose sources are relative, and what each of its files is: by its path in the folder, where it lies."""

    scene: Scene
    files: dict[str, Path]
    missing: tuple[Path, ...]

    @property
    def name(self) -> str:
        """The scene file's."""
        return file_name(self.scene.name) + SUFFIX


def file_name(name: str) -> str:
    """A name as files have it."""
    words = "".join(each if each.isalnum() or each in "-_" else "-" for each in name.lower())
    return "-".join(part for part in words.split("-") if part)[:80] or "scene"


def gathered(scene: Scene, base: Path | None, reader: Reader) -> Gathered:
    """What belongs to a scene. Files in its folder stay as they lie in it; others come into ``artwork``. What is not
    there, or may not be read, is told."""
    places = _Places(base)
    missing: list[Path] = []
    for node in scene.nodes:
        source = node.file
        if source is None:
            continue
        own = list(_files_of(node, base, reader))
        gone = [path for path in own if not path.is_file() or not reader.permission.allows(path)]
        missing += gone
        if not gone:
            put = places.put_all(resolve(base, source), own)
            if put != source:
                scene = scene.with_node(node.with_file(put))
    sounds = []
    for sound in scene.sounds:
        path = resolve(base, sound.source)
        if path.is_file() and reader.permission.allows(path):
            sound = msgspec.structs.replace(sound, source=places.put_all(path, [path]))
        else:
            missing.append(path)
        sounds.append(sound)
    if sounds:
        scene = msgspec.structs.replace(scene, sounds=tuple(sounds))
    return Gathered(scene, places.files, tuple(dict.fromkeys(missing)))


def _files_of(node: AnyNode, base: Path | None, reader: Reader) -> Iterator[Path]:
    """All files of a node: a sequence's pictures, and what lies beside a model."""
    source = node.file
    assert source is not None
    if isinstance(node, Picture) and isinstance(node.artwork, Sequence):
        for number in range(node.artwork.count):
            yield sequence_file(node.artwork, base, number)
        return
    path = resolve(base, source)
    yield path
    if path.suffix.lower() == ".gltf" and path.is_file():
        for name in reader.files_beside(path):
            yield path.parent / name


class _Places:
    """Where files come to lie."""

    def __init__(self, base: Path | None) -> None:
        self._base = None if base is None else Path(os.path.abspath(base))
        self.files: dict[str, Path] = {}
        self._folders: dict[Path, str] = {}

    def put_all(self, named: Path, files: list[Path]) -> str:
        """Place files, and say how the one that a scene names is written there."""
        root = Path(os.path.abspath(named)).parent
        for path in files:
            self.files[self._place(path, root)] = path
        return self._place(named, root)

    def _place(self, path: Path, root: Path) -> str:
        """``root``: the folder that the node's own file lies in."""
        path = Path(os.path.abspath(path))
        if self._base is not None and path.is_relative_to(self._base):
            return path.relative_to(self._base).as_posix()
        root = root if path.is_relative_to(root) else path.parent
        folder = self._folders.get(root)
        if folder is None:
            # A folder for each that things come from, so that names stay apart and what lies beside each other does.
            taken = {PurePosixPath(each).parts[0] for each in self.files} | set(self._folders.values())
            number = len(self._folders) + 1
            folder = ARTWORK if number == 1 and ARTWORK not in taken else f"{ARTWORK}-{number}"
            while folder in taken:
                number += 1
                folder = f"{ARTWORK}-{number}"
            self._folders[root] = folder
        return f"{folder}/{path.relative_to(root).as_posix()}"


def write_gathered(
    found: Gathered,
    out: Path,
    step: Callable[[int, int], None] = lambda done, total: None,
) -> Path:
    """Write it into a new folder, or a ``.zip``, whole or not at all; the scene file's path, or the zip's. ``step`` is
    told how many files are copied, and may raise. FileError where something is there already."""
    if out.exists():
        raise FileError(out, "is there already.", "Choose another name.")
    if not out.parent.is_dir():
        raise FileError(out, "lies in a folder that is not there.", "Make the folder first.")
    data = encode(found.scene)
    try:
        with unfinished(out) as partial:
            if out.suffix.lower() == ".zip":
                # Most artwork is packed already.
                with zipfile.ZipFile(partial, "x", zipfile.ZIP_STORED) as packed:
                    for done, (name, path) in enumerate(found.files.items()):
                        step(done, len(found.files))
                        packed.write(path, f"{out.stem}/{name}")
                    packed.writestr(f"{out.stem}/{found.name}", data)
                with partial.open("rb") as written:
                    os.fsync(written.fileno())
            else:
                partial.mkdir()
                copy_into(found, partial, step)
            os.rename(partial, out)
    except OSError as problem:
        raise FileError(
            out, f"could not be written: {why(problem)}", "Nothing was left; try another place."
        ) from problem
    return out if out.suffix.lower() == ".zip" else out / found.name


def copy_into(found: Gathered, folder: Path, step: Callable[[int, int], None] = lambda done, total: None) -> None:
    """Copy the files, and then the scene, into a folder that is there."""
    for done, (name, path) in enumerate(found.files.items()):
        step(done, len(found.files))
        target = folder / name
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(path, target)
    (folder / found.name).write_bytes(encode(found.scene))
