"""Export: what to write, then progress with an estimate and a cancel that leaves no half file."""

import time
from pathlib import Path

from PyQt6.QtCore import QObject, QThread, pyqtSignal
from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...files.errors import FileError
from ...render.export import ExportJob, drawing_processes, export
from ...render.messages import RenderError
from ...scene import Camera, Scene, SceneError, main_format
from ..document import Document
from ..panel import Choice, label
from ..quantities import parse_number
from ..theme import REED, RUST

_KINDS = ((".mp4", "MP4 movie, H.264"), (".webm", "WebM movie, VP9"), (".png", "PNG frames"))
_SCALES = (("full size", 1.0), ("two thirds", 2 / 3), ("half", 0.5))


class _Runner(QThread):
    """Exports away from the interface."""

    progressed = pyqtSignal(int, int)
    ended = pyqtSignal(bool, str)

    def __init__(self, scene: Scene, base: Path | None, job: ExportJob, parent: QObject) -> None:
        super().__init__(parent)
        self._scene, self._base, self._job = scene, base, job
        self.cancelled = False

    def run(self) -> None:
        try:
            finished = export(self._scene, self._base, self._job, self.progressed.emit, lambda: self.cancelled)
            self.ended.emit(finished, "")
        except (FileError, RenderError, SceneError) as problem:
            self.ended.emit(False, str(problem))
        except Exception as problem:
            self.ended.emit(False, f"{self._job.path}: could not be written: {problem}. Nothing was left behind.")


class ExportDialog(QDialog):
    """Not modal: work goes on while it writes."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._runner: _Runner | None = None
        self._started = 0.0
        self._may_replace: Path | None = None
        self.setWindowTitle("Export")
        self.setMinimumWidth(500)
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
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.path, 1)
        row.addWidget(self.browse)
        form.addRow("File", row)
        self.camera = Choice()
        for node in document.scene.nodes:
            if isinstance(node, Camera):
                self.camera.addItem(node.name, node.id)
        if document.scene.camera is not None:
            self.camera.setCurrentIndex(max(0, self.camera.findData(document.scene.camera)))
        form.addRow("Camera", self.camera)
        self.format = Choice()
        for each in document.scene.formats_with_main():
            self.format.addItem(f"{each.name}   {each.width} × {each.height}", each)
        names = [each.name for each in document.scene.formats_with_main()]
        self.format.setCurrentIndex(names.index(document.format.name))
        self.scale = Choice()
        for name, share in _SCALES:
            self.scale.addItem(name, share)
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.format, 2)
        row.addWidget(self.scale, 1)
        form.addRow("Frame", row)
        first, last = document.range
        self.first, self.last = QLineEdit(str(first)), QLineEdit(str(last))
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.first)
        row.addWidget(label("to", "soft"))
        row.addWidget(self.last)
        form.addRow("Frames", row)
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
        self.bar = QProgressBar()
        self.bar.setVisible(False)
        self.line = label("", "soft")
        self.line.setWordWrap(True)
        self.go = QPushButton("Export")
        self.go.setProperty("main", True)
        self.go.setDefault(True)
        self.go.clicked.connect(self.start)
        self.stop = QPushButton("Close")
        self.stop.clicked.connect(self._stop)
        buttons = QHBoxLayout()
        buttons.addStretch()
        buttons.addWidget(self.stop)
        buttons.addWidget(self.go)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(20, 18, 20, 16)
        outer.setSpacing(12)
        outer.addLayout(form)
        outer.addWidget(self.bar)
        outer.addWidget(self.line)
        outer.addLayout(buttons)

    def _suggestion(self) -> Path:
        document = self._document
        folder = document.path.parent if document.path else Path.home()
        stem = document.path.stem if document.path else "scene"
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
        shape = self.format.currentData()
        share = float(self.scale.currentData())
        width, height = (max(2, round(side * share / 2) * 2) for side in (shape.width, shape.height))
        if share == 1.0 and self.kind.currentData() == ".png":
            width, height = shape.width, shape.height
        own = shape == main_format(self._document.settings)
        return ExportJob(
            path=Path(self.path.text()).expanduser(),
            frames=tuple(float(frame) for frame in range(first, last + 1)),
            camera=self.camera.currentData(),
            size=(width, height),
            format=None if own else shape.name,
            samples=self.samples.currentData(),
            processes=drawing_processes(),
            niceness=8,
        )

    def start(self) -> None:
        try:
            job = self.job()
            job.check()
        except (ValueError, FileError) as problem:
            self._say(str(problem), RUST)
            return
        target = job.path if "#" not in job.path.name else job.frame_path(job.frames[0])
        if target.exists() and self._may_replace != target:
            self._may_replace = target
            self._say(f"{target.name} is there already. Export again to replace it.", RUST)
            return
        self._may_replace = None
        self._runner = _Runner(self._document.scene, self._document.base, job, self)
        self._runner.progressed.connect(self._progress)
        self._runner.ended.connect(self._ended)
        self._started = time.monotonic()
        self.bar.setVisible(True)
        self.bar.setRange(0, len(job.frames))
        self.bar.setValue(0)
        self.go.setEnabled(False)
        self.stop.setText("Cancel")
        self._say("Starting…")
        self._runner.start()

    def _say(self, text: str, tone: str = "") -> None:
        self.line.setText(text)
        self.line.setStyleSheet(f"color: {tone};" if tone else "")

    def _progress(self, done: int, total: int) -> None:
        self.bar.setValue(done)
        elapsed = time.monotonic() - self._started
        if done:
            left = elapsed / done * (total - done)
            self._say(f"{done} of {total} frames, about {_duration(left)} left")

    def _ended(self, finished: bool, problem: str) -> None:
        runner, self._runner = self._runner, None
        if runner is not None:
            runner.wait()
        self.bar.setVisible(False)
        self.go.setEnabled(True)
        self.stop.setText("Close")
        if finished:
            took = _duration(time.monotonic() - self._started)
            self._say(f"Written: {self.path.text()}  ({took})", REED)
            self._document.say(f"Exported {Path(self.path.text()).name}")
        elif problem:
            self._say(problem, RUST)
        else:
            self._say("Cancelled. Nothing was left behind.")

    def _stop(self) -> None:
        if self._runner is not None:
            self._runner.cancelled = True
            self._say("Cancelling…")
        else:
            self.close()

    @property
    def is_running(self) -> bool:
        return self._runner is not None

    def shut_down(self) -> None:
        """Cancel and wait; for when the program ends."""
        if self._runner is not None:
            self._runner.cancelled = True
            self._runner.wait()

    def reject(self) -> None:
        self._stop()


def _duration(seconds: float) -> str:
    whole = max(0, round(seconds))
    return f"{whole} s" if whole < 60 else f"{whole // 60} min {whole % 60:02d} s"
