"""The limits of the checks: what this scene is held to."""

from PyQt6.QtWidgets import QGridLayout, QLineEdit, QScrollArea, QWidget

from ...checks import CHECKS, LIMITS
from ...scene import SceneError
from ..commands.check_commands import CheckCommands
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel_parts import icon_button, label
from ..widgets.quantities import parse_number


class LimitsDialog(Dialog):
    """A number for each; every change is a step."""

    def __init__(self, document: Document, checks: CheckCommands, parent: QWidget | None = None) -> None:
        super().__init__("Limits of the checks", parent, 640, stays=False)
        self._document, self._checks = document, checks
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 8, 0)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(0, 1)
        self.fields: dict[str, QLineEdit] = {}
        row = 0
        for check in CHECKS:
            grid.addWidget(label(check.label.upper(), "soft", 11), row, 0)
            row += 1
            for limit in check.limits:
                words = label(limit.label, "", 12)
                words.setToolTip(limit.source)
                grid.addWidget(words, row, 0)
                field = QLineEdit()
                field.setFixedWidth(76)
                field.setAccessibleName(limit.label)
                field.setToolTip(f"{limit.source}. Usually {limit.value * limit.shown:g} {limit.unit}.")
                field.editingFinished.connect(lambda name=limit.name: self._entered(name))
                grid.addWidget(field, row, 1)
                grid.addWidget(label(limit.unit, "soft", 11), row, 2)
                back = icon_button("back", f"Back to {limit.value * limit.shown:g} {limit.unit}")
                back.clicked.connect(lambda checked, name=limit.name: self._checks.set_limit(name, None))
                grid.addWidget(back, row, 3)
                self.fields[limit.name] = field
                row += 1
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(page)
        area.setMinimumHeight(420)
        self.column.addWidget(area)
        self.problem = label("", "warning", 11)
        self.problem.setWordWrap(True)
        self.column.addWidget(self.problem)
        close = push_button("Close", self.close, default=False)

        self.add_buttons(close)
        document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the limits as they are."""
        for name, field in self.fields.items():
            value = LIMITS[name].of(self._document.scene.checks) * LIMITS[name].shown
            if not field.hasFocus() or not field.isModified():
                field.setText(f"{value:.6g}")

    def _entered(self, name: str) -> None:
        field, limit = self.fields[name], LIMITS[name]
        if not field.isModified():
            return
        try:
            self._checks.set_limit(name, parse_number(field.text()) / limit.shown)
            self.problem.setText("")
        except (ValueError, SceneError) as problem:
            self.problem.setText(str(problem))
        field.setModified(False)
        self.refresh()
