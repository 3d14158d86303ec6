"""Cameras and cuts that come from other programs."""

from pathlib import Path

from PyQt6.QtWidgets import QWidget

from ...files.errors import FileError
from ...files.exchange.cameras import with_cameras
from ...files.exchange.cuts import with_cuts
from ...scene import SceneError
from ..state.document import Document

CAMERA_SUFFIXES = (".glb", ".gltf", ".usda", ".csv")
CUTS_SUFFIXES = (".otio",)


class ComingBackCommands:
    """Each brings in one file, as one step."""

    def __init__(self, document: Document, parent: QWidget) -> None:
        self._document, self._parent = document, parent

    def cameras(self, path: Path) -> None:
        """Add the cameras of a file, with their motion from the scene's first frame on."""
        document = self._document
        try:
            document.file.allow([path])
            found = document.file.reader.cameras(path, document.settings.rate.fps)
            scene, ids, notes = with_cameras(document.scene, found, float(document.settings.first))
        except (FileError, SceneError) as problem:
            document.messages.say(str(problem), True)
            return
        document.edit("Bring in a camera" if len(ids) == 1 else "Bring in cameras", lambda _: scene)
        document.selection.choose(ids)
        names = ", ".join(scene.node(each).name for each in ids)
        document.messages.say(" ".join([f"{names} came in from {path.name}.", *notes]))

    def cuts(self, path: Path) -> None:
        """Make the film's shots those of a timeline."""
        document = self._document
        try:
            document.file.allow([path])
            film = document.file.reader.cuts(path)
            scene, notes = with_cuts(document.scene, film, float(document.settings.first))
        except (FileError, SceneError) as problem:
            document.messages.say(str(problem), True)
            return
        document.edit("Bring in cuts", lambda _: scene)
        count = len(scene.shots)
        came = f"{count} {'shot' if count == 1 else 'shots'} came in from {path.name}."
        document.messages.say(" ".join([came, *notes]))
