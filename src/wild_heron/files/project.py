"""The project file: JSON with a format name and a version. See docs/file-format.md."""

import os
from pathlib import Path
from typing import Any, Literal, NamedTuple

import msgspec

from ..scene import Scene, SceneError
from ..scene.validate import unencodable, validate
from .atomic import write_atomically
from .errors import FileError, why
from .older import newest
from .regular import open_regular

FORMAT: Literal["wild-heron-scene"] = "wild-heron-scene"
VERSION: Literal[7] = 7
SUFFIX = ".heron"
MAX_BYTES = 128 * 1024 * 1024


class ProjectFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What stands in a ``.heron`` file."""

    format: Literal["wild-heron-scene"]
    version: Literal[7]
    scene: Scene


class _Header(msgspec.Struct):
    format: Any = None
    version: Any = None


def encode(scene: Scene) -> bytes:
    """The file's bytes. SceneError where the scene does not hang together or holds what a file cannot say."""
    validate(scene)
    try:
        data = msgspec.json.format(msgspec.json.encode(ProjectFile(FORMAT, VERSION, scene)), indent=1) + b"\n"
        again = msgspec.json.decode(data, type=ProjectFile).scene
    except (ValueError, OverflowError, RecursionError) as problem:
        raise SceneError(f"The scene cannot be saved: {unencodable(problem)}") from problem
    if again != scene:
        raise SceneError("The scene cannot be saved: it would not be read back the same.")
    return data


def decode(data: bytes, path: str | Path = "scene") -> Scene:
    """The scene in a file's bytes. FileError with the place in the file and the remedy."""
    try:
        data.decode("utf-8")  # Of strings that it passes over, the decoder does not see whether they are text.
        header = msgspec.json.decode(data, type=_Header)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as problem:
        raise FileError(path, _syntax_problem(data, problem), "Go back to a copy or an autosave.") from problem
    if header.format != FORMAT:
        raise FileError(path, "is not a Wild Heron scene ($.format).", "Choose a .heron file.")
    if isinstance(header.version, int) and header.version > VERSION:
        raise FileError(
            path,
            f"was made by a newer Wild Heron ($.version is {header.version}, this one reads up to {VERSION}).",
            "Update Wild Heron.",
        )
    try:
        if isinstance(header.version, int) and header.version < VERSION:
            scene = msgspec.convert(newest(msgspec.json.decode(data)), type=ProjectFile).scene
        else:
            scene = msgspec.json.decode(data, type=ProjectFile).scene
        validate(scene)
    except (msgspec.ValidationError, SceneError, RecursionError) as problem:
        raise FileError(path, f"cannot be used: {problem}", "Mend that place, or go back to a copy.") from problem
    return scene


def _syntax_problem(data: bytes, problem: Exception) -> str:
    if not data.strip():
        return "is empty."
    if isinstance(problem, UnicodeDecodeError):
        return f"is not text in UTF-8 (byte {problem.start})."
    if isinstance(problem, RecursionError):
        return "is nested too deeply to be a scene."
    text = str(problem)
    digits = text.rpartition("byte ")[2].rstrip(")")
    if digits.isdigit():
        before = data[: int(digits)]
        line = before.count(b"\n") + 1
        column = len(before) - before.rfind(b"\n")
        return f"is broken at line {line}, column {column}: {text.split(' (byte')[0]}."
    if "truncated" in text:
        lines = data.count(b"\n") + 1
        return f"ends too early, at line {lines}: it is truncated."
    return f"is broken: {text}."


def load(path: str | os.PathLike[str]) -> Scene:
    """Read a scene file. FileError names the file, the place in it and the remedy."""
    return load_with_version(path)[0]


class FileVersion(NamedTuple):
    """What a file was when it was read or written: to see whether it is another one now."""

    digest: bytes
    stamp: tuple[int, int, int]


def load_with_version(path: str | os.PathLike[str]) -> tuple[Scene, FileVersion]:
    """The same, and which version of the file it was."""
    path = Path(path)
    if path.is_dir():
        raise FileError(path, "is a folder.", "Choose a .heron file.")
    data, stamp = _read(path)
    return decode(data, path), FileVersion(_digest(data), stamp)


def version_on_disk(path: Path, known: FileVersion | None = None) -> FileVersion | None:
    """Which version of a file is on disk; None where there is none that can be read. It is read only where its time or
    size is another than that of the ``known`` one."""
    try:
        status = os.stat(path)
        stamp = (status.st_mtime_ns, status.st_size, status.st_ino)
        if known is not None and known.stamp == stamp:
            return known
        data, stamp = _read(path)
    except (OSError, FileError):
        return None
    return FileVersion(_digest(data), stamp)


def _digest(data: bytes) -> bytes:
    import hashlib  # Loading it takes longer than the window has until it is ready.

    return hashlib.blake2b(data, digest_size=16).digest()


def _read(path: Path) -> tuple[bytes, tuple[int, int, int]]:
    with os.fdopen(open_regular(path), "rb") as file:
        status = os.fstat(file.fileno())
        if status.st_size > MAX_BYTES:
            raise FileError(path, "is larger than any scene.", "Choose a .heron file.")
        try:
            return file.read(), (status.st_mtime_ns, status.st_size, status.st_ino)
        except OSError as error:
            raise FileError(path, f"could not be read: {why(error)}", "Check that you may read it.") from error


def save(scene: Scene, path: str | os.PathLike[str]) -> FileVersion:
    """Write a scene file whole or not at all. SceneError or FileError leave the old file as it was."""
    path = Path(path)
    data = encode(scene)
    write_atomically(path, data)
    status = os.stat(path)
    return FileVersion(_digest(data), (status.st_mtime_ns, status.st_size, status.st_ino))
