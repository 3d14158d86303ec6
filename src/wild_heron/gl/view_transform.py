"""View and projection matrices of one sample."""

from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..evaluate import CameraView
from ..gl.request import FreeView, Tile
from ..scene.channels import FARTHEST_CLIP, NEAREST_CLIP

NEAR = 1e-3
_DEEPEST = 2e-4
"""The nearest depth as a part of the farthest, below which 24 bits tell too few depths apart."""


WHOLE_DEPTH = (-1e30, 1e30)


class Offset(NamedTuple):
    """How far, in pixels, the picture is moved for a sample, which so lies as far the other way; and where it lies on
    the lens in units."""

    pixel: tuple[float, float] = (0.0, 0.0)
    lens: tuple[float, float] = (0.0, 0.0)


class ViewTransform(NamedTuple):
    """How one sample is drawn: clip matrix (4, 4) from the world, the point it is seen from, a point near what is seen
    from which a graphics card is told places (its numbers are fine near 0 alone), the row that gives depth, the pixels
    that a unit takes up at a depth of one unit, whether it is a parallel view, and the nearest and the farthest depth
    that is seen."""

    clip: Array
    position: Array
    origin: Array
    depth_row: Array
    pixels_at_unit: float
    parallel: bool
    near: float = 0.0
    far: float = np.inf

    @property
    def seen_depth(self) -> tuple[float, float]:
        """The nearest and the farthest depth, as a graphics card's numbers hold them."""
        return max(self.near, WHOLE_DEPTH[0]), min(self.far, WHOLE_DEPTH[1])

    def near_origin(self, world: Array) -> Array:
        """A world matrix (4, 4) that gives places as they are told from the origin."""
        out = world.copy()
        out[:3, 3] -= self.origin
        return out

    @property
    def clips(self) -> bool:
        """Whether its clip planes may hide anything."""
        return self.near > NEAREST_CLIP or self.far < FARTHEST_CLIP

    def ranged(self, near: float, far: float) -> "ViewTransform":
        """The same with depths from ``near`` to ``far`` filling the depth buffer."""
        clip = self.clip.copy()
        far = max(far, NEAR)
        if self.parallel:
            near, far = near - 1e-3, far + 1e-3
            clip[2] = (2.0 * self.depth_row - (far + near) * np.array([0, 0, 0, 1.0])) / (far - near)
            return self._replace(clip=clip)
        near, far = max(near, self.near), min(far, self.far)
        near = min(max(near * 0.99, far * _DEEPEST, NEAR), far * 0.99)
        far *= 1.01
        scale, shift = (far + near) / (far - near), 2.0 * far * near / (far - near)
        clip[2] = scale * self.depth_row - shift * np.array([0, 0, 0, 1.0])
        return self._replace(clip=clip)

    def depth(self, points: Array) -> Array:
        """Depths of world points (…, 3) along the axis, in units."""
        return np.asarray(points @ self.depth_row[:3] + self.depth_row[3])


def make_view_transform(
    seen: CameraView | FreeView, i: int, size: tuple[int, int], offset: Offset, tile: Tile | None = None
) -> ViewTransform:
    """The eye of sample ``i`` of what a camera sees, or of a view from anywhere. ``tile``: only that part of the frame
    is drawn."""
    eye = _whole_view_transform(seen, i, size, offset)
    if tile is None:
        return eye
    clip = eye.clip.copy()
    for k in (0, 1):
        scale = size[k] / tile[2 + k]
        clip[k] = scale * clip[k] + (scale - 1.0 - 2.0 * tile[k] / tile[2 + k]) * clip[3]
    return eye._replace(clip=clip)


def _whole_view_transform(seen: CameraView | FreeView, i: int, size: tuple[int, int], offset: Offset) -> ViewTransform:
    width, height = size
    if isinstance(seen, CameraView):
        pose = seen.pose[i]
        focal: float | None = float(seen.focal_px[i])
        focus, near, far = float(seen.focus[i]), float(seen.near[i]), float(seen.far[i])
    else:
        pose = np.array(seen.pose).reshape(4, 4)
        focal, focus, near, far = seen.focal_px, np.inf, 0.0, np.inf
    world_to_eye = np.eye(4)
    world_to_eye[:3, :3] = pose[:3, :3].T
    world_to_eye[:3, 3] = -pose[:3, :3].T @ pose[:3, 3]
    lens = np.zeros((4, 4))
    dx, dy = 2.0 * offset.pixel[0] / width, 2.0 * offset.pixel[1] / height
    if isinstance(seen, CameraView) and seen.shift is not None:
        dx += 2.0 * float(seen.shift[i, 0]) / width
        dy += 2.0 * float(seen.shift[i, 1]) / height
    # Rows run from the top, so y is turned over here and nowhere else.
    if focal is not None:
        # Seen from a point beside the middle of the lens, and sheared so that what is in focus stays where it is.
        world_to_eye[:2, 3] -= offset.lens
        dx += 2.0 * focal * offset.lens[0] / (width * focus)
        dy -= 2.0 * focal * offset.lens[1] / (height * focus)
        lens[0] = (2.0 * focal / width, 0.0, -dx, 0.0)
        lens[1] = (0.0, -2.0 * focal / height, -dy, 0.0)
        lens[2] = (0.0, 0.0, -1.0, -2.0 * NEAR)
        lens[3] = (0.0, 0.0, -1.0, 0.0)
        seen_from = pose[:3, 3] + pose[:3, :2] @ np.array(offset.lens)
        return ViewTransform(lens @ world_to_eye, seen_from, seen_from, -world_to_eye[2], focal, False, near, far)
    assert isinstance(seen, FreeView)
    scale = seen.pixels_per_unit
    lens[0] = (2.0 * scale / width, 0.0, 0.0, dx)
    lens[1] = (0.0, -2.0 * scale / height, 0.0, dy)
    lens[3, 3] = 1.0
    place = pose[:3, 3]
    return ViewTransform(lens @ world_to_eye, place + pose[:3, 2] * 1e7, place, -world_to_eye[2], scale, True)
