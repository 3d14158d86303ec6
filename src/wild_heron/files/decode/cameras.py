"""Cameras of other programs: from glTF, OpenUSD and tables."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from ...space.rotation import euler_to_quaternion
from ...space.transform import decompose
from ..contents import CameraTrack
from ..errors import FileError
from .gltf.cameras import read_cameras as read_gltf_cameras
from .motion_tracks import MAX_ROWS, rows_of
from .source import Source

_MAX_BYTES = 256 * 1024 * 1024
_TABLE = "Its columns should be: seconds or frame, x, y, z, rx, ry, rz or qx, qy, qz, qw, and focal_mm."


def read_cameras(file: Source, fps: float) -> list[CameraTrack]:
    """Every camera in a file, whose frames, where it counts in frames, are so many a second."""
    if file.suffix in (".glb", ".gltf"):
        return read_gltf_cameras(file)
    if file.suffix in (".usda", ".usd"):
        return _usd(file)
    return _table(file, fps)


def _usd(file: Source) -> list[CameraTrack]:
    """Cameras of a ``.usda``. Files that it refers to are not read."""
    from pxr import Sdf, Usd, UsdGeom

    data = file.read(_MAX_BYTES, "Make it smaller.")
    if data[:8] == b"PXR-USDC":
        raise FileError(file.path, "is binary USD.", "Save it as text: .usda.")
    layer = Sdf.Layer.CreateAnonymous("read.usda")
    try:
        if not layer.ImportFromString(data.decode("utf-8")):
            raise FileError(file.path, "is no USD that can be read.", "Export it anew as .usda.")
    except (UnicodeDecodeError, RuntimeError) as problem:
        what = " ".join(str(problem).split())[:200]
        raise FileError(file.path, f"is no USD that can be read: {what}.", "Export it anew as .usda.") from problem
    _leave_out_others(layer)
    stage = Usd.Stage.Open(layer, Usd.Stage.LoadNone)
    fps = stage.GetTimeCodesPerSecond() or 24.0
    upright = np.eye(4)
    if UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.z:
        upright[1:3, 1:3] = [[0.0, 1.0], [-1.0, 0.0]]
    out = [
        _usd_camera(UsdGeom.Camera(prim), fps, stage.GetStartTimeCode(), upright)
        for prim in stage.Traverse()
        if prim.IsA(UsdGeom.Camera)
    ]
    if not out:
        raise FileError(file.path, "holds no camera.", "Export it with its camera.")
    return out


def _leave_out_others(layer: Any) -> None:
    """Take out of a layer all that would make composing it open other files."""
    from pxr import Sdf

    layer.subLayerPaths.clear()

    def clear(path: Any) -> None:
        is_prim = path.IsPrimPath() or path.IsPrimVariantSelectionPath()
        prim = layer.GetPrimAtPath(path) if is_prim else None
        if prim is not None:
            prim.ClearReferenceList()
            prim.ClearPayloadList()
            for name in ("clips", "clipSets"):
                prim.ClearInfo(name)

    layer.Traverse(Sdf.Path.absoluteRootPath, clear)


def _usd_camera(camera: Any, fps: float, start: float, upright: Any) -> CameraTrack:
    from pxr import Usd, UsdGeom

    attributes = {
        name: camera.GetPrim().GetAttribute(name)
        for name in ("focalLength", "horizontalAperture", "verticalAperture", "focusDistance", "fStop", "shutter:open",
                     "shutter:close")
    }  # fmt: skip
    times: set[float] = set()
    prim = camera.GetPrim()
    while prim.IsValid() and prim.IsA(UsdGeom.Xformable):
        times.update(UsdGeom.Xformable(prim).GetTimeSamples())
        prim = prim.GetParent()
    for attribute in attributes.values():
        times.update(attribute.GetTimeSamples())
    moments = np.array(sorted(times)[:MAX_ROWS]) if times else np.array([start])
    cache = UsdGeom.XformCache()
    poses = np.empty((len(moments), 4, 4))
    numbers: dict[str, Any] = {name: np.empty(len(moments)) for name in attributes}
    for k, moment in enumerate(moments.tolist()):
        cache.SetTime(Usd.TimeCode(moment))
        poses[k] = upright @ np.array(cache.GetLocalToWorldTransform(camera.GetPrim())).T
        for name, attribute in attributes.items():
            numbers[name][k] = float(attribute.Get(Usd.TimeCode(moment)) or 0.0)
    position, quaternion, _ = decompose(poses)
    width, height = numbers["horizontalAperture"], numbers["verticalAperture"]
    if not (width > 0.0).all() or not (height > 0.0).all() or not (numbers["focalLength"] > 0.0).all():
        raise ValueError("a camera without focal length or apertures")
    # Where the aperture changes too, it is the focal length that is told to.
    focal = numbers["focalLength"] * width[0] / width
    shutter = (numbers["shutter:close"] - numbers["shutter:open"]) * 360.0
    focus, stop = numbers["focusDistance"], numbers["fStop"]
    name = camera.GetPrim().GetDisplayName() or camera.GetPrim().GetName()
    return CameraTrack(
        str(name)[:80], moments / fps - start / fps, position, quaternion, focal, (float(width[0]), float(height[0])),
        False, focus if (focus > 0.0).all() else None, stop if (stop > 0.0).all() else None,
        shutter if (shutter > 0.0).any() else None,
    )  # fmt: skip


def _table(file: Source, fps: float) -> list[CameraTrack]:
    """Cameras of a table: the lines that tell a focal length, by node."""
    rows = rows_of(file, _TABLE)
    heads = [cell.strip().lower() for cell in rows[0]] if rows else []
    turns = [name for name in (("qx", "qy", "qz", "qw"), ("rx", "ry", "rz")) if all(each in heads for each in name)]
    clock = "seconds" if "seconds" in heads else "frame"
    missing = [name for name in (clock, "x", "y", "z", "focal_mm") if name not in heads]
    if missing or not turns:
        raise FileError(file.path, f"has no column {', '.join(missing) or 'qx or rx'} in its first line.", _TABLE)
    wanted = [clock, "x", "y", "z", *turns[0], "focal_mm"]
    more = [name for name in ("sensor_width", "sensor_height", "focus", "f_stop", "shutter") if name in heads]
    named: dict[str, list[list[float]]] = {}
    for number, row in enumerate(rows[1:], 2):
        cells = dict(zip(heads, row, strict=False))
        if not cells.get("focal_mm", "").strip():
            continue
        try:
            values = [float(cells[name]) for name in wanted]
            extra = [float(cells[name]) if cells.get(name, "").strip() else np.nan for name in more]
        except (ValueError, KeyError):
            raise FileError(file.path, f"has no number where one is needed, in line {number}.", _TABLE) from None
        if not all(abs(value) <= 1e9 for value in values):
            raise FileError(file.path, f"has a number beyond all measure in line {number}.", _TABLE)
        named.setdefault(cells.get("node", "Camera"), []).append(values + extra)
    if not named:
        raise FileError(file.path, "tells no camera: no line has a focal length.", _TABLE)
    return [_table_camera(name, np.array(lines), len(turns[0]), more, clock, fps) for name, lines in named.items()]


def _table_camera(name: str, lines: Any, turns: int, more: Sequence[str], clock: str, fps: float) -> CameraTrack:
    lines = lines[np.argsort(lines[:, 0], kind="stable")]
    lines = lines[np.concatenate([[True], np.diff(lines[:, 0]) > 1e-9])]
    turn = lines[:, 4 : 4 + turns]
    quaternion = turn if turns == 4 else euler_to_quaternion(np.radians(turn), "yxz")
    quaternion = quaternion / np.maximum(np.linalg.norm(quaternion, axis=1, keepdims=True), 1e-12)
    seconds = lines[:, 0] if clock == "seconds" else (lines[:, 0] - lines[0, 0]) / fps
    extra = {key: lines[:, 5 + turns + k] for k, key in enumerate(more)}
    told = {key: values for key, values in extra.items() if np.isfinite(values).all() and (values > 0.0).all()}
    sensor = tuple(float(told[key][0]) if key in told else usual for key, usual in
                   (("sensor_width", 36.0), ("sensor_height", 24.0)))  # fmt: skip
    return CameraTrack(
        name[:80], seconds, lines[:, 1:4], quaternion, lines[:, 4 + turns], (sensor[0], sensor[1]), False,
        told.get("focus"), told.get("f_stop"), told.get("shutter"),
    )  # fmt: skip
