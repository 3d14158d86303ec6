"""Cameras of other programs: from glTF, OpenUSD and tables."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from ...arrays import Array
from ...space.rotation import euler_to_quaternion, slerp
from ...space.transform import compose
from ..contents import CameraTrack, FoundCameras
from ..errors import FileError
from ..extras import needing
from .camera_motion import camera_motion, found_cameras
from .gltf.gltf_cameras import read_cameras as read_gltf_cameras
from .motion_tracks import rows_of
from .source import Source

_MAX_BYTES = 256 * 1024 * 1024
_TABLE = "Its columns should be: seconds or frame, x, y, z, rx, ry, rz or qx, qy, qz, qw, and focal_mm."


def read_cameras(file: Source, fps: float) -> FoundCameras:
    """Every camera in a file, whose frames, where it counts in frames, are so many a second."""
    if file.suffix in (".glb", ".gltf"):
        return read_gltf_cameras(file, fps)
    if file.suffix in (".usda", ".usd"):
        return _usd(file, fps)
    return FoundCameras(_table(file, fps))


def _usd(file: Source, fps: float) -> FoundCameras:
    """Cameras of a ``.usda``. Files that it refers to are not read."""
    with needing():
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
    metres = UsdGeom.GetStageMetersPerUnit(stage) if UsdGeom.StageHasAuthoredMetersPerUnit(stage) else None
    upright = np.eye(4)
    if UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.z:
        upright[1:3, 1:3] = [[0.0, 1.0], [-1.0, 0.0]]
    tracks, flat = [], []
    for prim in stage.Traverse():
        camera = UsdGeom.Camera(prim)
        if not prim.IsA(UsdGeom.Camera):
            continue
        if camera.GetProjectionAttr().Get() == UsdGeom.Tokens.orthographic:
            flat.append(str(prim.GetDisplayName() or prim.GetName())[:80])
        else:
            tracks.append(_usd_camera(file, camera, fps, upright, metres))
    return found_cameras(file, tracks, flat)


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


_NUMBERS = ("focalLength", "horizontalAperture", "verticalAperture", "focusDistance", "fStop", "shutter:open",
            "shutter:close", "horizontalApertureOffset", "verticalApertureOffset")  # fmt: skip


def _usd_camera(file: Source, camera: Any, fps: float, upright: Any, metres: float | None) -> CameraTrack:
    from pxr import Usd, UsdGeom

    stage, prim = camera.GetPrim().GetStage(), camera.GetPrim()
    codes, start = stage.GetTimeCodesPerSecond() or 24.0, stage.GetStartTimeCode()
    attributes = [prim.GetAttribute(name) for name in _NUMBERS]
    told: set[float] = set()
    for attribute in attributes:
        told.update(_times(attribute))
    while prim.IsValid() and not prim.IsPseudoRoot():
        # What stands between may have no place of its own, and be moved all the same by what is above it.
        if prim.IsA(UsdGeom.Xformable):
            for operation in UsdGeom.Xformable(prim).GetOrderedXformOps():
                told.update(_times(operation.GetAttr()))
        prim = prim.GetParent()
    cache = UsdGeom.XformCache()

    def read(frames: Array) -> tuple[Array, Array]:
        poses, numbers = np.empty((len(frames), 4, 4)), np.empty((len(frames), len(attributes)))
        for k, moment in enumerate((frames / fps * codes + start).tolist()):
            cache.SetTime(Usd.TimeCode(moment))
            poses[k] = upright @ np.array(cache.GetLocalToWorldTransform(camera.GetPrim())).T
            numbers[k] = [float(each.Get(Usd.TimeCode(moment)) or 0.0) for each in attributes]
        return poses, numbers

    motion = camera_motion(file, (np.array(sorted(told) or [start]) - start) / codes * fps, read)
    focal_length, width, height, focus, stop, opens, closes, across, up = motion.numbers.T
    if not (width > 0.0).all() or not (height > 0.0).all() or not (focal_length > 0.0).all():
        raise FileError(file.path, "has a camera without focal length or apertures.", "Give it a lens.")
    # Where the aperture changes too, it is the focal length that is told to.
    focal = focal_length * width[0] / width
    shutter = (closes - opens) * 360.0
    # The window lies the other way from where the axis lands.
    shift = -np.stack([across / width, up / height], axis=1)
    name = camera.GetPrim().GetDisplayName() or camera.GetPrim().GetName()
    return CameraTrack(
        str(name)[:80], motion.frames / fps, motion.positions, motion.quaternions, focal,
        (float(width[0]), float(height[0])), False, focus if (focus > 0.0).all() else None,
        stop if (stop > 0.0).all() else None, shutter if (shutter > 0.0).any() else None,
        shift if np.abs(shift).max() > 1e-6 else None, metres,
    )  # fmt: skip


def _times(attribute: Any) -> list[float]:
    """When an attribute has samples, or knots of a spline."""
    if attribute.HasSpline():
        return [float(each) for each in attribute.GetSpline().GetKnots()]
    return [float(each) for each in attribute.GetTimeSamples()]


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
    more = [
        name
        for name in ("sensor_width", "sensor_height", "focus", "f_stop", "shutter", "shift_right", "shift_up")
        if name in heads
    ]
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
    return [
        _table_camera(file, name, np.array(lines), len(turns[0]), more, clock, fps) for name, lines in named.items()
    ]


def _table_camera(
    file: Source, name: str, lines: Any, turns: int, more: Sequence[str], clock: str, fps: float
) -> CameraTrack:
    lines = lines[np.argsort(lines[:, 0], kind="stable")]
    lines = lines[np.concatenate([[True], np.diff(lines[:, 0]) > 1e-9])]
    turn = lines[:, 4 : 4 + turns]
    quaternion = turn if turns == 4 else euler_to_quaternion(np.radians(turn), "yxz")
    quaternion = quaternion / np.maximum(np.linalg.norm(quaternion, axis=1, keepdims=True), 1e-12)
    numbers = np.concatenate([lines[:, 1:4], lines[:, 4 + turns :]], axis=1)
    told = lines[:, 0] * fps if clock == "seconds" else lines[:, 0] - lines[0, 0]

    def read(frames: Array) -> tuple[Array, Array]:
        """Straight from line to line, turns by the short way."""
        left = np.clip(np.searchsorted(told, frames, side="right") - 1, 0, max(len(told) - 2, 0))
        right = np.minimum(left + 1, len(told) - 1)
        length = told[right] - told[left]
        share = np.clip((frames - told[left]) / np.where(length > 0.0, length, 1.0), 0.0, 1.0)
        between = numbers[left] + (numbers[right] - numbers[left]) * share[:, None]
        turned = slerp(quaternion[left], quaternion[right], share)
        return compose(between[:, :3], turned, np.ones((len(frames), 3))), between[:, 3:]

    motion = camera_motion(file, told, read)
    extra = {key: motion.numbers[:, 1 + k] for k, key in enumerate(more)}
    known = {key: values for key, values in extra.items() if np.isfinite(values).all() and (values > 0.0).all()}
    none = np.zeros(len(motion.frames))
    shift = np.stack([np.nan_to_num(extra.get(key, none)) for key in ("shift_right", "shift_up")], axis=1)
    sensor = tuple(float(known[key][0]) if key in known else usual for key, usual in
                   (("sensor_width", 36.0), ("sensor_height", 24.0)))  # fmt: skip
    return CameraTrack(
        name[:80], motion.frames / fps, motion.positions, motion.quaternions, motion.numbers[:, 0],
        (sensor[0], sensor[1]), False, known.get("focus"), known.get("f_stop"), known.get("shutter"),
        shift if np.abs(shift).max() > 1e-6 else None,
    )  # fmt: skip
