"""The Takes tab: recording above, the takes of a node over time, and what can be made of them below."""

from collections.abc import Callable

from PyQt6.QtCore import QPoint, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QInputDialog, QToolButton, QVBoxLayout, QWidget

from ....tracker.messages import PORT
from ...commands.take_commands import TakeCommands
from ...recording.take_recorder import TakeRecorder
from ...state.document import Document
from ...widgets.panel_parts import label, menu_button, popup_menu, set_role, set_surface
from ...widgets.pill import PillSwitch
from ...widgets.share_slider import ShareSlider
from ...widgets.strip import Strip
from ...widgets.theme import font
from ..film_parts import FilmParts
from ..heads import head
from .takes_view import TakesView

_STEPS = (
    ("frames", "On frames"),
    ("mend", "Mend"),
    ("fewest", "Fewest keys…"),
)
_MORE = (
    "nth", "cut", "stretch", "trim", "join", "reverse", "here", "compare", "import", "export", "remove_take",
)  # fmt: skip
_GRADES = ("light", "firm", "strong")
_HEARD_MS = 500


class TakesPanel(QWidget):
    """Takes, and how they are made."""

    def __init__(self, document: Document, tabs: QWidget, parts: FilmParts) -> None:
        super().__init__()
        self._document, self._actions = document, parts.actions
        self.takes: TakeCommands = parts.takes
        self.recorder: TakeRecorder = parts.takes.recorder
        self.view = TakesView(document, self.takes)
        self.view.menu_wanted.connect(self._row_menu)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._head(tabs))
        column.addWidget(self.view, 1)
        column.addWidget(self._foot())
        self._hearing = QTimer(self)
        self._hearing.setInterval(_HEARD_MS)
        self._hearing.timeout.connect(self._show)
        for signal in (self.recorder.changed, document.changed, document.selection.changed, self.takes.chosen_changed):
            signal.connect(self._show)
        self._show()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._hearing.start()
        self._show()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._hearing.stop()

    def _head(self, tabs: QWidget) -> QWidget:
        strip, row = head(tabs)
        self.record = PillSwitch("Record")
        self.record.setToolTip(self._actions.tip("life.record"))
        self.record.clicked.connect(self._actions["life.record"].trigger)
        row.addWidget(self.record)
        self.source = menu_button("by hand ▾", "What a take is recorded from", self._source_menu)
        row.addWidget(self.source)
        self.state = label("", "soft", 11)
        self.state.setMinimumWidth(20)
        row.addWidget(self.state, 1)
        return strip

    def _foot(self) -> QWidget:
        strip = QWidget()
        set_surface(strip, "panel", "top")
        strip.setFixedHeight(36)
        row = QHBoxLayout(strip)
        row.setContentsMargins(14, 0, 10, 0)
        row.setSpacing(6)
        inner = QWidget()
        tools = QHBoxLayout(inner)
        tools.setContentsMargins(0, 0, 0, 0)
        tools.setSpacing(6)
        for name, text in _STEPS:
            tools.addWidget(self._tool(f"life.{name}", text))
        tools.addWidget(label("Steady", "soft", 11))
        for grade in _GRADES:
            tools.addWidget(self._tool(f"life.{grade}", grade))
        tools.addWidget(label("human touch", "soft", 11))
        self.touch = ShareSlider(
            "Human touch",
            "How much of the sway that was smoothed away comes back; jitter stays out",
            self.takes.touch,
        )
        self.touch.settled.connect(self.takes.set_touch)
        tools.addWidget(self.touch)
        self.more = menu_button("More ▾", "Stretch, trim, join, reverse and others", self._more_menu)
        tools.addWidget(self.more)
        tools.addStretch()
        inner.setFixedHeight(30)
        row.addWidget(Strip(inner), 1)
        self.use = self._tool("life.use", "Use")
        row.addWidget(self.use)
        self.keys = QToolButton()
        self.keys.setText("Turn into keys")
        self.keys.setFont(font(11))
        self.keys.setFixedHeight(24)
        self.keys.setToolTip("Ordinary keys that look like the chosen take; the take stays")
        self.keys.setProperty("look", "main")
        self.keys.clicked.connect(lambda: self.takes.to_keys())
        row.addWidget(self.keys)
        return strip

    def _tool(self, name: str, text: str) -> QToolButton:
        button = QToolButton()
        action = self._actions[name]
        button.setDefaultAction(action)
        button.setText(text)
        button.setFont(font(11))
        action.changed.connect(lambda: button.setText(text))
        return button

    # What is shown

    def _show(self) -> None:
        recorder = self.recorder
        self.record.setChecked(recorder.is_busy)
        self.record.setText(str(recorder.left) if recorder.left else "Stop" if recorder.is_recording else "Record")
        self.source.setText("tracker ▾" if recorder.source == "tracker" else "by hand ▾")
        self._say_how_it_stands()
        there = bool(self.takes.takes())
        for widget in (self.use, self.keys, self.touch):
            widget.setEnabled(there)
        node = self.takes.node
        used = node.take.take if node is not None and node.take is not None and node.take.on else ""
        back = bool(used) and (not self.takes.chosen or used == self.takes.chosen[-1])
        self.use.setText("Back to keys" if back else "Use")

    def _say_how_it_stands(self) -> None:
        recorder, listener = self.recorder, self.recorder.listener
        text, role = "", "soft"
        if recorder.left:
            text, role = f"It begins in {recorder.left}", "active"
        elif recorder.is_recording:
            text, role = "Recording: every pass of the range is a take. Stop keeps them.", "warning"
        elif recorder.source == "tracker" and listener is not None:
            if listener.problem:
                text, role = listener.problem, "warning"
            elif listener.latest is None:
                text = f"Waiting for the tracker on port {listener.port}"
            else:
                text, role = f"The tracker is heard: {listener.count} messages", "good"
            if listener.refused:
                text += f", {listener.refused} refused"
        self.state.setText(text)
        set_role(self.state, role)

    # Menus

    def _source_menu(self) -> None:
        recorder, menu = self.recorder, popup_menu(self)

        def entry(text: str, on: bool, chosen: Callable[[], object]) -> None:
            action = menu.addAction(text)
            assert action is not None
            action.setCheckable(True)
            action.setChecked(on)
            action.triggered.connect(lambda checked: chosen())

        entry("By hand: what is dragged in the Lens, the Overview, on dials", recorder.source == "hand",
              lambda: recorder.set_source("hand"))  # fmt: skip
        entry(f"The tracker on port {recorder.port}", recorder.source == "tracker",
              lambda: recorder.set_source("tracker"))  # fmt: skip
        menu.addSeparator()
        entry("Count in", recorder.count_in, lambda: setattr(recorder, "count_in", not recorder.count_in))
        entry("Listen to other machines too", recorder.open_to_others,
              lambda: recorder.set_open(not recorder.open_to_others))  # fmt: skip
        port = menu.addAction("Port…")
        assert port is not None
        port.triggered.connect(lambda checked: self._ask_port())
        menu.exec(self.source.mapToGlobal(QPoint(0, self.source.height())))

    def _ask_port(self) -> None:
        port, accepted = QInputDialog.getInt(self, "The tracker", "Port:", self.recorder.port or PORT, 1024, 65_535)
        if accepted:
            self.recorder.set_port(port)

    def _more_menu(self) -> None:
        menu = popup_menu(self)
        menu.setToolTipsVisible(True)
        for name in _MORE:
            menu.addAction(self._actions[f"life.{name}"])
        menu.addSeparator()
        rename = menu.addAction("Rename…")
        assert rename is not None
        rename.triggered.connect(lambda checked: self._rename())
        menu.exec(self.more.mapToGlobal(QPoint(0, self.more.height())))

    def _row_menu(self, at: QPoint) -> None:
        menu = popup_menu(self)
        for name in ("use", "frames", "mend", *_GRADES, "fewest", *_MORE):
            menu.addAction(self._actions[f"life.{name}"])
        rename = menu.addAction("Rename…")
        assert rename is not None
        rename.triggered.connect(lambda checked: self._rename())
        menu.exec(at)

    def _rename(self) -> None:
        shown = {take.id: take for take in self.takes.takes()}
        take = next((shown[each] for each in reversed(self.takes.chosen) if each in shown), None)
        if take is None:
            return
        name, accepted = QInputDialog.getText(self, "Rename the take", "Name:", text=take.name)
        if accepted and name.strip():
            self.takes.rename(take.id, name.strip()[:200])
