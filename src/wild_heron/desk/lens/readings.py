"""The line of readings under the Lens."""

from typing import ClassVar

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF
from PyQt6.QtGui import QHelpEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from ...evaluate import turn_speed
from ...scene import bind_subject
from ...scene.channels import ROTATION
from ..state.document import Document
from ..state.playback import Playback
from ..widgets.plain_text import as_plain
from ..widgets.quantities import format_number
from ..widgets.theme import PANEL, REED, RUST, SOFT, TEXT, colour, elided, font, laid_out
from ..widgets.unexpected import painted
from .lens_view import BLURRED_SAMPLES, LensView


class Readings(QWidget):
    """Lens, aim and its distance, how fast it pans, roll, edges, and pictures shown per second.

    It paints its texts itself: labels would be laid out anew with every number that changes.
    """

    _TIPS: ClassVar[dict[str, str]] = {
        "lens": "Focal length and horizontal angle of view",
        "aim": "What the camera looks at, and how far off it is",
        "pan": "How fast the lens turns at the playhead",
        "roll": "Roll about the line of sight",
        "edges": "Whether artwork covers the frame at every side",
        "shown": "Pictures shown in the last second, of the scene's rate",
    }

    def __init__(self, document: Document, playback: Playback, view: LensView) -> None:
        super().__init__()
        self._document, self._playback, self._view = document, playback, view
        self.setFixedHeight(44)
        self.setAccessibleName("Readings")
        self.texts: dict[str, tuple[str, str, str]] = {}
        for signal in (
            document.changed,
            document.playhead.moved,
            document.settings_changed,
            playback.changed,
            view.shown,
        ):
            signal.connect(lambda: document.turns.ask(self, self.refresh))
        self.refresh()

    def refresh(self) -> None:
        texts = self._read()
        if texts != self.texts:
            self.texts = texts
            self.setAccessibleDescription(", ".join(f"{caption} {value}" for caption, value, _ in texts.values()))
            self.update()

    def _read(self) -> dict[str, tuple[str, str, str]]:
        """Caption, value and colour of each reading."""
        camera = self._document.views.camera
        if camera is None:
            return {name: (name, "—", TEXT) for name in self._TIPS}
        here, seen = self._document.evaluations.here, self._document.evaluations.seen
        if seen is None:
            return {name: (name, "—", TEXT) for name in self._TIPS}
        distance = seen.aim_distance()
        aim = "free"
        if distance is not None and np.isfinite(distance[0]):
            # In a blend, on a tour and in an event it may look at what is no aim of the camera's own.
            node = here.scene.node(camera.id) if camera.id in here.scene else None
            name = bind_subject(here.scene, node.aim) if node is not None and node.aim is not None else "point"
            aim = f"{name} {float(distance[0]):.1f}"
        speed = turn_speed(*self._document.evaluations.around(), self._document.settings.rate.fps)
        bare = self._view.bare
        rate = self._document.settings.rate
        shown = f"{self._playback.rate_shown():.0f} of {rate.label} fps" if self._playback.is_playing else "paused"
        if self._view.is_blurred:
            shown = f"{BLURRED_SAMPLES} samples"
        return {
            "lens": (format_number(float(seen.focal_mm[0]), "mm"), f"{float(seen.angles()[0][0]):.1f}°", TEXT),
            "aim": ("aim", aim, TEXT),
            "pan": ("pan", f"{speed:.1f}°/s", TEXT),
            "roll": ("roll", format_number(self._document.evaluations.value(camera.id, ROTATION[2]), "degrees"), TEXT),
            "edges": self._stretch()
            if self._view.stretched
            else ("edges", _edges(bare), SOFT if bare is None else RUST if bare else REED),
            "shown": ("shown", shown, TEXT),
        }

    def _stretch(self) -> tuple[str, str, str]:
        assert self._view.stretched is not None
        beyond, missing = self._view.stretched
        tone = RUST if beyond + missing > 0.01 else REED
        bare = f", {missing:.0%} bare" if missing >= 0.005 else ""
        return "stretch", f"{beyond:.0%} over 2×{bare}", tone

    def _column(self, index: int) -> QRectF:
        width = (self.width() - 34.0) / len(self._TIPS)
        return QRectF(20.0 + index * width, 0.0, width - 8.0, float(self.height()))

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), colour(PANEL))
        for index, (caption, value, tone) in enumerate(self.texts.values()):
            column = self._column(index)
            p.setFont(font(11))
            p.setPen(colour(SOFT))
            p.drawStaticText(QPointF(column.left(), 6), laid_out(caption, 11))
            p.setFont(font(12))
            p.setPen(colour(tone))
            p.drawStaticText(QPointF(column.left(), 22), laid_out(elided(value, int(column.width()))))

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            for index, tip in enumerate(self._TIPS.values()):
                if self._column(index).contains(event.pos().toPointF()):
                    QToolTip.showText(event.globalPos(), as_plain(tip), self)
                    return True
        return super().event(event)


def _edges(bare: tuple[str, ...] | None) -> str:
    """Which sides show bare background, in few words."""
    if bare is None:
        return "reading…"
    if len(bare) == 4:
        return "bare all round"
    if len(bare) == 3:
        return "bare but " + next(side for side in ("left", "right", "top", "bottom") if side not in bare)
    return "bare " + ", ".join(bare) if bare else "covered"
