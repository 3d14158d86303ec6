"""Guides of a format: which are shown, where text is safe, and what covers the picture beyond the frame."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QFormLayout, QWidget

from ...edits import format_named, set_guides, show_guide
from ...scene import GUIDES, MASK, Guide, Guides
from ..inspector.rows import spec
from ..state.document import Document
from ..widgets.dialog import Dialog, beside, push_button
from ..widgets.panel_parts import label
from ..widgets.property_fields import Property, PropertyField, SwitchField, ToneField

_SWITCHES: dict[Guide, tuple[str, str]] = {
    "thirds": ("thirds", "Lines at thirds of the frame"),
    "centre": ("centre", "A cross in the middle of the frame"),
    "safe": ("safe areas", "The areas for action (93 %) and titles (90 %)"),
    "text": ("text band", "The band at the bottom in which text is safe"),
}


class GuidesDialog(Dialog):
    """Everything shows at once, and is saved with the format."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Guides", parent, 380, looked_past=True)
        self._document = document
        self.name = label("", size=13)
        self.column.addWidget(self.name)
        form = QFormLayout()
        form.setVerticalSpacing(9)
        self.switches = {guide: SwitchField(self._shown(guide), *_SWITCHES[guide]) for guide in GUIDES}
        form.addRow("Show", beside(*self.switches.values()))
        self.low = PropertyField(self._text(0), spec("text from", "share", 0.01, 0, 0.99, 0.2))
        self.high = PropertyField(self._text(1), spec("text to", "share", 0.01, 0.01, 1, 0.38))
        words = label("of the height, from the bottom", "soft", 11)
        form.addRow("Text band", beside(self.low, label("to", "soft"), self.high, words))
        has = self._property(
            "what lies beyond", lambda guides: guides.mask is not None, lambda on: {"mask": MASK if on else None}
        )
        self.beyond = SwitchField(has, "shown under", "Show what lies beyond the frame, under a colour")
        tone = self._property("colour beyond the frame", lambda guides: guides.mask, lambda tone: {"mask": tone})
        self.tone = ToneField(tone, "Colour over what lies beyond the frame", "none")
        strength = self._property("strength", lambda guides: guides.strength, lambda value: {"strength": value})
        self.strength = PropertyField(strength, spec("strength", "share", 0.05, 0, 1, 0.8))
        form.addRow("Beyond", beside(self.beyond, self.tone, self.strength))
        self.column.addLayout(form)
        self.add_buttons(push_button("Close", self.close, default=False))
        numbers = (self.low, self.high, self.strength)
        self._refreshes = [
            *(each.refresh for each in numbers), *(each.refresh for each in self.switches.values()),
            self.beyond.refresh, self.tone.refresh,
        ]  # fmt: skip
        for signal in (document.changed, document.settings_changed):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        shape = self._document.views.format
        self.name.setText(f"{shape.name}, {shape.width} × {shape.height}")
        for refresh in self._refreshes:
            refresh()
        for field in (self.tone, self.strength):
            field.setEnabled(shape.guides.mask is not None)

    def _property(self, what: str, get: Callable[[Guides], Any], put: Callable[[Any], dict[str, Any]]) -> Property:
        """A value of the guides; ``put`` says which of their fields become what."""
        return Property(
            self._document, f"Guides: {what}", lambda scene: get(format_named(scene, self._here()).guides),
            lambda scene, value: set_guides(scene, self._here(), **put(value)),
        )  # fmt: skip

    def _here(self) -> str:
        return self._document.views.format.name

    def _shown(self, guide: Guide) -> Property:
        return Property(
            self._document, f"Guides: {_SWITCHES[guide][0]}",
            lambda scene: guide in format_named(scene, self._here()).guides.shown,
            lambda scene, on: show_guide(scene, self._here(), guide, bool(on)),
        )  # fmt: skip

    def _text(self, end: int) -> Property:
        def put(value: float) -> dict[str, Any]:
            low, high = format_named(self._document.scene, self._here()).guides.text
            return {"text": (value, high) if end == 0 else (low, value)}

        return self._property("text band", lambda guides: guides.text[end], put)
