"""Export the move: the camera and what it goes by, for other programs."""

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QFormLayout, QLineEdit, QWidget

from ...files.errors import FileError
from ...files.export_formats.fewest import Tolerances
from ...files.export_formats.writing import FORMATS, MoveFormat, MoveJob, write_move
from ...files.sequences import find_sequence
from ...scene import SceneError
from ...scene.output import cameras
from ..state.background import Errand
from ..state.document import Document
from ..state.preferences import Preferences
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.panel_parts import Choice, label, set_tone
from ..widgets.quantities import parse_number
from ..widgets.theme import REED, RUST

_FILM = "@film"


class MoveDialog(Dialog):
    """In which format, through which camera, with which nodes, and how many keys."""

    def __init__(self, document: Document, preferences: Preferences, parent: QWidget | None = None) -> None:
        super().__init__("Export the move", parent, 500)
        self._document, self._preferences = document, preferences
        self._writing: Errand | None = None
        form = QFormLayout()
        form.setVerticalSpacing(9)
        self.format = Choice()
        for each in FORMATS:
            self.format.addItem(each.label, each)
        self.format.currentIndexChanged.connect(self._format_changed)
        form.addRow("Write", self.format)
        folder = preferences.folder("output", document.file.path and document.file.path.parent)
        stem = document.file.path.stem if document.file.path else "scene"
        self.path = QLineEdit(str(folder / f"{stem}.glb"))
        form.addRow("File", beside(self.path, push_button("Choose…", self._browse, default=False)))
        self.camera = Choice()
        scene = document.scene
        if scene.shots:
            self.camera.addItem(f"The film, {len(scene.shots)} shots, as one camera", _FILM)
        for node in cameras(scene).values():
            self.camera.addItem(node.name, node.id)
        at = self.camera.findData(document.views.lens or (_FILM if scene.shots else scene.camera))
        self.camera.setCurrentIndex(max(0, at))
        form.addRow("Camera", self.camera)
        self.nodes = Choice()
        chosen = len(document.selection.nodes)
        for words, which in (("everything that is shown", "all"), (f"the selection, {chosen} nodes", "selected"),
                             ("nothing else", "none")):  # fmt: skip
            if which != "selected" or chosen:
                self.nodes.addItem(words, which)
        form.addRow("With", self.nodes)
        first, last = document.playhead.range
        self.first, self.last = QLineEdit(str(first)), QLineEdit(str(last))
        form.addRow("Frames", beside(self.first, label("to", "soft"), self.last))
        self.keys = Choice()
        for words, few in (("on every frame", False), ("only where they are needed", True)):
            self.keys.addItem(words, few)
        self.keys.setToolTip(f"Needed: to keep within {Tolerances().words()} of the move, between frames too")
        form.addRow("Keys", self.keys)
        self.picture = QLineEdit()
        self.picture.setPlaceholderText("nothing yet")
        self.picture.setToolTip("What was made of the film: the movie, or its frames, with # for the digits")
        form.addRow("Clips show", beside(self.picture, push_button("Choose…", self._choose_picture, default=False)))
        self._form = form
        self.line = label("", "soft", 11)
        self.line.setWordWrap(True)
        self.go = push_button("Export", self.start)
        self.go.setDefault(True)
        self.column.addLayout(form)
        self.column.addWidget(self.line)
        self.column.addStretch()
        self.add_buttons(push_button("Close", self.close, default=False), self.go)
        self._format_changed()
        self.finished.connect(self._give_up)

    def _give_up(self) -> None:
        if self._writing is not None:
            self._writing.cancel()

    def _format_changed(self) -> None:
        chosen: MoveFormat = self.format.currentData()
        self.path.setText(str(Path(self.path.text()).with_suffix(chosen.suffix)))
        for row in (2, 3, 4, 5):
            self._form.setRowVisible(row, chosen.samples)
        self._form.setRowVisible(6, chosen.shows)
        if self._writing is None:
            self._tell("")
            self.shrink()

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Export the move to", self.path.text())
        if name:
            self._preferences.remember_folder("output", Path(name))
            chosen: MoveFormat = self.format.currentData()
            self.path.setText(str(Path(name).with_suffix(chosen.suffix)))

    def _choose_picture(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "What was made of the film", self.path.text())

        if name:
            run = find_sequence(Path(name))
            self.picture.setText(name if run is None else str(run.source))

    def job(self) -> MoveJob:
        """What is entered. ValueError says what is wrong."""
        first, last = round(parse_number(self.first.text())), round(parse_number(self.last.text()))
        if last < first:
            raise ValueError("The last frame must not come before the first.")
        which = self.nodes.currentData()
        scene = self._document.scene
        nodes = {"all": None, "none": [], "selected": list(self._document.selection.nodes)}[which]
        camera = self.camera.currentData()
        shape = self._document.views.format_or_none
        return MoveJob(
            Path(self.path.text()).expanduser(),
            tuple(float(frame) for frame in range(first, last + 1)),
            None if camera == _FILM else camera,
            nodes,
            Tolerances() if self.keys.currentData() else None,
            shape if shape in scene.formats else None,
            picture=Path(self.picture.text()).expanduser() if self.picture.text().strip() else None,
        )

    def start(self) -> None:
        if self._writing is not None:
            return
        try:
            job = self.job()
            job.check()
        except (ValueError, FileError) as problem:
            self._tell(str(problem), RUST)
            return
        self.go.setEnabled(False)
        scene, base = self._document.scene, self._document.file.base

        def work(errand: Errand) -> tuple[str, ...]:
            def step(what: str) -> None:
                if errand.cancelled:
                    raise SceneError("Cancelled. Nothing was left behind.")
                errand.tell(what)

            return write_move(scene, base, job, step)

        self._writing = self._document.background.start(
            "export the move",
            work,
            lambda notes: self._ended(job, notes),
            lambda what: self._tell(f"{what}…"),
            lambda problem: self._failed(job, problem),
        )

    def _failed(self, job: MoveJob, problem: Exception) -> None:
        self._writing = None
        if isinstance(problem, FileError | SceneError):
            self._over(str(problem), RUST)
            return
        self._over(f"{job.path.name} could not be written: {problem}.", RUST)
        raise problem

    def _ended(self, job: MoveJob, notes: tuple[str, ...]) -> None:
        self._writing = None
        self._over("\n".join([f"Written: {job.path}", *notes]), REED)
        self._document.messages.say(f"Written: {job.path.name}")

    def _over(self, text: str, tone: str) -> None:
        if self.is_left:
            self._document.messages.say(text, tone == RUST)
            return
        self.go.setEnabled(True)
        self._tell(text, tone)

    def _tell(self, text: str, tone: str = "") -> None:
        if self.is_left:
            return
        self.line.setText(text)
        set_tone(self.line, tone)
