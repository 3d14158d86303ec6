"""The curves with their strip: what is drawn, how handles are, and the numbers of the key that is selected."""

from functools import partial

from msgspec.structs import replace
from PyQt6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from ....edits import SAME_FRAME, KeyRef, is_locked, key_ranges, left_alone
from ....edits.keys import Keys, moved_keys
from ....motion.keys import lengths_at, with_lengths, with_slopes
from ....motion.sides import slopes_at
from ....scene import Channel, Key, Scene, spec
from ....scene.channels import ChannelSpec
from ....scene.types import UnitName
from ...state.document import Document
from ...state.key_edits import drag_keys, edit_keys
from ...widgets.number_field import NumberField
from ...widgets.panel_parts import label, set_surface
from ...widgets.strip import Strip
from ...widgets.theme import font
from .curves_view import CurvesView

_STYLES = (
    ("auto", "auto", "Slopes by themselves, never overshooting"),
    ("auto smooth", "smooth", "Slopes by themselves, as smooth as can be"),
    ("smooth", "one slope", "By hand: the same slope on both sides"),
    ("broken", "two slopes", "By hand: each side has its own slope"),
    ("flat", "flat", "By hand: level on both sides"),
)

_NUMBERS = (
    ("frame", "frame", "The key's frame"),
    ("value", "value", "The key's value"),
    ("into", "slope in", "Slope before the key, per second"),
    ("out", "out", "Slope after the key, per second"),
    ("length_in", "reach in", "How far the handle before the key reaches, of its span"),
    ("length_out", "out", "How far the handle after the key reaches, of its span"),
)
_LIMITS = {"frame": (-1e6, 1e6, 1.0), "length_in": (0.01, 1.0, 0.01), "length_out": (0.01, 1.0, 0.01)}
_UNITS: dict[str, UnitName] = {"frame": "pixels", "length_in": "share", "length_out": "share"}


class CurvesPanel(QWidget):
    """A strip over the curves."""

    def __init__(self, document: Document, tabs: QWidget) -> None:
        super().__init__()
        self.document = document
        self.view = CurvesView(document)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        strip = QWidget()
        set_surface(strip, "panel", "bottom")
        strip.setFixedHeight(34)
        row = QHBoxLayout(strip)
        row.setContentsMargins(14, 0, 14, 0)
        row.setSpacing(3)
        row.addWidget(tabs)
        row.addSpacing(12)
        self.speeds = self._switch("speed", "Speeds in place of values: drag a key up or down to change its speed")
        self.speeds.toggled.connect(lambda on: self.view.set_mode(speeds=on))
        self.normal = self._switch("one scale", "Every curve drawn from its lowest to its highest value")
        self.normal.toggled.connect(lambda on: self.view.set_mode(normal=on))
        fit = self._button("fit", "See the selected keys, or everything (double-click); Alt+drag zooms to a box")
        fit.clicked.connect(self.view.fit)
        for widget in (self.speeds, self.normal, fit):
            row.addWidget(widget)
        row.addSpacing(12)
        self.styles: dict[str, QToolButton] = {}
        for style, text, tip in _STYLES:
            button = self._button(text, tip)
            button.clicked.connect(lambda checked, style=style: self.set_style(style))
            self.styles[style] = button
            row.addWidget(button)
        row.addStretch()
        self.fields: dict[str, NumberField] = {}
        for name, text, tip in _NUMBERS:
            unit, limits = _UNITS.get(name, "factor"), _LIMITS.get(name, (-1e9, 1e9, 0.05))
            field = NumberField(ChannelSpec(name, text, unit, 0.0, *limits))
            field.follow(document, partial(f"Key {text}".format), partial(self.put, name), f"curve/{name}")
            field.setFixedWidth(52 if name in _UNITS else 70)
            field.setToolTip(tip)
            row.addWidget(label(text, "soft", 11))
            row.addWidget(field)
            self.fields[name] = field
        column.addWidget(Strip(strip))
        column.addWidget(self.view, 1)
        for signal in (document.changed, document.selection.keys_changed):
            signal.connect(self.refresh)
        self.refresh()

    @staticmethod
    def _button(text: str, tip: str) -> QToolButton:
        out = QToolButton()
        out.setText(text)
        out.setFont(font(11))
        out.setToolTip(tip)
        out.setAccessibleName(tip)
        return out

    def _switch(self, text: str, tip: str) -> QToolButton:
        out = self._button(text, tip)
        out.setCheckable(True)
        return out

    def _key(self) -> tuple[KeyRef, Channel, int] | None:
        """The one key that is selected."""
        refs = self.document.selection.keys
        if len(refs) != 1:
            return None
        (ref,) = refs
        channel = self.document.scene.node(ref.node).channel(ref.channel)
        if channel is None:
            return None
        index = next((i for i, key in enumerate(channel.keys) if abs(key.frame - ref.frame) <= SAME_FRAME), None)
        return None if index is None else (ref, channel, index)

    def refresh(self) -> None:
        found = self._key()
        has_keys = bool(self.document.selection.keys)
        for button in self.styles.values():
            button.setEnabled(has_keys)
        for field in self.fields.values():
            field.setEnabled(found is not None)
        if found is None:
            return
        ref, channel, index = found
        fps = self.document.settings.rate.fps
        unit = spec(self.document.scene.node(ref.node), ref.channel)
        into, out = slopes_at(channel.keys, index)
        key = channel.keys[index]
        lengths = lengths_at(channel.keys, index)
        shown = {"frame": key.frame, "value": key.value, "into": into * fps, "out": out * fps}
        shown |= {"length_in": lengths[0], "length_out": lengths[1]}
        for name, value in shown.items():
            field = self.fields[name]
            if name not in _UNITS and field.spec.unit != unit.unit:
                field.spec = replace(field.spec, unit=unit.unit, nudge=unit.nudge)
            field.show_value(value, locked=is_locked(self.document.scene.node(ref.node), ref.channel))

    def put(self, name: str, value: float, merge: str = "") -> None:
        """Change one number of the selected key."""
        document, found = self.document, self._key()
        if found is None:
            return
        ref = found[0]
        fps, known = document.settings.rate.fps, spec(document.scene.node(ref.node), ref.channel)

        def changed(keys: Keys, picked: list[int]) -> Keys:
            at = picked[0]
            key = keys[at]
            match name:
                case "into":
                    return with_slopes(keys, at, value / fps, None)
                case "out":
                    return with_slopes(keys, at, None, value / fps)
                case "length_in":
                    return with_lengths(keys, at, value, None)
                case "length_out":
                    return with_lengths(keys, at, None, value)
                case "frame":
                    return moved_keys(keys, picked, [Key(value, key.value, key.span)])
            return moved_keys(keys, picked, [Key(key.frame, min(max(value, known.low), known.high), key.span)])

        def change(scene: Scene) -> tuple[Scene, list[KeyRef]]:
            scene, _ = key_ranges.reshape(scene, [ref], changed)
            return scene, [ref._replace(frame=value) if name == "frame" else ref]

        if is_locked(document.scene.node(ref.node), ref.channel):
            document.messages.say(left_alone(document.scene, [ref[:2]]), True)
        elif document.gesture.running:
            drag_keys(document, f"Key {name}", [ref], change)
        else:
            edit_keys(document, f"Key {name}", [ref], change, merge)

    def set_style(self, style: key_ranges.Style) -> None:
        """Make the handles of the selected keys flat, smooth, broken or automatic."""
        refs = self.document.selection.keys
        if refs:
            edit_keys(self.document, f"Handles: {style}", refs, lambda scene: key_ranges.set_style(scene, refs, style))
