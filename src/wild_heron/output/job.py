"""``ExportJob``: which frames to render, how, and how and where to write them."""

import os
import tempfile
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path

from ..arrays import Pixels
from ..files.errors import FileError, why
from ..gl.request import MAX_SIDE, FrameRequest, Numbers, ThroughLens
from ..scene import SceneError
from .kinds import SUFFIXES, Codec, Depth, OutputKind, kind_of
from .profile import Profile

USUAL_QUALITY = 80.0
MAX_HEIGHT = 4320
TILED_SIDE = 32_768
"""Of a frame that is drawn in tiles."""
TILED_KINDS = ("png", "tiff")
"""What is written of one, as it comes."""


@dataclass(frozen=True)
class ExportJob:
    """What to write: a movie, or frames whose name has ``#`` for the digits, or one frame without."""

    path: Path
    frames: tuple[float, ...]
    camera: str | None
    """Through which camera or framing; None for the output."""
    size: tuple[int, int]
    format: str | None = None
    samples: int = 1
    fine: bool = True
    """Whether artwork and edges are averaged over each pixel."""
    codec: str | None = None
    """One of the kind's; None for its first."""
    depth: Depth | None = None
    """Of a picture's numbers; None for the kind's first."""
    quality: float = USUAL_QUALITY
    """0 to 100, of what is lossy."""
    transparent: bool | None = None
    """Whether the background is left out; None: as the kind has it."""
    passes: bool = False
    """Whether EXR frames tell depth, motion and nodes."""
    processes: int = 1
    niceness: int = 0
    rate: Fraction | None = None
    """Frames of the movie a second; None for the scene's own."""
    allowed: tuple[str, ...] | None = None
    """Folders outside the scene's whose files may be read; None for those that the user has allowed."""
    sound: bool = True
    """Whether a movie has the scene's sound."""
    around: float = 1.0
    """How many frames wide the picture is."""
    overlay: Pixels | None = None
    """A picture (H, W, 4), of the job's size, that is laid over every frame."""
    profile: Profile | None = field(default=None, compare=False)
    """What is told where the time went."""
    tiled: bool = False
    """Whether frames are drawn in tiles, and so may be larger than can be drawn in one piece."""
    drawn: tuple[int, int] | None = None
    """What size frames are drawn and held at, where it is not ``size``: they are cut to it at the right and below."""

    @property
    def kind(self) -> OutputKind:
        """FileError where the name is of none."""
        found = kind_of(self.path, len(self.frames))
        if found is None:
            known = ", ".join(SUFFIXES)
            raise FileError(self.path, "is of no kind that can be written.", f"Use one of {known}.")
        return found

    @property
    def encoding(self) -> Codec:
        """Of a movie."""
        codecs = self.kind.codecs
        return next((each for each in codecs if each.name == self.codec), codecs[0])

    @property
    def depths(self) -> tuple[Depth, ...]:
        """That its numbers can have, the usual one first."""
        return self.encoding.depths if self.kind.movie else self.kind.depths

    @property
    def numbers(self) -> Depth:
        return self.depth or self.depths[0]

    @property
    def clear(self) -> bool:
        """Whether the background is left out."""
        return self.kind.clear if self.transparent is None else self.transparent

    @property
    def picture(self) -> FrameRequest:
        """How each frame is drawn, at whatever moment."""
        view = ThroughLens(self.camera, self.format, around=self.around, transparent=self.clear)
        told: dict[Depth, Numbers] = {"8": "bytes", "half": "light", "float": "full light"}
        numbers = told.get(self.numbers, "shown")
        return FrameRequest(
            0.0,
            view,
            *(self.drawn or self.size),
            self.samples,
            fine=self.fine,
            numbers=numbers,
            passes=self.passes,
            profile=self.profile is not None,
        )

    def check(self) -> None:
        """Raise FileError or SceneError where the job cannot be done, before anything is drawn."""
        kind = self.kind
        self._check_place()
        if not self.frames:
            raise SceneError("There are no frames to write: the range is empty.")
        width, height = self.size
        most = (TILED_SIDE, TILED_SIDE) if self.tiled else (MAX_SIDE, MAX_HEIGHT)
        if not (1 <= width <= most[0] and 1 <= height <= most[1]):
            larger = "" if self.tiled else " In tiles (--tiles) larger pictures are written, as PNG or TIFF."
            raise SceneError(f"{width} × {height} cannot be written: sizes up to {most[0]} × {most[1]} work.{larger}")
        if self.tiled:
            self._check_tiled()
        if self.codec is not None and self.codec not in (each.name for each in kind.codecs):
            known = ", ".join(each.name for each in kind.codecs)
            raise FileError(self.path, f"cannot be encoded as {self.codec}.", f"Use {known or 'another kind'}.")
        if self.depth is not None and self.depth not in self.depths:
            raise FileError(self.path, f"cannot hold {self.depth} numbers.", f"Use {' or '.join(self.depths)}.")
        if self.clear and not (kind.alpha and (not kind.movie or self.encoding.alpha)):
            what = self.encoding.label.split(",")[0] if kind.movie else kind.label
            raise FileError(self.path, f"cannot leave the background out: {what} has no transparency.", _CLEAR)
        if self.passes and kind.name != "exr":
            raise FileError(self.path, "cannot hold depth, motion and nodes.", "Use EXR frames: frame_####.exr.")
        if kind.movie and kind.codecs[0].factors is not None and kind.name != "webp-anim" and (width % 2 or height % 2):
            raise SceneError(f"This kind of movie needs an even width and height; {width} × {height} is not.")
        if not kind.movie:
            self._check_numbering()

    def _check_tiled(self) -> None:
        if self.kind.name not in TILED_KINDS or self.passes:
            what = "depth, motion and nodes" if self.passes else self.kind.label
            raise FileError(self.path, f"cannot be written in tiles: {what} cannot.", "Use PNG or TIFF frames.")

    def _check_place(self) -> None:
        if not self.path.parent.is_dir():
            raise FileError(self.path, "lies in a folder that is not there.", "Make the folder first.")
        if self.path.is_dir():
            raise FileError(self.path, "is a folder.", "Choose a file name.")
        if self.path.exists() and not self.path.is_file():
            raise FileError(self.path, "is not a plain file, and is not written over.", "Choose another name.")
        if (problem := _cannot_write(self.path.parent)) is not None:
            raise FileError(self.path, f"cannot be written: {why(problem)}", "Choose another place.")

    def _check_numbering(self) -> None:
        if "#" not in self.path.name and len(self.frames) > 1:
            name = f"frame_####{self.path.suffix}"
            raise FileError(self.path, "has no place for the frame number.", f"Use a name such as {name}.")
        names = [self.frame_path(frame) for frame in self.frames]
        if len(set(names)) < len(names):
            raise SceneError("Frames between whole frames would share a file name; use whole frames, or a movie.")

    def piece(self, path: Path, frames: tuple[float, ...]) -> "ExportJob":
        """The job of a part of a movie that is joined later: lossless, as deep as the movie, and without sound."""
        depth: Depth = "8" if self.numbers == "8" else "16"
        return replace(self, path=path, frames=frames, codec="ffv1", depth=depth, sound=False)

    def written(self) -> list[Path]:
        """The files that it writes."""
        return [self.path] if self.kind.movie else [self.frame_path(frame) for frame in self.frames]

    def frame_path(self, frame: float) -> Path:
        """The file of one frame: the run of # holds the frame number, padded with zeros."""
        name = self.path.name
        if "#" not in name:
            return self.path
        start = name.index("#")
        end = start + len(name[start:]) - len(name[start:].lstrip("#"))
        return self.path.with_name(f"{name[:start]}{round(frame):0{end - start}d}{name[end:]}")


_CLEAR = "Use PNG, TIFF, WebP or EXR frames, VP9 in .webm, or FFV1 in .mkv."


def _cannot_write(folder: Path) -> OSError | None:
    """Why nothing can be written in a folder; None where something can. A full disk is noticed too."""
    try:
        # Without a name, where the file system can: nothing is left whatever ends the program meanwhile.
        with tempfile.TemporaryFile(prefix=".trial.", suffix=".partial", dir=folder) as trial:
            trial.write(b"\0" * 65_536)
            trial.flush()
            os.fsync(trial.fileno())
    except OSError as problem:
        return problem
    return None
