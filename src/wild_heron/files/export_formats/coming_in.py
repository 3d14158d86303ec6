"""Imports cameras and cuts into a scene."""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from ...scene import Scene
from ..contents import FilmCuts, FoundCameras
from ..reader import Reader
from .camera_takes import with_cameras
from .timeline_cuts import with_cuts

CAMERA_SUFFIXES = (".glb", ".gltf", ".usda", ".csv")
CUTS_SUFFIXES = (".otio",)


class BroughtIn(NamedTuple):
    """The scene with what came, the new cameras, what came in a sentence, and what is to be said of it."""

    scene: Scene
    cameras: tuple[str, ...]
    said: str
    notes: tuple[str, ...]


def read_motion(
    path: Path, fps: float, reader: Reader, cancelled: Callable[[], bool] | None = None
) -> FoundCameras | FilmCuts:
    """What a file holds, by its suffix. FileError, and Cancelled once ``cancelled()`` says so."""
    if path.suffix.lower() in CUTS_SUFFIXES:
        return reader.cuts(path, cancelled)
    return reader.cameras(path, fps, cancelled)


def brought_in(scene: Scene, path: Path, found: FoundCameras | FilmCuts) -> BroughtIn:
    """Cameras, or the cuts of a timeline, from the scene's first frame on. SceneError where they have no place."""
    first = float(scene.settings.first)
    if isinstance(found, FilmCuts):
        cut, notes = with_cuts(scene, found, first)
        count = len(cut.shots)
        return BroughtIn(cut, (), f"{count} {'shot' if count == 1 else 'shots'} came in from {path.name}.", notes)
    grown, ids, notes = with_cameras(scene, found, first)
    names = ", ".join(grown.node(each).name for each in ids)
    return BroughtIn(grown, ids, f"{names} came in from {path.name}.", notes)
