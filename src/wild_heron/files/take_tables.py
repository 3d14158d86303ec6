"""Takes as tables: seconds, position, rotation as a quaternion, and any other channel by its name."""

from pathlib import Path

import numpy as np

from ..scene import TURN, Take
from ..scene.channels import POSITION
from ..space.rotation import euler_to_quaternion, matrix_to_quaternion
from .atomic import write_atomically
from .contents import MotionTrack, TakeTable

SHORT = dict(zip((*POSITION, *TURN), ("x", "y", "z", "qx", "qy", "qz", "qw"), strict=True))
"""What columns are called in a table; others by the channel's own name."""


def write_take(path: Path, take: Take) -> None:
    """Write a take as a .csv table, whole or not at all, with every digit. FileError where it cannot be."""
    heads = ["seconds", *(SHORT.get(name, name) for name in take.columns)]
    lines = [",".join(heads), *(",".join(map(repr, row)) for row in take.table().tolist())]
    write_atomically(path, ("\n".join(lines) + "\n").encode())


def take_of_motion(track: MotionTrack, fps: float) -> TakeTable:
    """A take's columns of samples on frames."""
    names, parts = [*POSITION], [track.positions]
    if track.rotations is not None:
        names += TURN
        parts.append(matrix_to_quaternion(track.rotations))
    elif track.angles is not None:
        names += TURN
        parts.append(euler_to_quaternion(np.radians(track.angles), "yxz"))
    return TakeTable((track.frames - track.frames[0]) / fps, np.concatenate(parts, axis=1), tuple(names))
