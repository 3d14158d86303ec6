"""Writes a move in the format that a file's name asks for, whole or not at all."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple

from ...scene import Format, Scene, SceneError
from ...scene.output import has_output
from ..atomic import write_atomically
from ..errors import FileError
from ..extras import needing
from ..permission import allowed_folders, for_scene
from ..project import encode
from ..reader import Reader
from .fewest import Tolerances
from .move import Wanted, move_of
from .notes import notes_of


class MoveFormat(NamedTuple):
    """A format that a move can be written in. ``samples``: it holds where things are, frame by frame; ``shows``: it can
    name the pictures that were made of it."""

    suffix: str
    label: str
    samples: bool = True
    shows: bool = False


FORMATS = (
    MoveFormat(".glb", "glTF 2.0: camera, nulls, cards, models and lights"),
    MoveFormat(".usda", "OpenUSD: the same, with focus and shutter"),
    MoveFormat(".usdc", "OpenUSD, binary"),
    MoveFormat(".usdz", "OpenUSD, with its pictures in one file"),
    MoveFormat(".otio", "OpenTimelineIO: the film's cuts", False, True),
    MoveFormat(".csv", "Table: a line a frame"),
    MoveFormat(".json", "The scene itself, as JSON", False),
)
BY_SUFFIX = {each.suffix: each for each in FORMATS}


class MoveJob(NamedTuple):
    """What is written: which frames, through which camera (None: the output), with which other nodes (None: all), as
    few keys as keep within ``few`` (None: every frame), in which format's frame, and what files may be read."""

    path: Path
    frames: tuple[float, ...]
    camera: str | None = None
    nodes: Sequence[str] | None = None
    few: Tolerances | None = None
    shape: Format | None = None
    allowed: tuple[str, ...] | None = None
    picture: Path | None = None
    """Of a timeline: the movie, or the numbered frames, that its clips show."""

    def check(self) -> None:
        """FileError or SceneError where it cannot be done."""
        if self.path.suffix.lower() not in BY_SUFFIX:
            known = ", ".join(BY_SUFFIX)
            raise FileError(self.path, "is of no kind that a move can be written in.", f"Use one of {known}.")
        if not self.path.parent.is_dir():
            raise FileError(self.path, "lies in a folder that is not there.", "Make the folder first.")
        if self.path.exists() and not self.path.is_file():
            raise FileError(self.path, "is not a plain file, and is not written over.", "Choose another name.")
        if not self.frames:
            raise SceneError("There are no frames to write: the range is empty.")


def write_move(
    scene: Scene,
    base: Path | None,
    job: MoveJob,
    step: Callable[[str], None] = lambda what: None,
) -> tuple[str, ...]:
    """Write it; what other programs get otherwise than it is here, a sentence each. ``step`` is told what is done next,
    and may raise. FileError or SceneError leave what was there."""
    job.check()
    suffix = job.path.suffix.lower()
    if suffix == ".json":
        write_atomically(job.path, encode(scene))
        return ()
    if suffix == ".otio":
        with needing():
            from .timeline import film_text

        if not has_output(scene):
            raise SceneError("There is no film to write: the scene has no camera. Camera ▸ Add camera makes one.")
        write_atomically(job.path, film_text(scene, base, job.path, job.picture).encode())
        blends = "Blends between cameras are told as custom transitions, and what they are in the metadata."
        bare = "Its clips have no pictures yet: name the movie that is made of the film, for them to show it."
        return (blends,) if job.picture is not None else (blends, bare)

    def working() -> None:
        step("Working out the move")

    working()
    wanted = Wanted(job.frames, job.camera, job.nodes, job.few, job.shape, carried=suffix != ".csv")
    move = move_of(scene, base, wanted, working)
    notes = notes_of(move, suffix)
    if move.camera is None and not move.nodes:
        raise SceneError("There is nothing to write: no camera, and none of the nodes has a place elsewhere.")
    if suffix == ".csv":
        from .table import table

        write_atomically(job.path, table(move).encode())
        return notes
    step("Gathering artwork")
    allowed = allowed_folders() if job.allowed is None else job.allowed
    with Reader(1, for_scene(base, allowed)) as reader:
        if suffix == ".glb":
            from .gltf import gltf

            data = gltf(move, reader)
            step("Writing")
            write_atomically(job.path, data)
        else:
            with needing():
                from .usd_files import write_usd

            write_usd(move, job.path, reader, step)
    return notes
