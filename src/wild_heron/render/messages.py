"""What is said between a program and its render process, as MessagePack over a socket."""

from typing import Literal

import msgspec

from ..scene import Scene
from .patches import ScenePatch

SLOT_BYTES = 8192 * 4320 * 4
"""Room for one frame in shared memory. Memory that is never written is never taken."""

MAX_SIDE = 8192

RANKS = 6
"""How many nodes a pixel can tell of."""
PASS_NUMBERS = 3 + 2 * RANKS
"""Numbers to a pixel in passes: depth, motion across and down, and for each rank a node's number and its share."""


class ThroughLens(msgspec.Struct, frozen=True, tag="lens"):
    """Through a camera (None: what the output shows), in the named format (None: the scene's own frame).

    ``stretch``: instead of the picture, how far the first projection's photograph is stretched on what receives it.
    Red is 0.5 + log₂(output pixels to a photograph pixel) / 8, green whether it is received, alpha whether there is
    a receiver. Without ``projected`` no photographs are projected. ``camera`` may be a projection.

    ``around``: so many times as much is seen in each direction, about the same middle. ``mattes``: instead of the
    picture, where up to three groups of nodes are seen, in red, green and blue, without light and haze; alpha is how
    far artwork covers the background, as ever. ``alone``: nothing else but those nodes is drawn. ``transparent``:
    the background is left out, and colours are told without their alpha.
    """

    camera: str | None = None
    format: str | None = None
    stretch: bool = False
    projected: bool = True
    around: float = 1.0
    mattes: tuple[tuple[str, ...], ...] | None = None
    alone: bool = False
    transparent: bool = False


class FreeView(msgspec.Struct, frozen=True, tag="free"):
    """From anywhere. ``pose`` is a rigid world matrix, row-major; ``focal_px`` is the focal length in pixels of the
    picture that is asked for, or None for a parallel view of ``pixels_per_unit``."""

    pose: tuple[float, ...]
    focal_px: float | None
    pixels_per_unit: float = 0.0
    background: str = "#1c262b"


Numbers = Literal["bytes", "shown", "light", "full light"]
Precision = Literal["bytes", "half", "full"]


class FrameRequest(msgspec.Struct, frozen=True):
    """One picture: of which moment and how it is seen, how large, the mean of how many ``samples`` in time, and of
    which ``version`` of the scene.

    ``fine``: artwork and edges are averaged over each pixel, as in frames that go out. ``numbers``: bytes as a display
    is sent them; the same as 32-bit floats; or linear light as 32-bit floats, premultiplied, worked out in half or in
    full floats. ``passes``: depth, motion and nodes come with it.
    """

    frame: float
    view: ThroughLens | FreeView
    width: int
    height: int
    samples: int = 1
    version: int = 0
    fine: bool = False
    numbers: Numbers = "bytes"
    passes: bool = False
    ahead: tuple[float, ...] = ()
    """Frames that are asked for next, in the same way: where everything is then can be worked out with it at once."""

    @property
    def size(self) -> tuple[int, int]:
        return self.width, self.height

    @property
    def precision(self) -> Precision:
        """In what its picture is put together: fine enough for its numbers, and for colours that alpha is taken out
        of."""
        if self.numbers in ("shown", "full light"):
            return "full"
        clear = isinstance(self.view, ThroughLens) and self.view.transparent
        return "half" if clear or self.numbers == "light" else "bytes"

    @property
    def picture_bytes(self) -> int:
        """What its picture takes up."""
        return self.width * self.height * (4 if self.numbers == "bytes" else 16)

    @property
    def all_bytes(self) -> int:
        """What it takes up with its passes."""
        return self.picture_bytes + self.width * self.height * 4 * PASS_NUMBERS * self.passes


class SetScene(msgspec.Struct, frozen=True, tag="scene"):
    """The scene to draw from now on. ``base`` is the folder that artwork paths start from ("" for none).

    Several versions of a scene, by number, can be held at once, to be seen beside each other; they share artwork.
    """

    scene: Scene
    base: str
    version: int = 0
    allowed: tuple[str, ...] = ()
    """Folders outside of ``base`` whose files may be read."""
    serial: int = 0
    """Which of all that were sent."""


class ChangeScene(msgspec.Struct, frozen=True, tag="change"):
    """The same, told by what changed since the scene that was sent under a serial number."""

    patch: ScenePatch
    base: str
    version: int
    allowed: tuple[str, ...]
    serial: int
    since: int


class Reload(msgspec.Struct, frozen=True, tag="reload"):
    """Forget artwork that was read, so that changed or found files are read again."""


class Draw(msgspec.Struct, frozen=True, tag="draw"):
    """Draw one frame into a slot. A newer Draw with the same ``stream`` overtakes this one unless it must be kept.

    A frame that is kept waits for all artwork and uses it in full; others are drawn at once from what is there.
    """

    id: int
    stream: str
    slot: int
    picture: FrameRequest
    keep: bool = False


Request = SetScene | ChangeScene | Reload | Draw


class Ready(msgspec.Struct, frozen=True, tag="ready"):
    """The process is up; what draws."""

    renderer: str


class Drawn(msgspec.Struct, frozen=True, tag="drawn"):
    """The frame is in its slot: RGBA, rows from the top; alpha says how far artwork covers the background.

    ``seconds`` is what drawing took. Where it is not ``complete``, artwork is still being read; Loading follows when
    some has come.
    """

    id: int
    seconds: float
    complete: bool = True


class Dropped(msgspec.Struct, frozen=True, tag="dropped"):
    """A newer request overtook this one."""

    id: int


class Failed(msgspec.Struct, frozen=True, tag="failed"):
    """The request could not be carried out (id 0: the process could not start)."""

    id: int
    message: str


class Refused(msgspec.Struct, frozen=True, tag="refused"):
    """A scene or a request that could not be taken in; what was drawn before is drawn on."""

    message: str


class SendWhole(msgspec.Struct, frozen=True, tag="whole"):
    """A change was told of a scene that is not here: the whole is needed."""

    version: int


class Loading(msgspec.Struct, frozen=True, tag="loading"):
    """Artwork is being read: how many of how many, and what could not be read so far by node id."""

    done: int
    total: int
    problems: dict[str, str]


Reply = Ready | Drawn | Dropped | Failed | Refused | SendWhole | Loading


class RenderError(RuntimeError):
    """The render process cannot draw; the message says why."""


class ProcessEnded(RenderError):
    """The render process is gone."""
