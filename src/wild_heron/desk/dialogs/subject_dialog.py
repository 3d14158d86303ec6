"""What has to stay in the frame: in which part of it, which part of the node, how large, and in which shots."""

from typing import Any

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFormLayout, QWidget

from ...scene import Scene, Subject
from ...scene.checks import AREAS
from ..inspector.rows import spec
from ..state.document import Document
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.panel_parts import label
from ..widgets.picker import Picker
from ..widgets.property_fields import ChoiceField, Property, PropertyField

_AREAS = {"frame": "whole frame", "action": "action area, 93 %", "title": "title area, 90 %"}
_SIDES = ("left", "top", "right", "bottom")


class SubjectDialog(Dialog):
    """Every change is a step; it closes when the node is no subject any more."""

    def __init__(self, document: Document, node_id: str, parent: QWidget | None = None) -> None:
        super().__init__("Keep in frame", parent, 420, looked_past=True)
        self._document, self._node = document, node_id
        self.name = label("", size=13)
        self.column.addWidget(self.name)
        form = QFormLayout()
        form.setVerticalSpacing(9)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        area = Property(document, "Area of a subject", lambda scene: self._of(scene).area, self._put("area"))
        self.area = ChoiceField(area, [(each, _AREAS[each]) for each in AREAS], "In which part of the frame it stays")
        form.addRow("Stays in the", self.area)
        self.part = [self._part(k) for k in range(4)]
        form.addRow("Part of it", beside(*self.part))
        form.addRow("", label("shares of its own width and height", "soft", 11))
        least = Property(document, "Least size of a subject", lambda scene: self._of(scene).least, self._put("least"))
        self.least = PropertyField(least, spec("least height", "share", 0.01, 0, 1))
        form.addRow("At least", beside(self.least, label("of the frame's height, to be read", "soft", 11)))
        shots = tuple(dict.fromkeys(shot.name for shot in document.scene.shots))
        self.shots = Picker(
            [(each, each) for each in shots], (), "in all shots", "In which shots it matters",
            "wherever it is in frame for most of a shot",
        )  # fmt: skip
        self.shots.changed.connect(self._choose_shots)
        self.shots.setEnabled(bool(shots))
        form.addRow("Matters", self.shots)
        self.column.addLayout(form)
        self.add_buttons(push_button("Close", self.close, default=False))
        document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        scene = self._document.scene
        if not any(each.node == self._node for each in scene.checks.subjects):
            self.close()
            return
        self.name.setText(scene.node(self._node).name)
        self.area.refresh()
        self.least.refresh()
        for field in self.part:
            field.refresh()
        self.shots.show_chosen(self._of(scene).shots)

    def _of(self, scene: Scene) -> Subject:
        return next(each for each in scene.checks.subjects if each.node == self._node)

    def _changed(self, scene: Scene, **fields: Any) -> Scene:
        own = (replace(each, **fields) if each.node == self._node else each for each in scene.checks.subjects)
        return replace(scene, checks=replace(scene.checks, subjects=tuple(own)))

    def _put(self, field: str):  # type: ignore[no-untyped-def]
        return lambda scene, value: self._changed(scene, **{field: value})

    def _part(self, k: int) -> PropertyField:
        def put(scene: Scene, value: float) -> Scene:
            part = list(self._of(scene).part)
            part[k] = value
            return self._changed(scene, part=tuple(part))

        prop = Property(self._document, "Part of a subject", lambda scene: self._of(scene).part[k], put)
        return PropertyField(prop, spec(_SIDES[k], "share", 0.01, 0, 1, float(k > 1)), caption=_SIDES[k])

    def _choose_shots(self) -> None:
        shots = self.shots.chosen
        self._document.edit("Shots in which a subject matters", lambda scene: self._changed(scene, shots=shots))
