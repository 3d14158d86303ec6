"""The Checks tab: the formats above, the checks over time, and the findings beside them."""

from functools import partial

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from ....checks import CHECKS
from ....scene.checks import AREAS
from ...commands.check_commands import CheckCommands
from ...state.document import Document
from ...widgets.panel_parts import label, menu_button, popup_menu, set_role
from ...widgets.theme import font
from ..film_parts import FilmParts
from ..heads import head
from .cards import FindingList
from .checks_view import ChecksView

_MOST_FORMATS = 5
_AREA_WORDS = {"frame": "whole frame", "action": "action area, 93 %", "title": "title area, 90 %"}


class ChecksPanel(QWidget):
    """What is wrong with the film, where, and what would mend it."""

    def __init__(self, document: Document, tabs: QWidget, parts: FilmParts) -> None:
        super().__init__()
        self._document, self._actions = document, parts.actions
        self.checks: CheckCommands = parts.checks
        self.view = ChecksView(document, self.checks)
        self.view.menu_wanted.connect(self._row_menu)
        self.list = FindingList(document, self.checks)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._head(tabs))
        body = QHBoxLayout()
        body.setContentsMargins(0, 0, 0, 0)
        body.setSpacing(0)
        body.addWidget(self.view, 1)
        body.addWidget(self.list)
        column.addLayout(body, 1)
        for signal in (document.checked.changed, document.settings_changed, document.changed):
            signal.connect(self._show)
        self._show()

    def _head(self, tabs: QWidget) -> QWidget:
        strip, row = head(tabs)
        self.state: QLabel = label("", "soft", 11)
        self.state.setMinimumWidth(20)
        row.addWidget(self.state, 1)
        self._formats = QHBoxLayout()
        self._formats.setSpacing(4)
        row.addLayout(self._formats)
        self.buttons: dict[str, QToolButton] = {}
        self.subjects = menu_button("Subjects ▾", "What has to stay in the frame", self._subject_menu)
        row.addWidget(self.subjects)
        limits = QToolButton()
        limits.setDefaultAction(self._actions["check.limits"])
        limits.setText("Limits…")
        limits.setFont(font(11))
        row.addWidget(limits)
        return strip

    def _show(self) -> None:
        self._show_formats()
        self._say_how_it_stands()

    def _show_formats(self) -> None:
        """A button for each format, with how much was found in it."""
        document = self._document
        shapes = document.scene.formats_with_main()[:_MOST_FORMATS]
        if list(self.buttons) != [each.name for each in shapes]:
            for button in self.buttons.values():
                button.deleteLater()
            self.buttons = {}
            for shape in shapes:
                button = QToolButton()
                button.setCheckable(True)
                button.setFont(font(11))
                button.clicked.connect(partial(self._look_at, shape.name))
                self._formats.addWidget(button)
                self.buttons[shape.name] = button
        for name, button in self.buttons.items():
            verdict = document.checked.of(name)
            count = len(verdict.open) if verdict is not None else 0
            button.setText(f"{name} · {count}" if count else name)
            button.setToolTip(f"Look at {name} and at what was found in it")
            button.setChecked(name == document.views.format.name)

    def _look_at(self, name: str, checked: bool = True) -> None:
        self.checks.leave()
        self._document.views.set_format(name)

    def _say_how_it_stands(self) -> None:
        checked = self._document.checked
        verdict = checked.of(self._document.views.format.name)
        if checked.problem:
            self.state.setText(checked.problem)
            set_role(self.state, "warning")
            return
        if verdict is None:
            self.state.setText("" if checked.total == 0 else "Checking…")
            set_role(self.state, "soft")
            return
        count = len(verdict.open)
        words = f"{count} finding{'s' * (count != 1)}" if count else "nothing found"
        accepted = len(verdict.findings) - count
        words += f", {accepted} accepted" if accepted else ""
        if checked.is_done and checked.scene is self._document.scene:
            said = f"{checked.total} frames · {words}"
        else:
            said = f"{checked.looked_at} of {checked.total} frames looked at · {words} so far"
        crossing = verdict.figures["fastest crossing in s"]
        self.state.setText(said + (f" · fastest: the frame in {crossing:.1f} s" if crossing < 100.0 else ""))
        set_role(self.state, "soft" if count or not checked.is_done else "good")

    # Menus

    def _subject_menu(self) -> None:
        document, menu = self._document, popup_menu(self)
        menu.addAction(self._actions["check.subject"])
        menu.addAction(self._actions["check.line"])
        for subject in document.scene.checks.subjects:
            sub = menu.addMenu(document.scene.node(subject.node).name)
            assert sub is not None
            for area in AREAS:
                entry = sub.addAction(f"Stays in the {_AREA_WORDS[area]}")
                assert entry is not None
                entry.setCheckable(True)
                entry.setChecked(subject.area == area)
                entry.triggered.connect(
                    lambda checked, node=subject.node, area=area: self.checks.set_area(node, area)
                )  # fmt: skip
            sub.addSeparator()
            more = sub.addAction("How it is kept…")
            assert more is not None
            more.triggered.connect(partial(self._say_more, subject.node))
        menu.exec(self.subjects.mapToGlobal(QPoint(0, self.subjects.height())))

    def _say_more(self, node: str, checked: bool = False) -> None:
        self._document.selection.choose([node])
        self._actions["check.subject_more"].trigger()

    def _row_menu(self, name: str, at: QPoint) -> None:
        """A check's limits, and whether it is made."""
        menu, document = popup_menu(self), self._document
        check = next(each for each in CHECKS if each.name == name)
        made = menu.addAction(f"Check {check.label.lower()}")
        assert made is not None
        made.setCheckable(True)
        made.setChecked(name not in document.scene.checks.off)
        made.triggered.connect(lambda checked: self.checks.switch(name))
        menu.addSeparator()
        for limit in check.limits:
            entry = menu.addAction(f"{limit.label}: {limit.of(document.scene.checks) * limit.shown:g} {limit.unit}…")
            assert entry is not None
            entry.triggered.connect(self._actions["check.limits"].trigger)
        menu.exec(at)
