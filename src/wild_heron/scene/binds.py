"""Binds: relations of a node to others, carried out in list order after the carriers.

A bind's numbers, its strength among them, are channels of the node, named after the bind's id: ``aim.strength``.
``moves`` says whether a bind changes where the node is, or only how it is turned; ``looks_elsewhere`` whether what it
does at one moment depends on others. ``nodes`` are its fields that name
other nodes: those of ``poses`` by their whole pose, the others only by where they are.
"""

from typing import Annotated, ClassVar, Literal

import msgspec
from msgspec import Meta

from .types import Identity, ShortId

Axes = Annotated[str, Meta(pattern=r"^x?y?z?$")]
Front = Literal["-z", "+z", "+x", "-x"]
Down = Literal["-y", "+y", "-x", "+x", "-z", "+z"]


class _Bind(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    moves: ClassVar[bool] = False
    looks_elsewhere: ClassVar[bool] = False
    nodes: ClassVar[tuple[str, ...]] = ()
    poses: ClassVar[tuple[str, ...]] = ()
    label: ClassVar[str] = ""


class AimAt(_Bind, frozen=True, tag="aim", cache_hash=True):
    """Look (down −Z) at the middle of nodes, or without any at a point carried by the node's own carrier.

    The horizon is level with the world, or with the node ``up``; the angle about z is the roll.
    """

    looks_elsewhere: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("targets", "up")
    poses: ClassVar[tuple[str, ...]] = ("up",)
    label: ClassVar[str] = "aim"

    targets: Annotated[tuple[Identity, ...], Meta(max_length=100)] = ()
    up: Identity | None = None
    id: ShortId = "aim"
    on: bool = True


class FaceCamera(_Bind, frozen=True, tag="face", cache_hash=True):
    """Turn the node's front (+Z) to a camera, wherever that goes. ``upright``: about the world's Y only."""

    nodes: ClassVar[tuple[str, ...]] = ("camera",)
    label: ClassVar[str] = "face the camera"

    camera: Identity
    upright: bool = False
    id: ShortId = "face"
    on: bool = True


class Match(_Bind, frozen=True, tag="match", cache_hash=True):
    """Take over another node's world position, rotation or scale, axis by axis, with an offset that is kept."""

    nodes: ClassVar[tuple[str, ...]] = ("node",)
    poses: ClassVar[tuple[str, ...]] = ("node",)
    label: ClassVar[str] = "match"

    node: Identity
    position: Axes = "xyz"
    rotation: Axes = ""
    scale: Axes = ""
    id: ShortId = "match"
    on: bool = True

    @property
    def moves(self) -> bool:  # type: ignore[override]
        return bool(self.position)


class Follow(_Bind, frozen=True, tag="follow", cache_hash=True):
    """Stay between a nearest and a farthest distance from a moving node, with a damped lag.

    From behind as it travels, or along a fixed direction of the world.
    """

    moves: ClassVar[bool] = True
    looks_elsewhere: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("node",)
    label: ClassVar[str] = "follow"

    node: Identity
    way: Literal["behind", "fixed"] = "behind"
    id: ShortId = "follow"
    on: bool = True


class RidePath(_Bind, frozen=True, tag="ride", cache_hash=True):
    """Be on a path at a progress of 0 to 1, by arc length or by the curve's own parameter.

    ``along``: turned along the path, ``front`` ahead. ``loops``: progress beyond 1 begins anew.
    """

    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("path",)
    poses: ClassVar[tuple[str, ...]] = ("path",)
    label: ClassVar[str] = "ride path"

    path: Identity
    by: Literal["length", "parameter"] = "length"
    along: bool = True
    loops: bool = False
    front: Front = "-z"
    id: ShortId = "ride"
    on: bool = True


class RideGround(_Bind, frozen=True, tag="ground", cache_hash=True):
    """Sit on a surface along a direction of the world, at a height above it, tilting with its slope."""

    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("ground",)
    poses: ClassVar[tuple[str, ...]] = ("ground",)
    label: ClassVar[str] = "ride ground"

    ground: Identity
    down: Down = "-y"
    id: ShortId = "ground"
    on: bool = True


class Opposite(_Bind, frozen=True, tag="opposite", cache_hash=True):
    """Stay across a centre from another node, at a distance and a height."""

    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("node", "centre")
    label: ClassVar[str] = "opposite"

    node: Identity
    centre: Identity
    id: ShortId = "opposite"
    on: bool = True


class Limit(_Bind, frozen=True, tag="limit", cache_hash=True):
    """Keep the distance from a node, the height in the world, or the tilt of the front between two ends."""

    nodes: ClassVar[tuple[str, ...]] = ("node",)
    label: ClassVar[str] = "limit"

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


class DropAndRoll(_Bind, frozen=True, tag="roll", cache_hash=True):
    """Fall from where the node is, bounce and roll as a ball over a ground and against walls."""

    moves: ClassVar[bool] = True
    looks_elsewhere: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("ground", "walls")
    poses: ClassVar[tuple[str, ...]] = ("ground", "walls")
    label: ClassVar[str] = "drop and roll"

    ground: Identity | None = None
    walls: Annotated[tuple[Identity, ...], Meta(max_length=100)] = ()
    id: ShortId = "roll"
    on: bool = True


Bind = AimAt | FaceCamera | Match | Follow | RidePath | RideGround | Opposite | Limit | DropAndRoll


def named_nodes(bind: Bind) -> tuple[tuple[str, bool], ...]:
    """The ids of the nodes a bind is about, and whether it needs the whole pose of each."""
    found: list[tuple[str, bool]] = []
    for field in bind.nodes:
        value = getattr(bind, field)
        ids = () if value is None else (value,) if isinstance(value, str) else value
        found.extend((each, field in bind.poses) for each in ids)
    return tuple(found)


def renamed(bind: Bind, ids: dict[str, str]) -> Bind:
    """The bind with other nodes in place of some."""
    fields: dict[str, object] = {}
    for field in bind.nodes:
        value = getattr(bind, field)
        if isinstance(value, str):
            fields[field] = ids.get(value, value)
        elif value is not None:
            fields[field] = tuple(ids.get(each, each) for each in value)
    return msgspec.structs.replace(bind, **fields)


def without(bind: Bind, gone: set[str]) -> Bind | None:
    """The bind when nodes are gone; None where it has nothing left to be bound to."""
    fields: dict[str, object] = {}
    optional = {field.name for field in msgspec.structs.fields(bind) if not field.required}
    for field in bind.nodes:
        value = getattr(bind, field)
        if isinstance(value, str) and value in gone:
            if field not in optional or isinstance(bind, Limit):
                return None
            fields[field] = None
        elif isinstance(value, tuple) and gone.intersection(value):
            left = tuple(each for each in value if each not in gone)
            if not left and isinstance(bind, AimAt):
                return None
            fields[field] = left
    return msgspec.structs.replace(bind, **fields) if fields else bind
