"""Spread in depth: even steps between a nearest and a farthest distance, shown while they are chosen."""

from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QCheckBox, QFormLayout, QWidget

from ...edits.arranging import spread
from ...edits.posing import depth_of
from ...scene import SceneError
from ...scene.channels import ChannelSpec
from ..state.document import Document
from ..state.recording import record
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import Choice, label, set_tone
from ..widgets.theme import RUST

_DISTANCE = ChannelSpec("distance", "distance", "units", 10.0, 0.01, 1e6, 0.5)


class SpreadDialog(Dialog):
    """The views follow while it is open; Cancel puts everything back, Spread keeps it as one step."""

    def __init__(self, document: Document, nodes: tuple[str, ...], parent: QWidget | None = None) -> None:
        super().__init__("Spread in depth", parent, 340, looked_past=True)
        self._document = document
        scene, camera = document.views.shown, document.views.camera
        assert camera is not None
        self._camera = camera.id
        depths = {node: depth_of(scene, camera.id, node, document.playhead.frame) for node in nodes}
        place = {node.id: k for k, node in enumerate(scene.nodes)}
        # Far to near; what shares a plane, in the order in which it is drawn.
        self._nodes = sorted(nodes, key=lambda node: (-round(depths[node], 6), place[node]))
        names = [scene.node(node).name for node in self._nodes]
        ahead = [depth for depth in depths.values() if depth > 0.0] or [10.0]
        near, far = min(ahead), max(ahead)
        if far - near < 1e-6:
            near, far = 0.6 * near, 1.8 * far
        self.nearest, self.farthest = self._field("nearest", near), self._field("farthest", far)
        self.spacing = Choice()
        self.spacing.addItem("even steps", "even")
        self.spacing.addItem("by perspective", "perspective")
        self.spacing.setToolTip("By perspective: each slides the same amount past the next when the camera moves aside")
        self.spacing.setCurrentIndex(1)
        self.keep = QCheckBox("keep apparent size")
        self.keep.setToolTip("Scale with the distance, so that the picture through the lens stays the same")
        self.keep.setChecked(True)
        form = QFormLayout()
        form.setVerticalSpacing(9)
        form.addRow("Nearest", beside(self.nearest, label(f"{names[-1]}", "soft", 11), even=True))
        form.addRow("Farthest", beside(self.farthest, label(f"{names[0]}", "soft", 11), even=True))
        form.addRow("Steps", self.spacing)
        form.addRow("", self.keep)
        self.note = label(f"{len(nodes)} nodes, from {names[0]} to {names[-1]}", "soft", 11)
        self.note.setWordWrap(True)
        go = push_button("Spread", self.accept)
        go.setDefault(True)
        self.column.addLayout(form)
        self.column.addWidget(self.note)
        self.add_buttons(push_button("Cancel", self.reject), go)
        self.spacing.currentIndexChanged.connect(self.show_result)
        self.keep.toggled.connect(self.show_result)
        self._running = True
        document.gesture.begin("Spread in depth")
        self.show_result()

    def _field(self, name: str, value: float) -> NumberField:
        out = NumberField(_DISTANCE)
        out.show_value(round(value, 3))
        out.setAccessibleName(f"{name} distance")
        out.setToolTip(f"The {name} one's distance from the lens, in units")

        def take(number: float, repeats: bool = False) -> None:
            out.show_value(number)
            self.show_result()

        out.edited.connect(take)
        out.dragged.connect(take)
        out.refused.connect(lambda text: self._document.messages.say(text, True))
        return out

    def show_result(self) -> None:
        """Show what the present numbers give."""
        if not self._running:
            return
        document = self._document
        base = document.gesture.base
        try:
            changes = spread(
                base.shown(document.playhead.frame), self._camera, self._nodes, self.nearest.value, self.farthest.value,
                self.spacing.currentData(), document.playhead.frame, self.keep.isChecked(),
            )  # fmt: skip
            recorded = record(base, changes, document.playhead.frame, document.recorder.auto_key)
        except SceneError as problem:
            self.note.setText(str(problem))
            set_tone(self.note, RUST)
            return
        set_tone(self.note)
        self.note.setText(f"{len(self._nodes)} nodes")
        document.gesture.preview(recorded.state)

    def accept(self) -> None:
        self._running = False
        self._document.gesture.commit()
        super().accept()

    def reject(self) -> None:
        if self._running:
            self._running = False
            self._document.cancel()
        super().reject()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.reject()
        super().closeEvent(event)
