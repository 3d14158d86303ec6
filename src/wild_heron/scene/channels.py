"""Which channels a node has, what they are called, and what they may hold."""

from functools import lru_cache
from math import inf

import msgspec

from .binds import AimAt, Bind, DropAndRoll, Follow, Limit, Match, Opposite, RideGround, RidePath
from .errors import SceneError
from .inputs import Dial
from .model import AnyNode, Channel
from .types import UnitName


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
FOCAL = "lens.focal"
FOCUS = "lens.focus"
APERTURE = "lens.f_stop"
SHUTTER = "lens.shutter"
LENS = (FOCAL, FOCUS, APERTURE, SHUTTER)
NEAR = "lens.near"
FAR = "lens.far"
NEAREST_CLIP, FARTHEST_CLIP = 1e-3, 1e6
"""Clip planes at these ends hide nothing."""
OPACITY = "opacity"
ANCHOR = ("anchor.x", "anchor.y", "anchor.z")
BLUR = "blur"
STRENGTH = "light.strength"
REACH = "light.reach"
RELIEF = "relief"

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
    ChannelSpec(NEAR, "near clip", "units", NEAREST_CLIP, NEAREST_CLIP, FARTHEST_CLIP, 0.1),
    ChannelSpec(FAR, "far clip", "units", FARTHEST_CLIP, NEAREST_CLIP, FARTHEST_CLIP, 1.0),
)
_GROUND = (ChannelSpec(RELIEF, "relief", "factor", 1.0, -1000.0, 1000.0, 0.02), _OPACITY)
_PROJECTION = (_FOCAL, ChannelSpec(OPACITY, "strength", "share", 1.0, 0.0, 1.0, 0.01))
_BY_KIND: dict[str, tuple[ChannelSpec, ...]] = {
    "picture": _PICTURE, "logo": _SOLID, "model": _SOLID, "camera": _CAMERA, "light": _LIGHT, "projection": _PROJECTION,
    "ground": _GROUND,
}  # fmt: skip
_FAR = 1e7


def _bind_specs(bind: Bind, kind: str) -> tuple[ChannelSpec, ...]:
    """The numbers of a bind, without its id before their names."""
    own: tuple[ChannelSpec, ...] = ()
    match bind:
        case AimAt():
            own = () if bind.targets else tuple(ChannelSpec(axis, f"aim point {axis}", "units", 0.0) for axis in "xyz")
            if kind in ("camera", "projection"):
                own += (
                    ChannelSpec("off.x", "aim off to the right", "share", 0.0, -1.0, 1.0, 0.01),
                    ChannelSpec("off.y", "aim off upwards", "share", 0.0, -1.0, 1.0, 0.01),
                )
        case Match():
            own = (
                *(ChannelSpec(f"move.{axis}", f"match offset {axis}", "units", 0.0) for axis in bind.position),
                *(
                    ChannelSpec(f"turn.{axis}", f"match turn {axis}", "degrees", 0.0, nudge=1.0)
                    for axis in bind.rotation
                ),
                *(ChannelSpec(f"size.{axis}", f"match size {axis}", "factor", 1.0, nudge=0.01) for axis in bind.scale),
            )
        case Follow():
            own = (
                ChannelSpec("nearest", "nearest distance", "units", 4.0, 0.0, _FAR),
                ChannelSpec("farthest", "farthest distance", "units", 8.0, 0.0, _FAR),
                ChannelSpec("turn", "follow from the side", "degrees", 0.0, nudge=1.0),
                ChannelSpec("rise", "follow from above", "degrees", 12.0, -89.0, 89.0, 1.0),
                ChannelSpec("half_life", "lag (half-life)", "seconds", 0.3, 0.0, 60.0, 0.05),
            )
        case RidePath():
            own = (
                ChannelSpec("progress", "progress", "share", 0.0, -1000.0, 1000.0, 0.01),
                ChannelSpec("bank", "bank", "degrees", 0.0, nudge=1.0),
            )
        case RideGround():
            own = (
                ChannelSpec("height", "height above ground", "units", 0.0),
                ChannelSpec("tilt", "tilt with the slope", "share", 1.0, 0.0, 1.0, 0.01),
                ChannelSpec("footprint", "footprint radius", "units", 0.0, 0.0, 1e5, 0.05),
            )
        case Opposite():
            own = (
                ChannelSpec("distance", "distance beyond the centre", "units", 4.0, -_FAR, _FAR),
                ChannelSpec("height", "height over the centre", "units", 0.0),
            )
        case Limit("tilt"):
            own = (
                ChannelSpec("low", "lowest tilt", "degrees", -30.0, -90.0, 90.0, 1.0),
                ChannelSpec("high", "highest tilt", "degrees", 30.0, -90.0, 90.0, 1.0),
            )
        case Limit(what):
            least = 0.0 if what == "distance" else -_FAR
            own = (
                ChannelSpec("low", f"least {what}", "units", least if what == "distance" else 0.0, least, _FAR),
                ChannelSpec("high", f"most {what}", "units", 10.0, least, _FAR),
            )
        case DropAndRoll():
            own = (
                ChannelSpec("start", "falls from frame", "count", 0.0, -1e6, 1e6, 1.0),
                ChannelSpec("radius", "radius of the ball", "units", 0.5, 1e-3, 1e5, 0.05),
                *(ChannelSpec(f"push.{axis}", f"push {axis}, units/s", "units", 0.0) for axis in "xyz"),
                ChannelSpec("gravity", "gravity, units/s²", "units", 9.81, 0.0, 1e4, 0.1),
                ChannelSpec("bounce", "bounce", "share", 0.5, 0.0, 1.0, 0.01),
                ChannelSpec("friction", "friction", "share", 0.4, 0.0, 1.0, 0.01),
            )
    return (ChannelSpec("strength", f"{bind.label} strength", "share", 1.0, 0.0, 1.0, 0.01), *own)


@lru_cache(maxsize=4096)
def _table(kind: str, binds: tuple[Bind, ...], dials: tuple[Dial, ...]) -> dict[str, ChannelSpec]:
    bound = [
        msgspec.structs.replace(each, name=f"{bind.id}.{each.name}")
        for bind in binds
        for each in _bind_specs(bind, kind)
    ]
    turned = [
        ChannelSpec(dial.channel, dial.name, dial.unit, dial.default, dial.low, dial.high, (dial.high - dial.low) / 100)
        for dial in dials
    ]
    return {spec.name: spec for spec in (*_PLACE, *_BY_KIND.get(kind, ()), *bound, *turned)}


def specs(node: AnyNode) -> dict[str, ChannelSpec]:
    """Every channel the node has, by name, in display order."""
    return _table(node.kind, node.binds, node.dials)


def spec(node: AnyNode, name: str) -> ChannelSpec:
    """The channel's description; SceneError where the node has no such channel."""
    try:
        return specs(node)[name]
    except KeyError:
        raise SceneError(f"{node.name} ({node.kind}) has no channel “{name}”.") from None


def channel_or_default(node: AnyNode, name: str) -> Channel:
    """The node's channel, made from its default where it is not stored."""
    return node.channel(name) or Channel(name, spec(node, name).default)
