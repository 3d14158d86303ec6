"""Which channels a node has, what they are called, and what they may hold."""

from functools import cache
from math import inf
from typing import Literal

import msgspec

from .errors import SceneError
from .model import AimPoint, AnyNode, Camera, Channel

UnitName = Literal["units", "degrees", "factor", "share", "mm", "f", "count", "pixels"]


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
ANCHOR = ("anchor.x", "anchor.y", "anchor.z")
BLUR = "blur"
STRENGTH = "light.strength"
REACH = "light.reach"

_PLACE = (
    *(ChannelSpec(name, name.replace(".", " "), "units", 0.0) for name in POSITION),
    *(ChannelSpec(name, name.replace(".", " "), "degrees", 0.0, nudge=1.0) for name in ROTATION),
    *(ChannelSpec(name, name.replace(".", " "), "factor", 1.0, nudge=0.01) for name in SCALE),
)
_ANCHOR = tuple(ChannelSpec(name, name.replace(".", " "), "units", 0.0) for name in ANCHOR)
_OPACITY = ChannelSpec(OPACITY, "opacity", "share", 1.0, 0.0, 1.0, 0.01)
_SOLID = (*_ANCHOR, _OPACITY)
_PICTURE = (*_SOLID, ChannelSpec(BLUR, "blur", "pixels", 0.0, 0.0, 1000.0, 0.5))
_LIGHT = (
    ChannelSpec(STRENGTH, "strength", "factor", 1.0, 0.0, 1000.0, 0.05),
    ChannelSpec(REACH, "reach", "units", 30.0, 1e-3, 1e7, 0.5),
)
_FOCAL = ChannelSpec(FOCAL, "focal length", "mm", 35.0, 1.0, 5000.0, 1.0)
_CAMERA = (
    _FOCAL,
    ChannelSpec(FOCUS, "focus distance", "units", 18.0, 1e-3, 1e7, 0.1),
    ChannelSpec(APERTURE, "f-stop", "f", 4.0, 0.1, 256.0, 0.1),
    ChannelSpec(SHUTTER, "shutter angle", "degrees", 180.0, 0.0, 720.0, 5.0),
)
_PROJECTION = (_FOCAL, ChannelSpec(OPACITY, "strength", "share", 1.0, 0.0, 1.0, 0.01))
_BY_KIND: dict[str, tuple[ChannelSpec, ...]] = {
    "picture": _PICTURE, "logo": _SOLID, "model": _SOLID, "camera": _CAMERA, "light": _LIGHT, "projection": _PROJECTION,
}  # fmt: skip
_AIM = tuple(ChannelSpec(name, name.replace(".", " point "), "units", 0.0) for name in AIM)


@cache
def _table(kind: str, with_aim_point: bool) -> dict[str, ChannelSpec]:
    return {spec.name: spec for spec in (*_PLACE, *_BY_KIND.get(kind, ()), *(_AIM if with_aim_point else ()))}


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
