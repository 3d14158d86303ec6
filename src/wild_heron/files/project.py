"""The project file: JSON with a format name and a version. See docs/file-format.md."""

import os
from pathlib import Path
from typing import Any, Literal

import msgspec

from ..scene import Scene, SceneError
from ..scene.validate import validate
from .atomic import write_atomically
from .errors import FileError, why

FORMAT: Literal["wild-heron-scene"] = "wild-heron-scene"
VERSION: Literal[3] = 3
SUFFIX = ".heron"
MAX_BYTES = 256 * 1024 * 1024


class ProjectFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What stands in a ``.heron`` file."""

    format: Literal["wild-heron-scene"]
    version: Literal[3]
    scene: Scene


class _Header(msgspec.Struct):
    format: Any = None
    version: Any = None


def encode(scene: Scene) -> bytes:
    """The file's bytes. SceneError where the scene does not hang together or holds what a file cannot say."""
    validate(scene)
    data = msgspec.json.format(msgspec.json.encode(ProjectFile(FORMAT, VERSION, scene)), indent=1) + b"\n"
    try:
        again = msgspec.json.decode(data, type=ProjectFile).scene
    except msgspec.ValidationError as problem:
        raise SceneError(f"The scene cannot be saved: {problem}") from problem
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
        if header.version in (1, 2):
            scene = msgspec.convert(_from_older(msgspec.json.decode(data)), type=ProjectFile).scene
        else:
            scene = msgspec.json.decode(data, type=ProjectFile).scene
        validate(scene)
    except (msgspec.ValidationError, SceneError, RecursionError) as problem:
        raise FileError(path, f"cannot be used: {problem}", "Mend that place, or go back to a copy.") from problem
    return scene


def _from_older(data: Any) -> Any:
    """An older file's contents as this version has them.

    In version 1 a picture had a file rather than artwork. Up to version 2 a camera had its aim apart from binds.
    """
    scene = data.get("scene")
    nodes = scene.get("nodes") if isinstance(scene, dict) else None
    for node in nodes if isinstance(nodes, list) else ():
        if not isinstance(node, dict):
            continue
        if data.get("version") == 1 and node.get("kind") == "picture" and "source" in node:
            node["artwork"] = {"type": "image", "source": node.pop("source")}
        if node.get("kind") == "camera" and "aim" in node:
            aim = node.pop("aim")
            if isinstance(aim, dict):
                bind = {"type": "aim"} | ({"targets": [aim.get("node")]} if aim.get("type") == "node" else {})
                node["binds"] = [bind, *node.get("binds", ())]
    return data | {"version": VERSION}


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
    path = Path(path)
    try:
        if path.is_dir():
            raise FileError(path, "is a folder.", "Choose a .heron file.")
        if not path.is_file():
            what = "is not a plain file." if path.exists() else "was not found."
            raise FileError(path, what, "Check the name.")
        if path.stat().st_size > MAX_BYTES:
            raise FileError(path, "is larger than any scene.", "Choose a .heron file.")
        data = path.read_bytes()
    except OSError as error:
        raise FileError(path, f"could not be read: {why(error)}", "Check that you may read it.") from error
    return decode(data, path)


def save(scene: Scene, path: str | os.PathLike[str]) -> None:
    """Write a scene file whole or not at all. SceneError or FileError leave the old file as it was."""
    write_atomically(Path(path), encode(scene))
