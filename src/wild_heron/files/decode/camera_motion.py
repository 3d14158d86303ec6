"""Samples a file's camera over time: at keys, at whole frames, and wherever the motion needs more."""

from collections.abc import Callable, Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...arrays import Array
from ...motion.reading import read_between
from ...motion.thinning import SIDES
from ...space.transform import decompose
from ..contents import CameraTrack, FoundCameras
from ..errors import FileError
from .source import MAX_ROWS, Source

_NEAR = 1e-7
"""Of how far it goes, or how large it is: what may lie off the line between two samples."""
_TURN = 4e-7
_FARTHEST = 1e12
_EVEN = 1e-3
_ROW = 8


class CameraMotion(NamedTuple):
    """Frames (N,), positions (N, 3), quaternions (N, 4) and other numbers (N, K)."""

    frames: Array
    positions: Array
    quaternions: Array
    numbers: Array


def camera_motion(file: Source, keys: Iterable[float], read: Callable[[Array], tuple[Array, Array]]) -> CameraMotion:
    """What ``read`` says at frames (N,): world matrices (N, 4, 4) and other numbers (N, K). ``keys``: the frames at
    which the file tells something. FileError where they are too far apart."""
    told = np.unique(np.asarray(list(keys), dtype=np.float64))
    if len(told) > MAX_ROWS or np.ptp(told) > MAX_ROWS:
        raise FileError(file.path, f"moves a camera over more than {MAX_ROWS} frames or keys.", "Take a part of it.")

    def sound(frames: Array) -> tuple[Array, Array]:
        poses, numbers = read(frames)
        for values in (poses, numbers):
            if not (np.abs(np.nan_to_num(values, nan=np.inf if values is poses else 0.0)) < _FARTHEST).all():
                raise FileError(file.path, "has a camera whose numbers have no end.", "Export it anew.")
        return poses, numbers

    frames = told
    if len(told) > 1:
        frames, inside = _on_frames(told)
        frames = read_between(frames, lambda at: _columns(*sound(at)), _least, inside)
    poses, numbers = sound(frames)
    position, quaternion, _ = decompose(poses)
    return CameraMotion(frames, position, quaternion, numbers)


def _on_frames(told: Array) -> tuple[Array, NDArray[np.bool_]]:
    """Keys with the frames between those that lie farther apart, and a moment right before the later ones; and between
    which of them a motion has to be looked at.

    Even steps of a frame or less, a few of them in a row, are what is left of a motion that somebody sampled: there is
    nothing to find between them.
    """
    gaps = np.diff(told)
    steps = np.flatnonzero(np.concatenate([[True], np.abs(np.diff(gaps)) > _EVEN * gaps[1:], [True]]))
    in_a_row = np.repeat(np.diff(steps), np.diff(steps))
    wide = (gaps > 1.0 + _EVEN) | (in_a_row < _ROW)
    whole = np.arange(np.ceil(told[0]), told[-1] + 0.5)
    gap = np.clip(np.searchsorted(told, whole, side="right") - 1, 0, len(wide) - 1)
    frames = np.unique(np.concatenate([told, told[1:][wide] - 0.5 * SIDES, whole[wide[gap]]]))
    # Of two that nearly meet the later one stays: a key, rather than the frame before it.
    frames = frames[np.concatenate([np.diff(frames) > 0.25 * SIDES, [True]])]
    gap = np.clip(np.searchsorted(told, 0.5 * (frames[1:] + frames[:-1]), side="right") - 1, 0, len(wide) - 1)
    return frames, wide[gap]


def _columns(poses: Array, numbers: Array) -> Array:
    linear = poses[:, :3, :3]
    axes = linear / np.maximum(np.sqrt((linear**2).sum(axis=1, keepdims=True)), 1e-12)
    return np.concatenate([poses[:, :3, 3], axes.reshape(-1, 9), numbers], axis=1)


def _least(values: Array) -> Array:
    out = _NEAR * np.maximum(np.abs(values).max(axis=0), 1e-6)
    out[:3] = _NEAR * max(float(np.ptp(values[:, :3], axis=0).max()), 1e-3)
    out[3:12] = _TURN
    return out


def found_cameras(file: Source, tracks: list[CameraTrack], flat: list[str]) -> FoundCameras:
    """What comes in; ``flat`` are the names of cameras without a lens. FileError where there are no others."""
    if not tracks and flat:
        raise FileError(file.path, "holds orthographic cameras only, which have no lens.", "Give them a focal length.")
    if not tracks:
        raise FileError(file.path, "holds no camera.", "Export it with its camera.")
    return FoundCameras(tracks, tuple(f"{name} is an orthographic camera, and is left out." for name in flat))
