"""From where the Overview is seen, and what a drag in it is worth in the world."""

import numpy as np
from PyQt6.QtCore import QPointF

from ..state.document import Document
from ..widgets.drag import DragArea
from .free_view import Eye
from .motion_path_editing import MotionPathEditor
from .path_editing import PathEditor

MODES = ("free", "plan", "side", "front")


class Viewpoint(DragArea):
    """One viewpoint for each mode, and the editors of what is dragged besides nodes."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.eyes = {mode: Eye(mode) for mode in MODES}
        self.mode = "free"
        self.only: int | None = None
        """The axis (0, 1, 2) that a drag is held to."""
        self.path_editor = PathEditor(document)
        self.path_key_editor = MotionPathEditor(document)

    @property
    def eye(self) -> Eye:
        return self.eyes[self.mode]

    def look(self, eye: Eye) -> None:
        self.eyes[self.mode] = eye
        self.ask()

    def ask(self) -> None:
        """Ask for a picture from there."""
        raise NotImplementedError

    def step(self, place: np.ndarray, offset: QPointF) -> np.ndarray:
        """A drag in pixels as a step in the world (3,), in the plane of the view; or along the axis whose key (X, Y, Z)
        is held down."""
        unit = self.eye.units_per_pixel(place, self.width())
        axes = self.eye.axes()
        step = axes[:, 0] * offset.x() * unit - axes[:, 1] * offset.y() * unit
        if self.only is None:
            return step
        along = np.eye(3)[self.only]
        seen = along - axes[:, 2] * float(along @ axes[:, 2])
        size = float(seen @ seen)
        # As far along the axis as brings it under the pointer.
        return along * (float(step @ seen) / size) if size > 1e-4 else np.zeros(3)
