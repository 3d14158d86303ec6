"""Which channels a node has, what they are called, and what they may hold."""

from functools import cache
from math import inf
from typing import Literal

import msgspec

from .errors import SceneError
from .model import AimPoint, AnyNode, Camera, Channel

UnitName = Literal["units", "degrees", "factor", "share", "mm", "f", "count"]


class ChannelSpec(msgspec.Struct, frozen=True):
    """One channel of a kind of node: its unit, default, legal range and the size of a small nudge."""

    name: str
    label: str
    unit: UnitName
    default: float
    low: float = -inf
    high: float = inf
    nudge: float = 0.1


POSITION = ("position.x", "position.y", "position.z")
ROTATION = ("rotation.x", "rotation.y", "rotation.z")
SCALE = ("scale.x", "scale.y", "scale.z")
AIM = ("aim.x", "aim.y", "aim.z")
FOCAL = "lens.focal"
FOCUS = "lens.focus"
APERTURE = "lens.f_stop"
SHUTTER = "lens.shutter"
OPACITY = "opacity"

_PLACE = (
    *(ChannelSpec(name, name.replace(".", " "), "units", 0.0) for name in POSITION),
    *(ChannelSpec(name, name.replace(".", " "), "degrees", 0.0, nudge=1.0) for name in ROTATION),
    *(ChannelSpec(name, name.replace(".", " "), "factor", 1.0, nudge=0.01) for name in SCALE),
)
_PICTURE = (ChannelSpec(OPACITY, "opacity", "share", 1.0, 0.0, 1.0, 0.01),)
_CAMERA = (
    ChannelSpec(FOCAL, "focal length", "mm", 35.0, 1.0, 5000.0, 1.0),
    ChannelSpec(FOCUS, "focus distance", "units", 18.0, 1e-3, 1e7, 0.1),
    ChannelSpec(APERTURE, "f-stop", "f", 4.0, 0.1, 256.0, 0.1),
    ChannelSpec(SHUTTER, "shutter angle", "degrees", 180.0, 0.0, 720.0, 5.0),
)
_AIM = tuple(ChannelSpec(name, name.replace(".", " point "), "units", 0.0) for name in AIM)


@cache
def _table(kind: str, with_aim_point: bool) -> dict[str, ChannelSpec]:
    extra = {"picture": _PICTURE, "camera": _CAMERA}.get(kind, ())
    return {spec.name: spec for spec in (*_PLACE, *extra, *(_AIM if with_aim_point else ()))}


def specs(node: AnyNode) -> dict[str, ChannelSpec]:
    """Every channel the node has, by name, in display order."""
    return _table(node.kind, isinstance(node, Camera) and isinstance(node.aim, AimPoint))


def spec(node: AnyNode, name: str) -> ChannelSpec:
    """The channel's description; SceneError where the node has no such channel."""
    try:
        return specs(node)[name]
    except KeyError:
        raise SceneError(f"{node.name} ({node.kind}) has no channel “{name}”.") from None


def channel_or_default(node: AnyNode, name: str) -> Channel:
    """The node's channel, made from its default where it is not stored."""
    return node.channel(name) or Channel(name, spec(node, name).default)
