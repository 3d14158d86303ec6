"""The binds of a node: what each is about, its numbers, and its place in the order."""

from collections.abc import Callable
from functools import partial
from typing import Any

import msgspec
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QToolButton, QWidget

from ... import edits
from ...scene import OUTPUT, AimAt, AnyNode, Bind, bind_label, specs
from ...scene.binds import named_nodes
from ...scene.fields import shown
from ..widgets.panel_parts import icon_button, popup_menu
from ..widgets.property_fields import Property
from .rows import Rows, word_button


def is_turned(node: AnyNode) -> bool:
    """Whether a bind decides where the node looks, so that only its roll is left to it."""
    return any(bind.turns and bind.on for bind in node.binds)


def bind_rows(rows: Rows, node: AnyNode) -> None:
    """A heading and rows for each bind, in the order in which they are carried out."""
    for number, bind in enumerate(node.binds):
        _heading(rows, node, bind, number)
        if bind.on:
            _Bound(rows, node, bind).build()


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
    """The rows of one bind: its strength, and what it says stands beside and below it."""

    def __init__(self, rows: Rows, node: AnyNode, bind: Bind) -> None:
        self._rows, self._node, self._bind = rows, node, bind
        self._fields = {each.name for each in msgspec.structs.fields(type(bind))}

    def build(self) -> None:
        rows, bind = self._rows, self._bind
        row = rows.channels("", (f"{bind.id}.strength",), axis=False, captions=("strength",))
        if bind.beside:
            rows.grid.addWidget(self._field(bind.beside), row, 2, 1, 2, Qt.AlignmentFlag.AlignBottom)
        for title, *names in bind.rows:
            if names and names[0] in self._fields:
                widgets = [self._field(name) for name in names]
                rows.widgets(title, *widgets, spans=tuple(shown(type(bind), name).wide for name in names))
            else:
                self._numbers(title, names)

    def _numbers(self, title: str, suffixes: list[str]) -> None:
        """A row of its numbers, as far as the node has them, each with what it is over it."""
        known = specs(self._node)
        there = [name for suffix in suffixes if (name := f"{self._bind.id}.{suffix}") in known]
        if there:
            axes = [suffix[-2:] for suffix in suffixes] == [".x", ".y", ".z"]
            captions = tuple(known[name].caption or known[name].label for name in there)
            self._rows.channels(title, tuple(there), axes, captions=captions)

    def _field(self, name: str) -> QWidget:
        how, prop = shown(type(self._bind), name), _of(self._rows, self._bind, name)
        if isinstance(self._bind, AimAt):
            return _node_button(self._rows, self._node, self._bind, name, "level with", "the world")
        if name in self._bind.nodes:
            return self._rows.choice(prop, self._nodes(name), how.tip)
        if how.words:
            return self._rows.choice(prop, list(how.words), how.tip)
        return self._rows.switch(prop, how.label, how.tip)

    def _nodes(self, name: str) -> list[tuple[Any, str]]:
        """The nodes that a field can name, and the output where there is a film."""
        scene, bind = self._rows.document.scene, self._bind
        role, films = bind.roles.get(name), scene.shots or getattr(bind, name) == OUTPUT
        output: list[tuple[Any, str]] = [(OUTPUT, "the output")] if films and name in bind.filmed else []
        others = (node for node in scene.nodes if node.id != self._node.id and (not role or node.serves_as(role)))
        return output + [(node.id, node.name) for node in others]


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

    return word_button(text, shown(type(bind), field).tip, menu)


def _choose(rows: Rows, bind: Bind, field: str, value: Any, checked: bool = False) -> None:
    _of(rows, bind, field).set(value)
