"""What a scene is: frozen structs that the project file spells out one to one.

Everything is immutable and hashable, so a scene can be shared between threads, kept for undo, and used as a key.
"""

from bisect import bisect_left
from typing import Annotated, ClassVar, Literal

import msgspec
from msgspec import Meta

from .artwork import Artwork, ImageFile, Source, Text, Tone
from .binds import AimAt, Bind
from .errors import UnknownNodeError
from .formulas import MAX_LENGTH
from .grounds import Surface, Waves
from .inputs import Dial, Link
from .paths import CirclePath, Curve
from .rates import Rate
from .solids import Shape
from .spans import CSS_EASE_IN_OUT, Beyond, Ease, Flow, Hold, Linear, Span
from .types import Identity, Name, Number, Size

Colour = Annotated[str, Meta(pattern=r"^(#[0-9a-fA-F]{6})?$")]
Pixels = Annotated[int, Meta(ge=1, le=65_536)]
Fit = Literal["width", "height", "cover", "contain"]
RotationOrder = Literal["xyz", "xzy", "yxz", "yzx", "zxy", "zyx"]


SAME_FRAME = 1e-6
"""Frames that differ by no more are one."""

MAX_KEYS = 100_000
"""Of one channel."""


class Key(msgspec.Struct, frozen=True, gc=False, forbid_unknown_fields=True):
    """A value at a frame, and the span that leads from it to the next key."""

    frame: Number
    value: Number
    span: Span = Linear()


class Channel(msgspec.Struct, frozen=True, gc=False, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """One animatable number of a node. ``value`` holds while there are no keys; keys are in order of frame.

    What the links give is added to that, and a formula makes of the sum what it says.
    """

    name: str
    value: Number = 0.0
    keys: Annotated[tuple[Key, ...], Meta(max_length=MAX_KEYS)] = ()
    locked: bool = False
    before: Beyond = "hold"
    after: Beyond = "hold"
    links: Annotated[tuple[Link, ...], Meta(max_length=32)] = ()
    formula: Annotated[str, Meta(max_length=MAX_LENGTH)] = ""

    @property
    def has_inputs(self) -> bool:
        """Whether something else than its own keys has a say in it."""
        return bool(self.links or self.formula)

    @property
    def is_animated(self) -> bool:
        """Whether it may change over time."""
        return bool(self.keys) or self.has_inputs

    def key_at(self, frame: float) -> Key | None:
        at = bisect_left(self.keys, frame - SAME_FRAME, key=lambda key: key.frame)
        return self.keys[at] if at < len(self.keys) and abs(self.keys[at].frame - frame) <= SAME_FRAME else None


class Node(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True):
    """Anything with a place in space. Channels that sit at their default are not listed."""

    kind: ClassVar[str] = "node"

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

    def channel(self, name: str) -> Channel | None:
        """The stored channel, or None where it sits unkeyed at its default."""
        return next((channel for channel in self.channels if channel.name == name), None)

    def is_animated(self, name: str) -> bool:
        """Whether a channel may change over time."""
        channel = self.channel(name)
        return channel is not None and channel.is_animated

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

    artwork: Artwork
    width: Pixels
    height: Pixels
    takes_light: bool = False
    takes_haze: bool = True


class Logo(Node, frozen=True, kw_only=True, tag_field="kind", tag="logo", cache_hash=True):
    """Outlines of vector art or text, flat or extruded towards −Z; each shape keeps its fill colour.

    Its size is in artwork pixels, ``depth`` and ``bevel`` too. ``side`` is the colour of its sides ("" for each
    shape's own, darkened), ``gloss`` how strongly it mirrors lights.
    """

    kind: ClassVar[str] = "logo"

    outlines: ImageFile | Text
    width: Pixels
    height: Pixels
    depth: Annotated[float, Meta(ge=0.0, le=100_000.0)] = 0.0
    bevel: Annotated[float, Meta(ge=0.0, le=10_000.0)] = 0.0
    side: Colour = ""
    gloss: Annotated[float, Meta(ge=0.0, le=1.0)] = 0.3
    takes_light: bool = True
    takes_haze: bool = True


class Model(Node, frozen=True, kw_only=True, tag_field="kind", tag="model", cache_hash=True):
    """A solid, or the contents of a glTF file. ``surface`` is the colour where it has no material of its own."""

    kind: ClassVar[str] = "model"

    shape: Shape
    surface: Tone = "#b8b2a4"
    gloss: Annotated[float, Meta(ge=0.0, le=1.0)] = 0.1
    takes_light: bool = True
    takes_haze: bool = True


class Light(Node, frozen=True, kw_only=True, tag_field="kind", tag="light", cache_hash=True):
    """A light. A directional one shines along its −Z from everywhere, a point from where it is, ambient all over.

    ``falloff`` says how a point light fades up to its reach: not at all, evenly, or with the square of the distance.
    ``shadow``: it casts shadows, whose edges are ``softness`` units wide; one light of a scene does.
    """

    kind: ClassVar[str] = "light"

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

    source: Source
    width: Pixels
    height: Pixels
    sensor_width: Annotated[float, Meta(gt=0.01, le=10_000)] = 36.0
    receivers: Annotated[tuple[Identity, ...], Meta(max_length=1000)] = ()


class Path(Node, frozen=True, kw_only=True, tag_field="kind", tag="path", cache_hash=True):
    """A curve in space that others ride. It is not drawn in the picture."""

    kind: ClassVar[str] = "path"

    curve: Curve = CirclePath()


class Ground(Node, frozen=True, kw_only=True, tag_field="kind", tag="ground", cache_hash=True):
    """A surface of heights over a level rectangle of ``width`` (along x) by ``depth`` (along z) units.

    ``fineness``: how many faces its longer side is drawn with. Waves go on beyond its edge for what rides them.
    """

    kind: ClassVar[str] = "ground"

    surface: Surface = Waves()
    width: Size = 40.0
    depth: Size = 40.0
    fineness: Annotated[int, Meta(ge=2, le=256)] = 96
    tone: Tone = "#4d5b4a"
    gloss: Annotated[float, Meta(ge=0.0, le=1.0)] = 0.05
    takes_light: bool = True
    takes_haze: bool = True


class Camera(Node, frozen=True, kw_only=True, tag_field="kind", tag="camera", cache_hash=True):
    """A camera looks down its −Z. Sensor sizes are in millimetres."""

    kind: ClassVar[str] = "camera"

    sensor_width: Annotated[float, Meta(gt=0.01, le=10_000)] = 36.0
    sensor_height: Annotated[float, Meta(gt=0.01, le=10_000)] = 24.0
    fit: Fit = "width"
    depth_of_field: bool = False


AnyNode = Null | Picture | Logo | Model | Camera | Light | Projection | Path | Ground


class Format(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """An output frame, and how it sits in the camera's picture (which has the scene's frame size).

    cover: inside the picture, as large as it goes. contain: around the picture, as small as it goes.
    width, height: as wide, or as high, as the picture.
    """

    name: Name
    width: Pixels
    height: Pixels
    fit: Fit = "cover"


class Distance(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How distance from the lens looks: between ``start`` and ``end`` units everything fades to ``colour`` by
    ``strength``, and pictures blur up to a radius of ``blur`` artwork pixels."""

    colour: Tone = "#7b86a8"
    start: Annotated[float, Meta(ge=0.0, le=1e7)] = 15.0
    end: Annotated[float, Meta(gt=0.0, le=1e7)] = 60.0
    strength: Annotated[float, Meta(ge=0.0, le=1.0)] = 0.6
    blur: Annotated[float, Meta(ge=0.0, le=1000.0)] = 0.0

    def __post_init__(self) -> None:
        if not self.start < self.end:
            raise ValueError("haze must end farther away than it starts")


class NamedEase(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """An ease that was given a name, to be used again."""

    name: Name
    ease: Ease


class Marker(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A named moment."""

    frame: Number
    name: Name


MAX_FRAMES = 100_000
"""How long a scene may be: over an hour at 24 frames per second."""


class Settings(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Frame size in pixels, rate, first and last frame, and what a unit is worth."""

    width: Pixels = 1920
    height: Pixels = 1080
    rate: Rate = Rate()
    first: Annotated[int, Meta(ge=-1_000_000, le=1_000_000)] = 0
    last: Annotated[int, Meta(ge=-1_000_000, le=1_000_000)] = 239
    pixels_per_unit: Annotated[float, Meta(gt=1e-3, le=1e6)] = 100.0
    mm_per_unit: Annotated[float, Meta(gt=1e-3, le=1e9)] = 100.0
    background: Tone = "#000000"
    distance: Distance | None = None
    new_keys: Ease | Flow | Hold = CSS_EASE_IN_OUT
    """The span of a channel's first keys; later ones take after their neighbours."""

    def __post_init__(self) -> None:
        if self.last < self.first:
            raise ValueError("the last frame must not come before the first")
        if self.frame_count > MAX_FRAMES:
            raise ValueError(f"a scene may have up to {MAX_FRAMES} frames; this one would have {self.frame_count}")

    @property
    def frame_count(self) -> int:
        return self.last - self.first + 1


MAX_NODES = 10_000


class Scene(msgspec.Struct, frozen=True, forbid_unknown_fields=True, cache_hash=True):
    """The document. Nodes later in the list lie over earlier ones where they share a plane."""

    name: Name = "Untitled"
    settings: Settings = Settings()
    nodes: Annotated[tuple[AnyNode, ...], Meta(max_length=MAX_NODES)] = ()
    camera: Identity | None = None
    formats: Annotated[tuple[Format, ...], Meta(max_length=256)] = ()
    eases: Annotated[tuple[NamedEase, ...], Meta(max_length=128)] = ()
    markers: Annotated[tuple[Marker, ...], Meta(max_length=10_000)] = ()
    """In the order of their frames."""

    def __contains__(self, node_id: str) -> bool:
        return any(node.id == node_id for node in self.nodes)

    def node(self, node_id: str) -> AnyNode:
        """The node with this id; UnknownNodeError where there is none."""
        for node in self.nodes:
            if node.id == node_id:
                return node
        raise UnknownNodeError(node_id)

    def carried_by(self, node_id: str | None) -> tuple[AnyNode, ...]:
        """The nodes that ``node_id`` carries directly (None: those without a carrier), in order."""
        return tuple(node for node in self.nodes if node.carrier == node_id)

    def formats_with_main(self) -> tuple[Format, ...]:
        """Every output frame, the scene's own first."""
        return (main_format(self.settings), *self.formats)


def main_format(settings: Settings) -> Format:
    """The camera's own picture as a format."""
    width, height = settings.width, settings.height
    shapes = {(16, 9): "Wide 16:9", (9, 16): "Vertical 9:16", (1, 1): "Square 1:1", (4, 5): "Portrait 4:5"}
    name = next((label for (a, b), label in shapes.items() if width * b == height * a), f"{width} × {height}")
    return Format(name, width, height, "cover")
