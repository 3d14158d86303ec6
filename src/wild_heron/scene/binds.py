"""Binds: relations of a node to others, carried out in list order after the carriers.

Each is told here whole: its fields, its numbers, and what the nodes that it names have to serve as. A bind's numbers,
its strength among them, are channels of the node, named after the bind's id: ``aim.strength``.
"""

from collections.abc import Callable, Iterator
from typing import Annotated, ClassVar, Literal, get_args

import msgspec
from msgspec import Meta

from .channels import ChannelSpec
from .fields import Row, Shown
from .film import OUTPUT, WAY_WORDS, NodeOrOutput, Way
from .types import Identity, Role, ShortId

__all__ = [
    "AimAt",
    "Bind",
    "DropAndRoll",
    "FaceCamera",
    "Follow",
    "Limit",
    "Match",
    "Mix",
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
    takes_lens: ClassVar[bool] = False
    """Whether a camera takes over the lens and focus of what it names, too."""
    numbered: ClassVar[str] = ""
    """What its channels for each node of its first field are called, numbered from 1; "" where there are none."""
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
    kept: ClassVar[bool] = False
    """Whether a move that is kept may have it; others are turned into keys."""
    other_way: ClassVar[tuple[str, ...]] = ()
    """Its numbers that change their sign in a mirror."""
    beside: ClassVar[str] = ""
    """The field that stands beside its strength in the inspector."""
    rows: ClassVar[tuple[Row, ...]] = ()
    """Its other fields and numbers there."""

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
    kept: ClassVar[bool] = True
    other_way: ClassVar[tuple[str, ...]] = ("x", "off.x")
    beside: ClassVar[str] = "up"
    rows: ClassVar[tuple[Row, ...]] = (("", "off.x", "off.y"),)

    targets: Annotated[tuple[Identity, ...], Meta(max_length=100)] = ()
    up: Annotated[Identity | None, Shown("up", tip="What is level for the aim's horizon")] = None
    id: ShortId = "aim"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        point = () if self.targets else tuple(ChannelSpec(axis, f"aim point {axis}", "units", 0.0) for axis in "xyz")
        if not lens:
            return point
        return (
            *point,
            ChannelSpec("off.x", "aim off to the right", "share", 0.0, -1.0, 1.0, 0.01, "off to the right"),
            ChannelSpec("off.y", "aim off upwards", "share", 0.0, -1.0, 1.0, 0.01, "off upwards"),
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
    rows: ClassVar[tuple[Row, ...]] = (("Faces", "camera", "upright"),)

    camera: Annotated[NodeOrOutput, Shown("camera", tip="The camera that it faces, or whatever the film shows", wide=2)]
    upright: Annotated[bool, Shown("upright", tip="About the world's Y only")] = False
    id: ShortId = "face"
    on: bool = True


_AXES = (
    ("", "none"), ("x", "x"), ("y", "y"), ("z", "z"), ("xy", "x y"), ("xz", "x z"), ("yz", "y z"), ("xyz", "x y z"),
)  # fmt: skip


def _axes_of(field: str) -> Shown:
    return Shown(field, tip=f"Which axes of the {field} are taken over", words=_AXES)


class Match(_Bind, frozen=True, tag="match", cache_hash=True):
    """Take over another node's world position, rotation or scale, axis by axis, with an offset that is kept."""

    label: ClassVar[str] = "match"
    nodes: ClassVar[tuple[str, ...]] = ("node",)
    poses: ClassVar[tuple[str, ...]] = ("node",)
    needs: ClassVar[tuple[str, ...]] = ("node",)
    filmed: ClassVar[tuple[str, ...]] = ("node",)
    kept: ClassVar[bool] = True
    other_way: ClassVar[tuple[str, ...]] = ("turn.y", "turn.z")
    beside: ClassVar[str] = "node"

    node: Annotated[NodeOrOutput, Shown("node", tip="What is matched")]
    position: Annotated[Axes, _axes_of("position")] = "xyz"
    rotation: Annotated[Axes, _axes_of("rotation")] = ""
    scale: Annotated[Axes, _axes_of("scale")] = ""
    id: ShortId = "match"
    on: bool = True

    @property
    def moves(self) -> bool:  # type: ignore[override]
        return bool(self.position)

    @property
    def rows(self) -> tuple[Row, ...]:  # type: ignore[override]
        parts = (("Position", "position", "move"), ("Turn", "rotation", "turn"), ("Size", "scale", "size"))
        return tuple(
            row
            for title, field, stem in parts
            for row in ((title, field), ("offset", *(f"{stem}.{axis}" for axis in getattr(self, field))))
        )

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            *(
                ChannelSpec(f"move.{axis}", f"match offset {axis}", "units", 0.0, caption=axis)
                for axis in self.position
            ),
            *(
                ChannelSpec(f"turn.{axis}", f"match turn {axis}", "degrees", 0.0, nudge=1.0, caption=axis)
                for axis in self.rotation
            ),
            *(
                ChannelSpec(f"size.{axis}", f"match size {axis}", "factor", 1.0, nudge=0.01, caption=axis)
                for axis in self.scale
            ),
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
    beside: ClassVar[str] = "way"
    rows: ClassVar[tuple[Row, ...]] = (("", "nearest", "farthest", "half_life"), ("", "turn", "rise"))

    node: Identity
    way: Annotated[
        Literal["behind", "fixed"],
        Shown("way", tip="Where it follows from", words=(("behind", "from behind"), ("fixed", "this way"))),
    ] = "behind"
    id: ShortId = "follow"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("nearest", "nearest distance", "units", 4.0, 0.0, _FAR, caption="nearest"),
            ChannelSpec("farthest", "farthest distance", "units", 8.0, 0.0, _FAR, caption="farthest"),
            ChannelSpec("turn", "follow from the side", "degrees", 0.0, nudge=1.0, caption="from the side"),
            ChannelSpec("rise", "follow from above", "degrees", 12.0, -89.0, 89.0, 1.0, "from above"),
            ChannelSpec("half_life", "lag (half-life)", "seconds", 0.3, 0.0, 60.0, 0.05, "lag, half-life"),
        )


_FRONTS = (("-z", "front −z"), ("+z", "front +z"), ("+x", "front +x"), ("-x", "front −x"))


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
    beside: ClassVar[str] = "by"
    rows: ClassVar[tuple[Row, ...]] = (("", "progress", "bank"), ("Along", "along", "front", "loops"))

    path: Identity
    by: Annotated[
        Literal["length", "parameter"],
        Shown("by", tip="What progress counts", words=(("length", "even speed"), ("parameter", "by points"))),
    ] = "length"
    along: Annotated[bool, Shown("turns", tip="Turned along the path")] = True
    loops: Annotated[bool, Shown("loops", tip="Progress beyond the end begins anew")] = False
    front: Annotated[Front, Shown("front", tip="Which side goes ahead", words=_FRONTS)] = "-z"
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


_DOWNS = (
    ("-y", "down"), ("+y", "up"), ("-z", "towards −z"), ("+z", "towards +z"), ("-x", "towards −x"),
    ("+x", "towards +x"),
)  # fmt: skip


class RideGround(_Bind, frozen=True, tag="ground", cache_hash=True):
    """Sit on a surface along a direction of the world, at a height above it, tilting with its slope."""

    label: ClassVar[str] = "ride ground"
    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("ground",)
    poses: ClassVar[tuple[str, ...]] = ("ground",)
    needs: ClassVar[tuple[str, ...]] = ("ground",)
    roles: ClassVar[dict[str, Role]] = {"ground": "ground"}
    beside: ClassVar[str] = "down"
    rows: ClassVar[tuple[Row, ...]] = (("", "height", "tilt", "footprint"),)

    ground: Identity
    down: Annotated[Down, Shown("down", tip="The way down", words=_DOWNS)] = "-y"
    id: ShortId = "ground"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("height", "height above ground", "units", 0.0, caption="height"),
            ChannelSpec("tilt", "tilt with the slope", "share", 1.0, 0.0, 1.0, 0.01, "tilt with slope"),
            ChannelSpec("footprint", "footprint radius", "units", 0.0, 0.0, 1e5, 0.05, "footprint"),
        )


class Opposite(_Bind, frozen=True, tag="opposite", cache_hash=True):
    """Stay across a centre from another node, at a distance and a height."""

    label: ClassVar[str] = "opposite"
    places: ClassVar[Places] = "carrier"
    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("node", "centre")
    needs: ClassVar[tuple[str, ...]] = ("node", "centre")
    filmed: ClassVar[tuple[str, ...]] = ("node",)
    beside: ClassVar[str] = "node"
    rows: ClassVar[tuple[Row, ...]] = (("", "distance", "height"),)

    node: Annotated[NodeOrOutput, Shown("node", tip="What it stays opposite of")]
    centre: Identity
    id: ShortId = "opposite"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("distance", "distance beyond the centre", "units", 4.0, -_FAR, _FAR, caption="distance"),
            ChannelSpec("height", "height over the centre", "units", 0.0, caption="height"),
        )


class Limit(_Bind, frozen=True, tag="limit", cache_hash=True):
    """Keep the distance from a node, the height in the world, or the tilt of the front between two ends."""

    label: ClassVar[str] = "limit"
    nodes: ClassVar[tuple[str, ...]] = ("node",)
    needs: ClassVar[tuple[str, ...]] = ("node",)
    rows: ClassVar[tuple[Row, ...]] = (("", "low", "high"),)

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
                ChannelSpec("low", "lowest tilt", "degrees", -30.0, -90.0, 90.0, 1.0, "least tilt"),
                ChannelSpec("high", "highest tilt", "degrees", 30.0, -90.0, 90.0, 1.0, "most tilt"),
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
    rows: ClassVar[tuple[Row, ...]] = (
        ("", "start", "radius"), ("Push", "push.x", "push.y", "push.z"), ("", "gravity", "bounce", "friction"),
    )  # fmt: skip

    ground: Identity | None = None
    walls: Annotated[tuple[Identity, ...], Meta(max_length=100)] = ()
    id: ShortId = "roll"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (
            ChannelSpec("start", "falls from frame", "count", 0.0, -1e6, 1e6, 1.0, "from frame"),
            ChannelSpec("radius", "radius of the ball", "units", 0.5, 1e-3, 1e5, 0.05, "radius"),
            *(ChannelSpec(f"push.{axis}", f"push {axis}, units/s", "units", 0.0, caption=axis) for axis in "xyz"),
            ChannelSpec("gravity", "gravity, units/s²", "units", 9.81, 0.0, 1e4, 0.1, "gravity"),
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
    takes_lens: ClassVar[bool] = True
    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("framings",)
    poses: ClassVar[tuple[str, ...]] = ("framings",)
    needs: ClassVar[tuple[str, ...]] = ("framings",)
    roles: ClassVar[dict[str, Role]] = {"framings": "framing"}
    beside: ClassVar[str] = "way"
    rows: ClassVar[tuple[Row, ...]] = (("", "place"),)

    framings: Annotated[tuple[Identity, ...], Meta(min_length=1, max_length=200)]
    way: Annotated[Way, Shown("way", tip="How it goes from framing to framing", words=WAY_WORDS)] = "auto"
    id: ShortId = "tour"
    on: bool = True

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return (ChannelSpec("place", "place on the tour", "count", 0.0, -1e5, 1e5, 1.0),)

    def about(self, name: Callable[[str], str]) -> str:
        return f"{len(self.framings)} framings"


class Mix(_Bind, frozen=True, tag="mix", cache_hash=True):
    """Be the mean of cameras and framings by their weights, lens and focus too.

    One that alone has a weight is shown as it is. Two of them are the film's blend from the one to the other, at the
    share of the second; more are mixed one after the other in their order, each at its share of the weights so far.
    """

    label: ClassVar[str] = "mix"
    places: ClassVar[Places] = "whole"
    takes_lens: ClassVar[bool] = True
    numbered: ClassVar[str] = "weight"
    moves: ClassVar[bool] = True
    nodes: ClassVar[tuple[str, ...]] = ("members",)
    poses: ClassVar[tuple[str, ...]] = ("members",)
    needs: ClassVar[tuple[str, ...]] = ("members",)
    roles: ClassVar[dict[str, Role]] = {"members": "shown"}
    beside: ClassVar[str] = "way"

    members: Annotated[tuple[Identity, ...], Meta(min_length=1, max_length=16)]
    way: Annotated[Way, Shown("way", tip="How it goes from the one to the other", words=WAY_WORDS)] = "auto"
    id: ShortId = "mix"
    on: bool = True

    @property
    def rows(self) -> tuple[Row, ...]:  # type: ignore[override]
        names = [f"weight.{k}" for k in range(1, len(self.members) + 1)]
        return tuple(("Weights" if k == 0 else "", *names[k : k + 3]) for k in range(0, len(names), 3))

    def channels(self, lens: bool) -> tuple[ChannelSpec, ...]:
        return tuple(
            ChannelSpec(f"weight.{k}", f"weight {k}", "share", 1.0 if k == 1 else 0.0, 0.0, 1e6, 0.01, f"{k}")
            for k in range(1, len(self.members) + 1)
        )

    def about(self, name: Callable[[str], str]) -> str:
        return " + ".join(name(each) for each in self.members[:3]) + (" + …" if len(self.members) > 3 else "")


Bind = AimAt | FaceCamera | Match | Follow | RidePath | RideGround | Opposite | Limit | DropAndRoll | Tour | Mix
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
