"""The binds of a node: what each is about, its numbers, and its place in the order."""

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QToolButton, QWidget

from ... import edits
from ...scene import (
    OUTPUT,
    AimAt,
    AnyNode,
    Bind,
    DropAndRoll,
    FaceCamera,
    Follow,
    Limit,
    Match,
    Opposite,
    RideGround,
    RidePath,
    Tour,
    bind_label,
    specs,
)
from ...scene.binds import named_nodes
from ...scene.output import cameras
from ..widgets.panel import icon_button, popup_menu
from ..widgets.property_fields import Property
from .film import WAYS
from .rows import Rows, word_button

_FRONTS = [("-z", "front −z"), ("+z", "front +z"), ("+x", "front +x"), ("-x", "front −x")]
_DOWNS = [
    ("-y", "down"),
    ("+y", "up"),
    ("-z", "towards −z"),
    ("+z", "towards +z"),
    ("-x", "towards −x"),
    ("+x", "towards +x"),
]
_AXES = [
    ("", "none"),
    ("x", "x"),
    ("y", "y"),
    ("z", "z"),
    ("xy", "x y"),
    ("xz", "x z"),
    ("yz", "y z"),
    ("xyz", "x y z"),
]

_MATCHED = (("Position", "position", "move"), ("Turn", "rotation", "turn"), ("Size", "scale", "size"))


def is_turned(node: AnyNode) -> bool:
    """Whether a bind decides where the node looks, so that only its roll is left to it."""
    return any(bind.turns and bind.on for bind in node.binds)


def bind_rows(rows: Rows, node: AnyNode) -> None:
    """A heading and rows for each bind, in the order in which they are carried out."""
    for number, bind in enumerate(node.binds):
        _heading(rows, node, bind, number)
        if bind.on:
            BIND_ROWS[type(bind)](_Bound(rows, node, bind), bind)


def _heading(rows: Rows, node: AnyNode, bind: Bind, number: int) -> None:
    document = rows.document

    def edit(name: str, change: Callable[..., Any], *args: Any, **fields: Any) -> None:
        document.edit(
            f"{name} {bind.label} of {node.name}", lambda scene: change(scene, node.id, bind.id, *args, **fields)
        )

    word = "Turn off" if bind.on else "Turn on"
    switch = icon_button("eye" if bind.on else "eye_shut", f"{word} {bind.label}", size=20)
    switch.clicked.connect(lambda: edit(word, edits.change_bind, on=not bind.on))
    rows.properties[f"{bind.id} on"] = switch
    more = icon_button("more", "Its place in the order, and away with it", size=20)

    def menu() -> None:
        choices = popup_menu(more)
        earlier, later = choices.addAction("Earlier"), choices.addAction("Later")
        earlier.setEnabled(number > 0)
        later.setEnabled(number < len(node.binds) - 1)
        earlier.triggered.connect(lambda: edit("Move", edits.move_bind, -1))
        later.triggered.connect(lambda: edit("Move", edits.move_bind, 1))
        choices.addSeparator()
        choices.addAction("Remove").triggered.connect(lambda: edit("Remove", edits.remove_bind))
        choices.exec(more.mapToGlobal(QPoint(0, more.height())))

    more.clicked.connect(menu)
    rows.properties[f"{bind.id} more"] = more
    words = bind_label(document.scene, bind)
    rows.heading(words[0].upper() + words[1:], switch, more)


class _Bound:
    """The rows of one bind while they are built; its strength comes first."""

    def __init__(self, rows: Rows, node: AnyNode, bind: Bind) -> None:
        self.rows, self.node, self.bind = rows, node, bind
        self._known = specs(node)
        self._strength = rows.channels("", (f"{bind.id}.strength",), axis=False, captions=("strength",))

    def numbers(self, title: str, *pairs: tuple[str, str], axis: bool = False) -> None:
        """A row of the bind's numbers, each with what it is over it; none where it has none of them."""
        named = [(f"{self.bind.id}.{suffix}", caption) for suffix, caption in pairs]
        there = [(name, caption) for name, caption in named if name in self._known]
        if there:
            self.rows.channels(title, tuple(n for n, _ in there), axis, captions=tuple(c for _, c in there))

    def beside_strength(self, widget: QWidget) -> None:
        self.rows.grid.addWidget(widget, self._strength, 2, 1, 2, Qt.AlignmentFlag.AlignBottom)

    def choice(self, field: str, choices: list[tuple[Any, str]], tip: str) -> QWidget:
        return self.rows.choice(_of(self.rows, self.bind, field), choices, tip)

    def switch(self, field: str, word: str, tip: str) -> QWidget:
        return self.rows.switch(_of(self.rows, self.bind, field), word, tip)


def _aim(at: _Bound, bind: AimAt) -> None:
    at.beside_strength(_node_button(at.rows, at.node, bind, "up", "level with", "the world"))
    at.numbers("", ("off.x", "off to the right"), ("off.y", "off upwards"))


def _face(at: _Bound, bind: FaceCamera) -> None:
    scene = at.rows.document.scene
    faced = [(OUTPUT, "the output")] if scene.shots or bind.camera == OUTPUT else []
    faced += [(camera.id, camera.name) for camera in cameras(scene).values()]
    at.rows.widgets(
        "Faces",
        at.choice("camera", faced, "The camera that it faces, or whatever the film shows"),
        at.switch("upright", "upright", "About the world's Y only"),
        spans=(2, 1),
    )


def _nodes(at: _Bound, chosen: str) -> list[tuple[Any, str]]:
    """The nodes that a bind can be to, and the output where there is a film."""
    scene = at.rows.document.scene
    output: list[tuple[Any, str]] = [(OUTPUT, "the output")] if scene.shots or chosen == OUTPUT else []
    return output + [(node.id, node.name) for node in scene.nodes if node.id != at.node.id]


def _match(at: _Bound, bind: Match) -> None:
    at.beside_strength(at.choice("node", _nodes(at, bind.node), "What is matched"))
    for title, field, stem in _MATCHED:
        at.rows.widgets(title, at.choice(field, _AXES, f"Which axes of the {field} are taken over"))
        at.numbers("offset", *((f"{stem}.{axis}", axis) for axis in getattr(bind, field)))


def _follow(at: _Bound, bind: Follow) -> None:
    sides = [("behind", "from behind"), ("fixed", "this way")]
    at.beside_strength(at.choice("way", sides, "Where it follows from"))
    at.numbers("", ("nearest", "nearest"), ("farthest", "farthest"), ("half_life", "lag, half-life"))
    at.numbers("", ("turn", "from the side"), ("rise", "from above"))


def _ride_path(at: _Bound, bind: RidePath) -> None:
    at.beside_strength(at.choice("by", [("length", "even speed"), ("parameter", "by points")], "What progress counts"))
    at.numbers("", ("progress", "progress"), ("bank", "bank"))
    at.rows.widgets(
        "Along",
        at.switch("along", "turns", "Turned along the path"),
        at.choice("front", _FRONTS, "Which side goes ahead"),
        at.switch("loops", "loops", "Progress beyond the end begins anew"),
    )


def _ride_ground(at: _Bound, bind: RideGround) -> None:
    at.beside_strength(at.choice("down", _DOWNS, "The way down"))
    at.numbers("", ("height", "height"), ("tilt", "tilt with slope"), ("footprint", "footprint"))


def _tour(at: _Bound, bind: Tour) -> None:
    at.beside_strength(at.choice("way", WAYS, "How it goes from framing to framing"))
    at.numbers("", ("place", "place on the tour"))


def _opposite(at: _Bound, bind: Opposite) -> None:
    at.beside_strength(at.choice("node", _nodes(at, bind.node), "What it stays opposite of"))
    at.numbers("", ("distance", "distance"), ("height", "height"))


def _limit(at: _Bound, bind: Limit) -> None:
    at.numbers("", ("low", f"least {bind.what}"), ("high", f"most {bind.what}"))


def _drop(at: _Bound, bind: DropAndRoll) -> None:
    at.numbers("", ("start", "from frame"), ("radius", "radius"))
    at.numbers("Push", *((f"push.{axis}", axis) for axis in "xyz"), axis=True)
    at.numbers("", ("gravity", "gravity"), ("bounce", "bounce"), ("friction", "friction"))


BIND_ROWS: dict[type, Callable[[_Bound, Any], None]] = {
    AimAt: _aim, FaceCamera: _face, Match: _match, Follow: _follow, RidePath: _ride_path, RideGround: _ride_ground,
    Opposite: _opposite, Limit: _limit, DropAndRoll: _drop, Tour: _tour,
}  # fmt: skip


def _of(rows: Rows, bind: Bind, field: str) -> Any:
    """A field of a bind as a property."""
    assert rows.node is not None
    node_id = rows.node.id
    return Property(
        rows.document,
        f"{rows.node.name}: {bind.label}, {field}",
        lambda scene: getattr(edits.find_bind(scene.node(node_id), bind.id), field),
        lambda scene, value: edits.change_bind(scene, node_id, bind.id, **{field: value}),
    )


def _node_button(rows: Rows, node: AnyNode, bind: AimAt, field: str, words: str, none: str) -> QToolButton:
    document = rows.document
    chosen = getattr(bind, field)
    text = f"{words} {document.scene.node(chosen).name if chosen else none}"

    def menu(button: QToolButton) -> None:
        choices = popup_menu(button)
        busy = {each for each, _ in named_nodes(bind)} | {node.id}
        for other_id, name in (
            (None, none),
            *((n.id, n.name) for n in document.scene.nodes if n.id not in busy - {chosen}),
        ):
            action = choices.addAction(name)
            action.setCheckable(True)
            action.setChecked(other_id == chosen)
            action.triggered.connect(partial(_choose, rows, bind, field, other_id))
        choices.exec(button.mapToGlobal(QPoint(0, button.height())))

    return word_button(text, "What is level for the aim's horizon", menu)


def _choose(rows: Rows, bind: Bind, field: str, value: Any, checked: bool = False) -> None:
    _of(rows, bind, field).set(value)
