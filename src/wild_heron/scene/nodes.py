"""The kinds of node. Each is told here whole: its fields, its channels, and what it can serve as.

``roles`` say what others can do with a node: everything else asks for a role, not for a kind.

seen: it shows in the picture itself, and so takes up room. solid: it is drawn by depth, with light and shadow.
lens: it can be looked through. camera: the output can show it. light, path: it is one. ground: it can be ridden.
receiver: photographs can be projected on it. framing: a tour can go to it. shown: a shot can show it.
"""

from typing import Annotated, ClassVar, Literal, get_args

import msgspec
from msgspec import Meta

from .artwork import Artwork, ImageFile, Source, Text, Tone, source_of, with_source
from .binds import AimAt, Bind
from .channel import Channel
from .channels import (
    ACROSS,
    ANCHORS,
    BLUR,
    FOCAL_LENGTHS,
    LENS_CHANNELS,
    OPACITIES,
    OPACITY,
    REACH,
    RELIEF,
    ROLL,
    SIZE,
    STRENGTH,
    UP,
    ChannelSpec,
)
from .grounds import Surface, Waves
from .inputs import Dial
from .movers import Mover, Unmoved
from .paths import CirclePath, Curve
from .solids import ModelFile, Shape
from .spans import CSS_EASE_IN_OUT, Ease
from .takes import TakeUse
from .types import Identity, Name, Role, Size

__all__ = [
    "AnyNode",
    "Camera",
    "FormatWindow",
    "Framing",
    "Ground",
    "Light",
    "Logo",
    "Model",
    "Null",
    "Path",
    "Picture",
    "Projection",
    "View",
]


Colour = Annotated[str, Meta(pattern=r"^(#[0-9a-fA-F]{6})?$")]
Pixels = Annotated[int, Meta(ge=1, le=65_536)]
Fit = Literal["width", "height", "cover", "contain"]
RotationOrder = Literal["xyz", "xzy", "yxz", "yzx", "zxy", "zyx"]


class Node(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """Anything with a place in space. Channels that sit at their default are not listed."""

    kind: ClassVar[str] = "node"
    placed: ClassVar[bool] = True
    """Whether its place in space means anything."""
    roles: ClassVar[frozenset[Role]] = frozenset()
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = ()
    """Besides those that every node has."""
    scales: ClassVar[bool] = True
    """Whether its size means anything."""
    named_nodes: ClassVar[dict[str, Role]] = {}
    """Fields that name other nodes, and as what those have to serve."""

    id: Identity
    name: Name
    carrier: Identity | None = None
    channels: Annotated[tuple[Channel, ...], Meta(max_length=1000)] = ()
    rotation_order: RotationOrder = "yxz"
    hidden: bool = False
    locked: bool = False
    colour: Colour = ""
    binds: Annotated[tuple[Bind, ...], Meta(max_length=32)] = ()
    dials: Annotated[tuple[Dial, ...], Meta(max_length=64)] = ()
    movers: Annotated[tuple[Mover, ...], Meta(max_length=32)] = ()
    take: TakeUse | None = None
    unmoved: Unmoved | None = None
    """What it was before its movers were made keys, to go back to."""

    def channel(self, name: str) -> Channel | None:
        """The stored channel, or None where it sits unkeyed at its default."""
        return next((channel for channel in self.channels if channel.name == name), None)

    def is_animated(self, name: str) -> bool:
        """Whether the channel's own keys, links or formula may change over time."""
        channel = self.channel(name)
        return channel is not None and channel.is_animated

    def serves_as(self, role: Role) -> bool:
        """Whether it can be used as something; see the roles."""
        return role in self.roles

    @property
    def file(self) -> str | None:
        """The file it comes from, relative to the scene file (of a sequence, with its run of #); None for none."""
        return None

    def with_file(self, source: str) -> "AnyNode":
        """The node with another file in place of its own. TypeError where it has none."""
        raise TypeError(f"{self.name} comes from no file")

    @property
    def aim(self) -> AimAt | None:
        """The first bind that aims the node, if any."""
        return next((bind for bind in self.binds if isinstance(bind, AimAt)), None)


class Null(Node, frozen=True, tag_field="kind", tag="null", cache_hash=True):
    """An invisible carrier."""

    kind: ClassVar[str] = "null"


class Picture(Node, frozen=True, kw_only=True, tag_field="kind", tag="picture", cache_hash=True):
    """A flat picture, centred on its anchor, facing +Z. Its size is in artwork pixels.

    ``takes_light``: lights shade it; otherwise it shows its own colours. ``takes_haze``: distance fades it.
    """

    kind: ClassVar[str] = "picture"
    roles: ClassVar[frozenset[Role]] = frozenset({"seen"})
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = (
        *ANCHORS,
        *OPACITIES,
        ChannelSpec(BLUR, "blur", "pixels", 0.0, 0.0, 1000.0, 0.5),
    )

    artwork: Artwork
    width: Pixels
    height: Pixels
    takes_light: bool = False
    takes_haze: bool = True

    @property
    def file(self) -> str | None:
        return source_of(self.artwork)

    def with_file(self, source: str) -> "Picture":
        return msgspec.structs.replace(self, artwork=with_source(self.artwork, source))


class Logo(Node, frozen=True, kw_only=True, tag_field="kind", tag="logo", cache_hash=True):
    """Outlines of vector art or text, flat or extruded towards −Z; each shape keeps its fill colour.

    Its size is in artwork pixels, ``depth`` and ``bevel`` too. ``side`` is the colour of its sides ("" for each
    shape's own, darkened), ``gloss`` how strongly it mirrors lights.
    """

    kind: ClassVar[str] = "logo"
    roles: ClassVar[frozenset[Role]] = frozenset({"seen", "solid"})
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = (*ANCHORS, *OPACITIES)

    outlines: ImageFile | Text
    width: Pixels
    height: Pixels
    depth: Annotated[float, Meta(ge=0.0, le=100_000.0)] = 0.0
    bevel: Annotated[float, Meta(ge=0.0, le=10_000.0)] = 0.0
    side: Colour = ""
    gloss: Annotated[float, Meta(ge=0.0, le=1.0)] = 0.3
    takes_light: bool = True
    takes_haze: bool = True

    @property
    def file(self) -> str | None:
        return source_of(self.outlines)

    def with_file(self, source: str) -> "Logo":
        return msgspec.structs.replace(self, outlines=with_source(self.outlines, source))


class Model(Node, frozen=True, kw_only=True, tag_field="kind", tag="model", cache_hash=True):
    """A solid, or the contents of a glTF file. ``surface`` is the colour where it has no material of its own."""

    kind: ClassVar[str] = "model"
    roles: ClassVar[frozenset[Role]] = frozenset({"seen", "solid", "ground", "receiver"})
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = (*ANCHORS, *OPACITIES)

    shape: Shape
    surface: Tone = "#b8b2a4"
    gloss: Annotated[float, Meta(ge=0.0, le=1.0)] = 0.1
    takes_light: bool = True
    takes_haze: bool = True

    @property
    def file(self) -> str | None:
        return self.shape.source if isinstance(self.shape, ModelFile) else None

    def with_file(self, source: str) -> "Model":
        assert isinstance(self.shape, ModelFile)
        return msgspec.structs.replace(self, shape=msgspec.structs.replace(self.shape, source=source))


class Light(Node, frozen=True, kw_only=True, tag_field="kind", tag="light", cache_hash=True):
    """A light. A directional one shines along its −Z from everywhere, a point from where it is, ambient all over.

    ``falloff`` says how a point light fades up to its reach: not at all, evenly, or with the square of the distance.
    ``shadow``: it casts shadows, whose edges are ``softness`` units wide; one light of a scene does.
    """

    kind: ClassVar[str] = "light"
    roles: ClassVar[frozenset[Role]] = frozenset({"light"})
    scales: ClassVar[bool] = False
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = (
        ChannelSpec(STRENGTH, "strength", "factor", 1.0, 0.0, 1000.0, 0.05),
        ChannelSpec(REACH, "reach", "units", 30.0, 1e-3, 1e7, 0.5),
    )

    light: Literal["ambient", "directional", "point"] = "directional"
    tint: Tone = "#ffffff"
    falloff: Literal["none", "even", "square"] = "square"
    shadow: bool = False
    softness: Annotated[float, Meta(ge=0.0, le=1000.0)] = 0.2


class Projection(Node, frozen=True, kw_only=True, tag_field="kind", tag="projection", cache_hash=True):
    """A photograph projected on models as from a slide projector that looks down its −Z.

    The lens is as wide as the photograph: the angle of view across it follows from focal length and sensor width.
    What the photograph does not reach, or reaches only behind something else, keeps its own colour.
    """

    kind: ClassVar[str] = "projection"
    roles: ClassVar[frozenset[Role]] = frozenset({"lens"})
    scales: ClassVar[bool] = False
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = (
        *FOCAL_LENGTHS,
        ChannelSpec(OPACITY, "strength", "share", 1.0, 0.0, 1.0, 0.01),
    )
    named_nodes: ClassVar[dict[str, Role]] = {"receivers": "receiver"}

    source: Source
    width: Pixels
    height: Pixels
    sensor_width: Annotated[float, Meta(gt=0.01, le=10_000)] = 36.0
    receivers: Annotated[tuple[Identity, ...], Meta(max_length=1000)] = ()

    @property
    def file(self) -> str | None:
        return self.source

    def with_file(self, source: str) -> "Projection":
        return msgspec.structs.replace(self, source=source)


class Path(Node, frozen=True, kw_only=True, tag_field="kind", tag="path", cache_hash=True):
    """A curve in space that others ride. It is not drawn in the picture."""

    kind: ClassVar[str] = "path"
    roles: ClassVar[frozenset[Role]] = frozenset({"path"})

    curve: Curve = CirclePath()


class Ground(Node, frozen=True, kw_only=True, tag_field="kind", tag="ground", cache_hash=True):
    """A surface of heights over a level rectangle of ``width`` (along x) by ``depth`` (along z) units.

    ``fineness``: how many faces its longer side is drawn with. Waves go on beyond its edge for what rides them.
    """

    kind: ClassVar[str] = "ground"
    roles: ClassVar[frozenset[Role]] = frozenset({"seen", "solid", "ground"})
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = (
        ChannelSpec(RELIEF, "relief", "factor", 1.0, -1000.0, 1000.0, 0.02),
        *OPACITIES,
    )

    surface: Surface = Waves()
    width: Size = 40.0
    depth: Size = 40.0
    fineness: Annotated[int, Meta(ge=2, le=256)] = 96
    tone: Tone = "#4d5b4a"
    gloss: Annotated[float, Meta(ge=0.0, le=1.0)] = 0.05
    takes_light: bool = True
    takes_haze: bool = True


class _Optics(Node, frozen=True, kw_only=True, cache_hash=True):
    """What a shot can show. It looks down its −Z. Sensor sizes are in millimetres."""

    scales: ClassVar[bool] = False
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = LENS_CHANNELS

    sensor_width: Annotated[float, Meta(gt=0.01, le=10_000)] = 36.0
    sensor_height: Annotated[float, Meta(gt=0.01, le=10_000)] = 24.0
    fit: Fit = "width"
    depth_of_field: bool = False


class Camera(_Optics, frozen=True, kw_only=True, tag_field="kind", tag="camera", cache_hash=True):
    """A camera."""

    kind: ClassVar[str] = "camera"
    roles: ClassVar[frozenset[Role]] = frozenset({"lens", "camera", "shown"})


class Framing(_Optics, frozen=True, kw_only=True, tag_field="kind", tag="framing", cache_hash=True):
    """A stored framing: pose, aim, lens and focus, in the world or on a carrier that it travels with.

    A tour comes to it by ``ease`` in ``time`` seconds, or at ``time`` units a second, and stays for ``stay`` seconds.
    """

    kind: ClassVar[str] = "framing"
    roles: ClassVar[frozenset[Role]] = frozenset({"lens", "framing", "shown"})

    ease: Ease = CSS_EASE_IN_OUT
    time: Annotated[float, Meta(gt=0.0, le=1e6)] = 2.0
    timed_by: Literal["seconds", "speed"] = "seconds"
    stay: Annotated[float, Meta(ge=0.0, le=3600.0)] = 0.5


Weight = Annotated[float, Meta(ge=0.01, le=10_000.0)]


class FormatWindow(Node, frozen=True, kw_only=True, tag_field="kind", tag="window", cache_hash=True):
    """Where a format's frame lies in the camera's picture, over time.

    Its middle is so many widths and heights of the scene's frame to the right of and above that one's; of what the
    format shows by its fit it shows ``size`` times as much in each direction; and it is rolled clockwise.

    Where it follows subjects, standing ``still``, going on ``steady`` and changing speed ``smooth``ly are worth so much
    against each other.
    """

    kind: ClassVar[str] = "window"
    placed: ClassVar[bool] = False
    roles: ClassVar[frozenset[Role]] = frozenset({"window"})
    scales: ClassVar[bool] = False
    own_channels: ClassVar[tuple[ChannelSpec, ...]] = (
        ChannelSpec(ACROSS, "across", "share", 0.0, -4.0, 4.0, 0.01),
        ChannelSpec(UP, "up", "share", 0.0, -4.0, 4.0, 0.01),
        ChannelSpec(SIZE, "size", "factor", 1.0, 0.01, 8.0, 0.01),
        ChannelSpec(ROLL, "roll", "degrees", 0.0, -3600.0, 3600.0, 1.0),
    )
    still: Weight = 1.0
    steady: Weight = 10.0
    smooth: Weight = 100.0


View = Camera | Framing
"""What a shot can show."""


AnyNode = Null | Picture | Logo | Model | Camera | Framing | Light | Projection | Path | Ground | FormatWindow
NODE_KINDS: tuple[type[AnyNode], ...] = get_args(AnyNode)
