"""Binds: relations of a node to others, carried out in list order after the carriers.

Each is told here whole: its fields, its numbers, and what the nodes that it names have to serve as. A bind's numbers,
its strength among them, are channels of the node, named after the bind's id: ``aim.strength``.
"""

from collections.abc import Callable, Iterator
from typing import Annotated, ClassVar, Literal, get_args

import msgspec
from msgspec import Meta

from .channels import ChannelSpec
from .film import OUTPUT, NodeOrOutput, Way
from .types import Identity, Role, ShortId

__all__ = [
    "AimAt",
    "Bind",
    "DropAndRoll",
    "FaceCamera",
    "Follow",
    "Limit",
    "Match",
    "Opposite",
    "RideGround",
    "RidePath",
    "Tour",
]


Axes = Annotated[str, Meta(pattern=r"^x?y?z?$")]
Front = Literal["-z", "+z", "+x", "-x"]
Down = Literal["-y", "+y", "-x", "+x", "-z", "+z"]
Places = Literal["", "carrier", "own", "whole"]
_FAR = 1e7


class _Bind(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    label: ClassVar[str] = ""
    moves: ClassVar[bool] = False
    """Whether it changes where the node is, or only how it is turned."""
    turns: ClassVar[bool] = False
    """Whether it decides where the node looks, so that only its roll is left to it."""
    looks_elsewhere: ClassVar[bool] = False
    """Whether what it does at one moment depends on others."""
    places: ClassVar[Places] = ""
    """Whether it puts the node somewhere, whatever its own position. Its movers act on top of that then: along its
    carrier's axes, along those that the bind gives it (own), or as a whole, turns too, since it heeds no rotation."""
    collides: ClassVar[bool] = False
    """Whether it makes the node hit others."""
    nodes: ClassVar[tuple[str, ...]] = ()
    """The fields that name other nodes."""
    poses: ClassVar[tuple[str, ...]] = ()
    """Those of them whose whole pose it needs; of the others only where they are."""
    needs: ClassVar[tuple[str, ...]] = ()
    """Those without which there is nothing left of it."""
    roles: ClassVar[dict[str, Role]] = {}
    """What the nodes in some of them have to serve as."""
    filmed: ClassVar[tuple[str, ...]] = ()
    """Those of them that may name the output, whatever the film shows, in place of a node."""

    @property
    def strength_spec(self) -> ChannelSpec:
        return ChannelSpec("strength", f"{self.label} strength", "share", 1.0, 0.0, 1.0, 0.01)

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        """Its other numbers, on a node that has a lens or not."""
        return ()

    def named(self) -> Iterator[tuple[str, Role | None]]:
        """The ids of the nodes it names, and what each has to serve as."""
        for field in self.nodes:
            for each in _ids(self, field):
                if each != OUTPUT or field not in self.filmed:
                    yield each, self.roles.get(field)

    def about(self, name: Callable[[str], str]) -> str:
        """What it is about, given the names of nodes by id: "" for nothing in particular."""
        ids = [each for each, _ in named_nodes(self)]
        return name(ids[0]) if ids else ""


class AimAt(_Bind, frozen=True, tag="aim", cache_hash=True):
    """Look (down −Z) at the middle of nodes, or without any at a point carried by the node's own carrier.

    The horizon is level with the world, or with the node ``up``; the angle about z is the roll.
    """

    label: ClassVar[str] = "aim"
    turns: ClassVar[bool] = True
    looks_elsewhere: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("targets", "up")
    poses: ClassVar[tuple[str, ...]] = ("up",)
    needs: ClassVar[tuple[str, ...]] = ("targets",)

    targets: Annotated[tuple[Identity, ...], Meta(max_length=100)] = ()
    up: Identity | None = None
    id: ShortId = "aim"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        point = () if self.targets else tuple(ChannelSpec(axis, f"aim point {axis}", "units", 0.0) for axis in "xyz")
        if not lens:
            return point
        return (
            *point,
            ChannelSpec("off.x", "aim off to the right", "share", 0.0, -1.0, 1.0, 0.01),
            ChannelSpec("off.y", "aim off upwards", "share", 0.0, -1.0, 1.0, 0.01),
        )

    def about(self, name: Callable[[str], str]) -> str:
        if not self.targets:
            return "a point"
        first = name(self.targets[0])
        return first if len(self.targets) == 1 else f"{first} + {len(self.targets) - 1}"


class FaceCamera(_Bind, frozen=True, tag="face", cache_hash=True):
    """Turn the node's front (+Z) to a camera, wherever that goes. ``upright``: about the world's Y only."""

    label: ClassVar[str] = "face the camera"
    turns: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("camera",)
    needs: ClassVar[tuple[str, ...]] = ("camera",)
    roles: ClassVar[dict[str, Role]] = {"camera": "camera"}
    filmed: ClassVar[tuple[str, ...]] = ("camera",)

    camera: NodeOrOutput
    upright: bool = False
    id: ShortId = "face"
    on: bool = True


class Match(_Bind, frozen=True, tag="match", cache_hash=True):
    """Take over another node's world position, rotation or scale, axis by axis, with an offset that is kept."""

    label: ClassVar[str] = "match"
    nodes: ClassVar[tuple[str, ...]] = ("node",)
    poses: ClassVar[tuple[str, ...]] = ("node",)
    needs: ClassVar[tuple[str, ...]] = ("node",)
    filmed: ClassVar[tuple[str, ...]] = ("node",)

    node: NodeOrOutput
    position: Axes = "xyz"
    rotation: Axes = ""
    scale: Axes = ""
    id: ShortId = "match"
    on: bool = True

    @property
    def moves(self) -> bool:  # type: ignore[override]
        return bool(self.position)

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            *(ChannelSpec(f"move.{axis}", f"match offset {axis}", "units", 0.0) for axis in self.position),
            *(ChannelSpec(f"turn.{axis}", f"match turn {axis}", "degrees", 0.0, nudge=1.0) for axis in self.rotation),
            *(ChannelSpec(f"size.{axis}", f"match size {axis}", "factor", 1.0, nudge=0.01) for axis in self.scale),
        )


class Follow(_Bind, frozen=True, tag="follow", cache_hash=True):
    """Stay between a nearest and a farthest distance from a moving node, with a damped lag.

    From behind as it travels, or along a fixed direction of the world.
    """

    label: ClassVar[str] = "follow"
    places: ClassVar[Places] = "carrier"
    moves: ClassVar[bool] = True
    looks_elsewhere: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("node",)
    needs: ClassVar[tuple[str, ...]] = ("node",)

    node: Identity
    way: Literal["behind", "fixed"] = "behind"
    id: ShortId = "follow"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("nearest", "nearest distance", "units", 4.0, 0.0, _FAR),
            ChannelSpec("farthest", "farthest distance", "units", 8.0, 0.0, _FAR),
            ChannelSpec("turn", "follow from the side", "degrees", 0.0, nudge=1.0),
            ChannelSpec("rise", "follow from above", "degrees", 12.0, -89.0, 89.0, 1.0),
            ChannelSpec("half_life", "lag (half-life)", "seconds", 0.3, 0.0, 60.0, 0.05),
        )


class RidePath(_Bind, frozen=True, tag="ride", cache_hash=True):
    """Be on a path at a progress of 0 to 1, by arc length or by the curve's own parameter.

    ``along``: turned along the path, ``front`` ahead. ``loops``: progress beyond 1 begins anew.
    """

    label: ClassVar[str] = "ride path"
    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("path",)
    poses: ClassVar[tuple[str, ...]] = ("path",)
    needs: ClassVar[tuple[str, ...]] = ("path",)
    roles: ClassVar[dict[str, Role]] = {"path": "path"}

    path: Identity
    by: Literal["length", "parameter"] = "length"
    along: bool = True
    loops: bool = False
    front: Front = "-z"
    id: ShortId = "ride"
    on: bool = True

    @property
    def places(self) -> Places:  # type: ignore[override]
        return "own" if self.along else "carrier"

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("progress", "progress", "share", 0.0, -1000.0, 1000.0, 0.01),
            ChannelSpec("bank", "bank", "degrees", 0.0, nudge=1.0),
        )


class RideGround(_Bind, frozen=True, tag="ground", cache_hash=True):
    """Sit on a surface along a direction of the world, at a height above it, tilting with its slope."""

    label: ClassVar[str] = "ride ground"
    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("ground",)
    poses: ClassVar[tuple[str, ...]] = ("ground",)
    needs: ClassVar[tuple[str, ...]] = ("ground",)
    roles: ClassVar[dict[str, Role]] = {"ground": "ground"}

    ground: Identity
    down: Down = "-y"
    id: ShortId = "ground"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("height", "height above ground", "units", 0.0),
            ChannelSpec("tilt", "tilt with the slope", "share", 1.0, 0.0, 1.0, 0.01),
            ChannelSpec("footprint", "footprint radius", "units", 0.0, 0.0, 1e5, 0.05),
        )


class Opposite(_Bind, frozen=True, tag="opposite", cache_hash=True):
    """Stay across a centre from another node, at a distance and a height."""

    label: ClassVar[str] = "opposite"
    places: ClassVar[Places] = "carrier"
    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("node", "centre")
    needs: ClassVar[tuple[str, ...]] = ("node", "centre")
    filmed: ClassVar[tuple[str, ...]] = ("node",)

    node: NodeOrOutput
    centre: Identity
    id: ShortId = "opposite"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("distance", "distance beyond the centre", "units", 4.0, -_FAR, _FAR),
            ChannelSpec("height", "height over the centre", "units", 0.0),
        )


class Limit(_Bind, frozen=True, tag="limit", cache_hash=True):
    """Keep the distance from a node, the height in the world, or the tilt of the front between two ends."""

    label: ClassVar[str] = "limit"
    nodes: ClassVar[tuple[str, ...]] = ("node",)
    needs: ClassVar[tuple[str, ...]] = ("node",)

    what: Literal["distance", "height", "tilt"] = "height"
    node: Identity | None = None
    id: ShortId = "limit"
    on: bool = True

    @property
    def moves(self) -> bool:  # type: ignore[override]
        return self.what != "tilt"

    def __post_init__(self) -> None:
        if (self.what == "distance") != (self.node is not None):
            raise ValueError("a limit of distance, and only that, is measured from a node")

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        if self.what == "tilt":
            return (
                ChannelSpec("low", "lowest tilt", "degrees", -30.0, -90.0, 90.0, 1.0),
                ChannelSpec("high", "highest tilt", "degrees", 30.0, -90.0, 90.0, 1.0),
            )
        least = 0.0 if self.what == "distance" else -_FAR
        return (
            ChannelSpec("low", f"least {self.what}", "units", 0.0, least, _FAR),
            ChannelSpec("high", f"most {self.what}", "units", 10.0, least, _FAR),
        )


class DropAndRoll(_Bind, frozen=True, tag="roll", cache_hash=True):
    """Fall from where the node is, bounce and roll as a ball over a ground and against walls."""

    label: ClassVar[str] = "drop and roll"
    collides: ClassVar[bool] = True
    moves: ClassVar[bool] = True
    looks_elsewhere: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("ground", "walls")
    poses: ClassVar[tuple[str, ...]] = ("ground", "walls")

    ground: Identity | None = None
    walls: Annotated[tuple[Identity, ...], Meta(max_length=100)] = ()
    id: ShortId = "roll"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("start", "falls from frame", "count", 0.0, -1e6, 1e6, 1.0),
            ChannelSpec("radius", "radius of the ball", "units", 0.5, 1e-3, 1e5, 0.05),
            *(ChannelSpec(f"push.{axis}", f"push {axis}, units/s", "units", 0.0) for axis in "xyz"),
            ChannelSpec("gravity", "gravity, units/s²", "units", 9.81, 0.0, 1e4, 0.1),
            ChannelSpec("bounce", "bounce", "share", 0.5, 0.0, 1.0, 0.01),
            ChannelSpec("friction", "friction", "share", 0.4, 0.0, 1.0, 0.01),
        )

    def about(self, name: Callable[[str], str]) -> str:
        return name(self.ground) if self.ground else ""


class Tour(_Bind, frozen=True, tag="tour", cache_hash=True):
    """Go from framing to framing: its place 0 is the first of them, 1 the second, and so on, after the last the first
    again.

    Between two keys on whole numbers it goes directly from the one framing to the other, whatever lies between them
    in the list. A camera takes over their lens and focus too.
    """

    label: ClassVar[str] = "tour"
    places: ClassVar[Places] = "whole"
    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("framings",)
    poses: ClassVar[tuple[str, ...]] = ("framings",)
    needs: ClassVar[tuple[str, ...]] = ("framings",)
    roles: ClassVar[dict[str, Role]] = {"framings": "framing"}

    framings: Annotated[tuple[Identity, ...], Meta(min_length=1, max_length=200)]
    way: Way = "auto"
    id: ShortId = "tour"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (ChannelSpec("place", "place on the tour", "count", 0.0, -1e5, 1e5, 1.0),)

    def about(self, name: Callable[[str], str]) -> str:
        return f"{len(self.framings)} framings"


Bind = AimAt | FaceCamera | Match | Follow | RidePath | RideGround | Opposite | Limit | DropAndRoll | Tour
BIND_KINDS: tuple[type[Bind], ...] = get_args(Bind)


def _ids(bind: _Bind, field: str) -> tuple[str, ...]:
    value = getattr(bind, field)
    return () if value is None else (value,) if isinstance(value, str) else value


def named_nodes(bind: _Bind) -> tuple[tuple[str, bool], ...]:
    """The ids of the nodes a bind is about, and whether it needs the whole pose of each."""
    return tuple((each, field in bind.poses) for field in bind.nodes for each in _ids(bind, field))


def renamed(bind: Bind, ids: dict[str, str]) -> Bind:
    """The bind with other nodes in place of some."""
    fields: dict[str, object] = {}
    for field in bind.nodes:
        value = getattr(bind, field)
        if value is not None:
            new = tuple(ids.get(each, each) for each in _ids(bind, field))
            fields[field] = new[0] if isinstance(value, str) else new
    return msgspec.structs.replace(bind, **fields)


def without(bind: Bind, gone: set[str]) -> Bind | None:
    """The bind when nodes are gone; None where it has nothing left to be bound to."""
    fields: dict[str, object] = {}
    for field in bind.nodes:
        ids = _ids(bind, field)
        if gone.intersection(ids):
            left = tuple(each for each in ids if each not in gone)
            if not left and field in bind.needs:
                return None
            fields[field] = left if isinstance(getattr(bind, field), tuple) else None
    return msgspec.structs.replace(bind, **fields) if fields else bind
