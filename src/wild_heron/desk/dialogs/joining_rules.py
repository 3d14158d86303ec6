"""The joining rules: how one camera follows on another where nothing else is said."""

from typing import Any

import msgspec
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QGridLayout, QLineEdit, QToolButton, QWidget

from ...edits import remove_rule, set_rule
from ...scene import Blend, Cut, Ease, JoiningRule, Scene, span_label
from ...scene.film import WAY_WORDS
from ...scene.output import shown_nodes
from ..commands.shot_commands import NEW_BLEND
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.ease_menu import add_eases
from ..widgets.panel_parts import Choice, icon_button, label, popup_menu
from ..widgets.quantities import parse_number
from ..widgets.theme import font


class JoiningRulesDialog(Dialog):
    """A small table; every change is a step."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Joining rules", parent, 720, stays=False)
        self._document = document
        words = label(
            "New cuts, live switching and events are joined by the rule that fits best: the pair, leaving, coming to.",
            "soft",
        )
        words.setWordWrap(True)
        self.column.addWidget(words)
        self._page = QWidget()
        self.column.addWidget(self._page)
        self.add_buttons(push_button("Add a rule", self.add), push_button("Close", self.close))
        self.rows: list[dict[str, Any]] = []
        document.changed.connect(self.refresh)
        self.refresh()

    def add(self) -> None:
        """A rule more: for any camera at first, then for pairs that have none."""
        scene = self._document.scene
        taken = {(rule.before, rule.after) for rule in scene.rules}
        ids: list[str | None] = [None, *shown_nodes(scene)]
        pair = next(((a, b) for a in ids for b in ids if (a, b) not in taken and (a is None or a != b)), None)
        if pair is not None:
            self._document.edit("Add a joining rule", lambda scene: set_rule(scene, JoiningRule(*pair, NEW_BLEND)))

    def refresh(self) -> None:
        """Show the rules as they are."""
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(6)
        for k, title in enumerate(("From", "To", "Joined by", "Length, s", "Way", "Ease")):
            grid.addWidget(label(title, "soft", 11), 0, k)
        self.rows = []
        rules = self._document.scene.rules
        for number, rule in enumerate(rules):
            self._row(grid, number, rule)
        if not rules:
            grid.addWidget(label("No rule yet: everything is joined by a cut.", "soft"), 1, 0, 1, 6)
        for column in (0, 1, 4):
            grid.setColumnStretch(column, 1)
        self.column.replaceWidget(self._page, page)
        self._page.deleteLater()
        self._page = page

    def _row(self, grid: QGridLayout, number: int, rule: JoiningRule) -> None:
        scene = self._document.scene
        names: list[tuple[str | None, str]] = [
            (None, "any"),
            *((i, node.name) for i, node in shown_nodes(scene).items()),
        ]
        parts: dict[str, Any] = {}
        for column, field in enumerate(("before", "after")):
            choice = Choice()
            choice.setAccessibleName(f"Rule {number + 1}, {'from' if field == 'before' else 'to'}")
            for node_id, name in names:
                choice.addItem(name, node_id)
            choice.setCurrentIndex(max(0, choice.findData(getattr(rule, field))))
            choice.activated.connect(
                lambda index, choice=choice, field=field: self._change(number, **{field: choice.currentData()})
            )
            grid.addWidget(choice, number + 1, column)
            parts[field] = choice
        kind = Choice()
        kind.setAccessibleName(f"Rule {number + 1}, joined by")
        kind.addItems(["cut", "blend"])
        kind.setCurrentIndex(int(isinstance(rule.join, Blend)))
        kind.activated.connect(lambda index: self._change(number, join=NEW_BLEND if index else Cut()))
        grid.addWidget(kind, number + 1, 2)
        parts["kind"] = kind
        if isinstance(rule.join, Blend):
            self._blend(grid, number, rule.join, parts)
        away = icon_button("close", "Remove the rule", size=22)
        away.clicked.connect(lambda: self._document.edit("Remove a rule", lambda scene: remove_rule(scene, number)))
        grid.addWidget(away, number + 1, 6)
        self.rows.append(parts)

    def _blend(self, grid: QGridLayout, number: int, blend: Blend, parts: dict[str, Any]) -> None:
        rate = self._document.settings.rate
        seconds = blend.length if blend.unit == "seconds" else blend.length / rate.fps
        length = QLineEdit(f"{seconds:.4g}")
        length.setFixedWidth(64)
        length.setAccessibleName(f"Rule {number + 1}, length in seconds")

        def take() -> None:
            try:
                value = parse_number(length.text())
            except ValueError as problem:
                self._document.messages.say(str(problem), True)
                return
            self._join(number, length=min(max(value, 0.01), 3600.0), unit="seconds")

        length.editingFinished.connect(take)
        grid.addWidget(length, number + 1, 3)
        way = Choice()
        way.setAccessibleName(f"Rule {number + 1}, way")
        for value, name in WAY_WORDS:
            way.addItem(name, value)
        way.setCurrentIndex(max(0, way.findData(blend.way)))
        way.activated.connect(lambda index: self._join(number, way=way.currentData()))
        grid.addWidget(way, number + 1, 4)
        ease = QToolButton()
        ease.setText(f"{span_label(blend.ease)} ▾")
        ease.setFont(font(11))
        ease.setProperty("look", "word")
        ease.setToolTip("Ease of the blend")
        ease.clicked.connect(lambda: self._ease_menu(ease, number, blend))
        grid.addWidget(ease, number + 1, 5)
        parts |= {"length": length, "way": way, "ease": ease}

    def _ease_menu(self, button: QToolButton, number: int, blend: Blend) -> None:
        menu = popup_menu(self)

        def choose(ease: Ease) -> None:
            self._join(number, ease=ease)

        add_eases(menu, self._document.scene.eases, blend.ease, choose)
        menu.exec(button.mapToGlobal(QPoint(0, button.height())))

    def _join(self, number: int, **fields: Any) -> None:
        join = self._document.scene.rules[number].join
        if all(getattr(join, name) == value for name, value in fields.items()):
            return
        self._change(number, join=msgspec.structs.replace(join, **fields))

    def _change(self, number: int, **fields: Any) -> None:
        def change(scene: Scene) -> Scene:
            changed = msgspec.structs.replace(scene.rules[number], **fields)
            return msgspec.structs.replace(scene, rules=(*scene.rules[:number], changed, *scene.rules[number + 1 :]))

        self._document.edit("Change a joining rule", change)
