"""A table of frames, as text separated by commas: where nodes are, how they are turned, and what lens a camera has."""

import csv
import io
from typing import Any

import numpy as np

from ...arrays import Array
from ...motion.takes.sampling import unrolled
from .move import Move, MovedCamera, Poses

ORDER = "yxz"
"""In which the angles about the axes are applied."""
HEADS = (
    "frame", "seconds", "node", "x", "y", "z", "rx", "ry", "rz", "qx", "qy", "qz", "qw", "sx", "sy", "sz", "focal_mm",
    "sensor_width", "sensor_height", "focus", "f_stop", "shutter", "shift_right", "shift_up",
)  # fmt: skip
"""The shift is how far the axis of the lens lands off the middle of the picture, in shares of its width and height."""


def table(move: Move) -> str:
    """The camera first, then the nodes, each with a line for each of its keys."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(HEADS)
    if move.camera is not None:
        _camera(rows, move, move.camera)
    for node, poses, _, _ in move.nodes:
        _lines(rows, move, node.name, poses, np.zeros((len(poses.frames), 0)))
    return out.getvalue()


def _camera(rows: Any, move: Move, camera: MovedCamera) -> None:
    view = camera.view
    # Of the moments that are told, those at which the place or the lens is.
    moments = np.union1d(camera.poses.frames, view.frames[camera.lens])
    if len(camera.poses.frames) == 1 and len(camera.lens) == 1:
        moments = view.frames[:1]
    at = np.searchsorted(view.frames, moments)
    per_pixel = view.focal_mm[at] / view.focal_px[at]
    shift = np.zeros((len(at), 2)) if view.shift is None else view.shift[at] / [view.width, -view.height]
    lens = np.stack(
        [
            view.focal_mm[at], view.width * per_pixel, view.height * per_pixel, view.focus[at], view.f_stop[at],
            view.shutter[at], shift[:, 0], shift[:, 1] + 0.0,
        ],
        axis=1,
    )  # fmt: skip
    whole = Poses(moments, *_between(camera.poses, moments))
    _lines(rows, move, camera.name, whole, lens)


def _between(poses: Poses, moments: Array) -> tuple[Array, Array, Array]:
    """Places, turns and scales at moments, straight between keys."""
    if poses.still:
        count = len(moments)
        return tuple(np.repeat(each, count, axis=0) for each in poses[1:4])  # type: ignore[return-value]
    columns = [
        np.stack([np.interp(moments, poses.frames, values[:, k]) for k in range(values.shape[1])], axis=1)
        for values in (poses.position, poses.quaternion, poses.scale)
    ]
    columns[1] /= np.linalg.norm(columns[1], axis=1, keepdims=True)
    return columns[0], columns[1], columns[2]


def _lines(rows: Any, move: Move, name: str, poses: Poses, lens: Array) -> None:
    angles = unrolled(poses.quaternion, ORDER)
    numbers = np.concatenate([poses.position, angles, poses.quaternion, poses.scale, lens], axis=1)
    for frame, seconds, values in zip(
        poses.frames.tolist(), move.seconds(poses.frames).tolist(), numbers.tolist(), strict=True
    ):
        told = ["" if not np.isfinite(each) else repr(each) for each in values]
        rows.writerow([repr(frame), repr(seconds), name, *told])
