"""How a move is put: on what, over which frames, how large, how far, from where, and what it is kept to."""

from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QFormLayout, QHBoxLayout, QWidget

from ...edits.moves import Placing
from ...edits.rigs import FrameRange
from ...motion.tempo import beat_frames
from ...scene import Camera, Scene, SceneError
from ...scene.channels import ChannelSpec
from ...scene.moves import Move
from ..state.document import Document
from ..widgets.dialog import beside
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import Choice, label
from .likely import has_no_size, likely_span, likely_subject

_LENGTHS = (
    ("range", "to a frame"), ("own", "its own"), ("marker", "to the next marker"), ("beats", "its beats"),
)  # fmt: skip
_PARTS = (("distance", "nearer or farther"), ("turn", "shorter"), ("length", "slower"))


def _form() -> QFormLayout:
    out = QFormLayout()
    out.setVerticalSpacing(6)
    out.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
    return out


class Options(NamedTuple):
    """What was chosen. ``fits``: kept within what is covered, by changes of what it ``may``."""

    subject: str
    other: str | None
    span: FrameRange
    how: Placing
    fits: bool
    may: frozenset[str]


class MoveOptions(QWidget):
    """A form; ``changed`` whenever something else was chosen."""

    changed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(16)
        self._about, self._how = (_form() for _ in range(2))
        for form, room in ((self._about, 7), (self._how, 6)):
            row.addLayout(form, room)
        self.subject, self.other = self._choice("What the move is about"), self._choice("Where it goes to")
        first, last = likely_span(document)
        self.reach = self._number("height of the subject", "units", 2.0, 1e-3, 1e6, 0.1)
        self.first = self._number("first frame", "count", first, -1e6, 1e6, 1.0)
        self.last = self._number("last frame", "count", last, -1e6, 1e6, 1.0)
        self.length = self._choice("How long it is")
        for value, text in _LENGTHS:
            self.length.addItem(text, value)
        self.format = self._choice("For which format")
        for text, field in (
            ("Subject", self.subject), ("Its height", self.reach), ("Goes to", self.other), ("From frame", self.first),
            ("Length", self.length), ("To frame", self.last), ("Format", self.format),
        ):  # fmt: skip
            self._about.addRow(text, field)
        self.side = self._number("from the side", "degrees", 0.0, -3600.0, 3600.0, 1.0)
        self.distance = self._number("times as far away", "factor", 1.0, 0.01, 100.0, 0.01)
        self.strength = self._number("of its way", "factor", 1.0, 0.0, 10.0, 0.01)
        for text, field in (("Side", self.side), ("Distance ×", self.distance), ("Way ×", self.strength)):
            self._how.addRow(text, field)
        self.mirrored, self.backwards = self._switch("mirrored"), self._switch("backwards")
        self._how.addRow("", beside(self.mirrored, self.backwards))
        self.filmed = self._switch("shown in the film", True)
        self.filmed.setToolTip("The film shows it over its range, as a shot; otherwise only its camera is made")
        self._how.addRow("", self.filmed)
        self.fits = self._switch("kept within the set")
        self.fits.setToolTip("The smallest change that leaves no bare edge, runs into nothing, and is comfortable")
        self._how.addRow("", self.fits)
        self.may = {name: self._switch(text, True) for name, text in _PARTS}
        self.may_line = label("it may be", "soft", 11)
        self._how.addRow(self.may_line, self.may["distance"])
        self._how.addRow("", beside(self.may["turn"], self.may["length"]))
        self.refresh()

    def _choice(self, name: str) -> Choice:
        out = Choice()
        out.setAccessibleName(name)
        out.setToolTip(name)
        out.setFixedHeight(23)
        out.setMinimumWidth(40)
        out.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        out.activated.connect(lambda _: self._told())
        return out

    def _number(self, name: str, unit: str, default: float, low: float, high: float, nudge: float) -> NumberField:
        field = NumberField(ChannelSpec(name, name, unit, default, low, high, nudge))  # type: ignore[arg-type]
        field.show_value(default)
        field.setToolTip(name.capitalize())

        def put(value: float) -> None:
            field.show_value(value)
            self._told()

        field.edited.connect(lambda value, repeats: put(value))
        field.dragged.connect(put)
        field.refused.connect(lambda text: self._document.messages.say(text, True))
        return field

    def _switch(self, text: str, on: bool = False) -> QCheckBox:
        out = QCheckBox(text)
        out.setChecked(on)
        out.toggled.connect(lambda _: self._told())
        return out

    def _told(self) -> None:
        self.refresh_rows()
        self.changed.emit()

    def refresh(self) -> None:
        """What there is to choose from in the scene."""
        scene = self._document.scene
        placed = [node for node in scene.nodes if node.placed and not isinstance(node, Camera)]
        wanted = self.subject.currentData() or likely_subject(self._document)
        for choice, none in ((self.subject, ""), (self.other, "nothing else")):
            kept = wanted if choice is self.subject else choice.currentData()
            choice.clear()
            if none:
                choice.addItem(none, None)
            for node in placed:
                choice.addItem(node.name, node.id)
            index = choice.findData(kept)
            choice.setCurrentIndex(index if index >= 0 else 0)
        kept = self.format.currentData()
        self.format.clear()
        for shape in scene.formats_with_main():
            self.format.addItem(shape.name, shape.name)
        self.format.setCurrentIndex(max(self.format.findData(kept), 0))
        self.refresh_rows()

    def choose_subject(self, node_id: str) -> None:
        """Choose another subject."""
        self.subject.setCurrentIndex(self.subject.findData(node_id))
        self._told()

    def show_for(self, move: Move | None) -> None:
        """Only what a move asks for."""
        self._about.setRowVisible(self.other, move is not None and move.has_other)
        self.refresh_rows()

    def refresh_rows(self) -> None:
        """Hide what does not matter now."""
        scene, node_id = self._document.scene, self.subject.currentData()
        self._about.setRowVisible(self.reach, node_id is not None and has_no_size(scene, node_id, self.first.value))
        self._about.setRowVisible(self.last, self.length.currentData() in (None, "range"))
        self._about.setRowVisible(self.format, len(scene.formats) > 0)
        for each in (*self.may.values(), self.may_line):
            each.setVisible(self.fits.isChecked())

    def options(self, move: Move | None) -> Options:
        """What was chosen, for a move. SceneError where it does not hang together."""
        scene = self._document.scene
        subject = self.subject.currentData()
        if subject is None:
            raise SceneError("There is nothing that a move could be about: bring artwork in first.")
        _, *others = scene.formats_with_main()
        shape = next((each for each in others if each.name == self.format.currentData()), None)
        reach = self.reach.value if has_no_size(scene, subject, self.first.value) else None
        how = Placing(
            self.distance.value, self.strength.value, self.side.value, self.mirrored.isChecked(),
            self.backwards.isChecked(), shape, reach,
        )  # fmt: skip
        if not self.filmed.isChecked():
            how = how._replace(shown="no")
        if self.length.currentData() == "beats" and move is not None:
            how = how._replace(beats=_beats_of(scene, self.first.value, move))
        may = frozenset(name for name, each in self.may.items() if each.isChecked())
        other = self.other.currentData()
        return Options(subject, other, self._span(scene, move), how, self.fits.isChecked(), may)

    def _span(self, scene: Scene, move: Move | None) -> FrameRange:
        first, kind = self.first.value, self.length.currentData()
        if kind == "own" and move is not None:
            return FrameRange(first, first + move.seconds * scene.settings.rate.fps)
        if kind == "marker":
            later = [marker.frame for marker in scene.markers if marker.frame > first]
            if not later:
                raise SceneError("There is no marker after the first frame.")
            return FrameRange(first, later[0])
        if kind == "beats" and move is not None:
            return FrameRange(first, first + _beats_of(scene, first, move)[-1])
        return FrameRange(first, self.last.value)


def _beats_of(scene: Scene, first: float, move: Move) -> tuple[float, ...]:
    """The frames of the beats that a move is to go on, counted from a frame on. SceneError where there are too few."""
    frames, _ = beat_frames(scene.beats, scene.settings.rate, first - 0.5, scene.settings.last + 1e5)
    count = round(move.beats or 0.0)
    if move.beats is None:
        raise SceneError(f"“{move.name}” was not kept to beats.")
    if len(frames) <= count:
        raise SceneError("There are not so many beats after the first frame. Play ▸ Sound ▸ Find the beats finds them.")
    return tuple(np.round(frames[: count + 1] - first, 6).tolist())
