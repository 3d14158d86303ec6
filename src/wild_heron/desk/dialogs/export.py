"""Export: what to write."""

from math import ceil
from pathlib import Path

from PyQt6.QtWidgets import (
    QFileDialog,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QWidget,
)

from ...evaluate.evaluation import FARTHEST_FRAME
from ...render.export import ExportJob, drawing_processes
from ...render.export.several import jobs_for
from ...scene import Format, SceneError, main_format
from ...scene.model import MAX_FRAMES
from ...scene.output import output_camera, shot_range, shown_nodes
from ..state.document import Document
from ..state.preferences import Preferences
from ..widgets.dialog import beside
from ..widgets.panel import Choice, label
from ..widgets.picker import Picker
from ..widgets.quantities import parse_number
from .exporting import ExportingDialog

_KINDS = ((".mp4", "MP4 movie, H.264"), (".webm", "WebM movie, VP9"), (".png", "PNG frames"))
_FILM = "@film"
"""Stands for the film among the cameras."""
_SCALES = (("full size", 1.0), ("two thirds", 2 / 3), ("half", 0.5))


class ExportDialog(ExportingDialog):
    """A movie or numbered frames, of any camera, format and range."""

    def __init__(self, document: Document, preferences: Preferences, parent: QWidget | None = None) -> None:
        super().__init__(document, "Export", "Export", parent)
        self._preferences = preferences
        form = QFormLayout()
        form.setVerticalSpacing(9)
        self.kind = Choice()
        for suffix, name in _KINDS:
            self.kind.addItem(name, suffix)
        self.kind.currentIndexChanged.connect(self._kind_changed)
        form.addRow("Write", self.kind)
        self.path = QLineEdit(str(self._suggestion()))
        self.browse = QPushButton("Choose…")
        self.browse.clicked.connect(self._browse)
        form.addRow("File", beside(self.path, self.browse))
        self.camera = Choice()
        scene = document.scene
        if scene.shots:
            self.camera.addItem(f"The film, {len(scene.shots)} shots", _FILM)
        for node in shown_nodes(scene).values():
            self.camera.addItem(node.name, node.id)
        wanted = document.views.lens or (_FILM if scene.shots else output_camera(scene))
        self.camera.setCurrentIndex(max(0, self.camera.findData(wanted)))
        form.addRow("Camera", self.camera)
        shapes = scene.formats_with_main()
        self.formats = Picker(
            [(each.name, f"{each.name}   {each.width} × {each.height}") for each in shapes],
            (document.views.format.name,), "all formats", "Which formats are written: each to a file of its own",
        )  # fmt: skip
        self.scale = Choice()
        for name, share in _SCALES:
            self.scale.addItem(name, share)
        form.addRow("Frame", beside(self.formats, self.scale))
        first, last = document.playhead.range
        chosen = [shot_range(scene, number) for number in document.selection.shots]
        if chosen:
            # The shots that are selected are what is meant.
            first, last = ceil(min(low for low, _ in chosen)), ceil(max(high for _, high in chosen)) - 1
        self.first, self.last = QLineEdit(str(first)), QLineEdit(str(last))
        form.addRow("Frames", beside(self.first, label("to", "soft"), self.last))
        self.samples = Choice()
        for count, name in (
            (1, "1: sharp, fastest"),
            (8, "8: some motion blur"),
            (16, "16: smooth"),
            (32, "32: very smooth"),
        ):
            self.samples.addItem(name, count)
        tip = "A frame is the mean of this many samples over the open shutter and, with depth of field, over the lens"
        self.samples.setToolTip(tip)
        form.addRow("Samples", self.samples)
        self.sound = Choice()
        for name, on in (("with the scene's sound", True), ("silent", False)):
            self.sound.addItem(name, on)
        if scene.sounds:
            form.addRow("Sound", self.sound)
        self.warning = label("", "warning", 11)
        self.warning.setWordWrap(True)
        form.addRow("", self.warning)
        self.formats.changed.connect(self._warn)
        document.checked.changed.connect(self._warn)
        self._warn()
        self.lay_out(form)

    def _warn(self) -> None:
        """What the checks found in the formats that are to be written."""
        verdicts = [self.document.checked.of(name) for name in self.formats.chosen]
        found = [(each.format, finding) for each in verdicts if each is not None for finding in each.open]
        if found:
            name, first = found[0]
            where = f"{name}: " if len(verdicts) > 1 else ""
            more = f", and {len(found) - 1} more" if len(found) > 1 else ""
            self.warning.setText(f"{where}{first.title}{more}. V, N shows all of it.")
        self.warning.setVisible(bool(found))

    def _suggestion(self) -> Path:
        document = self.document
        folder = self._preferences.folder("output", document.file.path and document.file.path.parent)
        stem = document.file.path.stem if document.file.path else "scene"
        suffix = self.kind.currentData()
        return folder / (f"{stem}_####.png" if suffix == ".png" else f"{stem}{suffix}")

    def _kind_changed(self) -> None:
        path = Path(self.path.text())
        suffix = self.kind.currentData()
        stem = path.stem.rstrip("#").rstrip("_") or "scene"
        self.path.setText(str(path.with_name(f"{stem}_####.png" if suffix == ".png" else f"{stem}{suffix}")))

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Export to", self.path.text())
        if name:
            path = Path(name)
            self._preferences.remember_folder("output", path)
            if self.kind.currentData() == ".png" and "#" not in path.name:
                path = path.with_name(f"{path.stem}_####.png")
            elif path.suffix.lower() != self.kind.currentData():
                path = path.with_name(path.name + self.kind.currentData())
            self.path.setText(str(path))

    def job(self) -> ExportJob:
        """What is entered. ValueError or SceneError say what is wrong."""
        if self.camera.currentData() is None:
            raise SceneError("There is no camera to export. Camera ▸ Add camera makes one.")
        first, last = round(parse_number(self.first.text())), round(parse_number(self.last.text()))
        if last < first:
            raise ValueError("The last frame must not come before the first.")
        if last - first >= MAX_FRAMES or max(abs(first), abs(last)) > FARTHEST_FRAME:
            raise ValueError(f"Up to {MAX_FRAMES} frames can be written at once.")
        shape = self._shapes()[0]
        own = shape.plain == main_format(self.document.settings)
        return ExportJob(
            path=Path(self.path.text()).expanduser(),
            frames=tuple(float(frame) for frame in range(first, last + 1)),
            camera=None if self.camera.currentData() == _FILM else self.camera.currentData(),
            sound=self.sound.currentData(),
            size=self._size(shape),
            format=None if own else shape.name,
            samples=self.samples.currentData(),
            processes=drawing_processes(),
            niceness=8,
        )

    def jobs(self) -> list[ExportJob]:
        return jobs_for(self.job(), self.scene(), self._shapes(), self._size)

    def _shapes(self) -> tuple[Format, ...]:
        """The formats that are chosen, as the scene has them now."""
        found = tuple(each for each in self.document.scene.formats_with_main() if each.name in self.formats.chosen)
        if not found:
            raise SceneError("The chosen formats are no longer there. Choose others.")
        return found

    def _size(self, shape: Format) -> tuple[int, int]:
        """How large a format is written; movies have even sides."""
        share = float(self.scale.currentData())
        if share == 1.0 and self.kind.currentData() == ".png":
            return shape.width, shape.height
        return max(2, round(shape.width * share / 2) * 2), max(2, round(shape.height * share / 2) * 2)
