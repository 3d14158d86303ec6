"""What a channel may hold, and what the channels that several kinds of node share are called."""

from math import inf

import msgspec

from .types import UnitName


class ChannelSpec(msgspec.Struct, frozen=True):
    """One channel of a kind of node: its unit, default, legal range, the size of a small nudge, and what stands over
    its field where others stand beside it (its label where nothing is said)."""

    name: str
    label: str
    unit: UnitName
    default: float
    low: float = -inf
    high: float = inf
    nudge: float = 0.1
    caption: str = ""


POSITION = ("position.x", "position.y", "position.z")
ROTATION = ("rotation.x", "rotation.y", "rotation.z")
SCALE = ("scale.x", "scale.y", "scale.z")
FOCAL = "lens.focal"
FOCUS = "lens.focus"
APERTURE = "lens.f_stop"
SHUTTER = "lens.shutter"
LENS = (FOCAL, FOCUS, APERTURE, SHUTTER)
NEAR = "lens.near"
FAR = "lens.far"
ACROSS, UP, SIZE, ROLL = WINDOW = ("window.across", "window.up", "window.size", "window.roll")
"""Of a format's window in the camera's picture."""
NEAREST_CLIP, FARTHEST_CLIP = 1e-3, 1e6
"""Clip planes at these ends hide nothing."""
OPACITY = "opacity"
ANCHOR = ("anchor.x", "anchor.y", "anchor.z")
BLUR = "blur"
STRENGTH = "light.strength"
REACH = "light.reach"
RELIEF = "relief"

TRANSFORM = (
    *(ChannelSpec(name, name.replace(".", " "), "units", 0.0) for name in POSITION),
    *(ChannelSpec(name, name.replace(".", " "), "degrees", 0.0, nudge=1.0) for name in ROTATION),
    *(ChannelSpec(name, name.replace(".", " "), "factor", 1.0, nudge=0.01) for name in SCALE),
)
"""Of every node."""

ANCHORS = tuple(ChannelSpec(name, name.replace(".", " "), "units", 0.0) for name in ANCHOR)
OPACITIES = (ChannelSpec(OPACITY, "opacity", "share", 1.0, 0.0, 1.0, 0.01),)
FOCAL_LENGTHS = (ChannelSpec(FOCAL, "focal length", "mm", 35.0, 1.0, 5000.0, 1.0),)
LENS_CHANNELS = (
    *FOCAL_LENGTHS,
    ChannelSpec(FOCUS, "focus distance", "units", 18.0, 1e-3, 1e7, 0.1),
    ChannelSpec(APERTURE, "f-stop", "f", 4.0, 0.1, 256.0, 0.1),
    ChannelSpec(SHUTTER, "shutter angle", "degrees", 180.0, 0.0, 720.0, 5.0),
    ChannelSpec(NEAR, "near clip", "units", NEAREST_CLIP, NEAREST_CLIP, FARTHEST_CLIP, 0.1),
    ChannelSpec(FAR, "far clip", "units", FARTHEST_CLIP, NEAREST_CLIP, FARTHEST_CLIP, 1.0),
)
"""Of every camera and framing. How each is interpolated is told in ``evaluate/cameras.py``."""
