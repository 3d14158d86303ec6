"""Markers: named moments on the ruler, set and found from the keyboard."""

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QColorDialog, QInputDialog, QWidget

from ...edits import marker_at, neighbouring_markers, remove_marker, set_marker
from ...scene import Marker
from ...scene.model import MarkerKind
from ..state.document import Document
from ..widgets.theme import REED, RUST, SKY

MARKER_TONES: dict[str, str] = {"moment": RUST, "beat": SKY, "chapter": REED}
"""Of markers that have no colour of their own."""


class MarkerCommands(QObject):
    """Acts on the marker at the playhead."""

    def __init__(self, document: Document, window: QWidget) -> None:
        super().__init__()
        self._document, self._window = document, window

    def add(self) -> None:
        """A marker at the playhead; where there is one, its name."""
        document, frame = self._document, self._document.playhead.frame
        if marker_at(document.scene, frame) is not None:
            self.rename()
        elif document.edit("Add a marker", lambda scene: set_marker(scene, frame)):
            made = marker_at(document.scene, frame)
            document.messages.say(f"{made.name if made else 'Marker'} at frame {frame:g}. P, N names it.")

    def rename(self) -> None:
        marker = marker_at(self._document.scene, self._document.playhead.frame)
        if marker is None:
            self._document.messages.say("There is no marker at the playhead. P, M adds one.", True)
        else:
            rename_marker(self._document, marker, self._window)

    def toggle_kind(self, kind: MarkerKind) -> None:
        """Make the marker at the playhead one of a kind, or a moment again."""
        document, frame = self._document, self._document.playhead.frame
        marker = marker_at(document.scene, frame)
        if marker is None:
            document.messages.say("There is no marker at the playhead. P, M adds one.", True)
            return
        new = "moment" if marker.kind == kind else kind
        document.edit(f"Mark as a {new}", lambda scene: set_marker(scene, frame, marker.name, new))

    def colour(self) -> None:
        """Choose a colour for the marker at the playhead."""
        document, frame = self._document, self._document.playhead.frame
        marker = marker_at(document.scene, frame)
        if marker is None:
            document.messages.say("There is no marker at the playhead. P, M adds one.", True)
            return
        chosen = QColorDialog.getColor(QColor(marker.colour or MARKER_TONES[marker.kind]), self._window, marker.name)
        if chosen.isValid():
            document.edit(
                f"Colour {marker.name}", lambda scene: set_marker(scene, frame, marker.name, None, chosen.name())
            )

    def remove(self) -> None:
        document, frame = self._document, self._document.playhead.frame
        marker = marker_at(document.scene, frame)
        if marker is None:
            document.messages.say(
                "There is no marker at the playhead. Ctrl+[ and Ctrl+] go from marker to marker.", True
            )
        else:
            document.edit(f"Remove {marker.name}", lambda scene: remove_marker(scene, frame))

    def go(self, forward: bool) -> None:
        """To the marker before or after the playhead."""
        before, after = neighbouring_markers(self._document.scene, self._document.playhead.frame)
        target = after if forward else before
        if target is None:
            self._document.messages.say("There is no marker further that way.")
        else:
            self._document.playhead.set_frame(target)


def rename_marker(document: Document, marker: Marker, parent: QWidget) -> None:
    """Ask for a marker's name."""
    name, accepted = QInputDialog.getText(parent, "Marker", "Its name:", text=marker.name)
    if accepted and name.strip():
        document.edit(f"Name marker {name.strip()}", lambda scene: set_marker(scene, marker.frame, name))
