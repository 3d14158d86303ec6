"""Rows of what can be seen: pictures and cards, logos, models."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any

import msgspec
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QToolButton

from ...edits.arranging import set_anchor, values_for_size
from ...files.errors import FileError
from ...scene import (
    AnyNode,
    Gradient,
    Logo,
    Model,
    ModelFile,
    Movie,
    Picture,
    SceneError,
    Sequence,
    Solid,
    Text,
    Timing,
)
from ...scene.channels import ANCHOR, BLUR, OPACITY, ChannelSpec
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import label, popup_menu
from ..widgets.property_fields import FamilyField, Property, WordsField
from .rows import Page, Pages, Rows, spec, word_button

if TYPE_CHECKING:
    from ...files.reader import Reader

_PIXELS = ChannelSpec("size", "size", "pixels", 100.0, 0.01, 1e7, 1.0)
_ENDS = [("hold", "then hold"), ("loop", "then loop"), ("swing", "back and forth"), ("nothing", "then nothing")]
_WEIGHTS = [
    (100, "Thin"), (300, "Light"), (400, "Regular"), (500, "Medium"), (600, "Semi"), (700, "Bold"), (900, "Black"),
]  # fmt: skip
_ALIGNS = [("left", "left"), ("middle", "middle"), ("right", "right")]
ANCHORS = (
    ("top left", 0.0, 1.0), ("top", 0.5, 1.0), ("top right", 1.0, 1.0), ("left", 0.0, 0.5), ("middle", 0.5, 0.5),
    ("right", 1.0, 0.5), ("bottom left", 0.0, 0.0), ("bottom", 0.5, 0.0), ("bottom right", 1.0, 0.0),
)  # fmt: skip


class SizeField(NumberField):
    """Width or height in artwork pixels, which sets the scale."""

    def __init__(self, rows: Rows, node: Picture | Logo, side: int) -> None:
        super().__init__(_PIXELS)
        self._document, self._node_id, self._side = rows.document, node.id, side
        document, word = rows.document, ("width", "height")[side]
        self._name = f"{node.name}: {word}"
        self.setToolTip(f"{word.capitalize()} in artwork pixels; it sets the scale, and keeps the proportions")
        self.follow(document, lambda: self._name, self._set, self._name)

    def _set(self, value: float, merge: str) -> None:
        document = self._document
        scene = document.gesture.base.shown(document.playhead.frame)
        width, height = (value, None) if self._side == 0 else (None, value)
        document.recorder.set_values(
            self._name, values_for_size(scene, self._node_id, width, height, document.playhead.frame), merge
        )

    def refresh(self) -> None:
        node = self._document.scene.node(self._node_id)
        assert isinstance(node, Picture | Logo)
        scale = self._document.evaluations.value(self._node_id, ("scale.x", "scale.y")[self._side])
        self.show_value((node.width, node.height)[self._side] * scale, "none", node.locked)


def anchor_row(rows: Rows, node: AnyNode) -> None:
    """The anchor as three channels, and a menu of places for it."""
    row = rows.channels("Anchor", ANCHOR)
    document = rows.document

    def menu(button: QToolButton) -> None:
        choices = popup_menu(button)
        for name, across, up in ANCHORS:
            choices.addAction(f"Anchor at the {name}").triggered.connect(
                lambda checked, across=across, up=up, name=name: document.edit(
                    f"Anchor {node.name} at the {name}",
                    lambda scene: set_anchor(scene, node.id, (across, up, 0.5), document.playhead.frame),
                )
            )
        choices.exec(button.mapToGlobal(QPoint(0, button.height())))

    item = rows.grid.itemAtPosition(row, 0)
    assert item is not None
    caption = item.widget()
    assert caption is not None
    caption.hide()
    button = word_button("Anchor", "Put the anchor at an edge; what is shown stays where it is", menu)
    button.setProperty("look", "caption")
    rows.grid.addWidget(button, row, 0)


def _look_row(rows: Rows, first: Any = None) -> None:
    light = rows.switch(
        rows.field("takes light", "takes_light"), "lit", "Lights shade it; off: it shows its own colours"
    )
    haze = rows.switch(rows.field("takes haze", "takes_haze"), "haze", "Distance fades and blurs it")
    widgets = [light, haze] if first is None else [first, light, haze]
    rows.widgets("Look", *widgets)


def picture_rows(rows: Rows, node: Picture) -> None:
    """Size, opacity, blur, look, and what the artwork itself has."""
    _size_row(rows, node)
    artwork = node.artwork
    if isinstance(artwork, Sequence | Movie):
        _timing_rows(rows, "artwork", f"{artwork.count} frames, {artwork.rate:g} fps")
    elif type(artwork) in CARD_ROWS:
        CARD_ROWS[type(artwork)](rows, artwork)
    row = rows.channels("Opacity", (OPACITY, BLUR), axis=False)
    rows.fields[BLUR].setToolTip("Blur: its radius in artwork pixels. Right-click to reset, key or lock.")
    rows.grid.addWidget(label("px blur", "soft", 11), row, 3)
    anchor_row(rows, node)
    _look_row(rows)
    _source_row(rows, node)


def _size_row(rows: Rows, node: Picture | Logo) -> None:
    fields = [SizeField(rows, node, side) for side in (0, 1)]
    rows.properties["width"], rows.properties["height"] = fields
    rows.widgets("Size", *fields, label("px", "soft", 11))


def _card_size(rows: Rows, side: str) -> Any:
    prop = rows.field(f"card {side}", side)
    return rows.number(prop, spec(f"card {side}", "pixels", 10))


def _source_row(rows: Rows, node: AnyNode) -> None:
    source = node.file
    if source is None:
        return
    size = f"   {node.width} × {node.height}" if isinstance(node, Picture) else ""
    file = label(f"{source.rpartition('/')[2]}{size}", "soft", 11)
    file.setToolTip(source)
    file.setMinimumWidth(20)
    rows.widgets("File", file, spans=(3,))


def _timing_rows(rows: Rows, holder: str, note: str) -> None:
    def timing(name: str, field: str) -> Property:
        return rows.property(
            name,
            lambda node: getattr(getattr(node, holder).timing, field),
            lambda node, value: msgspec.structs.replace(
                node,
                **{
                    holder: msgspec.structs.replace(
                        getattr(node, holder),
                        timing=msgspec.structs.replace(getattr(node, holder).timing, **{field: value}),
                    )
                },
            ),
            (Timing, field),
        )

    rows.widgets(
        "Plays",
        rows.number(timing("start frame", "start"), spec("start frame", "count", 1)),
        rows.number(timing("speed", "speed"), spec("speed", "factor", 0.05)),
        rows.choice(timing("at its end", "ends"), _ENDS, "What happens at its end, and before its start"),
    )
    rows.widgets("", label(f"from frame, at speed · {note}", "soft", 11), spans=(3,))


def _colour_rows(rows: Rows, artwork: Solid) -> None:
    tone = rows.tone(rows.part("artwork", "colour", "colour"), "Colour of the card")
    rows.widgets("Colour", tone, _card_size(rows, "width"), _card_size(rows, "height"))


def _gradient_rows(rows: Rows, artwork: Gradient) -> None:
    def stop(k: int) -> Property:
        def put(node: AnyNode, value: str) -> AnyNode:
            assert isinstance(node, Picture)
            assert isinstance(node.artwork, Gradient)
            stops = list(node.artwork.stops)
            stops[k] = msgspec.structs.replace(stops[k], colour=value)
            return msgspec.structs.replace(node, artwork=msgspec.structs.replace(node.artwork, stops=tuple(stops)))

        return rows.property(f"colour {k + 1}", lambda node: node.artwork.stops[k].colour, put)

    last = len(artwork.stops) - 1
    rows.widgets(
        "Colours",
        rows.tone(stop(0), "First colour"),
        rows.tone(stop(last), "Last colour"),
        rows.choice(
            rows.part("artwork", "form", "form"), [("along", "along"), ("around", "around")], "How the colours run"
        ),
    )
    rows.widgets(
        "Angle",
        rows.number(rows.part("artwork", "angle", "angle"), spec("angle", "degrees", 5)),
        _card_size(rows, "width"),
        _card_size(rows, "height"),
    )


def text_rows(rows: Rows, node: AnyNode) -> None:
    """The words of a text card or of solid letters, and how they are set; nothing for other nodes."""
    holder = "artwork" if isinstance(node, Picture) else "outlines"
    if not isinstance(getattr(node, holder, None), Text):
        return

    def text(name: str, field: str, turn: Any = lambda value: value) -> Property:
        def put(node: AnyNode, value: Any) -> AnyNode:
            changed = msgspec.structs.replace(getattr(node, holder), **{field: turn(value)})
            return fitted_to_text(rows.document.file.reader, node, holder, changed)

        return rows.property(name, lambda node: getattr(getattr(node, holder), field), put, (Text, field))

    words = WordsField(text("words", "text"))
    rows.properties["words"] = words
    rows.widgets("Text", words, spans=(3,))
    family = FamilyField(text("font", "font"))
    rows.properties["font"] = family
    rows.widgets("Font", family, rows.choice(text("weight", "weight"), _WEIGHTS, "Weight"), spans=(2, 1))
    rows.widgets(
        "Letters",
        rows.number(text("letter size", "size"), spec("letter size", "pixels", 1)),
        rows.number(text("tracking", "tracking"), spec("tracking", "count", 5)),
        rows.choice(text("alignment", "align"), _ALIGNS, "Alignment of lines"),
    )
    rows.widgets(
        "Colour",
        rows.tone(text("colour", "colour"), "Colour of the letters"),
        rows.number(text("leading", "leading"), spec("leading", "factor", 0.05)),
        label("leading", "soft", 11),
    )


def fitted_to_text(reader: "Reader", node: AnyNode, holder: str, text: Text) -> AnyNode:
    """A node with other words, as large as they are. SceneError where they cannot be set."""
    try:
        set_ = reader.text_size(text)
    except FileError as problem:
        raise SceneError(str(problem)) from problem
    return msgspec.structs.replace(node, **{holder: text, "width": set_.width, "height": set_.height})


def logo_rows(rows: Rows, node: Logo) -> None:
    """Size, opacity, thickness, colours."""
    _size_row(rows, node)
    rows.channels("Opacity", (OPACITY,), axis=False)
    anchor_row(rows, node)
    rows.widgets(
        "Depth",
        rows.number(rows.field("depth", "depth"), spec("depth", "pixels", 1)),
        rows.number(rows.field("bevel", "bevel"), spec("bevel", "pixels", 0.5)),
        label("px, bevel", "soft", 11),
    )
    rows.widgets(
        "Sides",
        rows.tone(rows.field("side colour", "side"), "Colour of the sides", "own, darker"),
        rows.number(rows.field("gloss", "gloss"), spec("gloss", "share", 0.02)),
        label("gloss", "soft", 11),
    )
    _look_row(rows)
    _source_row(rows, node)


_SIDES = {
    "plane": ("width", "height"), "box": ("width", "height", "depth"), "sphere": ("radius",),
    "cylinder": ("radius", "height"), "cone": ("radius", "height"), "torus": ("radius", "tube"),
}  # fmt: skip


def model_rows(rows: Rows, node: Model) -> None:
    """Opacity, measures of a solid or animation of a file, surface."""
    rows.channels("Opacity", (OPACITY,), axis=False)
    anchor_row(rows, node)
    if isinstance(node.shape, ModelFile):
        _animation_rows(rows, node.shape)
    else:
        sides = _SIDES[type(node.shape).__name__.lower()]
        rows.widgets(
            "Measures",
            *(rows.number(rows.part("shape", side, side), spec(side, "units", 0.1)) for side in sides),
        )
        rows.widgets(
            "Surface",
            rows.tone(rows.field("surface", "surface"), "Colour of the surface"),
            rows.number(rows.field("gloss", "gloss"), spec("gloss", "share", 0.02)),
            label("gloss", "soft", 11),
        )
    _look_row(rows)
    _source_row(rows, node)


def _animation_rows(rows: Rows, shape: ModelFile) -> None:
    def menu(button: QToolButton) -> None:
        from ...files.artwork_files import resolve

        names: list[str] = []
        try:
            names = list(rows.document.file.reader.model(resolve(rows.document.file.base, shape.source)).animations)
        except FileError as problem:
            rows.document.messages.say(str(problem), True)
        choices = popup_menu(button)
        prop = rows.part("shape", "animation", "animation")
        for name in ("", *names):
            action = choices.addAction(name or "none")
            action.setCheckable(True)
            action.setChecked(name == shape.animation)
            action.triggered.connect(partial(_chosen, prop, name))
        choices.exec(button.mapToGlobal(QPoint(0, button.height())))

    rows.widgets("Motion", word_button(shape.animation or "none", "The animation that plays", menu), spans=(3,))
    if shape.animation:
        _timing_rows(rows, "shape", "of the file's animation")


def _chosen(prop: Property, value: Any, checked: bool = False) -> None:
    prop.set(value)


def _gradient_stops(node: Picture) -> int:
    return len(node.artwork.stops) if isinstance(node.artwork, Gradient) else 0


def _animation(node: Model) -> str:
    return node.shape.animation if isinstance(node.shape, ModelFile) else ""


CARD_ROWS: dict[type, Callable[[Rows, Any], None]] = {Solid: _colour_rows, Gradient: _gradient_rows}
"""Of cards that have more than their text."""

PAGES: Pages = {
    Picture: Page(picture_rows, lambda node: (type(node.artwork), node.file, _gradient_stops(node))),
    Logo: Page(logo_rows, lambda node: (type(node.outlines), node.file)),
    Model: Page(model_rows, lambda node: (type(node.shape), node.file, _animation(node))),
}
