"""``CameraView``: pose, lens, focus, shutter and clip planes of what is seen at N frames, and how they follow from a
node."""

from collections.abc import Callable
from typing import NamedTuple, Protocol

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..arrays import Array
from ..scene import AnyNode, Format, Projection, Scene, View
from ..scene.channels import APERTURE, FAR, FOCAL, FOCUS, NEAR, SHUTTER
from ..space.blending import log_mix
from ..space.lens import (
    FocusRange,
    angle_of_view,
    focal_pixels,
    focus_range,
    frame_distance,
    pixel_to_world,
    world_to_pixel,
)
from ..space.transform import length, rigid


class Segments(msgspec.Struct, frozen=True):
    """Stretches of time that belong together; ``starts`` are the frames at which the second and later ones begin."""

    starts: tuple[float, ...] = ()

    def number(self, frames: Array) -> NDArray[np.int64]:
        """Which segment each frame (N,) lies in, counted from 0."""
        return np.searchsorted(np.array(self.starts, dtype=np.float64), frames, side="right").astype(np.int64)

    def bounds(self, frame: float) -> tuple[float, float]:
        """Where the segment of a frame begins and ends; the end belongs to the next one."""
        number = int(self.number(np.array([frame]))[0])
        edges = (-np.inf, *self.starts, np.inf)
        return float(edges[number]), float(edges[number + 1])


class CameraView(msgspec.Struct, frozen=True):
    """What is seen at N frames, and how: all that renderer, readings, checks and exporters know of cameras.

    ``pose`` (N, 4, 4) is the rigid world matrix of the lens, ``focal_px`` (N,) the focal length in pixels of a
    ``width`` × ``height`` frame, ``focal_mm`` (N,) in millimetres of a ``sensor`` (N, 2). ``focus``, ``near`` and
    ``far`` (N,) are distances along the axis in units; what lies before ``near`` or beyond ``far`` is not seen.
    ``f_stop`` (N,) is the aperture, ``shutter`` (N,) its opening in degrees, and ``depth_of_field`` (N,) whether what
    is out of focus blurs. ``aim`` (N, 3) is the world point that is looked at, NaN at frames without one, None where
    there never is one. ``shift`` (N, 2) is where its axis lands off the middle of the frame, in pixels right and down;
    None: in the middle. ``segment`` (N,) numbers the ``segments``: no sample of a shutter reaches from one into
    another. ``about`` (N, 3) is what the mix of two pictures is about, NaN at frames at which it is none, None where it
    never is one.
    """

    frames: Array
    pose: Array
    focal_px: Array
    focal_mm: Array
    focus: Array
    f_stop: Array
    shutter: Array
    depth_of_field: NDArray[np.bool_]
    sensor: Array
    near: Array
    far: Array
    aim: Array | None
    width: int
    height: int
    mm_per_unit: float
    segments: Segments = Segments()
    shift: Array | None = None
    about: Array | None = None

    def __len__(self) -> int:
        return len(self.frames)

    def at(self, i: int) -> "CameraView":
        """Frame number ``i`` alone."""
        rows = {name: value[i : i + 1] for name in BY_FRAME if (value := getattr(self, name)) is not None}
        for name in ("aim", "about"):
            if getattr(self, name) is not None and np.isnan(rows[name]).any():
                rows[name] = None
        return msgspec.structs.replace(self, **rows)

    @property
    def segment(self) -> NDArray[np.int64]:
        """Which segment each frame (N,) belongs to."""
        return self.segments.number(self.frames)

    @property
    def position(self) -> Array:
        """Where the lens is, (N, 3)."""
        return self.pose[:, :3, 3]

    @property
    def axis(self) -> Array:
        """The direction of its axis, (N, 3)."""
        return -self.pose[:, :3, 2]

    def angles(self) -> tuple[Array, Array]:
        """Horizontal and vertical angle of view in degrees, (N,) each."""
        return (
            np.degrees(angle_of_view(self.width, self.focal_px)),
            np.degrees(angle_of_view(self.height, self.focal_px)),
        )

    def pixels(self, points: Array) -> tuple[Array, Array]:
        """Pixel (N, 2) from the top-left corner and depth (N,) of world points (N, 3)."""
        found, depth = world_to_pixel(points, self.pose, self.focal_px, self.width, self.height)
        return (found if self.shift is None else found + self.shift), depth

    def place(self, pixels: Array, depth: Array, i: int = 0) -> Array:
        """The world points (K, 3) seen at pixels (K, 2), at depths (K,), at frame number ``i``."""
        own = pixels if self.shift is None else pixels - self.shift[i]
        return pixel_to_world(own, depth, self.pose[i], self.focal_px[i : i + 1], self.width, self.height)

    def subject(self) -> Array:
        """World points (N, 3) of what it is about: the aim, or without one the point in focus; of a mix what lies
        between those of the two."""
        found = self.position + self.axis * self.focus[:, None]
        for known in (self.aim, self.about):
            if known is not None:
                found = np.where(np.isfinite(known), known, found)
        return found

    def aim_distance(self) -> Array | None:
        """Distance (N,) to what is aimed at, NaN at frames at which nothing is, None where nothing ever is."""
        return None if self.aim is None else length(self.aim - self.position)

    def frame_distance(self, pixels_per_unit: float) -> Array:
        """The distance (N,) at which artwork shows one to one."""
        return frame_distance(self.focal_px, pixels_per_unit)

    def focus_range(self, i: int = 0) -> FocusRange:
        """What looks sharp at frame number ``i``."""
        focus, focal, stop = float(self.focus[i]), float(self.focal_mm[i]), float(self.f_stop[i])
        return focus_range(focus, focal, stop, float(self.sensor[i, 0]), self.mm_per_unit)

    def aperture_radius(self) -> Array:
        """How far from the middle of the lens light comes in, (N,) in units; 0 without depth of field.

        The radius is f/2N, drawn as if the sensor were at f; focused nearer it is farther back, by s/(s − f), which
        makes the blur circle that of a thin lens: (f²/N)·|d − s| / (d·(s − f)).
        """
        radius = np.zeros(len(self))
        on = self.depth_of_field
        focal, focus = self.focal_mm[on], self.focus[on] * self.mm_per_unit
        radius[on] = focal / (2.0 * self.f_stop[on]) * focus / np.maximum(focus - focal, 0.1 * focal)
        return radius / self.mm_per_unit

    def shutter_open(self, i: int = 0) -> tuple[float, float]:
        """When the shutter opens and closes about frame number ``i``, within the frame's own segment."""
        frame, half = float(self.frames[i]), float(self.shutter[i]) / 720.0
        first, last = self.segments.bounds(frame)
        return max(frame - half, first), min(frame + half, last)


BY_FRAME = tuple(each.name for each in msgspec.structs.fields(CameraView) if each.type not in (int, float, Segments))
"""The fields that have a row for each frame."""


class Scenery(Protocol):
    """A scene at frames (N,), as far as a camera needs it. Arrays have N rows, or one where nothing changes."""

    @property
    def scene(self) -> Scene: ...

    @property
    def frames(self) -> Array:
        """The frames (N,)."""
        ...

    def node(self, node_id: str) -> AnyNode: ...

    def number(self, node: AnyNode, name: str) -> Array:
        """A channel's values (N,)."""
        ...

    def pose_of(self, node_id: str) -> Array:
        """World matrices (N, 4, 4)."""
        ...

    def position_of(self, node_id: str) -> Array:
        """World positions (N, 3) of a node, known before everything that only turns it."""
        ...

    def aim(self, node_id: str) -> Array | None:
        """The world point (N, 3) that a node looks at, or None."""
        ...

    def is_still(self, node_id: str) -> bool:
        """Whether a node's world matrix is known never to change."""
        ...


def own_view(
    there: Scenery, node: View | Projection, output: Format | None = None, size: tuple[int, int] | None = None
) -> CameraView:
    """What a camera or a framing sees by its own numbers, in a format, or in the scene's own frame.

    ``size`` is the picture's size in pixels where it is another. A projection is seen through as if it were the camera
    that took its photograph.
    """
    if isinstance(node, Projection):
        return _projector(there, node, size or (node.width, node.height))
    settings = there.scene.settings
    frame = output or settings
    width, height = size or (frame.width, frame.height)
    sensor = (node.sensor_width, node.sensor_height)
    focal_mm = _rows(there, there.number(node, FOCAL))
    return CameraView(
        there.frames,
        _pose(there, node),
        focal_pixels(focal_mm, sensor, node.fit, settings, (width, height), output),
        focal_mm,
        _rows(there, there.number(node, FOCUS)),
        _rows(there, there.number(node, APERTURE)),
        _rows(there, there.number(node, SHUTTER)),
        np.full(len(there.frames), node.depth_of_field),
        np.broadcast_to(np.array(sensor), (len(there.frames), 2)),
        _rows(there, there.number(node, NEAR)),
        _rows(there, there.number(node, FAR)),
        there.aim(node.id),
        width,
        height,
        settings.mm_per_unit,
    )


def _projector(there: Scenery, node: Projection, size: tuple[int, int]) -> CameraView:
    """A projection's: everything is in focus, at one moment."""
    count = len(there.frames)
    focal_mm = _rows(there, there.number(node, FOCAL))
    sensor = (node.sensor_width, node.sensor_width * node.height / node.width)
    return CameraView(
        there.frames,
        _pose(there, node),
        focal_mm * (size[0] / node.sensor_width),
        focal_mm,
        np.full(count, np.inf),
        np.full(count, np.inf),
        np.zeros(count),
        np.zeros(count, dtype=bool),
        np.broadcast_to(np.array(sensor), (count, 2)),
        np.zeros(count),
        np.full(count, np.inf),
        there.aim(node.id),
        *size,
        there.scene.settings.mm_per_unit,
    )


def _pose(there: Scenery, node: View | Projection) -> Array:
    return np.broadcast_to(rigid(there.pose_of(node.id)), (len(there.frames), 4, 4))


def _rows(there: Scenery, values: Array) -> Array:
    return np.broadcast_to(values, there.frames.shape)


def turn_speed(before: CameraView, after: CameraView, fps: float) -> float:
    """How fast the lens turns between two moments (N = 1 each), in degrees per second; 0 across a cut."""
    if before.segments.bounds(float(before.frames[0])) != after.segments.bounds(float(after.frames[0])):
        return 0.0
    a, b = before.axis[0], after.axis[0]
    angle = float(np.degrees(np.arctan2(float(np.linalg.norm(np.cross(a, b))), float(a @ b))))
    return angle / float(after.frames[0] - before.frames[0]) * fps


# How one lens becomes another

Mix = Callable[[CameraView, CameraView, Array], Array]
"""What is between two pictures (N), a share (N,) of the way."""


class LensPart(NamedTuple):
    """Of a picture of the lens: its channel ("" where it has none), the field, and how it is mixed."""

    channel: str
    field: str
    mix: Mix


def _evenly_in_log(field: str) -> Mix:
    def mix(a: CameraView, b: CameraView, share: Array) -> Array:
        first, other = getattr(a, field), getattr(b, field)
        return log_mix(first, other, share.reshape(-1, *([1] * (first.ndim - 1))))

    return mix


def _opening(a: CameraView, b: CameraView, share: Array) -> Array:
    """How wide the aperture is, (N,): so focus can come in slowly where it was not blurred at all."""
    wide = [np.where(each.depth_of_field, 1.0 / each.f_stop, 0.0) for each in (a, b)]
    return np.maximum(wide[0] + (wide[1] - wide[0]) * share, 0.0)


def _f_stop(a: CameraView, b: CameraView, share: Array) -> Array:
    opening = _opening(a, b, share)
    blurs = opening > 0.0
    return np.where(blurs, 1.0 / np.where(blurs, opening, 1.0), log_mix(a.f_stop, b.f_stop, share))


def _blurs(a: CameraView, b: CameraView, share: Array) -> NDArray[np.bool_]:
    return np.asarray(_opening(a, b, share) > 0.0)


def _shutter(a: CameraView, b: CameraView, share: Array) -> Array:
    return np.maximum(a.shutter + (b.shutter - a.shutter) * share, 0.0)


LENS_PARTS = (
    LensPart(FOCAL, "focal_mm", _evenly_in_log("focal_mm")),
    LensPart(FOCUS, "focus", _evenly_in_log("focus")),
    LensPart(APERTURE, "f_stop", _f_stop),
    LensPart(SHUTTER, "shutter", _shutter),
    LensPart(NEAR, "near", _evenly_in_log("near")),
    LensPart(FAR, "far", _evenly_in_log("far")),
    LensPart("", "depth_of_field", _blurs),  # type: ignore[arg-type]
    LensPart("", "sensor", _evenly_in_log("sensor")),
)

LENS = {part.channel: part.field for part in LENS_PARTS if part.channel}
"""The channels of a lens, and the fields of a picture that they become: what framings keep and tours change."""
