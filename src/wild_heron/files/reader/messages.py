"""What can be asked of the reader process, and what comes back. ``RESULTS`` says which of what."""

from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from ...scene import Logo, Model, Picture, Text
from ..contents import (
    FilmCuts,
    FoundCameras,
    Layers,
    ModelSummary,
    MotionTrack,
    MovieInfo,
    PictureInfo,
    PixelsRead,
    SeenFromAbove,
    SolidData,
    SoundInfo,
    SoundRead,
    TakeTable,
    TextSize,
)


class Probe(msgspec.Struct, frozen=True, tag="probe"):
    """A picture's size."""


class ReadPicture(msgspec.Struct, frozen=True, tag="picture"):
    """A whole picture, no side longer than ``limit``."""

    limit: int


class ReadPixels(msgspec.Struct, frozen=True, tag="pixels"):
    """The pixels of any artwork but a movie; see ``decode.pixels``."""

    picture: Picture
    scale: float
    limit: int
    level: int
    linear: bool = False
    part: tuple[float, float, float, float] | None = None
    exact: bool = False


class ProbeMovie(msgspec.Struct, frozen=True, tag="movie"):
    """A movie's size, length and rate."""


class ReadFrame(msgspec.Struct, frozen=True, tag="frame"):
    """One frame of a movie."""

    index: int
    limit: int


class ReadLayers(msgspec.Struct, frozen=True, tag="layers"):
    """What is in a layered file."""


class ProbeLogo(msgspec.Struct, frozen=True, tag="logo"):
    """The size of vector art that is made of outlines."""


class Summarise(msgspec.Struct, frozen=True, tag="summary"):
    """What is in a glTF file."""


class BuildSolid(msgspec.Struct, frozen=True, tag="solid"):
    """The mesh of a logo, or of a model from a file."""

    node: Model | Logo


class MeasureText(msgspec.Struct, frozen=True, tag="text"):
    text: Text


class ListFamilies(msgspec.Struct, frozen=True, tag="families"):
    """The names of the installed fonts' families."""


class ReadHeights(msgspec.Struct, frozen=True, tag="heights"):
    """A picture's greys as heights from 0 to 1."""


class ReadSurface(msgspec.Struct, frozen=True, tag="surface"):
    """A model seen from above."""

    node: Model


class ReadTable(msgspec.Struct, frozen=True, tag="table"):
    """A table of frames."""


class ReadTake(msgspec.Struct, frozen=True, tag="take"):
    """A table of samples at times, or at frames of a rate."""

    fps: float


class ReadAnimation(msgspec.Struct, frozen=True, tag="animation"):
    """The motion of a glTF animation's first node."""

    animation: str
    fps: float
    start: float


class ReadCameras(msgspec.Struct, frozen=True, tag="cameras"):
    """The cameras of a glTF, USD or table, with their motion."""

    fps: float


class ReadCuts(msgspec.Struct, frozen=True, tag="cuts"):
    """The cuts of a timeline."""


class ListBeside(msgspec.Struct, frozen=True, tag="beside"):
    """The files that lie beside a glTF file and belong to it."""


class ProbeSound(msgspec.Struct, frozen=True, tag="sound"):
    """How long a sound is."""


class ReadSound(msgspec.Struct, frozen=True, tag="samples"):
    """All of a sound."""


Job = (
    Probe | ReadPicture | ReadPixels | ProbeMovie | ReadFrame | ReadLayers | ProbeLogo | Summarise | BuildSolid
    | MeasureText | ListFamilies | ReadHeights | ReadSurface | ReadTable | ReadTake | ReadAnimation | ProbeSound
    | ReadSound | ReadCameras | ReadCuts | ListBeside
)  # fmt: skip

RESULTS: dict[type, Any] = {
    Probe: PictureInfo,
    ReadPicture: NDArray[np.uint8],
    ReadPixels: PixelsRead,
    ProbeMovie: MovieInfo,
    ReadFrame: NDArray[np.uint8],
    ReadLayers: Layers,
    ProbeLogo: PictureInfo,
    Summarise: ModelSummary,
    BuildSolid: SolidData,
    MeasureText: TextSize,
    ListFamilies: list[str],
    ReadHeights: NDArray[np.float64],
    ReadSurface: SeenFromAbove,
    ReadTable: MotionTrack,
    ReadTake: TakeTable,
    ReadAnimation: MotionTrack,
    ProbeSound: SoundInfo,
    ReadSound: SoundRead,
    ReadCameras: FoundCameras,
    ReadCuts: FilmCuts,
    ListBeside: list[str],
}


class Ask(msgspec.Struct, frozen=True, tag="ask"):
    """A job for a file, whose descriptor comes along; ``path`` is its name in messages ("" for no file)."""

    path: str
    job: Job


class Given(msgspec.Struct, frozen=True, tag="given"):
    """The answer to ``Need``: a descriptor comes along, or why there is none."""

    problem: str = ""
    remedy: str = ""


class Need(msgspec.Struct, frozen=True, tag="need"):
    """A file beside the one that is read is needed."""

    name: str


class Done(msgspec.Struct, frozen=True, tag="done"):
    """The result is in the memory whose descriptor comes along, ``size`` bytes; see ``packing``."""

    size: int


class Refused(msgspec.Struct, frozen=True, tag="refused"):
    """The file cannot be read: a FileError in parts."""

    path: str
    what: str
    remedy: str


Reply = Need | Done | Refused
Request = Ask | Given
