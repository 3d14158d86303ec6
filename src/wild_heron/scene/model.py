"""What a scene is: frozen structs that the project file spells out one to one.

Everything is immutable and hashable, so a scene can be shared between threads, kept for undo, and used as a key.
"""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from .artwork import Tone
from .checks import ChecksOfScene
from .errors import UnknownNodeError
from .events import Event
from .film import MAX_SHOTS, JoiningRule, Shot
from .guides import Guides
from .movers import NamedMovers
from .moves import Move
from .nodes import AnyNode, Fit, Pixels
from .rates import Rate
from .sound import Beats, Sound
from .spans import CSS_EASE_IN_OUT, Ease, Flow, Hold
from .takes import Take
from .types import Identity, Name, Number


class Format(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """An output frame, and how it sits in the camera's picture (which has the scene's frame size).

    cover: inside the picture, as large as it goes. contain: around the picture, as small as it goes.
    width, height: as wide, or as high, as the picture. ``window``: the node that says where it lies in it over time;
    None: in the middle. ``guides``: what is drawn over it in the Lens.
    """

    name: Name
    width: Pixels
    height: Pixels
    fit: Fit = "cover"
    window: Identity | None = None
    guides: Guides = Guides()

    @classmethod
    def fresh(cls, name: str, width: int, height: int) -> "Format":
        """One that is new in a scene: over a tall picture the band for text is shown."""
        return cls(name, width, height, guides=Guides(("text",)) if height >= 1.5 * width else Guides())

    @property
    def plain(self) -> "Format":
        """The format as far as its pictures go: without guides."""
        return self if self.guides == Guides() else msgspec.structs.replace(self, guides=Guides())


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


MarkerKind = Literal["moment", "beat", "chapter"]


class Marker(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A named moment, a beat of the music, or the beginning of a chapter."""

    frame: Number
    name: Name
    kind: MarkerKind = "moment"
    colour: Annotated[str, Meta(pattern=r"^(#[0-9a-fA-F]{6})?$")] = ""


class LivePass(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A film as it was once switched live."""

    name: Name
    shots: Annotated[tuple[Shot, ...], Meta(max_length=MAX_SHOTS)]


LightSpace = Literal["linear", "display"]
Exposure = Literal["box", "soft"]

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
    light: LightSpace = "linear"
    """What colours are mixed as: linear light, or the values that a display is sent."""
    exposure: Exposure = "box"
    """How a shutter lets light in while it is open: evenly, or opening and closing softly."""

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
    shots: Annotated[tuple[Shot, ...], Meta(max_length=MAX_SHOTS)] = ()
    """In the order of their first frames. Without any the output shows ``camera``."""
    rules: Annotated[tuple[JoiningRule, ...], Meta(max_length=1000)] = ()
    events: Annotated[tuple[Event, ...], Meta(max_length=200)] = ()
    passes: Annotated[tuple[LivePass, ...], Meta(max_length=20)] = ()
    """Films that were switched live, to choose from."""
    sounds: Annotated[tuple[Sound, ...], Meta(max_length=16)] = ()
    beats: Beats | None = None
    movers: Annotated[tuple[NamedMovers, ...], Meta(max_length=128)] = ()
    """Movers that were given a name, to be used again."""
    takes: Annotated[tuple[Take, ...], Meta(max_length=1000)] = ()
    moves: Annotated[tuple[Move, ...], Meta(max_length=200)] = ()
    """Moves that were kept, to be put on subjects again."""
    checks: ChecksOfScene = ChecksOfScene()
    guides: Guides = Guides()
    """Of the scene's own frame."""

    def __contains__(self, node_id: str) -> bool:
        return any(node.id == node_id for node in self.nodes)

    def node(self, node_id: str) -> AnyNode:
        """The node with this id; UnknownNodeError where there is none."""
        for node in self.nodes:
            if node.id == node_id:
                return node
        raise UnknownNodeError(node_id)

    def with_node(self, node: AnyNode) -> "Scene":
        """The scene with ``node`` in place of the one with its id; the same scene where nothing changed."""
        if self.node(node.id) is node:
            return self
        return msgspec.structs.replace(self, nodes=tuple(node if old.id == node.id else old for old in self.nodes))

    def carried_by(self, node_id: str | None) -> tuple[AnyNode, ...]:
        """The nodes that ``node_id`` carries directly (None: those without a carrier), in order."""
        return tuple(node for node in self.nodes if node.carrier == node_id)

    def formats_with_main(self) -> tuple[Format, ...]:
        """Every output frame, the scene's own first."""
        main = main_format(self.settings)
        return (main if self.guides == Guides() else msgspec.structs.replace(main, guides=self.guides), *self.formats)

    def plain_formats(self) -> tuple[Format, ...]:
        """The same without their guides."""
        return tuple(each.plain for each in self.formats_with_main())


def main_format(settings: Settings) -> Format:
    """The camera's own picture as a format."""
    width, height = settings.width, settings.height
    shapes = {(16, 9): "Wide 16:9", (9, 16): "Vertical 9:16", (1, 1): "Square 1:1", (4, 5): "Portrait 4:5"}
    name = next((label for (a, b), label in shapes.items() if width * b == height * a), f"{width} × {height}")
    return Format(name, width, height, "cover")
