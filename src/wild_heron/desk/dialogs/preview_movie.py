"""Writing the preview as it is: the played range, as the Lens shows it, from frames that are held or drawn."""

from collections.abc import Iterator, Mapping
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QFileDialog, QFormLayout, QLineEdit, QPushButton, QWidget

from ...arrays import Pixels
from ...gl.request import FrameRequest, ThroughLens
from ...output.job import ExportJob
from ...output.running import drawing_processes
from ...scene import Scene, SceneError
from ..lens.guide_painting import beyond, paint_guides
from ..pictures.preview_cache import PreviewCache
from ..state.document import Document
from ..state.preferences import Preferences
from ..widgets.dialog import beside
from ..widgets.images import pixels_of
from ..widgets.panel_parts import label
from .export_progress import ExportingDialog, Held


class HeldPixels(Mapping[float, Pixels]):
    """Held pictures as pixels (H, W, 4), each made when it is asked for. Free of Qt: a thread asks for them."""

    def __init__(self, shown: dict[float, Pixels]) -> None:
        """From the memory of opaque pictures (H, W, 4), blue first."""
        self._shown = shown

    def __getitem__(self, frame: float) -> Pixels:
        out: Pixels = self._shown[frame][..., (2, 1, 0, 3)]
        out[..., 3] = 255
        return out

    def __iter__(self) -> Iterator[float]:
        return iter(self._shown)

    def __len__(self) -> int:
        return len(self._shown)


class PreviewMovieDialog(ExportingDialog):
    """Asks for nothing but the file."""

    def __init__(
        self, document: Document, cache: PreviewCache, wish: FrameRequest, preferences: Preferences,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(document, "Save the preview", "Write", parent)
        self._preferences = preferences
        self._cache, self._wish = cache, wish
        self._images: dict[float, QImage] = {}
        """Whose memory is written from: they stay for as long as the dialog does."""
        form = QFormLayout()
        form.setVerticalSpacing(9)
        folder = preferences.folder("output", document.file.path and document.file.path.parent)
        stem = document.file.path.stem if document.file.path else "scene"
        self.path = QLineEdit(str(folder / f"{stem} preview.mp4"))
        browse = QPushButton("Choose…")
        browse.clicked.connect(self._browse)
        form.addRow("File", beside(self.path, browse))
        frames = self._frames()
        here = len(self.held())
        every = "" if cache.every == 1 else f", every {cache.every}{'nd' if cache.every == 2 else 'rd'}"
        words = f"{frames[0]:g} to {frames[-1]:g}{every}, {here} of {len(frames)} held already"
        form.addRow("Frames", label(words, "soft"))
        width, height = self._size()
        form.addRow("Picture", label(f"{width} × {height}, as the Lens shows it", "soft"))
        self.lay_out(form)

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the preview", self.path.text(), "Movies (*.mp4 *.webm)")
        if name:
            self._preferences.remember_folder("output", Path(name))
            self.path.setText(name if Path(name).suffix else f"{name}.mp4")

    def _frames(self) -> tuple[float, ...]:
        first, last = self.document.playhead.range
        return tuple(float(frame) for frame in range(first, last + 1, self._cache.every))

    def _size(self) -> tuple[int, int]:
        """Movies have even sides: at most a row and a column are left out."""
        return max(2, self._wish.width // 2 * 2), max(2, self._wish.height // 2 * 2)

    def held(self) -> Held:
        """The held frames of the range."""
        size = QSize(*self._wish.size)
        pictures = {frame: self._cache.peek(frame) for frame in self._frames()}
        self._images = {k: each.image for k, each in pictures.items() if each is not None and each.image.size() == size}
        return HeldPixels({k: pixels_of(image) for k, image in self._images.items()})

    def scene(self) -> Scene:
        """With what is hidden, shown alone or pending in the views."""
        return self.document.views.shown

    def _overlay(self) -> Pixels | None:
        """The guides and the mask, as they lie over the picture."""
        guides = self.document.views.format.guides
        if guides.mask is None and not guides.shown:
            return None
        width, height = self._size()
        image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(0)
        inner = QRectF(0, 0, width / beyond(guides), height / beyond(guides))
        inner.moveCenter(QRectF(0, 0, width, height).center())
        p = QPainter(image)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_guides(p, inner, guides)
        p.end()
        return pixels_of(image.convertToFormat(QImage.Format.Format_RGBA8888)).copy()

    def job(self) -> ExportJob:
        view = self._wish.view
        if not isinstance(view, ThroughLens):
            raise SceneError("There is no camera to write. Camera ▸ Add camera makes one.")
        return ExportJob(
            path=Path(self.path.text()).expanduser(),
            frames=self._frames(),
            camera=view.camera,
            format=view.format,
            size=self._size(),
            drawn=(self._wish.width, self._wish.height),
            around=view.around,
            overlay=self._overlay(),
            rate=self.document.settings.rate.fraction / self._cache.every,
            processes=drawing_processes(),
            niceness=8,
        )
