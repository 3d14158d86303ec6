"""The panel that builds a rig: what it asks, with the rig shown in the views while you choose."""

from typing import Any

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QKeyEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ...edits import applied_to
from ...scene import Scene, SceneError
from ..state.document import Document
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import Choice, label, set_surface, set_tone
from ..widgets.theme import RUST, SOFT, font
from .recipes import RECIPES, Question, Recipe, choices_of, first_answers


class RigBuilder(QWidget):
    """Takes the inspector's place while a rig is being built. Nothing is changed before *Build*."""

    closed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.recipe: Recipe | None = None
        self.answers: dict[str, Any] = {}
        self.fields: dict[str, QWidget] = {}
        self._made: tuple[Scene, tuple[str, ...]] | None = None
        self._base: Scene | None = None
        set_surface(self, "panel")
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 9, 10, 9)
        column.setSpacing(7)
        self.title = label("", "active", 13, QFont.Weight.DemiBold)
        self.words = label("", "soft", 11)
        self.words.setWordWrap(True)
        self.words.setMinimumWidth(20)
        head = QHBoxLayout()
        head.setSpacing(10)
        head.addWidget(self.title)
        head.addWidget(self.words, 1)
        column.addLayout(head)
        self._scroll = QScrollArea()
        self._scroll.setAccessibleName("What the rig needs")
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(self._scroll, 1)
        self.line = label("", size=11)
        self.line.setWordWrap(True)
        self.line.setMinimumWidth(20)
        self.build_button = QPushButton("Build")
        self.build_button.setProperty("main", True)
        self.build_button.setToolTip("Make the rig, as one step (Return)")
        self.build_button.clicked.connect(self.build)
        cancel = QPushButton("Cancel")
        cancel.setToolTip("Leave everything as it was (Escape)")
        cancel.clicked.connect(self.close_)
        foot = QHBoxLayout()
        foot.setSpacing(8)
        foot.addWidget(self.line, 1)
        foot.addWidget(cancel)
        foot.addWidget(self.build_button)
        column.addLayout(foot)
        document.changed.connect(self._changed)
        document.playhead.moved.connect(self._moved)

    def _moved(self) -> None:
        if self.recipe is not None:
            self.refresh()

    def begin(self, name: str) -> None:
        """Ask what a recipe needs, starting from the selection."""
        document = self._document
        recipe = RECIPES[name]
        self.recipe = recipe
        self._base = document.scene
        self.answers = first_answers(recipe, document.scene, document.selection.nodes)
        self.title.setText(recipe.title)
        self.words.setText(recipe.words)
        self._build_fields(recipe)
        self.refresh()
        first = next(iter(self.fields.values()), self.build_button)
        first.setFocus()

    def _build_fields(self, recipe: Recipe) -> None:
        page = QWidget()
        set_surface(page, "panel")
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 6, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        self.fields = {}
        row = column = 0
        for ask in recipe.asks:
            wide = ask.kind != "number"
            if wide and column:
                row, column = row + 1, 0
            grid.addWidget(label(ask.label, "soft"), row, column)
            field = self._field(ask)
            self.fields[ask.name] = field
            grid.addWidget(field, row, column + 1, 1, 3 if wide else 1)
            column = 0 if wide or column else 2
            row += 1 if wide or column == 0 else 0
        grid.setRowStretch(row + 1, 1)
        self._scroll.setWidget(page)

    def _field(self, ask: Question) -> QWidget:
        if ask.kind == "number":
            field = NumberField(ask.spec)
            field.show_value(float(self.answers[ask.name]))
            field.edited.connect(lambda value, repeats: self.answer(ask.name, value))
            field.dragged.connect(lambda value: self.answer(ask.name, value))
            field.refused.connect(lambda text: self._document.messages.say(text, True))
            field.setToolTip(ask.label)
            return field
        choice = Choice()
        choice.setFont(font(11))
        choice.setFixedHeight(23)
        choice.setMinimumWidth(40)
        choice.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        choice.setAccessibleName(ask.label)
        choice.setToolTip(ask.label)
        if ask.kind == "node":
            for node_id in choices_of(ask, self._document.scene):
                choice.addItem(ask.none if node_id is None else self._document.scene.node(node_id).name, node_id)
        else:
            for value, text in ask.choices:
                choice.addItem(text, value)
        index = next((k for k in range(choice.count()) if choice.itemData(k) == self.answers[ask.name]), -1)
        choice.setCurrentIndex(index)
        choice.activated.connect(lambda k: self.answer(ask.name, choice.itemData(k)))
        return choice

    def answer(self, name: str, value: Any) -> None:
        """Change one answer; the views show what comes of it."""
        self.answers[name] = value
        field = self.fields.get(name)
        if isinstance(field, NumberField):
            field.show_value(float(value))
        self.refresh()

    def refresh(self) -> None:
        """Build the rig from the answers and show it, or say why it cannot be."""
        recipe, base = self.recipe, self._base
        if recipe is None or base is None:
            return
        try:
            self._made = recipe.build(base, self._document.playhead.frame, self.answers)
            self._say(recipe.done, SOFT)
        except (SceneError, ValueError) as problem:
            self._made = None
            self._say(str(problem), RUST)
        self.build_button.setEnabled(self._made is not None)
        self._document.views.propose(self._made[0] if self._made else None)

    def _say(self, text: str, tone: str) -> None:
        self.line.setText(text)
        set_tone(self.line, tone)

    def build(self) -> None:
        """Make it, as one step."""
        recipe, made = self.recipe, self._made
        if recipe is None or made is None:
            return
        (scene, ids), base = made, self._base
        assert base is not None
        self._stop()
        if self._document.edit(recipe.title, lambda now: applied_to(now, base, scene)):
            self._document.selection.choose(ids[:1])
            self._document.messages.say(f"{recipe.title}: {recipe.done}")
        self.closed.emit()

    def close_(self) -> None:
        """Leave everything as it was."""
        self._stop()
        self.closed.emit()

    def _stop(self) -> None:
        self.recipe, self._made, self._base = None, None, None
        self._document.views.propose(None)

    def _changed(self) -> None:
        # Whatever else changes the scene takes the ground from under what was shown: begin from there.
        if self.recipe is None or self._document.scene is self._base:
            return
        self._base = self._document.scene
        there = {node.id for node in self._base.nodes}
        for ask in self.recipe.asks:
            if ask.kind == "node" and self.answers[ask.name] not in there:
                self.answers[ask.name] = None
        self._build_fields(self.recipe)
        self.refresh()

    def event(self, event: QEvent | None) -> bool:
        taken = (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in taken:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.close_()
        elif event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.build()
        else:
            super().keyPressEvent(event)
