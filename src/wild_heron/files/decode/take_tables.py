"""Tables of samples: a take as it was exported, or written by something else."""

import re

import numpy as np

from ...scene import TURN
from ...scene.channels import POSITION
from ...space.rotation import euler_to_quaternion
from ..contents import TakeTable
from ..errors import FileError
from ..take_tables import SHORT
from .motion_tracks import rows_of
from .source import Source

_TIMES = ("seconds", "time", "t", "frame", "f")
_ANGLES = ("rx", "ry", "rz")
_OTHERS = {"rotation.x": "rx", "rotation.y": "ry", "rotation.z": "rz", "px": "x", "py": "y", "pz": "z"}
_CHANNEL = re.compile(r"[a-z][a-z0-9._-]{0,79}")
_MOST = 24
_REMEDY = "Its columns should be: seconds (or frame), x, y, z, and qx, qy, qz, qw or rx, ry, rz in degrees."


def read_take(file: Source, fps: float) -> TakeTable:
    """A table with a heading line: seconds, or frame, then x, y, z and a rotation as qx, qy, qz, qw or as rx, ry, rz in
    degrees (turned about y first, then x, then z), or channels by name. FileError names the line."""
    path, rows = file.path, rows_of(file, _REMEDY)
    if not rows:
        raise FileError(path, "is empty.", _REMEDY)
    long = {short: name for name, short in SHORT.items()}
    heads = [cell.strip().lower() for cell in rows[0]]
    heads = [_OTHERS.get(head, SHORT.get(head, head)) for head in heads]
    time = next((head for head in heads if head in _TIMES), None)
    if time is None:
        raise FileError(path, "has no column of seconds or frames in its first line.", _REMEDY)
    names = [head for head in heads if head and head not in _TIMES]
    if not names or len(set(names)) < len(names) or len(names) > _MOST:
        raise FileError(path, "has no columns, one of them twice, or too many.", _REMEDY)
    wrong = next((name for name in names if name not in (*long, *_ANGLES) and not _CHANNEL.fullmatch(name)), None)
    if wrong is not None:
        raise FileError(path, f"has a column “{wrong[:40]}”, which no channel is called.", _REMEDY)
    table = _numbers(file, rows[1:], [heads.index(name) for name in (time, *names)])
    table = table[np.argsort(table[:, 0], kind="stable")]
    table = table[np.concatenate([[True], np.diff(table[:, 0]) > 1e-9])]
    times = table[:, 0] / fps if time.startswith("f") else table[:, 0]
    columns = dict(zip(names, table[:, 1:].T, strict=True))
    return TakeTable(times - times[0], *_as_columns(file, columns, long))


def _numbers(file: Source, rows: list[list[str]], places: list[int]) -> np.ndarray:
    numbers = []
    for number, row in enumerate(rows, 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            values = [float(row[place]) for place in places]
        except (ValueError, IndexError):
            raise FileError(file.path, f"has no number where one is needed, in line {number}.", _REMEDY) from None
        if not all(abs(value) <= 1e9 for value in values):
            raise FileError(file.path, f"has a number beyond all measure in line {number}.", _REMEDY)
        numbers.append(values)
    if len(numbers) < 2:
        raise FileError(file.path, "has fewer than two lines of numbers.", _REMEDY)
    return np.array(numbers)


def _as_columns(
    file: Source, columns: dict[str, np.ndarray], long: dict[str, str]
) -> tuple[np.ndarray, tuple[str, ...]]:
    """The table as a take has it: rotations as unit quaternions."""
    if all(name in columns for name in _ANGLES):
        angles = np.stack([columns.pop(name) for name in _ANGLES], axis=1)
        turns = euler_to_quaternion(np.radians(angles), "yxz")
        columns |= {SHORT[name]: turns[:, k] for k, name in enumerate(TURN)}
    short = [SHORT[name] for name in TURN]
    given = [name for name in short if name in columns]
    if given and len(given) < 4:
        raise FileError(file.path, f"has {', '.join(given)}, and not the rest of a rotation.", _REMEDY)
    if given:
        turns = np.stack([columns[name] for name in short], axis=1)
        size = np.linalg.norm(turns, axis=1)
        if float(size.min()) < 1e-6:
            raise FileError(file.path, "has a rotation that is none: all four numbers are 0.", _REMEDY)
        columns |= {name: turns[:, k] / size for k, name in enumerate(short)}
    place = [SHORT[name] for name in POSITION]
    if 0 < sum(name in columns for name in place) < 3:
        raise FileError(file.path, "has a position of fewer than three columns.", _REMEDY)
    order = [*(name for name in (*place, *short) if name in columns)]
    order += [name for name in columns if name not in order]
    return np.stack([columns[name] for name in order], axis=1), tuple(long.get(name, name) for name in order)
