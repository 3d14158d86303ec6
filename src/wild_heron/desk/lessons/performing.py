"""Carries out a step of a lesson, as its user would."""

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QComboBox, QWidget

from ...edits import KeyRef
from ..commands.actions import ActionTable
from ..state.document import Document
from ..widgets.number_field import NumberField

if TYPE_CHECKING:
    from ...lessons import Deed


class Performer:
    """Does what a step shows."""

    def __init__(self, document: Document, actions: ActionTable, field: Callable[[str], QWidget | None]) -> None:
        """``field`` gives a field of the inspector by its channel, or by what it is called."""
        self._document, self._actions, self._field = document, actions, field

    def perform(self, deeds: "Iterable[Deed]") -> None:
        """Do one after another."""
        from ...lessons.lesson import Choose, Do, GoTo, Pick, Select, Type

        for deed in deeds:
            match deed:
                case Do(action):
                    if self._actions[action].isEnabled():
                        self._actions[action].trigger()
                case Select(nodes):
                    there = {node.id for node in self._document.scene.nodes}
                    self._document.selection.choose([each for each in nodes if each in there])
                case Pick(node, channel, frame):
                    self._document.selection.choose_keys([KeyRef(node, channel, frame)])
                case GoTo(frame):
                    self._document.playhead.set_frame(frame)
                case Type(channel, text):
                    self._type(channel, text)
                case Choose(name, value):
                    self._choose(name, value)

    def _type(self, channel: str, text: str) -> None:
        field = self._field(channel)
        if isinstance(field, NumberField):
            field.open_editor(text)
            if field.editor is not None:
                field.editor.editingFinished.emit()

    def _choose(self, name: str, value: str) -> None:
        field = self._field(name)
        if isinstance(field, QComboBox) and (index := field.findText(value)) >= 0:
            field.setCurrentIndex(index)
            field.activated.emit(index)
