"""A channel's formula, checked while it is typed, with what it comes to at the playhead."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QLineEdit, QWidget

from ...edits import readable, set_formula
from ...evaluate import evaluate
from ...evaluate.channels import formula_problem
from ...scene import FormulaError, Scene, SceneError, channel_or_default, spec
from ...scene.formulas import FUNCTIONS, NAMES
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel_parts import label, set_tone
from ..widgets.quantities import format_number
from ..widgets.theme import REED, RUST, SOFT, font


class FormulaDialog(Dialog):
    """Not modal. The views show the formula while it is typed; nothing is changed before *Use it*."""

    def __init__(self, document: Document, node_id: str, name: str, parent: QWidget | None = None) -> None:
        super().__init__("Formula", parent, 560)
        self._document, self._node_id, self._name = document, node_id, name
        self._base = document.scene
        self._scene: Scene | None = None
        self.column.addWidget(label(f"{document.label(node_id, name)} =", weight=QFont.Weight.DemiBold))
        self.edit = QLineEdit()
        self.edit.setFont(font(14))
        self.edit.setPlaceholderText("value + 2 * sin(turn * seconds / 4)")
        self.edit.setAccessibleName("Formula")
        channel = channel_or_default(document.scene.node(node_id), name)
        self.edit.setText(readable(document.scene, channel.formula))
        self.edit.textChanged.connect(self.check)
        self.edit.returnPressed.connect(self.use)
        self.column.addWidget(self.edit)
        self.line = label("", size=12)
        self.line.setWordWrap(True)
        self.line.setMinimumHeight(34)
        self.line.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.column.addWidget(self.line)
        self.column.addWidget(self._help())
        tip = "Take the formula away; the channel has its own value again"
        away = push_button("No formula", self._no_formula, tip, default=False)
        self.use_button = push_button("Use it", self.use, default=False)
        self.add_buttons(push_button("Cancel", self.reject, default=False), self.use_button, apart=away)
        document.playhead.moved.connect(self.check)
        document.changed.connect(self._changed)
        self.check()

    def _help(self) -> QWidget:
        names = ", ".join(NAMES)
        uses = " · ".join(f"{usage.partition(')')[0]})" for _, _, usage in FUNCTIONS.values())
        text = label(f"{names}\n{uses}", "soft", 11)
        text.setWordWrap(True)
        lines = [f"{name}: {what}" for name, what in NAMES.items()]
        text.setToolTip("\n".join([*lines, *(usage for _, _, usage in FUNCTIONS.values())]))
        return text

    def check(self) -> None:
        """Try the formula out, and say what it comes to, or what is wrong and where."""
        document = self._document
        if self._node_id not in self._base:
            return
        text = self.edit.text()
        self._scene = None
        try:
            scene = set_formula(self._base, self._node_id, self._name, text)
            here = evaluate(scene, document.playhead.frame, [])
            value = float(here.value(self._node_id, self._name)[0])
            node = scene.node(self._node_id)
            channel = node.channel(self._name)
            problem = formula_problem(here, node, channel) if channel is not None and channel.formula else None
            self._scene = scene
            said = format_number(value, spec(node, self._name).unit)
            self._say(problem or f"At frame {document.playhead.frame:g}: {said}", RUST if problem else REED)
            if not text.strip():
                self._say("No formula: the channel has its own value.", SOFT)
        except FormulaError as problem:
            self._say(f"{problem}", RUST, problem.place)
        except SceneError as problem:
            self._say(str(problem), RUST)
        self.use_button.setEnabled(self._scene is not None)
        document.views.propose(self._scene)

    def _say(self, text: str, tone: str, place: int | None = None) -> None:
        if place is not None:
            typed = self.edit.text()
            place += len(typed) - len(typed.lstrip())
            shown = typed[:place][-40:] + "▸" + typed[place:][:30]
            text = f"{text}\n{shown}"
        self.line.setText(text)
        set_tone(self.line, tone)

    def _no_formula(self) -> None:
        self.edit.setText("")
        self.use()

    def use(self) -> None:
        """Take the formula over, as one step."""
        scene = self._scene
        if scene is None:
            return
        self._document.views.propose(None)
        self._scene = None
        name = self._document.label(self._node_id, self._name)
        self._document.edit(f"Formula of {name}", lambda old: scene)
        self.close()

    def _changed(self) -> None:
        if self._document.scene is not self._base and self.isVisible():
            self._base = self._document.scene
            if self._node_id not in self._base:
                self.close()
            else:
                self.check()

    def done(self, result: int) -> None:
        self._document.views.propose(None)
        super().done(result)

    def closeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._document.views.propose(None)
        super().closeEvent(event)
