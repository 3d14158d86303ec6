"""Movers: steps that a node's channels go through in list order, after their keys, links and formulas, in one frame.

Each kind is told here whole: its fields, and what of the scene it listens to. A mover's strength is a channel of the
node, named after the mover's id: ``shake.strength``. What the keys say stays as it is.
"""

from collections.abc import Callable, Iterator
from typing import Annotated, ClassVar, Literal, get_args

import msgspec
from msgspec import Meta

from .channel import Channel
from .channels import POSITION, ROTATION, ChannelSpec
from .fields import Row, Shown, shown
from .inputs import ChannelName
from .spans import Ease
from .types import Identity, Name, Number, ShortId

__all__ = [
    "LIFE",
    "MOVER_KINDS",
    "Impact",
    "Lag",
    "Limiter",
    "Mover",
    "NamedMovers",
    "Oscillator",
    "Overshoot",
    "Shake",
    "SteadyRate",
    "StepHold",
    "Target",
    "Unmoved",
]

LIFE = "life"
"""The channel of a node that scales the strengths of all its movers."""
_LIFE = ChannelSpec(LIFE, "life", "factor", 1.0, 0.0, 10.0, 0.05)
POSE = (*POSITION, *ROTATION)

Space = Literal["own", "carrier", "world", "picture"]
"""Along whose axes a mover acts on position and rotation: the node's own, its carrier's, the world's, or across, up and
round in the camera's picture."""
Per = Literal["seconds", "beats"]
_Seconds = Annotated[float, Meta(ge=0.0, le=3600.0)]
_Length = Annotated[float, Meta(ge=1e-3, le=3600.0)]
_Frames = Annotated[float, Meta(ge=0.0, le=1e6)]
_Seed = Annotated[int, Meta(ge=0, le=2**31), Shown("seed", caption="seed")]
_Loop = Annotated[_Seconds, Shown("loop", "seconds", 0.5, "loop")]
_Since = Annotated[Number, Shown("from frame", caption="from frame")]


_SPACES = (
    ("own", "its own axes"), ("carrier", "its carrier's axes"), ("world", "the world's axes"),
    ("picture", "across the picture"),
)  # fmt: skip
_FADE = Shown("fade", caption="fade, frames", tip="Over how many frames it fades")


class Target(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A channel that a mover acts on, and how much: in the channel's unit where it adds something, else a share."""

    channel: ChannelName
    amount: Number = 1.0


class _Mover(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    label: ClassVar[str] = ""
    hint: ClassVar[str] = ""
    adds: ClassVar[bool] = False
    """Whether it adds to a value, whatever that is; otherwise it makes another one of it."""
    looks_elsewhere: ClassVar[bool] = False
    """Whether what it does at one moment depends on the channel at others."""
    spaces: ClassVar[tuple[Space, ...]] = ("carrier",)
    rows: ClassVar[tuple[Row, ...]] = ()
    """Its own numbers in the inspector."""

    id: ShortId = "mover"
    targets: Annotated[tuple[Target, ...], Meta(max_length=32)] = ()
    on: bool = True
    space: Annotated[Space, Shown("axes", tip="Along whose axes it moves and turns", words=_SPACES, wide=3)] = "carrier"
    start: Annotated[Number | None, Shown("from frame", caption="frame")] = None
    end: Annotated[Number | None, Shown("to frame", caption="frame")] = None
    """The frames between which it acts; None without an end."""
    fade_in: Annotated[_Frames, _FADE] = 0.0
    fade_out: Annotated[_Frames, _FADE] = 0.0
    seed: _Seed = 0

    def __post_init__(self) -> None:
        if self.start is not None and self.end is not None and not self.start < self.end:
            raise ValueError("the range of a mover must end after it starts")
        if self.space not in self.spaces:
            raise ValueError(f"{self.label} does not act in the space “{self.space}”")
        if len(set(self.names)) < len(self.targets):
            raise ValueError("a mover acts on a channel once")

    @property
    def strength(self) -> str:
        """The channel of its strength."""
        return f"{self.id}.strength"

    @property
    def strength_spec(self) -> ChannelSpec:
        return ChannelSpec(self.strength, f"{self.label} strength", "share", 1.0, 0.0, 10.0, 0.01)

    @property
    def names(self) -> tuple[str, ...]:
        """The channels that it acts on."""
        return tuple(each.channel for each in self.targets)

    def amount(self, name: str) -> float:
        """How much it acts on a channel; 0 where it does not."""
        return next((each.amount for each in self.targets if each.channel == name), 0.0)

    @property
    def couples(self) -> bool:
        """Whether what it does to one channel of the pose depends on the others."""
        return self.space != "carrier" and not set(self.names).isdisjoint(POSE)

    @property
    def by_beats(self) -> bool:
        """Whether it keeps time with the beats of the music."""
        return getattr(self, "per", "seconds") == "beats"

    def named(self) -> tuple[str, ...]:
        """The ids of the nodes that it names."""
        return ()

    def shown(self, field: str) -> Shown:
        """How one of its fields is shown as it is now."""
        return shown(type(self), field)

    @property
    def looks_around(self) -> bool:
        """Whether it takes the whole scene to say what it does at one moment."""
        return self.looks_elsewhere


_ALL_SPACES: tuple[Space, ...] = ("own", "carrier", "world", "picture")

_PER = (("seconds", "seconds"), ("beats", "beats"))
_Low = Annotated[Number, Shown("low", "factor", 0.05, "low")]
_High = Annotated[Number, Shown("high", "factor", 0.05, "high")]
Wave = Literal["sine", "triangle", "saw", "square"]


class Oscillator(_Mover, frozen=True, tag="oscillator", cache_hash=True):
    """To and fro between ``low`` and ``high``, times each target's amount, once a period.

    Sine and triangle start in the middle and rise; a saw rises from low to high; a square is high first; an ease goes
    from low to high in the first half of the period and back in the second. Time is counted from frame 0, or from the
    first beat. ``phase`` is a share of the period.
    """

    label: ClassVar[str] = "oscillator"
    hint: ClassVar[str] = "To and fro, steadily: sway, breathe, turn round and round"
    adds: ClassVar[bool] = True
    spaces: ClassVar[tuple[Space, ...]] = _ALL_SPACES

    rows: ClassVar[tuple[Row, ...]] = (
        ("Period", "period", "per"),
        ("Between", "low", "high", "phase"),
        ("Wave", "wave"),
    )

    id: ShortId = "oscillator"
    period: Annotated[_Length, Shown("period", nudge=0.1)] = 4.0
    per: Annotated[Per, Shown("beat", tip="What the period is counted in", words=_PER, wide=2)] = "seconds"
    low: _Low = -1.0
    high: _High = 1.0
    wave: Annotated[Wave | Ease, Shown("wave", tip="The shape of the wave", wide=3)] = "sine"
    phase: Annotated[float, Meta(ge=-100.0, le=100.0), Shown("phase", "share", 0.01, "phase")] = 0.0


class SteadyRate(_Mover, frozen=True, tag="rate", cache_hash=True):
    """Each target's amount a second, or a beat, from a frame on; the rate is reached over ``ease_in`` seconds."""

    label: ClassVar[str] = "rate"
    hint: ClassVar[str] = "So much a second from a frame on: a steady drift or turn"
    adds: ClassVar[bool] = True
    spaces: ClassVar[tuple[Space, ...]] = _ALL_SPACES

    rows: ClassVar[tuple[Row, ...]] = (("Per", "per", "since", "ease_in"),)

    id: ShortId = "rate"
    per: Annotated[
        Per, Shown("per", tip="What the amounts are for", words=(("seconds", "second"), ("beats", "beat")))
    ] = "seconds"
    since: _Since = 0.0
    ease_in: Annotated[_Seconds, Shown("ease in", "seconds", 0.1, "ease in")] = 0.0


_ABOUT = (("lens", "the lens"), ("aim", "what it is aimed at"))


class Shake(_Mover, frozen=True, tag="shake", cache_hash=True):
    """Fractal gradient noise of each target's amount, with a wave every ``period`` seconds or so.

    Every octave is twice as quick and ``persistence`` times as strong as the one before; ``peakiness`` e makes of a
    value n sign(n)·|n|^e. Over the scene its mean is zero. ``loop``: it repeats after so many seconds (0: never).
    ``stride``: seconds a step takes, with a bob for each and a sway for every two, ``tread`` as strong as the noise.
    ``about``: turns go about the lens, or about what is aimed at, which stays where it is in the picture.
    """

    label: ClassVar[str] = "shake"
    hint: ClassVar[str] = "Chance that never drifts off: a hand, a walk, a vehicle, a storm"
    adds: ClassVar[bool] = True
    spaces: ClassVar[tuple[Space, ...]] = _ALL_SPACES

    rows: ClassVar[tuple[Row, ...]] = (
        ("Period", "period", "octaves", "persistence"), ("", "peakiness", "loop", "seed"), ("Steps", "stride", "tread"),
        ("About", "about"),
    )  # fmt: skip

    id: ShortId = "shake"
    period: Annotated[_Length, Shown("period", "seconds", 0.05, "seconds")] = 1.2
    octaves: Annotated[int, Meta(ge=1, le=8), Shown("octaves", caption="octaves")] = 3
    persistence: Annotated[float, Meta(ge=0.0, le=1.0), Shown("persistence", "share", 0.02, "persistence")] = 0.5
    peakiness: Annotated[float, Meta(ge=0.2, le=5.0), Shown("peakiness", "factor", 0.05, "peakiness")] = 1.0
    loop: _Loop = 0.0
    stride: Annotated[_Seconds, Shown("a step takes", "seconds", 0.02, "seconds each")] = 0.0
    tread: Annotated[float, Meta(ge=0.0, le=10.0), Shown("tread", "factor", 0.05, "tread")] = 1.0
    about: Annotated[
        Literal["lens", "aim"],
        Shown("about", tip="What turns go about, and so stays where it is", words=_ABOUT, wide=3),
    ] = "lens"

    @property
    def looks_around(self) -> bool:
        return True

    @property
    def couples(self) -> bool:
        return _Mover.couples.fget(self) or (self.about == "aim" and not set(self.names).isdisjoint(ROTATION))  # type: ignore[attr-defined]


_ONLY_STOPS = Shown(
    "only where keys stop", tip="Follow exactly, and swing on only where keys stop at speed, or jump", wide=3
)


class Overshoot(_Mover, frozen=True, tag="overshoot", cache_hash=True):
    """A spring that follows what comes in: x'' + 2ζωx' + ω²x = ω²u, ω being 2π·``speed``.

    A step overshoots by ``bounce`` of its height, from which ζ follows: exp(−πζ/√(1−ζ²)) = bounce. Where only stops
    count, the value follows exactly until keys stop at speed, and swings on from there. ``loop``: the steady state of
    a motion that repeats after so many seconds.
    """

    label: ClassVar[str] = "overshoot"
    hint: ClassVar[str] = "Swings past where it stops, and settles"
    looks_elsewhere: ClassVar[bool] = True
    spaces: ClassVar[tuple[Space, ...]] = ("carrier", "world")

    rows: ClassVar[tuple[Row, ...]] = (("Bounce", "bounce", "speed", "loop"), ("", "only_stops"))

    id: ShortId = "overshoot"
    bounce: Annotated[float, Meta(ge=0.0, le=0.95), Shown("bounce", "share", 0.01, "of a step")] = 0.3
    speed: Annotated[float, Meta(ge=0.02, le=30.0), Shown("speed", "factor", 0.05, "swings/s")] = 1.5
    only_stops: Annotated[bool, _ONLY_STOPS] = True
    loop: _Loop = 0.0


_LATE = (("half-life", "half-life"), ("frames", "frames"))


class Lag(_Mover, frozen=True, tag="lag", cache_hash=True):
    """Comes after: half of the way in every half-life of ``delay`` seconds, or the same ``delay`` frames later."""

    label: ClassVar[str] = "lag"
    hint: ClassVar[str] = "Follows late: softened, or the same some frames later"
    looks_elsewhere: ClassVar[bool] = True
    spaces: ClassVar[tuple[Space, ...]] = ("carrier", "world")

    rows: ClassVar[tuple[Row, ...]] = (("Late by", "delay", "by"),)

    id: ShortId = "lag"
    by: Annotated[
        Literal["half-life", "frames"],
        Shown("by", tip="Softened, or the same some frames later", words=_LATE, wide=2),
    ] = "half-life"
    delay: Annotated[float, Meta(ge=0.0, le=10_000.0), Shown("delay", "seconds", 0.02)] = 0.2

    def shown(self, field: str) -> Shown:
        in_frames = field == "delay" and self.by == "frames"
        return Shown("delay") if in_frames else _Mover.shown(self, field)


class Limiter(_Mover, frozen=True, tag="limiter", cache_hash=True):
    """Between ``low`` and ``high``: hard, or bending towards them over the last ``soft`` of the way."""

    label: ClassVar[str] = "limit"
    hint: ClassVar[str] = "Never beyond two values, hard or softly"

    rows: ClassVar[tuple[Row, ...]] = (("Between", "low", "high", "soft"),)

    id: ShortId = "limiter"
    low: _Low = -1.0
    high: _High = 1.0
    soft: Annotated[float, Meta(ge=0.0, le=1e9), Shown("soft", "factor", 0.05, "soft over")] = 0.0

    def __post_init__(self) -> None:
        _Mover.__post_init__(self)
        if not self.low < self.high:
            raise ValueError("a limit must end above where it starts")


class StepHold(_Mover, frozen=True, tag="steps", cache_hash=True):
    """Held on every so many frames, counted from frame ``since``."""

    label: ClassVar[str] = "steps"
    hint: ClassVar[str] = "Moves only on every n-th frame, as a stop-motion does"
    looks_elsewhere: ClassVar[bool] = True

    rows: ClassVar[tuple[Row, ...]] = (("Every", "every", "since"),)

    id: ShortId = "steps"
    every: Annotated[float, Meta(ge=1.0, le=1000.0), Shown("every", caption="frames")] = 2.0
    since: _Since = 0.0


_WHEN = (("marker", "a marker"), ("beats", "every beat"), ("event", "an event"), ("contact", "a landing"))


class Impact(_Mover, frozen=True, tag="impact", cache_hash=True):
    """A burst of each target's amount at moments, halved every ``half_life`` seconds, at ``speed`` swings a second.

    The moments are the markers of a name, the beats, when an event comes true, or when a node that drops and rolls hits
    something by ``least`` units a second or more. With a ``seed`` bursts differ, else all are alike.
    """

    label: ClassVar[str] = "impact"
    hint: ClassVar[str] = "A jolt at a marker, a beat, an event, or when something lands"
    adds: ClassVar[bool] = True
    spaces: ClassVar[tuple[Space, ...]] = _ALL_SPACES

    id: ShortId = "impact"
    when: Annotated[
        Literal["marker", "beats", "event", "contact"], Shown("when", tip="What it waits for", words=_WHEN, wide=3)
    ] = "marker"
    name: Annotated[
        str, Meta(max_length=200), Shown("name", tip="The markers or the event that it comes with", wide=3)
    ] = ""
    """Of the marker (none: every one), or of the event."""
    node: Annotated[Identity | None, Shown("node", tip="What lands", wide=2)] = None
    least: Annotated[float, Meta(ge=0.0, le=1e6), Shown("least", "factor", 0.5, "from units/s")] = 1.0
    half_life: Annotated[float, Meta(ge=1e-3, le=600.0), Shown("half-life", "seconds", 0.02, "half-life")] = 0.15
    speed: Annotated[float, Meta(ge=0.1, le=60.0), Shown("speed", "factor", 0.1, "swings/s")] = 6.0

    @property
    def rows(self) -> tuple[Row, ...]:  # type: ignore[override]
        what: dict[str, tuple[Row, ...]] = {"beats": (), "contact": (("", "node", "least"),)}
        return (("At", "when"), *what.get(self.when, (("", "name"),)), ("Decay", "half_life", "speed", "seed"))

    @property
    def by_beats(self) -> bool:
        return self.when == "beats"

    def named(self) -> tuple[str, ...]:
        return (self.node,) if self.node is not None else ()


Mover = Oscillator | SteadyRate | Shake | Overshoot | Lag | Limiter | StepHold | Impact
MOVER_KINDS: tuple[type[Mover], ...] = get_args(Mover)


class NamedMovers(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Movers that were given a name, to be used again."""

    name: Name
    movers: Annotated[tuple[Mover, ...], Meta(min_length=1, max_length=32)]


class Unmoved(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a node was before its movers were made keys: its channels, and which of its movers were on."""

    channels: Annotated[tuple[Channel, ...], Meta(max_length=1000)]
    movers: tuple[ShortId, ...]
    take: bool = False
    """Whether its take was in use."""


def mover_specs(movers: tuple[Mover, ...]) -> Iterator[ChannelSpec]:
    """The channels that a node has of its movers."""
    if movers:
        yield _LIFE
    for each in movers:
        yield each.strength_spec


def without_nodes(movers: tuple[Mover, ...], gone: set[str]) -> tuple[Mover, ...]:
    """The movers when nodes are gone; one that has nothing left to wait for stays, and waits for nothing."""
    return tuple(
        msgspec.structs.replace(each, node=None) if isinstance(each, Impact) and each.node in gone else each
        for each in movers
    )


def renamed_nodes(movers: tuple[Mover, ...], name: Callable[[str], str]) -> tuple[Mover, ...]:
    """The movers with other nodes in place of some."""
    return tuple(
        msgspec.structs.replace(each, node=name(each.node))
        if isinstance(each, Impact) and each.node is not None
        else each
        for each in movers
    )
