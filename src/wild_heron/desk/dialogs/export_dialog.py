"""Export: what to write."""

from functools import partial
from math import ceil
from pathlib import Path

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QFileDialog, QFormLayout, QLineEdit, QPushButton, QWidget

from ...evaluate.evaluation import FARTHEST_FRAME
from ...files.errors import FileError
from ...output.estimate import SizeEstimate, estimated_seconds, told, told_time
from ...output.job import USUAL_QUALITY, ExportJob
from ...output.kinds import KINDS, Codec, OutputKind
from ...output.running import drawing_processes
from ...output.several import jobs_for
from ...process.messages import RenderError
from ...scene import Format, Scene, SceneError, main_format
from ...scene.model import MAX_FRAMES
from ...scene.output import output_camera, shot_range, shown_nodes
from ..commands.queue_commands import QueueCommands
from ..state.background import Errand
from ..state.document import Document
from ..state.preferences import Preferences
from ..widgets.dialog import beside, push_button
from ..widgets.panel_parts import Choice, label
from ..widgets.picker import Picker
from ..widgets.quantities import parse_number
from ..widgets.share_slider import ShareSlider
from ..widgets.theme import REED, RUST
from .export_progress import ExportingDialog

_FILM = "@film"
"""Stands for the film among the cameras."""
_SCALES = (("full size", 1.0), ("two thirds", 2 / 3), ("half", 0.5))
_DEPTHS = {"8": "8 bits", "10": "10 bits", "16": "16 bits", "half": "16-bit floats", "float": "32-bit floats"}
_SAMPLES = ((1, "1: sharp, fastest"), (8, "8: some motion blur"), (16, "16: smooth"), (32, "32: very smooth"))
_SETTLE_MS = 900


class ExportDialog(ExportingDialog):
    """A movie or frames, of any camera, format and range: at once, by the queue, or by many machines."""

    bundle_wanted = pyqtSignal(object)
    """The job that is to be bundled."""

    def __init__(
        self, document: Document, preferences: Preferences, queue: QueueCommands, parent: QWidget | None = None
    ) -> None:
        super().__init__(document, "Export", "Export", parent)
        self._preferences, self._queue = preferences, queue
        self._estimating: Errand | None = None
        self._form = form = QFormLayout()
        form.setVerticalSpacing(9)
        self.kind = Choice()
        for kind in KINDS:
            for codec in kind.codecs or (None,):
                words = f"{kind.label}: {codec.label}" if codec is not None and len(kind.codecs) > 1 else kind.label
                self.kind.addItem(words, (kind, codec))
        self.kind.currentIndexChanged.connect(self._kind_changed)
        form.addRow("Write", self.kind)
        self.path = QLineEdit(str(self._suggestion()))
        self.browse = QPushButton("Choose…")
        self.browse.clicked.connect(self._browse)
        form.addRow("File", beside(self.path, self.browse))
        self._add_what(form)
        self._add_how(form)
        self.warning = label("", "warning", 11)
        self.warning.setWordWrap(True)
        form.addRow("", self.warning)
        self.formats.changed.connect(self._warn)
        document.checked.changed.connect(self._warn)
        self.later = push_button(
            "Add to queue", self._add_to_queue, "Write it while work goes on, after what is in the queue", default=False
        )
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLE_MS)
        self._settle.timeout.connect(self._estimate)
        self._warn()
        self.many = push_button(
            "For many machines…", self._bundle, "Write it as a job that render queues can run, in a new folder",
            default=False,
        )  # fmt: skip
        self.lay_out(form, self.later, apart=self.many)
        self._kind_changed()

    def _add_what(self, form: QFormLayout) -> None:
        """Which camera, formats and frames."""
        document, scene = self.document, self.document.scene
        self.camera = Choice()
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
        here = push_button("This one", self.this_frame, "Only the frame at the playhead", default=False)
        form.addRow("Frames", beside(self.first, label("to", "soft"), self.last, here))

    def _add_how(self, form: QFormLayout) -> None:
        """How they are drawn and encoded."""
        self.samples = Choice()
        for count, name in _SAMPLES:
            self.samples.addItem(name, count)
        self.samples.setToolTip(
            "A frame is the mean of this many samples over the open shutter and, with depth of field, over the lens"
        )
        self.fine = Choice()
        for name, on in (("fine edges", True), ("quick, as in the Lens", False)):
            self.fine.addItem(name, on)
        self.fine.setToolTip("Fine: edges and slanted artwork are averaged over each pixel. It takes longer")
        form.addRow("Samples", beside(self.samples, self.fine, even=True))
        self.time = label("", "soft", 11)
        self.time.setToolTip("On this machine, from frames that are drawn on trial while this is open")
        form.addRow("Takes", self.time)
        self.quality = ShareSlider("Quality", "From the smallest file to the best picture", USUAL_QUALITY / 100.0)
        self.quality.settled.connect(self._settle_soon)
        self.size_ = label("", "soft", 11)
        self.size_.setMinimumWidth(110)
        form.addRow("Quality", beside(self.quality, self.size_))
        self.numbers = Choice()
        self.background = Choice()
        form.addRow("Numbers", self.numbers)
        form.addRow("Background", self.background)
        self.passes = QCheckBox("with depth, motion and nodes as layers")
        self.passes.setToolTip("Distance in units, pixels a frame, and which node is where (in Cryptomatte's layout)")
        form.addRow("Passes", self.passes)
        self.sound = Choice()
        for name, on in (("with the scene's sound", True), ("silent", False)):
            self.sound.addItem(name, on)
        form.addRow("Sound", self.sound)
        for field in (self.first, self.last):
            field.textEdited.connect(self._settle_soon)
        for choice in (self.camera, self.scale, self.background, self.samples, self.fine, self.numbers):
            choice.currentIndexChanged.connect(self._settle_soon)
        self.formats.changed.connect(self._settle_soon)

    @property
    def _kind(self) -> OutputKind:
        kind: OutputKind = self.kind.currentData()[0]
        return kind

    @property
    def _codec(self) -> Codec | None:
        codec: Codec | None = self.kind.currentData()[1]
        return codec

    def _kind_changed(self) -> None:
        """Show what the kind has a say in."""
        kind, codec = self._kind, self._codec
        path = Path(self.path.text())
        stem = path.stem.rstrip("#").rstrip("_") or "scene"
        self.path.setText(str(path.with_name(_named(stem, kind))))
        self.numbers.clear()
        depths = kind.depths if codec is None else codec.depths
        for depth in depths:
            self.numbers.addItem(_DEPTHS[depth], depth)
        clear = kind.alpha and (codec is None or codec.alpha)
        self.background.clear()
        for words, left_out in (("the scene's colour", False), ("left out: transparent", True)):
            self.background.addItem(words, left_out)
        self.background.setCurrentIndex(self.background.findData(kind.clear))
        shown = {
            "Quality": kind.lossy, "Numbers": len(depths) > 1, "Background": clear, "Passes": kind.name == "exr",
            "Sound": codec is not None and codec.sound is not None and bool(self.document.scene.sounds),
        }  # fmt: skip
        for row in range(self._form.rowCount()):
            item = self._form.itemAt(row, QFormLayout.ItemRole.LabelRole)
            text = item.widget().text() if item is not None else ""
            if text in shown:
                self._form.setRowVisible(row, shown[text])
        self._settle_soon()

    def this_frame(self) -> None:
        frame = f"{round(self.document.playhead.frame)}"
        self.first.setText(frame)
        self.last.setText(frame)
        self._settle_soon()

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

    # About how large it will be

    def _settle_soon(self) -> None:
        self.size_.setText("")
        self.time.setText("")
        self._let_estimate_go()
        if self.isVisible():
            self._settle.start()

    def _estimate(self) -> None:
        if self.is_running:
            return
        try:
            job = self.jobs()[0]
        except (ValueError, FileError):
            return
        self._let_estimate_go()
        self.time.setText("about …")
        if not self._kind.lossy:
            self._estimate_time(job)
            return
        work = partial(_estimated_bytes, self.scene(), self.document.file.base, job)
        done = partial(self._sized, job)
        self._estimating = self.document.background.start("estimate", work, done)
        self.size_.setText("about …")

    def _sized(self, job: ExportJob, size: int) -> None:
        self._estimating = None
        self.size_.setText(f"about {told(size)}{self._each}" if size else "")
        self._estimate_time(job)

    def _estimate_time(self, job: ExportJob) -> None:
        work = partial(_estimated_time, self.scene(), self.document.file.base, job)
        self._estimating = self.document.background.start("estimate", work, self._timed)

    def _timed(self, seconds: float) -> None:
        self._estimating = None
        self.time.setText(f"about {told_time(seconds)}{self._each}" if seconds else "")

    @property
    def _each(self) -> str:
        return " each" if len(self.formats.chosen) > 1 else ""

    def _let_estimate_go(self) -> None:
        self.document.background.let_go(self._estimating)
        self._estimating = None

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self._settle_soon()

    def start(self) -> None:
        self._settle.stop()
        self._let_estimate_go()
        super().start()

    def shut_down(self) -> None:
        self._settle.stop()
        self._let_estimate_go()
        super().shut_down()

    def closeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._settle.stop()
        self._let_estimate_go()
        super().closeEvent(event)

    # What is asked for

    def _suggestion(self) -> Path:
        document = self.document
        folder = self._preferences.folder("output", document.file.path and document.file.path.parent)
        return folder / _named(document.file.path.stem if document.file.path else "scene", self._kind)

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Export to", self.path.text())
        if name:
            path = Path(name)
            self._preferences.remember_folder("output", path)
            if not self._kind.movie and "#" not in path.name and self.first.text() != self.last.text():
                path = path.with_name(_named(path.stem, self._kind))
            elif path.suffix.lower() not in self._kind.suffixes:
                path = path.with_name(path.name + self._kind.suffixes[0])
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
        kind, codec = self._kind, self._codec
        can_clear = kind.alpha and (codec is None or codec.alpha)
        path = Path(self.path.text()).expanduser()
        if path.suffix.lower() not in kind.suffixes:
            raise ValueError(
                f"{path.name} does not end in {kind.suffixes[0]}, as {kind.label} do. Change one of the two."
            )
        return ExportJob(
            path=path,
            frames=tuple(float(frame) for frame in range(first, last + 1)),
            camera=None if self.camera.currentData() == _FILM else self.camera.currentData(),
            sound=self.sound.currentData(),
            size=self._size(shape),
            format=None if own else shape.name,
            samples=self.samples.currentData(),
            fine=self.fine.currentData(),
            codec=None if codec is None else codec.name,
            depth=self.numbers.currentData() if len(kind.depths) > 1 else None,
            quality=self.quality.value * 100.0,
            transparent=self.background.currentData() if can_clear else None,
            passes=kind.name == "exr" and self.passes.isChecked(),
            processes=drawing_processes(),
            niceness=8,
        )

    def jobs(self) -> list[ExportJob]:
        return jobs_for(self.job(), self.scene(), self._shapes(), self._size)

    def _add_to_queue(self) -> None:
        jobs = self.ready("Add to queue")
        if jobs is None:
            return
        try:
            added = self._queue.add(self.scene(), self.document.file.base, jobs)
        except (FileError, SceneError) as problem:
            self.tell(str(problem), RUST)
            return
        names = ", ".join(job.path.name for job in added)
        self.tell(f"In the queue: {names}. Output ▸ Queue shows how far it is.", REED)

    def _bundle(self) -> None:
        try:
            jobs = self.jobs()
        except (ValueError, FileError) as problem:
            self.tell(str(problem), RUST)
            return
        if len(jobs) > 1:
            self.tell("A bundle makes one format. Choose one of them.", RUST)
            return
        self.bundle_wanted.emit(jobs[0])

    def _shapes(self) -> tuple[Format, ...]:
        """The formats that are chosen, as the scene has them now."""
        found = tuple(each for each in self.document.scene.formats_with_main() if each.name in self.formats.chosen)
        if not found:
            raise SceneError("The chosen formats are no longer there. Choose others.")
        return found

    def _size(self, shape: Format) -> tuple[int, int]:
        """How large a format is written; movies have even sides."""
        share = float(self.scale.currentData())
        if share == 1.0 and not self._kind.movie:
            return shape.width, shape.height
        return max(2, round(shape.width * share / 2) * 2), max(2, round(shape.height * share / 2) * 2)


def _named(stem: str, kind: OutputKind) -> str:
    """A file's name: of frames with a place for their number."""
    plain = stem.rstrip("#").rstrip("_") or "scene"
    return f"{plain}{kind.suffixes[0]}" if kind.movie else f"{plain}_####{kind.suffixes[0]}"


def _estimated_bytes(scene: Scene, base: Path | None, job: ExportJob, errand: Errand) -> int:
    """About how large an export will be, found out away from the interface; 0 where that is not known."""
    try:
        estimate = SizeEstimate(scene, base, job)
        return estimate.bytes(job.quality) if estimate.draw(errand.is_cancelled) else 0
    except (FileError, SceneError, RenderError, OSError, ValueError):
        return 0  # It says what is wrong when it is asked to write.


def _estimated_time(scene: Scene, base: Path | None, job: ExportJob, errand: Errand) -> float:
    """About how many seconds an export takes, found out away from the interface; 0 where that is not known."""
    try:
        return estimated_seconds(scene, base, job, errand.is_cancelled) or 0.0
    except (FileError, SceneError, RenderError, OSError, ValueError):
        return 0.0
