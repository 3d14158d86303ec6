"""Picking a span's ease from small drawn curves, each with a dot that moves the way it does."""

import time
from functools import lru_cache

import msgspec
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QToolButton,
    QVBoxLayout,
)

from ...files.eases import load_eases, save_eases, user_file, with_ease
from ...files.errors import FileError
from ...motion import sample_ease
from ...motion.keys import strengths
from ...scene import (
    Bezier,
    Cut,
    Family,
    Flow,
    Handles,
    Hold,
    Linear,
    NamedEase,
    Span,
    Spring,
    Steps,
    span_label,
)
from ...scene.channels import ChannelSpec
from ...scene.edits import KeyRef, set_spans
from ...scene.spans import CSS_EASE, CSS_EASE_IN, CSS_EASE_IN_OUT, CSS_EASE_OUT
from ..document import Document
from ..number_field import NumberField
from ..panel import icon_button, label
from ..spans_selected import selected_spans
from ..theme import AMBER, DEEP, HOVER, LINE, PANEL, RAISED, REED, SOFT, TEXT, colour, font

_SECONDS = 1.6
_COLUMNS = 9
_MOST_KEPT = 17
"""How many kept eases have a tile."""
_NAMES = ("sine", "quad", "cubic", "quart", "quint", "expo", "circ", "back", "elastic", "bounce")


@lru_cache(maxsize=128)
def _curve(span: Span) -> tuple[tuple[float, float], ...]:
    shares, values = sample_ease(span, 60)
    if isinstance(span, Flow):
        values = shares * shares * (3.0 - 2.0 * shares)  # as it looks between two level neighbours
    return tuple(zip(shares.tolist(), values.tolist(), strict=True))


class EaseTile(QAbstractButton):
    """One ease."""

    def __init__(self, span: Span, name: str) -> None:
        super().__init__()
        self.span = span
        self.name = name
        self.setCheckable(True)
        self.setFixedSize(66, 54)
        self.setToolTip(span_label(span))
        self.setAccessibleName(span_label(span))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        lit = self.isChecked()
        box = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        p.setPen(QPen(colour(AMBER if lit or self.hasFocus() else LINE), 1.4 if lit else 1))
        p.setBrush(colour(HOVER if self.underMouse() else RAISED if lit else DEEP))
        p.drawRoundedRect(box, 5, 5)
        area = QRectF(11, 9, self.width() - 32, self.height() - 32)

        def place(share: float, value: float) -> QPointF:
            return QPointF(area.left() + share * area.width(), area.bottom() - value * area.height())

        p.setPen(QPen(colour(LINE), 1))
        p.drawLine(place(0, 0), place(1, 0))
        p.drawLine(place(0, 1), place(1, 1))
        p.setPen(QPen(colour(AMBER if lit else REED), 1.6))
        p.drawPolyline(QPolygonF([place(*pair) for pair in _curve(self.span)]))
        phase = (time.monotonic() % (_SECONDS + 0.5)) / _SECONDS
        phase = min(phase, 1.0)
        curve = _curve(self.span)
        value = curve[min(int(phase * (len(curve) - 1) + 0.5), len(curve) - 1)][1]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(TEXT))
        p.drawEllipse(QPointF(self.width() - 11, area.bottom() - value * area.height()), 3, 3)
        p.setFont(font(10, QFont.Weight.Medium if lit else QFont.Weight.Normal))
        p.setPen(colour(AMBER if lit else SOFT))
        p.drawText(QRectF(2, self.height() - 17, self.width() - 4, 14), Qt.AlignmentFlag.AlignCenter, self.name)


class EasePanel(QFrame):
    """Floats over the lanes; a click shapes every selected span, as one step."""

    closed = pyqtSignal()

    def __init__(self, document: Document, parent: QFrame | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self.setObjectName("ease-panel")
        self.setStyleSheet(f"#ease-panel {{ background: {PANEL}; border: 1px solid #4b606a; border-radius: 8px; }}")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 12)
        column.setSpacing(7)
        head = QHBoxLayout()
        self.title = label("Ease", size=12, weight=QFont.Weight.DemiBold)
        head.addWidget(self.title, 1)
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
        column.addLayout(head)
        self._grid = QGridLayout()
        self._grid.setSpacing(5)
        column.addLayout(self._grid)
        self.tiles: list[EaseTile] = []
        column.addLayout(self._numbers())
        self._timer = QTimer(self)
        self._timer.setInterval(33)
        self._timer.timeout.connect(self._move_dots)
        document.keys_selected.connect(self.refresh)
        document.changed.connect(self.refresh)
        self._rebuild()
        self.hide()

    def _numbers(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(label("Curve", "soft", 11))
        self.handles: list[NumberField] = []
        for k, name in enumerate(("x1", "y1", "x2", "y2")):
            low, high = (0.0, 1.0) if k % 2 == 0 else (-100.0, 100.0)
            field = NumberField(ChannelSpec(name, f"handle {name}", "factor", 0.0, low, high, 0.01))
            field.setToolTip(f"CSS cubic-bezier {name}")
            field.edited.connect(lambda value, repeats, k=k: self._handle(k, value))
            field.drag_started.connect(lambda: self._document.begin("Shape the ease"))
            field.dragged.connect(lambda value, k=k: self._handle(k, value))
            field.drag_finished.connect(self._document.commit)
            field.drag_cancelled.connect(self._document.cancel)
            field.setFixedWidth(62)
            self.handles.append(field)
            row.addWidget(field)
        row.addSpacing(8)
        self.soft: list[NumberField] = []
        for k, (text, tip) in enumerate((("soft start", "How soft it starts"), ("landing", "How soft it lands"))):
            row.addWidget(label(text, "soft", 11))
            field = NumberField(ChannelSpec(text, tip, "share", 0.42, 0.0, 1.0, 0.01))
            field.setToolTip(f"{tip}, in percent: drag, type, or use the wheel")
            field.edited.connect(lambda value, repeats, k=k: self._soften(k, value))
            field.drag_started.connect(lambda: self._document.begin("Shape the ease"))
            field.dragged.connect(lambda value, k=k: self._soften(k, value))
            field.drag_finished.connect(self._document.commit)
            field.drag_cancelled.connect(self._document.cancel)
            field.setFixedWidth(58)
            self.soft.append(field)
            row.addWidget(field)
        row.addSpacing(8)
        row.addWidget(label("Steps", "soft", 11))
        self.steps = NumberField(ChannelSpec("steps", "number of steps", "count", 6.0, 1.0, 1000.0, 1.0))
        self.steps.edited.connect(lambda value, repeats: self.apply(Steps(max(1, round(value)))))
        self.steps.setFixedWidth(58)
        row.addWidget(self.steps)
        row.addStretch()
        for text, tip, slot in (
            ("keep…", "Keep this ease by a name, in the scene and for other scenes", self._keep),
            ("for new keys", "A channel's first keys take this ease from now on", self._for_new),
        ):
            button = QToolButton()
            button.setText(text)
            button.setFont(font(11))
            button.setToolTip(tip)
            button.clicked.connect(slot)
            row.addWidget(button)
        return row

    def _soften(self, k: int, value: float) -> None:
        curve = self.current()
        curve = curve if isinstance(curve, Bezier) else CSS_EASE_IN_OUT
        amounts = [curve.x1, 1.0 - curve.x2]
        amounts[k] = value
        self.apply(strengths(*amounts))

    def _eases(self) -> list[NamedEase]:
        """The scene's own eases, then the user's others."""
        try:
            mine = load_eases(user_file())
        except FileError as problem:
            self._document.say(str(problem), True)
            mine = ()
        kept = self._document.scene.eases
        names = {each.name for each in kept}
        return [*kept, *(each for each in mine if each.name not in names)]

    def _keep(self) -> None:
        current = self.current()
        if not isinstance(current, Linear | Bezier | Steps | Family | Spring):
            self._document.say("Select one span, or spans of one ease, to keep it by a name.", True)
            return
        name, accepted = QInputDialog.getText(self, "Keep the ease", "Its name:", text=span_label(current))
        if accepted and name.strip():
            self.keep(NamedEase(name.strip()[:200], current))

    def keep(self, ease: NamedEase) -> None:
        """Keep an ease by its name, in the scene and in the user's file."""
        self._document.edit(
            f"Keep ease {ease.name}",
            lambda scene: msgspec.structs.replace(scene, eases=with_ease(scene.eases, ease)),
        )
        try:
            save_eases(user_file(), with_ease(load_eases(user_file()), ease))
        except FileError as problem:
            self._document.say(str(problem), True)
        self._rebuild()

    def _for_new(self) -> None:
        current = self.current()
        if current is None or isinstance(current, Cut | Handles):
            self._document.say("Select one span whose ease new keys should have.", True)
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
        families: list[tuple[Span, str]] = [(Family(name, self.direction), name) for name in _NAMES]  # type: ignore[arg-type]
        families += [(Spring(), "spring"), (Flow("smooth"), "smooth")]
        families += [(each.ease, each.name) for each in self._eases()[:_MOST_KEPT]]
        self.tiles = []
        for k, (span, name) in enumerate([*plain, *families]):
            tile = EaseTile(span, name)
            tile.clicked.connect(lambda checked, span=span: self.apply(span))
            self._grid.addWidget(tile, k // _COLUMNS, k % _COLUMNS)
            self.tiles.append(tile)
        self.refresh()

    def spans(self) -> list[KeyRef]:
        """The keys that begin the selected spans. A key alone stands for the span after it, a last key for the one
        before it."""
        return selected_spans(self._document)

    def current(self) -> Span | None:
        found = {self._span(ref) for ref in self.spans()}
        return found.pop() if len(found) == 1 else None

    def _span(self, ref: KeyRef) -> Span:
        channel = self._document.scene.node(ref.node).channel(ref.channel)
        assert channel is not None
        key = channel.key_at(ref.frame)
        assert key is not None
        return key.span

    def refresh(self) -> None:
        if not self.isVisible():
            return
        refs = self.spans()
        current = self.current()
        count = f"{len(refs)} span{'' if len(refs) == 1 else 's'}"
        self.title.setText(f"Ease of {count}" if refs else "Ease: select keys or spans in Lanes")
        for tile in self.tiles:
            tile.setChecked(tile.span == current)
            tile.setEnabled(bool(refs))
        curve = current if isinstance(current, Bezier) else CSS_EASE_IN_OUT
        for field, value in zip(self.handles, (curve.x1, curve.y1, curve.x2, curve.y2), strict=True):
            field.show_value(value, locked=not refs)
        for field, value in zip(self.soft, (curve.x1, 1.0 - curve.x2), strict=True):
            field.show_value(value, locked=not refs)
        self.steps.show_value(float(current.count) if isinstance(current, Steps) else 6.0, locked=not refs)

    def _handle(self, k: int, value: float) -> None:
        current = self.current()
        curve = current if isinstance(current, Bezier) else CSS_EASE_IN_OUT
        numbers = [curve.x1, curve.y1, curve.x2, curve.y2]
        numbers[k] = value
        self.apply(Bezier(*numbers))

    def apply(self, span: Span) -> None:
        apply_ease(self._document, span)

    def _move_dots(self) -> None:
        for tile in self.tiles:
            tile.update()

    def open(self) -> None:
        self.show()
        self.raise_()
        self.refresh()
        self._timer.start()

    def leave(self) -> None:
        self.hide()
        self._timer.stop()
        self.closed.emit()

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)


def apply_ease(document: Document, span: Span) -> None:
    """Shape the selected spans, as one step or as part of the running gesture."""
    refs = selected_spans(document)
    if not refs:
        document.say("Select keys or spans in Lanes first.", True)
        return
    if document.in_gesture:
        base = document.gesture_base
        document.preview(base.with_scene(set_spans(base.scene, refs, span)))
    else:
        document.edit(f"Ease: {span_label(span)}", lambda scene: set_spans(scene, refs, span))
