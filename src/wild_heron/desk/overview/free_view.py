"""The Overview's own camera: free, or along an axis without perspective. Free of Qt."""

import math
from functools import lru_cache

import msgspec
import numpy as np

from ...arrays import Array

_FOCAL = 1.15  # focal length of the free view, in widths of the picture
_MARGIN = 1.3
_HOLDS = 1.05
_AXES = {
    # right, up, towards the viewer
    "plan": ((1, 0, 0), (0, 0, -1), (0, 1, 0)),
    "side": ((0, 0, -1), (0, 1, 0), (1, 0, 0)),
    "front": ((1, 0, 0), (0, 1, 0), (0, 0, 1)),
}


class Eye(msgspec.Struct, frozen=True):
    """A viewpoint: the point looked at, and how. ``span`` is the width in units seen at that point."""

    mode: str = "free"
    centre: tuple[float, float, float] = (0.0, 2.0, 0.0)
    span: float = 60.0
    yaw: float = 52.0
    pitch: float = 22.0

    def axes(self) -> Array:
        """Right, up and towards-the-viewer as the columns of a (3, 3) matrix."""
        return self.pose()[:3, :3]

    def _axes(self) -> Array:
        if self.mode in _AXES:
            return np.array(_AXES[self.mode], dtype=np.float64).T
        yaw, pitch = math.radians(self.yaw), math.radians(self.pitch)
        back = np.array([math.sin(yaw) * math.cos(pitch), math.sin(pitch), math.cos(yaw) * math.cos(pitch)])
        right = np.array([math.cos(yaw), 0.0, -math.sin(yaw)])
        return np.stack([right, np.cross(back, right), back], axis=1)

    @property
    def is_parallel(self) -> bool:
        return self.mode in _AXES

    def pose(self) -> Array:
        """The viewpoint's rigid world matrix (4, 4)."""
        return _pose(self)

    def focal_px(self, width: float) -> float | None:
        return None if self.is_parallel else _FOCAL * width

    def pixels_per_unit(self, width: float) -> float:
        return width / self.span

    def project(self, points: Array, width: float, height: float) -> tuple[Array, Array]:
        """Pixels (N, 2) and depths (N,) of world points (N, 3); pixels behind the viewpoint are NaN."""
        pose = self.pose()
        local = (points - pose[:3, 3]) @ pose[:3, :3]
        depth = -local[:, 2]
        if self.is_parallel:
            scale = np.full(len(points), self.pixels_per_unit(width))
        else:
            focal = _FOCAL * width
            scale = np.divide(focal, depth, out=np.full(len(points), np.nan), where=depth > self.span * 1e-3)
        return np.stack([0.5 * width + local[:, 0] * scale, 0.5 * height - local[:, 1] * scale], axis=1), depth

    def units_per_pixel(self, point: Array, width: float) -> float:
        """How far one pixel is at the depth of a point (3,)."""
        if self.is_parallel:
            return self.span / width
        pose = self.pose()
        depth = max(float(-(point - pose[:3, 3]) @ pose[:3, 2]), self.span * 1e-3)
        return depth / (_FOCAL * width)

    def panned(self, dx: float, dy: float, width: float) -> "Eye":
        """The scene dragged by pixels."""
        axes = self.axes()
        unit = self.span / width
        centre = np.array(self.centre) - axes[:, 0] * dx * unit + axes[:, 1] * dy * unit
        return msgspec.structs.replace(self, centre=tuple(centre.tolist()))

    def orbited(self, dx: float, dy: float) -> "Eye":
        return msgspec.structs.replace(
            self, yaw=(self.yaw - dx * 0.4) % 360.0, pitch=min(max(self.pitch + dy * 0.3, -89.0), 89.0)
        )

    def zoomed(self, factor: float, at: tuple[float, float], width: float, height: float) -> "Eye":
        """Seen ``factor`` times as large, with the point under the pointer kept there."""
        span = min(max(self.span / factor, 1e-3), 1e6)
        shift = self.span / width - span / width
        axes = self.axes()
        dx, dy = at[0] - width / 2, at[1] - height / 2
        centre = np.array(self.centre) + axes[:, 0] * dx * shift - axes[:, 1] * dy * shift
        return msgspec.structs.replace(self, span=span, centre=tuple(centre.tolist()))

    def framing(self, points: Array, width: float, height: float) -> "Eye":
        """Moved so that the points (N, 3) fill the view with a margin."""
        if not len(points):
            return self
        axes = self.axes()
        local = points @ axes
        low, high = local.min(axis=0), local.max(axis=0)
        middle = axes @ (0.5 * (low + high))
        size = high - low
        shape = np.array([1.0, height / max(width, 1.0)])
        span = max(float((size[:2] / shape).max()), 1.0) * _MARGIN
        if not self.is_parallel:
            # Far enough away that the four sides of the pyramid of sight hold every point.
            aside = np.abs(local[:, :2] - 0.5 * (low + high)[:2]) * _HOLDS / (0.5 * shape / _FOCAL)
            away = float((aside.max(axis=1) + local[:, 2]).max()) - 0.5 * (low + high)[2]
            span = max(span + size[2] * 0.35, away / _FOCAL, (0.5 * size[2] + 1.0) / _FOCAL)
        return msgspec.structs.replace(self, span=float(span), centre=tuple(middle.tolist()))


@lru_cache(maxsize=8)
def _pose(eye: Eye) -> Array:
    out = np.eye(4)
    out[:3, :3] = eye._axes()
    distance = eye.span * (_FOCAL if not eye.is_parallel else 1.0)
    out[:3, 3] = np.array(eye.centre) + out[:3, 2] * distance
    return out
