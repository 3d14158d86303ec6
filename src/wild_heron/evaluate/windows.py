"""Crops a camera view to a format's window."""

from typing import NamedTuple, Protocol

import msgspec
import numpy as np

from ..arrays import Array
from ..scene import AnyNode, Format, Settings
from ..scene.channels import ACROSS, ROLL, SIZE, UP
from ..space.lens import fit_scale
from .cameras import CameraView


class Windows(NamedTuple):
    """At N frames, in pixels of the scene's frame: the middle (N, 2) from that one's, right and down; width and height
    (N, 2); the roll clockwise in radians (N,); and how many of the format's pixels go to one of the scene's (N,)."""

    middle: Array
    size: Array
    roll: Array
    scale: Array

    def inside(self, points: Array, settings: Settings) -> Array:
        """Points (N, …, 2), pixels of the scene's frame from its top left corner, in shares of the window's sides from
        its own."""
        lead = (slice(None), *([None] * (points.ndim - 2)))
        off = points - 0.5 * np.array([settings.width, settings.height]) - self.middle[lead]
        cosine, sine = np.cos(self.roll)[lead], np.sin(self.roll)[lead]
        across = off[..., 0] * cosine + off[..., 1] * sine
        down = off[..., 1] * cosine - off[..., 0] * sine
        return np.stack([across, down], axis=-1) / self.size[lead] + 0.5

    def corners(self, settings: Settings, grow: float = 0.0) -> Array:
        """The window's corners (N, 4, 2) in pixels of the scene's frame, from its top left, each side moved out by a
        share of the window's."""
        half = (0.5 + grow) * self.size
        signs = np.array([(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)])
        own = half[:, None] * signs
        cosine, sine = np.cos(self.roll)[:, None], np.sin(self.roll)[:, None]
        across = own[..., 0] * cosine - own[..., 1] * sine
        down = own[..., 1] * cosine + own[..., 0] * sine
        turned = np.stack([across, down], axis=-1)
        return np.asarray(turned + self.middle[:, None] + 0.5 * np.array([settings.width, settings.height]))


class WindowNumbers(Protocol):
    """A scene at frames (N,), as far as a window needs it."""

    @property
    def frames(self) -> Array:
        """The frames (N,)."""
        ...

    def node(self, node_id: str) -> AnyNode: ...

    def number(self, node: AnyNode, name: str) -> Array:
        """A channel's values (N,)."""
        ...


def windows_at(there: WindowNumbers, settings: Settings, shape: Format) -> Windows:
    """Where a format lies in the picture: in the middle as its fit says, or as its window has it."""
    count = len(there.frames)
    scale = fit_scale(shape.width, shape.height, settings.width, settings.height, shape.fit)
    own = np.array([shape.width, shape.height]) / scale
    if shape.window is None:
        return Windows(np.zeros((count, 2)), np.tile(own, (count, 1)), np.zeros(count), np.full(count, scale))
    node = there.node(shape.window)
    across, up, size, roll = (
        np.broadcast_to(there.number(node, name), (count,)) for name in (ACROSS, UP, SIZE, ROLL)
    )  # fmt: skip
    middle = np.stack([across * settings.width, -up * settings.height], axis=1)
    return Windows(middle, own * size[:, None], np.radians(roll), scale / size)


def through_window(view: CameraView, there: WindowNumbers, settings: Settings, shape: Format) -> CameraView:
    """A camera's picture in a format, which lies in its middle, as it is seen through the format's window: the lens is
    shifted, so that nothing is cut out of pixels."""
    if shape.window is None:
        return view
    windows = windows_at(there, settings, shape)
    plain = fit_scale(shape.width, shape.height, settings.width, settings.height, shape.fit)
    # Pixels of the view to one of the scene's frame; the view may be asked for in another size than the format's.
    per = windows.scale / plain * fit_scale(view.width, view.height, settings.width, settings.height, shape.fit)
    cosine, sine = np.cos(windows.roll), np.sin(windows.roll)
    pose = view.pose.copy()
    # The window rolls clockwise in the picture, and so does the lens behind it.
    pose[:, :3, 0] = view.pose[:, :3, 0] * cosine[:, None] - view.pose[:, :3, 1] * sine[:, None]
    pose[:, :3, 1] = view.pose[:, :3, 1] * cosine[:, None] + view.pose[:, :3, 0] * sine[:, None]
    across, down = windows.middle[:, 0], windows.middle[:, 1]
    shift = -np.stack([across * cosine + down * sine, down * cosine - across * sine], axis=1) * per[:, None]
    return msgspec.structs.replace(view, pose=pose, focal_px=view.focal_px * (windows.scale / plain), shift=shift)
