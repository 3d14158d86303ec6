"""Events: a condition in time, and what the film does when it comes true.

Conditions are told here whole: the nodes that they look at, and in words.
"""

from collections.abc import Callable
from typing import Annotated, ClassVar, Literal, get_args

import msgspec
from msgspec import Meta

from .types import Identity, Name, Number

__all__ = [
    "CONDITIONS",
    "AtMarker",
    "ChannelPasses",
    "Condition",
    "DistancePasses",
    "Event",
    "HeightPasses",
    "Hits",
    "InFrame",
    "SpeedPasses",
]

Direction = Literal["up", "down"]


class _Condition(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    nodes: ClassVar[tuple[str, ...]] = ()
    """The fields that name nodes."""
    label: ClassVar[str] = ""

    def named(self) -> tuple[str, ...]:
        """The ids of the nodes that it looks at."""
        return tuple(getattr(self, field) for field in self.nodes)


class AtMarker(_Condition, frozen=True, tag="marker"):
    """The playhead passes a marker of this name."""

    label: ClassVar[str] = "a marker"

    marker: Name

    def words(self, name: Callable[[str], str]) -> str:
        return f"at marker {self.marker}"


class DistancePasses(_Condition, frozen=True, tag="distance"):
    """The distance between two nodes passes a number of units."""

    nodes: ClassVar[tuple[str, ...]] = ("node", "other")
    label: ClassVar[str] = "a distance"

    node: Identity
    other: Identity
    value: Number = 5.0
    way: Direction = "down"

    def words(self, name: Callable[[str], str]) -> str:
        nearer = "nearer than" if self.way == "down" else "farther than"
        return f"{name(self.node)} comes {nearer} {self.value:g} to {name(self.other)}"


class HeightPasses(_Condition, frozen=True, tag="height"):
    """A node's height in the world passes a number of units."""

    nodes: ClassVar[tuple[str, ...]] = ("node",)
    label: ClassVar[str] = "a height"

    node: Identity
    value: Number = 0.0
    way: Direction = "up"

    def words(self, name: Callable[[str], str]) -> str:
        return f"{name(self.node)} {'rises above' if self.way == 'up' else 'sinks below'} {self.value:g}"


class SpeedPasses(_Condition, frozen=True, tag="speed"):
    """A node's speed passes a number of units a second."""

    nodes: ClassVar[tuple[str, ...]] = ("node",)
    label: ClassVar[str] = "a speed"

    node: Identity
    value: Annotated[float, Meta(ge=0.0, le=1e9)] = 1.0
    way: Direction = "up"

    def words(self, name: Callable[[str], str]) -> str:
        return f"{name(self.node)} goes {'faster' if self.way == 'up' else 'slower'} than {self.value:g} a second"


class ChannelPasses(_Condition, frozen=True, tag="channel"):
    """A channel of a node passes a value."""

    nodes: ClassVar[tuple[str, ...]] = ("node",)
    label: ClassVar[str] = "a channel"

    node: Identity
    channel: Name
    value: Number = 0.0
    way: Direction = "up"

    def words(self, name: Callable[[str], str]) -> str:
        return (
            f"{name(self.node)} · {self.channel} {'rises above' if self.way == 'up' else 'sinks below'} {self.value:g}"
        )


class InFrame(_Condition, frozen=True, tag="frame"):
    """A node's origin comes into a camera's frame (up), or leaves it (down)."""

    nodes: ClassVar[tuple[str, ...]] = ("node", "camera")
    label: ClassVar[str] = "in frame"

    node: Identity
    camera: Identity
    way: Direction = "up"

    def words(self, name: Callable[[str], str]) -> str:
        does = "comes into" if self.way == "up" else "leaves"
        return f"{name(self.node)} {does} the frame of {name(self.camera)}"


class Hits(_Condition, frozen=True, tag="hit"):
    """A node that drops and rolls hits something, at least at so many units a second."""

    nodes: ClassVar[tuple[str, ...]] = ("node",)
    label: ClassVar[str] = "a hit"

    node: Identity
    value: Annotated[float, Meta(ge=0.0, le=1e9)] = 0.5

    def words(self, name: Callable[[str], str]) -> str:
        return f"{name(self.node)} hits something"


Condition = AtMarker | DistancePasses | HeightPasses | SpeedPasses | ChannelPasses | InFrame | Hits
CONDITIONS: tuple[type[Condition], ...] = get_args(Condition)

_Seconds = Annotated[float, Meta(ge=0.0, le=3600.0)]


class Event(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """When a condition comes true, the film shows a camera after ``delay`` seconds, and returns to what it would have
    shown after ``hold`` seconds, or as soon as ``until`` comes true.

    ``aim`` is a node that the camera is aimed at meanwhile, ``tilt`` degrees by which the horizon leans. It does not
    come true again for ``cooling`` seconds after it has ended. Of two at once that of the higher ``priority`` shows.
    """

    name: Name
    when: Condition
    camera: Identity
    aim: Identity | None = None
    delay: _Seconds = 0.0
    hold: Annotated[float, Meta(gt=0.0, le=3600.0)] = 2.0
    until: Condition | None = None
    tilt: Annotated[float, Meta(ge=-180.0, le=180.0)] = 0.0
    cooling: _Seconds = 0.0
    priority: Annotated[int, Meta(ge=-1000, le=1000)] = 0
    on: bool = True

    def looked_at(self) -> tuple[str, ...]:
        """The ids of the nodes that its conditions look at."""
        return (*self.when.named(), *(self.until.named() if self.until is not None else ()))

    def named(self) -> tuple[str, ...]:
        """The ids of all nodes that it names."""
        return (*self.looked_at(), self.camera, *((self.aim,) if self.aim is not None else ()))
