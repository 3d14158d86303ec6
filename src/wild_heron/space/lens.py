"""The lens: focal length, sensor and frame, and where points land in the picture."""

import msgspec
import numpy as np

from ..arrays import Array
from ..scene.model import Format, Settings
from ..scene.nodes import Fit


def fit_scale(width: float, height: float, inner_width: float, inner_height: float, fit: Fit) -> float:
    """Frame pixels per unit of the inner rectangle when it is fitted to a width × height frame."""
    across, up = width / inner_width, height / inner_height
    return {"width": across, "height": up, "cover": max(across, up), "contain": min(across, up)}[fit]


def focal_pixels(
    focal_mm: Array,
    sensor: tuple[float, float],
    fit: Fit,
    settings: Settings,
    size: tuple[float, float],
    output: Format | None = None,
) -> Array:
    """Focal length in pixels of an output frame of ``size``, (N,): with fit width, f · W / sensor width.

    Without a format the sensor is fitted to the output frame itself. With one it is fitted to the scene's frame, over
    which the format is laid as its own fit says.
    """
    if output is None:
        return focal_mm * fit_scale(*size, *sensor, fit)
    picture = (settings.width, settings.height)
    return focal_mm * fit_scale(*picture, *sensor, fit) * fit_scale(*size, *picture, output.fit)


def angle_of_view(size: float, focal_px: Array) -> Array:
    """2·atan(size / 2f) in radians (N,), for a frame side and focal length in pixels."""
    return 2.0 * np.arctan(size / (2.0 * focal_px))


def frame_distance(focal_px: Array, pixels_per_unit: float) -> Array:
    """The distance (N,) in units at which artwork shows one to one."""
    return focal_px / pixels_per_unit


class FocusRange(msgspec.Struct, frozen=True):
    """Nearest and farthest distance in units that look sharp; the farthest may be infinite."""

    near: float
    far: float


def focus_range(focus: float, focal_mm: float, f_stop: float, sensor_width: float, mm_per_unit: float) -> FocusRange:
    """Depth of field of a thin lens for a blur circle of sensor width / 1500 (the usual 0.024 mm on 36 mm).

    From c = (f²/N)·|d − s| / (d·(s − f)) solved for d at c = limit.
    """
    limit = sensor_width / 1500.0
    s = focus * mm_per_unit
    if s <= focal_mm:
        return FocusRange(focus, focus)
    spread = limit * f_stop * (s - focal_mm) / (focal_mm * focal_mm)
    near = s / (1.0 + spread)
    far = s / (1.0 - spread) if spread < 1.0 else float("inf")
    return FocusRange(near / mm_per_unit, far / mm_per_unit)


def world_to_pixel(point: Array, pose: Array, focal_px: Array, width: float, height: float) -> tuple[Array, Array]:
    """Pixel (N, 2) from the top-left corner, and depth (N,) along the camera's axis, of world points (N, 3).

    ``pose`` (N, 4, 4) is the camera's rigid world matrix. Behind the lens (depth ≤ 0) the pixel is NaN.
    """
    offset = point - pose[..., :3, 3]
    across, up, back = (
        offset[..., 0] * pose[..., 0, i] + offset[..., 1] * pose[..., 1, i] + offset[..., 2] * pose[..., 2, i]
        for i in range(3)
    )
    depth = -back
    scale = np.divide(focal_px, depth, out=np.full(np.shape(depth), np.nan), where=depth > 0.0)
    return np.stack([0.5 * width + across * scale, 0.5 * height - up * scale], axis=-1), depth


def pixel_to_world(pixel: Array, depth: Array, pose: Array, focal_px: Array, width: float, height: float) -> Array:
    """The world point (N, 3) seen at a pixel (N, 2) at a depth (N,) along the camera's axis."""
    across = (pixel[..., 0] - 0.5 * width) * depth / focal_px
    up = (0.5 * height - pixel[..., 1]) * depth / focal_px
    return np.asarray(
        pose[..., :3, 3]
        + pose[..., :3, 0] * across[..., None]
        + pose[..., :3, 1] * up[..., None]
        - pose[..., :3, 2] * depth[..., None]
    )
