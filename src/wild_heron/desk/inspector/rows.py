"""Rows of the inspector: a caption, up to three fields, and a dot that keys them."""

from collections.abc import Callable
from math import inf
from typing import Any, NamedTuple

import msgspec
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QGridLayout, QHBoxLayout, QSizePolicy, QToolButton, QWidget

from ...edits import KeyRef, remove_keys
from ...scene import AnyNode
from ...scene.channels import ChannelSpec
from ...scene.types import UnitName
from ..channels.field import ChannelField, channel_mark
from ..state.document import Document
from ..state.key_edits import edit_keys
from ..state.recording import key_now
from ..widgets.panel_parts import label
from ..widgets.property_fields import ChoiceField, LineField, Property, PropertyField, SwitchField, ToneField
from ..widgets.theme import AMBER, FAINT, RUST, colour, font
from ..widgets.unexpected import painted


class KeyDot(QAbstractButton):
    """Keys a row of channels at the playhead, or takes those keys away."""

    def __init__(self) -> None:
        super().__init__()
        self.mark = "none"
        self.setFixedSize(18, 23)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Key this row at the playhead, or delete its keys here")
        self.setAccessibleName("Key this row")

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        tone = colour({"pending": RUST, "none": FAINT}.get(self.mark, AMBER))
        p.setPen(tone)
        p.setBrush(tone if self.mark in ("here", "pending") else Qt.BrushStyle.NoBrush)
        radius = 4.0 if self.underMouse() else 3.4
        p.drawEllipse(QRectF(9 - radius, 11.5 - radius, 2 * radius, 2 * radius))
        if self.hasFocus():
            p.setPen(QPen(colour(AMBER), 1.5))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawEllipse(QRectF(2, 4.5, 14, 14))


def spec(
    label_: str, unit: UnitName, nudge: float, low: float = -inf, high: float = inf, default: float = 0.0
) -> ChannelSpec:
    """How a number that is no channel is shown. What it may hold is said by the field that it is of, where it is of
    one; ``low`` and ``high`` are for others, or narrower."""
    return ChannelSpec(label_.replace(" ", "."), label_, unit, default, low, high, nudge)


class Page(NamedTuple):
    """How a kind of node is shown: its own rows, and all that decides which rows those are."""

    rows: "Callable[[Rows, Any], None]"
    shape: Callable[[Any], tuple[object, ...]] = lambda node: ()


Pages = dict[type, Page]


class Rows:
    """A page of the inspector while it is built, and what on it has to be kept up to date."""

    def __init__(self, document: Document, node: AnyNode | None) -> None:
        self.document = document
        self.node = node
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(6)
        self.grid.setVerticalSpacing(5)
        self.grid.setColumnMinimumWidth(0, 58)
        for k in (1, 2, 3):
            self.grid.setColumnStretch(k, 1)
        self.fields: dict[str, ChannelField] = {}
        self.properties: dict[str, QWidget] = {}
        self.followers: list[Callable[[], None]] = []
        self._dots: list[tuple[KeyDot, tuple[str, ...]]] = []

    def refresh(self) -> None:
        """Show the values at the playhead."""
        for field in self.fields.values():
            field.refresh()
        if self.node is not None:
            for dot, names in self._dots:
                marks = {channel_mark(self.document, self.node.id, name) for name in names}
                mark = next((each for each in ("pending", "here", "keyed") if each in marks), "none")
                if mark != dot.mark:
                    dot.mark = mark
                    dot.update()
        for follow in self.followers:
            follow()

    # Channels

    def channels(
        self,
        title: str,
        names: tuple[str, ...],
        axis: bool = True,
        first: int = 1,
        captions: tuple[str, ...] = (),
    ) -> int:
        """A row of channels with a dot, each with a caption over it where there are any; returns its number."""
        assert self.node is not None
        row = self._caption(title)
        for k, name in enumerate(names):
            caption = captions[k] if k < len(captions) else ""
            field = ChannelField(self.document, self.node.id, name, k if axis else None, caption=caption)
            self.fields[name] = field
            self.grid.addWidget(field, row, first + k)
        dot = KeyDot()
        node_id = self.node.id
        dot.clicked.connect(lambda: self._toggle_keys(title, node_id, names))
        self._dots.append((dot, names))
        self.grid.addWidget(dot, row, 4, Qt.AlignmentFlag.AlignBottom)
        return row

    def _toggle_keys(self, title: str, node_id: str, names: tuple[str, ...]) -> None:
        document = self.document
        node = document.scene.node(node_id)
        here = [
            KeyRef(node_id, name, document.playhead.frame)
            for name in names
            if (channel := node.channel(name)) and channel.key_at(document.playhead.frame)
        ]
        if here and not any(channel_mark(document, node_id, name) == "pending" for name in names):
            name = f"Delete keys: {node.name} · {title.lower()}"
            edit_keys(document, name, here, lambda scene: remove_keys(scene, here))
            return
        channels = [(node_id, name) for name in names]
        document.recorder.apply(
            f"Key {node.name} · {title.lower()}", key_now(document.state, channels, document.playhead.frame)
        )

    def heading(self, text: str, *buttons: QWidget) -> None:
        """A line over rows that belong together, with what can be done to all of them at its right."""
        line = QWidget()
        row = QHBoxLayout(line)
        row.setContentsMargins(0, 7, 0, 0)
        row.setSpacing(2)
        words = label(text, "soft", 11, QFont.Weight.DemiBold)
        words.setMinimumWidth(20)
        row.addWidget(words, 1)
        for button in buttons:
            row.addWidget(button)
        self.grid.addWidget(line, self.grid.rowCount(), 0, 1, 5)

    # What is not animated

    def _caption(self, title: str) -> int:
        row = self.grid.rowCount()
        self.grid.addWidget(label(title, "soft"), row, 0)
        return row

    def widgets(self, title: str, *widgets: QWidget, spans: tuple[int, ...] = ()) -> int:
        """A row of any widgets; ``spans`` says how many of the three columns each takes."""
        row = self._caption(title)
        column = 1
        for k, widget in enumerate(widgets):
            span = spans[k] if k < len(spans) else 1
            # All columns are equally wide, whatever would like to be wider.
            widget.setSizePolicy(QSizePolicy.Policy.Ignored, widget.sizePolicy().verticalPolicy())
            self.grid.addWidget(widget, row, column, 1, span)
            column += span
            if hasattr(widget, "refresh"):
                self.followers.append(widget.refresh)
        return row

    def property(
        self, name: str, get: Callable[[AnyNode], Any], put: Callable[[AnyNode, Any], AnyNode],
        field: tuple[type, str] | None = None,
    ) -> Property:  # fmt: skip
        """A value of the node; ``put`` makes the node with another. ``field``: of which kind it is which field."""
        assert self.node is not None
        node_id, title = self.node.id, f"{self.node.name}: {name}"
        return Property(
            self.document,
            title,
            lambda scene: get(scene.node(node_id)),
            lambda scene, value: scene.with_node(put(scene.node(node_id), value)),
            field,
        )

    def field(self, name: str, field: str) -> Property:
        """A value of the node by its field."""
        return self.property(
            name,
            lambda node: getattr(node, field),
            lambda node, value: msgspec.structs.replace(node, **{field: value}),
            (type(self.node), field),
        )

    def part(self, holder: str, name: str, field: str) -> Property:
        """A value of a part of the node, such as its shape or artwork."""
        return self.property(
            name,
            lambda node: getattr(getattr(node, holder), field),
            lambda node, value: msgspec.structs.replace(
                node, **{holder: msgspec.structs.replace(getattr(node, holder), **{field: value})}
            ),
            (type(getattr(self.node, holder)), field),
        )

    def number(self, prop: Property, spec_: ChannelSpec, axis: int | None = None, caption: str = "") -> PropertyField:
        """A number, within what its field may hold."""
        room = prop.room
        if room is not None:
            low, high = max(spec_.low, room.low), min(spec_.high, room.high)
            spec_ = msgspec.structs.replace(spec_, low=low, high=high, default=room.default)
            prop = prop.rounded() if room.whole else prop
        return self._kept(spec_.label, PropertyField(prop, spec_, axis, caption))

    def choice(self, prop: Property, choices: list[tuple[Any, str]], tip: str) -> ChoiceField:
        return self._kept(tip, ChoiceField(prop, choices, tip))

    def tone(self, prop: Property, tip: str, empty: str = "") -> ToneField:
        return self._kept(tip, ToneField(prop, tip, empty))

    def switch(self, prop: Property, text: str, tip: str) -> SwitchField:
        return self._kept(text, SwitchField(prop, text, tip))

    def line(self, prop: Property, tip: str) -> LineField:
        return self._kept(tip, LineField(prop, tip))

    def _kept(self, name: str, widget: Any) -> Any:
        self.properties[name] = widget
        return widget


def word_button(text: str, tip: str, clicked: Callable[[QToolButton], object]) -> QToolButton:
    """A button that shows what is chosen and opens a menu."""
    out = QToolButton()
    out.setText(f"{text} ▾")
    out.setToolTip(tip)
    out.setAccessibleName(tip)
    out.setFont(font(11))
    out.setProperty("look", "word")
    out.setFixedHeight(23)
    out.clicked.connect(lambda: clicked(out))
    return out
