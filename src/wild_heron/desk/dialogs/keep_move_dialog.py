"""Keeping what a camera does over a range as a move."""

from msgspec.structs import replace
from PyQt6.QtWidgets import QCheckBox, QFormLayout, QLineEdit, QWidget

from ...edits import moves
from ...edits.rigs import FrameRange
from ...files.errors import FileError
from ...files.move_files import file_for, save_move, user_folder, user_moves
from ...scene import Camera, SceneError
from ...scene.moves import Move
from ...scene.output import cameras
from ..moves.likely import has_no_size, likely_span, likely_subject
from ..state.document import Document
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.panel_parts import Choice, label, set_tone
from ..widgets.quantities import parse_number
from ..widgets.theme import RUST, SOFT


class KeepMoveDialog(Dialog):
    """What is kept, about what, and where; it says at once where that cannot be."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Keep the move", parent, 340, looked_past=True)
        self._document = document
        scene = document.scene
        form = QFormLayout()
        form.setVerticalSpacing(9)
        self.camera, self.subject, self.other = Choice(), Choice(), Choice()
        for camera in cameras(scene).values():
            self.camera.addItem(camera.name, camera.id)
        shown = document.views.camera
        if shown is not None and self.camera.findData(shown.id) >= 0:
            self.camera.setCurrentIndex(self.camera.findData(shown.id))
        self.other.addItem("nothing else", None)
        for node in scene.nodes:
            if node.placed and not isinstance(node, Camera):
                self.subject.addItem(node.name, node.id)
                self.other.addItem(node.name, node.id)
        self.subject.setCurrentIndex(max(self.subject.findData(likely_subject(document)), 0))
        self.first, self.last = (QLineEdit(f"{frame:g}") for frame in likely_span(document))
        for field in (self.first, self.last):
            field.setMaximumWidth(100)
        self.name = QLineEdit(self._first_name())
        self.about = QLineEdit()
        self.about.setPlaceholderText("what it is for")
        self.tags = QLineEdit()
        self.tags.setPlaceholderText("calm, lively, bold, or your own")
        self.reach = QLineEdit("2")
        self.in_scene, self.mine = QCheckBox("in this scene"), QCheckBox("among my moves")
        self.mine.setChecked(True)
        form.addRow("Camera", self.camera)
        form.addRow("About", self.subject)
        form.addRow("Goes to", self.other)
        self._height = beside(self.reach, label("units: it has none of its own", "soft", 11))
        form.addRow("Its height", self._height)
        form.addRow("From frame", beside(self.first, label("to", "soft"), self.last))
        form.addRow("Name", self.name)
        form.addRow("For", self.about)
        form.addRow("Tags", self.tags)
        form.addRow("Keep it", beside(self.mine, self.in_scene))
        self._form = form
        self.column.addLayout(form)
        self.line = label("", "soft", 11)
        self.line.setWordWrap(True)
        self.column.addWidget(self.line)
        self.keep_button = push_button("Keep", self.keep)
        self.add_buttons(push_button("Cancel", self.close, default=False), self.keep_button)
        for choice in (self.camera, self.subject, self.other):
            choice.activated.connect(lambda _: self.refresh())
        for text in (self.first, self.last, self.name, self.reach):
            text.textEdited.connect(lambda _: self.refresh())
        for switch in (self.in_scene, self.mine):
            switch.toggled.connect(lambda _: self.refresh())
        document.changed.connect(self.refresh)
        self.refresh()

    def _first_name(self) -> str:
        shown = self._document.views.camera
        return f"{shown.name} move" if shown is not None else "Move"

    def kept_move(self) -> Move:
        """The move as it would be kept. SceneError says why it cannot be."""
        scene = self._document.scene
        camera, subject = self.camera.currentData(), self.subject.currentData()
        if camera is None:
            raise SceneError("There is no camera to keep the move of. Camera ▸ Add camera makes one.")
        if subject is None:
            raise SceneError("A move is told relative to a subject, and there is nothing in the scene yet.")
        try:
            first, last, reach = (parse_number(each.text(), "count") for each in (self.first, self.last, self.reach))
        except ValueError as problem:
            raise SceneError(str(problem)) from problem
        found = moves.keep(
            scene, camera, subject, FrameRange(first, last), self.name.text(), self.other.currentData(),
            reach if has_no_size(scene, subject, first) else None, self.about.text().strip()[:400],
        )  # fmt: skip
        words = [each for each in self.tags.text().replace(",", " ").split() if len(each) <= 40][:20]
        return replace(found, tags=tuple(dict.fromkeys(words)))

    def refresh(self) -> None:
        """What would be kept, or why nothing can be."""
        scene, subject = self._document.scene, self.subject.currentData()
        self._form.setRowVisible(
            self._height, subject is not None and has_no_size(scene, subject, self._document.playhead.frame)
        )
        try:
            found = self.kept_move()
        except SceneError as problem:
            self._say(str(problem), RUST)
            self.keep_button.setEnabled(False)
            return
        kept = self.in_scene.isChecked() or self.mine.isChecked()
        self.keep_button.setEnabled(kept)
        nulls = len(found.nodes) - 1
        how = f"with the {nulls} null{'s' * (nulls != 1)} that it goes by" if nulls else "by its own keys"
        beats = f", {found.beats:g} beats" if found.beats else ""
        self._say(f"{found.seconds:.1f} s{beats}, {how}.", SOFT)

    def _say(self, text: str, tone: str) -> None:
        self.line.setText(text)
        set_tone(self.line, tone)

    def keep(self) -> None:
        """In the scene as one step, in the user's folder as a file of its own; one of the same name is replaced."""
        try:
            found = self.kept_move()
            if self.mine.isChecked():
                known = next((each.path for each in user_moves()[0] if each.move.name == found.name), None)
                save_move(found, known or file_for(found.name, user_folder()))
        except (SceneError, FileError) as problem:
            self._say(str(problem), RUST)
            return
        document = self._document
        if self.in_scene.isChecked():
            document.edit(f"Keep the move {found.name}", lambda scene: moves.keep_in_scene(scene, found))
        document.messages.say(f"“{found.name}” was kept. Camera ▸ Moves puts it on other subjects.")
        self.close()
