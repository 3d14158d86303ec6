"""The ease panel: one curve to draw, small eases to pick from, and their numbers, for all the selected spans."""

from collections.abc import Callable
from functools import partial

import msgspec
from PyQt6.QtCore import QPoint, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFont, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ....edits import KeyRef
from ....files.errors import FileError
from ....files.user_presets import load_presets, save_presets, user_file, with_one
from ....motion.keys import strengths
from ....scene import Bezier, EasePart, Family, Flow, Handles, Hold, Linear, NamedEase, Span, Spring, Steps, span_label
from ....scene.channels import ChannelSpec
from ....scene.ease_families import FAMILIES
from ....scene.spans import CSS_EASE, CSS_EASE_IN, CSS_EASE_IN_OUT, CSS_EASE_OUT
from ...state.document import Document
from ...state.selected_spans import outlines, selected_spans
from ...widgets.number_field import NumberField
from ...widgets.panel_parts import icon_button, label
from ...widgets.theme import font
from .editor import EaseEditor, beads
from .tiles import EaseTile
from .trial import EaseTrial

_COLUMNS = 8
_MOST_KEPT = 21
"""How many kept eases have a tile."""


class EasePanel(QFrame):
    """Floats over the lanes; a click shapes every selected span, as one step."""

    closed = pyqtSignal()

    def __init__(self, document: Document, parent: QFrame | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self.was_moved = False
        self._grip: QPoint | None = None
        self.trial = EaseTrial(document)
        self.trial.changed.connect(self.refresh)
        self.setObjectName("ease-panel")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(7)
        column.addLayout(self._head())
        middle = QHBoxLayout()
        middle.setSpacing(8)
        self.editor = EaseEditor()
        self.editor.begun.connect(self.trial.begin)
        self.editor.shaped.connect(self.put)
        self.editor.ended.connect(self.trial.finish)
        self.editor.cancelled.connect(self.trial.cancel)
        middle.addWidget(self.editor)
        self._grid = QGridLayout()
        self._grid.setSpacing(5)
        self._grid.setRowStretch(9, 1)
        middle.addLayout(self._grid)
        column.addLayout(middle)
        self.tiles: list[EaseTile] = []
        column.addLayout(self._numbers())
        self._footer = self._trying()
        column.addWidget(self._footer)
        self._timer = QTimer(self)
        self._timer.setInterval(33)
        self._timer.timeout.connect(self._move_dots)
        document.selection.keys_changed.connect(self.refresh)
        document.changed.connect(self.refresh)
        self._rebuild()
        self.hide()

    def _head(self) -> QHBoxLayout:
        head = QHBoxLayout()
        self.title = label("Ease", size=12, weight=QFont.Weight.DemiBold)
        head.addWidget(self.title, 1)
        self.look = QToolButton()
        self.look.setText("look first")
        self.look.setFont(font(11))
        self.look.setCheckable(True)
        self.look.setToolTip("Try eases out in every view, playing too, before you keep one")
        self.look.toggled.connect(self.trial.set_look_first)
        head.addWidget(self.look)
        head.addSpacing(10)
        self.directions = QButtonGroup(self)
        for direction in ("in", "out", "in-out"):
            button = QToolButton()
            button.setText(direction)
            button.setFont(font(11))
            button.setCheckable(True)
            button.setChecked(direction == "in-out")
            button.setToolTip({"in": "Start soft", "out": "Land soft", "in-out": "Start and land soft"}[direction])
            self.directions.addButton(button)
            head.addWidget(button)
        self.directions.buttonClicked.connect(self._rebuild)
        close = icon_button("eye_shut", "Close (Esc)", size=22)
        close.setText("×")
        close.setIcon(close.icon().__class__())
        close.setFont(font(15))
        close.clicked.connect(self.leave)
        head.addWidget(close)
        return head

    def _numbers(self) -> QVBoxLayout:
        rows = QVBoxLayout()
        rows.setSpacing(6)
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(label("Curve", "soft", 11))
        self.handles: list[NumberField] = []
        for k, name in enumerate(("x1", "y1", "x2", "y2")):
            low, high = (0.0, 1.0) if k % 2 == 0 else (-100.0, 100.0)
            spec = ChannelSpec(name, f"handle {name}", "factor", 0.0, low, high, 0.01)
            self.handles.append(self._number(row, spec, f"CSS cubic-bezier {name}", partial(self._handle, k)))
        row.addSpacing(8)
        self.soft: list[NumberField] = []
        for k, (text, tip) in enumerate((("soft start", "How soft it starts"), ("landing", "How soft it lands"))):
            row.addWidget(label(text, "soft", 11))
            spec = ChannelSpec(text, tip, "share", 0.42, 0.0, 1.0, 0.01)
            words = f"{tip}, in percent: drag, type, or use the wheel"
            self.soft.append(self._number(row, spec, words, partial(self._soften, k)))
        row.addStretch()
        rows.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(label("Steps", "soft", 11))
        spec = ChannelSpec("steps", "number of steps", "count", 6.0, 1.0, 1000.0, 1.0)
        self.steps = self._number(row, spec, "Jumps in even steps", lambda value: self.put(Steps(max(1, round(value)))))
        row.addSpacing(8)
        row.addWidget(label("Spring", "soft", 11))
        self.spring: list[NumberField] = []
        for k, (name, unit, low, high, nudge, tip) in enumerate(
            (
                ("swings", "count", 0.5, 20.0, 0.25, "How often it swings past the end"),
                ("bounce", "share", 0.0, 0.95, 0.01, "How far each swing goes of the one before"),
            )
        ):
            row.addWidget(label(name, "soft", 11))
            spec = ChannelSpec(name, tip, unit, 0.0, low, high, nudge)  # type: ignore[arg-type]
            self.spring.append(self._number(row, spec, tip, partial(self._swing, k)))
        row.addStretch()
        for text, tip, slot in (
            ("keep by name…", "Keep this ease by a name, in the scene and for other scenes", self._keep),
            ("for new keys", "A channel's first keys take this ease from now on", self._for_new),
        ):
            button = QToolButton()
            button.setText(text)
            button.setFont(font(11))
            button.setToolTip(tip)
            button.clicked.connect(slot)
            row.addWidget(button)
        rows.addLayout(row)
        return rows

    def _number(self, row: QHBoxLayout, spec: ChannelSpec, tip: str, put: Callable[[float], object]) -> NumberField:
        """A number whose drag is one step, or one trial."""
        field = NumberField(spec)
        field.setToolTip(tip)
        field.setFixedWidth(60)
        field.edited.connect(lambda value, repeats: put(value))
        field.drag_started.connect(self.trial.begin)
        field.dragged.connect(put)
        field.drag_finished.connect(self.trial.finish)
        field.drag_cancelled.connect(self.trial.cancel)
        field.refused.connect(lambda text: self._document.messages.say(text, True))
        row.addWidget(field)
        return field

    def _trying(self) -> QWidget:
        """What is shown while an ease is tried out."""
        out = QWidget()
        row = QHBoxLayout(out)
        row.setContentsMargins(0, 0, 0, 0)
        self.tried = label("", "active", 11)
        row.addWidget(self.tried, 1)
        self.back = QPushButton("Put back")
        self.back.setToolTip("Show the scene as it is (Esc)")
        self.back.clicked.connect(self.trial.put_back)
        self.keep_it = QPushButton("Keep it")
        self.keep_it.setProperty("main", True)
        self.keep_it.setToolTip("Make it one step (Return)")
        self.keep_it.clicked.connect(self.trial.keep)
        row.addWidget(self.back)
        row.addWidget(self.keep_it)
        return out

    def _swing(self, k: int, value: float) -> None:
        current = self.current()
        numbers = (
            [current.swings, current.bounce] if isinstance(current, Spring) else [Spring().swings, Spring().bounce]
        )
        numbers[k] = value
        self.put(Spring(*numbers))

    def _soften(self, k: int, value: float) -> None:
        curve = beads(self.current())
        amounts = [curve.x1, 1.0 - curve.x2]
        amounts[k] = value
        self.put(strengths(*amounts))

    def _eases(self) -> list[NamedEase]:
        """The scene's own eases, then the user's others."""
        try:
            mine = load_presets(user_file("eases.json"), NamedEase)
        except FileError as problem:
            self._document.messages.say(str(problem), True)
            mine = ()
        kept = self._document.scene.eases
        names = {each.name for each in kept}
        return [*kept, *(each for each in mine if each.name not in names)]

    def _keep(self) -> None:
        current = self.current()
        if not isinstance(current, Linear | Bezier | Steps | Family | Spring):
            self._document.messages.say("Select spans that share one ease, to keep it by a name.", True)
            return
        name, accepted = QInputDialog.getText(self, "Keep the ease", "Its name:", text=span_label(current))
        if accepted and name.strip():
            self.keep(NamedEase(name.strip()[:200], current))

    def keep(self, ease: NamedEase) -> None:
        """Keep an ease by its name, in the scene and in the user's file."""
        self._document.edit(
            f"Keep ease {ease.name}",
            lambda scene: msgspec.structs.replace(scene, eases=with_one(scene.eases, ease)),
        )
        try:
            save_presets(user_file("eases.json"), with_one(load_presets(user_file("eases.json"), NamedEase), ease))
        except FileError as problem:
            self._document.messages.say(str(problem), True)
        self._rebuild()

    def _for_new(self) -> None:
        current = self.current()
        if current is None or isinstance(current, EasePart | Handles):
            self._document.messages.say("Select one span whose ease new keys should have.", True)
            return
        self._document.edit(
            f"New keys: {span_label(current)}",
            lambda scene: msgspec.structs.replace(
                scene, settings=msgspec.structs.replace(scene.settings, new_keys=current)
            ),
        )

    @property
    def direction(self) -> str:
        button = self.directions.checkedButton()
        return button.text() if button else "in-out"

    def _rebuild(self) -> None:
        for tile in self.tiles:
            self._grid.removeWidget(tile)
            tile.hide()
            tile.deleteLater()
        plain: list[tuple[Span, str]] = [
            (Hold(), "hold"), (Linear(), "linear"), (Flow(), "flow"), (CSS_EASE, "ease"), (CSS_EASE_IN, "ease in"),
            (CSS_EASE_OUT, "ease out"), (CSS_EASE_IN_OUT, "ease in-out"),
        ]  # fmt: skip
        families: list[tuple[Span, str]] = [(Family(name, self.direction), name) for name in FAMILIES]  # type: ignore[arg-type]
        families += [(Spring(), "spring"), (Flow("smooth"), "smooth")]
        families += [(each.ease, each.name) for each in self._eases()[:_MOST_KEPT]]
        self.tiles = []
        for k, (span, name) in enumerate([*plain, *families]):
            tile = EaseTile(span, name)
            tile.clicked.connect(lambda checked, span=span: self.put(span))
            self._grid.addWidget(tile, k // _COLUMNS, k % _COLUMNS)
            self.tiles.append(tile)
        self.refresh()

    def spans(self) -> list[KeyRef]:
        """The keys that begin the selected spans. A key alone stands for the span after it, a last key for the one
        before it."""
        return selected_spans(self._document)

    def current(self) -> Span | None:
        """What is tried out, or the one ease that all the selected spans have."""
        if self.trial.span is not None:
            return self.trial.span
        found = {self._span(ref) for ref in self.spans()}
        return found.pop() if len(found) == 1 else None

    def _span(self, ref: KeyRef) -> Span:
        channel = self._document.scene.node(ref.node).channel(ref.channel)
        assert channel is not None
        key = channel.key_at(ref.frame)
        assert key is not None
        return key.span

    def refresh(self) -> None:
        tried = self.trial.span
        if self._footer.isHidden() != (tried is None):
            self._footer.setVisible(tried is not None)
            self._grow()
        if not self.isVisible():
            return
        if tried is not None:
            self.tried.setText(f"Shown, not kept yet: {span_label(tried)}")
        refs = self.spans()
        current = self.current()
        count = f"{len(refs)} span{'' if len(refs) == 1 else 's'}"
        self.title.setText(f"Ease of {count}" if refs else "Ease: select keys or spans in Lanes")
        for tile in self.tiles:
            tile.setChecked(tile.span == current)
            tile.setEnabled(bool(refs))
        curve = beads(current)
        for field, value in zip(self.handles, (curve.x1, curve.y1, curve.x2, curve.y2), strict=True):
            field.show_value(value, locked=not refs)
        for field, value in zip(self.soft, (curve.x1, 1.0 - curve.x2), strict=True):
            field.show_value(value, locked=not refs)
        self.steps.show_value(float(current.count) if isinstance(current, Steps) else 6.0, locked=not refs)
        spring = current if isinstance(current, Spring) else Spring()
        for field, value in zip(self.spring, (spring.swings, spring.bounce), strict=True):
            field.show_value(value, locked=not refs)
        self.editor.setEnabled(bool(refs))
        self.editor.show_span(current, outlines(self._document, refs))

    def _grow(self) -> None:
        """Take the height that is needed, the lower edge kept where it is."""
        foot = self.geometry().bottom()
        self.adjustSize()
        self.move(self.x(), foot - self.height() + 1)

    def _handle(self, k: int, value: float) -> None:
        self.put(msgspec.structs.replace(beads(self.current()), **{("x1", "y1", "x2", "y2")[k]: value}))

    def put(self, span: Span) -> None:
        """Take a choice for all the selected spans."""
        self.trial.put(span)

    def _move_dots(self) -> None:
        for tile in self.tiles:
            tile.update()
        self.editor.update()

    def open(self) -> None:
        self.show()
        self.raise_()
        self.refresh()
        self._timer.start()

    def leave(self) -> None:
        self.trial.put_back()
        self.hide()
        self._timer.stop()
        self.closed.emit()

    # It is moved by its empty places, out of the way of what is looked at.

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._grip = event.position().toPoint()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        room = self.parentWidget()
        if event is None or self._grip is None or room is None:
            return
        to = self.mapToParent(event.position().toPoint() - self._grip)
        x = min(max(to.x(), 80 - self.width()), room.width() - 80)
        y = min(max(to.y(), 0), room.height() - 40)
        self.move(x, y)
        self.was_moved = True

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._grip = None
        self.unsetCursor()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        key = event.key() if event is not None else None
        if key == Qt.Key.Key_Escape and self.trial.span is not None:
            self.trial.put_back()
        elif key == Qt.Key.Key_Escape:
            self.leave()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.trial.span is not None:
            self.trial.keep()
        else:
            super().keyPressEvent(event)
