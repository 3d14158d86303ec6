"""Messages between a program and its render process, as MessagePack over a socket."""

import msgspec

from ..gl.request import FrameRequest
from ..scene import Scene
from .patches import ScenePatch

SLOT_BYTES = 8192 * 4320 * 4
"""Room for one frame in shared memory. Memory that is never written is never taken."""


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
    stages: dict[str, float] = {}
    """Where they went, where that was asked for."""


class Dropped(msgspec.Struct, frozen=True, tag="dropped"):
    """A newer request overtook this one."""

    id: int


class Failed(msgspec.Struct, frozen=True, tag="failed"):
    """The request could not be carried out (id 0: the process could not start)."""

    id: int
    message: str


class RequestRefused(msgspec.Struct, frozen=True, tag="refused"):
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


Reply = Ready | Drawn | Dropped | Failed | RequestRefused | SendWhole | Loading


class RenderError(RuntimeError):
    """The render process cannot draw; the message says why."""


class ProcessEnded(RenderError):
    """The render process is gone."""
