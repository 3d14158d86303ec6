"""Stretching keys by a number, while the views show what comes of it."""

from functools import partial

from PyQt6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QToolButton,
    QWidget,
)

from ...edits import key_ranges
from ...scene import SceneError
from ...scene.channels import ChannelSpec
from ..state.document import Document
from ..state.key_edits import edit_keys
from ..widgets.dialog import Dialog, push_button
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import label

ABOUT = (("playhead", "the playhead"), ("middle", "their middle"), ("first", "the first"), ("last", "the last"))


class StretchKeysDialog(Dialog):
    """Not modal. Factor and length are one thing said twice; nothing is changed before *Stretch*."""

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__("Stretch keys", parent, looked_past=True)
        self._document = document
        self._refs = document.selection.keys
        self._first, self._last = key_ranges.extent(self._refs)
        self.factor = 1.0
        count = len(self._refs)
        self.column.addWidget(
            label(f"{count} key{'' if count == 1 else 's'}, from frame {self._first:g} to {self._last:g}")
        )
        row = QHBoxLayout()
        row.addWidget(label("About", "soft"))
        self.about = QButtonGroup(self)
        for name, text in ABOUT:
            button = QToolButton()
            button.setText(text)
            button.setCheckable(True)
            button.setChecked(name == "playhead")
            button.setObjectName(name)
            self.about.addButton(button)
            row.addWidget(button)
        self.about.buttonClicked.connect(lambda: self.refresh())
        row.addStretch()
        self.column.addLayout(row)
        grid = QGridLayout()
        self.fields: dict[str, NumberField] = {}
        length = max(self._last - self._first, 1e-9)
        fps = document.settings.rate.fps
        for k, (name, text, unit, low, high, nudge) in enumerate(
            (
                ("factor", "Factor", "factor", 0.01, 100.0, 0.01),
                ("frames", "Length in frames", "count", 0.01 * length, 100.0 * length, 1.0),
                ("seconds", "in seconds", "seconds", 0.01 * length / fps, 100.0 * length / fps, 0.05),
                ("speed", "Speed", "share", 0.01, 100.0, 0.01),
            )
        ):
            field = NumberField(ChannelSpec(name, text, unit, 1.0, low, high, nudge))  # type: ignore[arg-type]
            field.edited.connect(lambda value, repeats, name=name: self.put(name, value))
            field.dragged.connect(lambda value, name=name: self.put(name, value))
            field.refused.connect(lambda text: document.messages.say(text, True))
            grid.addWidget(label(text, "soft"), k // 2, 2 * (k % 2))
            grid.addWidget(field, k // 2, 2 * (k % 2) + 1)
            self.fields[name] = field
        self.column.addLayout(grid)
        self.go = push_button("Stretch", self.stretch)
        self.add_buttons(push_button("Cancel", self.reject), self.go)
        self.refresh()

    def put(self, name: str, value: float) -> None:
        """Take one of the numbers; the others follow."""
        length = max(self._last - self._first, 1e-9)
        fps = self._document.settings.rate.fps
        self.factor = {
            "factor": value,
            "frames": value / length,
            "seconds": value * fps / length,
            "speed": 1.0 / max(value, 1e-6),
        }[name]
        self.refresh()

    def _about(self) -> float:
        button = self.about.checkedButton()
        chosen = button.objectName() if button else "playhead"
        middle = 0.5 * (self._first + self._last)
        return {"playhead": self._document.playhead.frame, "middle": middle, "first": self._first, "last": self._last}[
            chosen
        ]

    def refresh(self) -> None:
        length, fps = self._last - self._first, self._document.settings.rate.fps
        shown = {
            "factor": self.factor, "frames": length * self.factor, "seconds": length * self.factor / fps,
            "speed": 1.0 / self.factor,
        }  # fmt: skip
        for name, value in shown.items():
            self.fields[name].show_value(value)
        try:
            scene, _ = key_ranges.stretch(self._document.scene, self._refs, self._about(), self.factor)
            self._document.views.propose(scene)
        except SceneError as problem:
            self._document.messages.say(str(problem), True)

    def stretch(self) -> None:
        """Make it, as one step."""
        document, about = self._document, self._about()
        document.views.propose(None)
        stretched = partial(key_ranges.stretch, refs=self._refs, about=about, factor=self.factor)
        edit_keys(document, "Stretch keys", self._refs, stretched)
        self.accept()

    def done(self, result: int) -> None:
        self._document.views.propose(None)
        super().done(result)
