"""Where a point is in the picture, as other programs' readers have it: (N, P, 2) pixels at frames (N,)."""

import csv
import json
import subprocess
import sys
from pathlib import Path

import numpy as np
from pxr import Gf, Usd, UsdGeom
from scipy.spatial.transform import Rotation, Slerp

READERS = Path(sys.prefix) / "other-readers"


def three_js(path: Path, name: str, frames: np.ndarray, points: np.ndarray, size: tuple[int, int], rate: float,
             metres: float) -> np.ndarray:  # fmt: skip
    """glTF, by three.js, whose loader leaves the angle of view alone: that is read as the extension has it."""
    asked = {"seconds": (frames / rate).tolist(), "points": (points * metres).tolist(), "size": size}
    done = subprocess.run(
        ["node", READERS / "read_gltf.mjs", path, name], input=json.dumps(asked), capture_output=True, text=True,
        timeout=600, check=True,
    )  # fmt: skip
    told = json.loads(done.stdout)
    assert (told["errors"], told["warnings"]) == (0, 0), told["messages"]
    return np.array(told["pixels"])


def open_usd(path: Path, name: str, frames: np.ndarray, points: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """USD, by the frustum of its own camera."""
    stage = Usd.Stage.Open(str(path))
    prim = next(each for each in stage.Traverse() if each.IsA(UsdGeom.Camera) and each.GetDisplayName() == name)
    return frustum_pixels(UsdGeom.Camera(prim), frames, points, size)


def frustum_pixels(camera: UsdGeom.Camera, frames: np.ndarray, points: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    out = np.empty((len(frames), len(points), 2))
    for k, frame in enumerate(frames.tolist()):
        frustum = camera.GetCamera(frame).frustum
        matrix = frustum.ComputeViewMatrix() * frustum.ComputeProjectionMatrix()
        at = np.array([matrix.Transform(Gf.Vec3d(*each)) for each in points.tolist()])
        out[k] = (at[:, :2] * [0.5, -0.5] + 0.5) * size
    return out


def table(path: Path, name: str, frames: np.ndarray, points: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """A table, by SciPy: straight from line to line, turns by the short way."""
    rows = [row for row in csv.DictReader(path.read_text().splitlines()) if row["node"] == name]
    told = {key: np.array([float(row[key] or "nan") for row in rows]) for key in rows[0] if key != "node"}
    lines = told["frame"]
    turns = Rotation.from_quat(np.stack([told[f"q{axis}"] for axis in "xyzw"], axis=1))
    turned = Slerp(lines, turns)(frames) if len(lines) > 1 else Rotation.concatenate([turns[0]] * len(frames))

    def between(key: str) -> np.ndarray:
        return np.interp(frames, lines, told[key])

    place = np.stack([between(axis) for axis in "xyz"], axis=1)
    own = np.einsum("nij,npi->npj", turned.as_matrix(), points[None] - place[:, None])
    lens = np.stack([between("focal_mm") / between(f"sensor_{side}") for side in ("width", "height")], axis=1)
    shift = np.stack([between("shift_right"), between("shift_up")], axis=1)
    landed = own[..., :2] / -own[..., 2:] * lens[:, None] + shift[:, None]
    return (landed * [1.0, -1.0] + 0.5) * size
