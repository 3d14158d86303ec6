"""Motion from outside: tables of frames, and animations of glTF files, as samples on frames."""

import csv

import numpy as np

from ...space.transform import decompose
from ..contents import MotionTrack
from ..errors import FileError
from .gltf import read_model
from .source import MAX_ROWS, Source

_POSITION = ("x", "y", "z")
_ROTATION = ("rx", "ry", "rz")
_NAMES = {
    "frame": "frame", "f": "frame",
    "x": "x", "y": "y", "z": "z", "position.x": "x", "position.y": "y", "position.z": "z",
    "position x": "x", "position y": "y", "position z": "z", "px": "x", "py": "y", "pz": "z",
    "rx": "rx", "ry": "ry", "rz": "rz", "rotation.x": "rx", "rotation.y": "ry", "rotation.z": "rz",
    "rotation x": "rx", "rotation y": "ry", "rotation z": "rz",
}  # fmt: skip


def read_table(file: Source) -> MotionTrack:
    """A table with a heading line: frame, x, y, z and, if the node turns, rx, ry, rz in degrees; separated by commas,
    semicolons or tabs. FileError names the line."""
    path, rows = file.path, rows_of(file, _REMEDY)
    if not rows:
        raise FileError(path, "is empty.", _REMEDY)
    heads = [_NAMES.get(cell.strip().lower(), "") for cell in rows[0]]
    missing = [name for name in ("frame", *_POSITION) if name not in heads]
    if missing:
        raise FileError(path, f"has no column {', '.join(missing)} in its first line.", _REMEDY)
    turns = all(name in heads for name in _ROTATION)
    wanted = ["frame", *_POSITION, *(_ROTATION if turns else ())]
    columns = [heads.index(name) for name in wanted]
    numbers = []
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            values = [float(row[column]) for column in columns]
        except (ValueError, IndexError):
            raise FileError(path, f"has no number where one is needed, in line {number}.", _REMEDY) from None
        if not all(abs(value) <= 1e9 for value in values):
            raise FileError(path, f"has a number beyond all measure in line {number}.", _REMEDY)
        numbers.append(values)
    if not numbers:
        raise FileError(path, "has a heading line and nothing under it.", _REMEDY)
    table = np.array(numbers)
    table = table[np.argsort(table[:, 0], kind="stable")]
    if (np.diff(table[:, 0]) < 1e-6).any():
        twice = table[:-1][np.diff(table[:, 0]) < 1e-6][0, 0]
        raise FileError(path, f"has frame {twice:g} twice.", "Leave one of the two lines.")
    return MotionTrack(table[:, 0], table[:, 1:4], table[:, 4:7] if turns else None)


_REMEDY = "Its columns should be: frame, x, y, z and, if it turns, rx, ry, rz in degrees."


def rows_of(file: Source, remedy: str) -> list[list[str]]:
    """The cells of a table, line by line; separated by whichever of comma, semicolon and tab its first line has most.
    FileError, with the remedy, for what is none."""
    path = file.path
    try:
        text = file.read(64 * 1024 * 1024, remedy).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FileError(path, "is not text in UTF-8.", remedy) from None
    first = text.partition("\n")[0]
    mark = max(",;\t", key=first.count)
    try:
        rows = list(csv.reader(text.splitlines(), delimiter=mark))
    except csv.Error as error:
        raise FileError(path, f"is no table: {error}.", remedy) from error
    if len(rows) > MAX_ROWS:
        raise FileError(path, f"has more than {MAX_ROWS} lines.", "Take a part of it.")
    return rows


def read_animation(file: Source, animation: str, fps: float, start: float = 0.0) -> MotionTrack:
    """The motion of the first node that an animation of a glTF file moves, a sample a frame. FileError where it has
    none of that name."""
    contents = read_model(file)
    tracks = contents.animations.get(animation)
    if not tracks:
        known = ", ".join(f"“{name}”" for name in contents.animations) or "none"
        raise FileError(file.path, f"has no animation “{animation}”.", f"It has: {known}.")
    node = min(track.node for track in tracks)
    count = max(2, round(contents.length(animation) * fps) + 1)
    if count > MAX_ROWS:
        raise FileError(file.path, f"has an animation of {count} frames; up to {MAX_ROWS} work.", "Take a part of it.")
    poses = np.stack([contents.poses(animation, k / fps)[node] for k in range(count)])
    position, _, _ = decompose(poses)
    size = np.sqrt((poses[:, :3, :3] ** 2).sum(axis=1))
    rotations = poses[:, :3, :3] / np.maximum(size, 1e-12)[:, None, :]
    return MotionTrack(start + np.arange(count, dtype=np.float64), position, None, rotations)
