"""A number that can be typed, dragged, stepped, reset, locked and keyed."""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QWidget

from ...scene.channels import ChannelSpec
from ..state.document import Document
from . import icons
from .quantities import edit_text, format_number, parse_number, step_for
from .reading_order import go_on
from .theme import AMBER, AXES, DEEP, LINE, PANEL, REED, RUST, SKY, SOFT, TEXT, colour, font
from .unexpected import painted

_PIXELS_PER_NUDGE = 4.0


class NumberField(QWidget):
    """Shows one value. Drag across it to change it, click to type, wheel or arrows to step, right-click for more."""

    edited = pyqtSignal(float, bool)
    """A value was settled on; whether it came from a step that may repeat."""
    drag_started = pyqtSignal()
    dragged = pyqtSignal(float)
    drag_finished = pyqtSignal()
    drag_cancelled = pyqtSignal()
    menu_wanted = pyqtSignal(QPoint)
    refused = pyqtSignal(str)
    reset_wanted = pyqtSignal()
    """The arrow beside the caption was clicked; only fields with ``can_reset`` show one."""

    def __init__(
        self, spec: ChannelSpec, axis: int | None = None, caption: str = "", parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.spec = spec
        self._axis = axis
        self._caption = caption
        self._value = spec.default
        self._mark = "none"
        self._locked = False
        self.driven = ""
        self.can_reset = False
        self._press: QPointF | None = None
        self._start = 0.0
        self._dragging = False
        self.editor: QLineEdit | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setMinimumWidth(46)
        self.setFixedHeight(36 if caption else 23)
        self.setAccessibleName(spec.label)

    def follow(
        self, document: Document, name: Callable[[], str], put: Callable[[float, str], object], merge: str
    ) -> None:
        """Hand what is typed, stepped or dragged to ``put(value, merge)``: steps that follow at once share ``merge``,
        a drag is one step called ``name()``."""
        self.edited.connect(lambda value, repeats: put(value, merge if repeats else ""))
        self.drag_started.connect(lambda: document.gesture.begin(name()))
        self.dragged.connect(lambda value: put(value, ""))
        self.drag_finished.connect(document.gesture.commit)
        self.drag_cancelled.connect(document.cancel)
        self.refused.connect(lambda text: document.messages.say(text, True))

    def sizeHint(self) -> QSize:
        return QSize(78, self.height())

    @property
    def value(self) -> float:
        return self._value

    def show_value(self, value: float, mark: str = "none", locked: bool = False, driven: str = "") -> None:
        """``mark``: none, keyed (elsewhere), here (a key at the playhead) or pending. ``driven``: by a link, a formula,
        one that is broken, or moved by movers or a take."""
        if (value, mark, locked, driven) != (self._value, self._mark, self._locked, self.driven):
            self._value, self._mark, self._locked, self.driven = value, mark, locked, driven
            self.setAccessibleDescription(format_number(value, self.spec.unit))
            self.update()

    def _clamped(self, value: float) -> float:
        return min(max(value, self.spec.low), self.spec.high)

    def event(self, event: QEvent | None) -> bool:
        # Keys that type or step a number belong to the field, even where an action has them as its shortcut.
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            steps = event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down)
            if steps or self._is_typing(event):
                event.accept()
                return True
        return super().event(event)

    @staticmethod
    def _is_typing(event: QKeyEvent) -> bool:
        plain = not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        return plain and bool(event.text()) and (event.text().isdigit() or event.text() in "-.,(")

    def focusNextPrevChild(self, next: bool) -> bool:
        """Tab goes to the number that is read next, and from the last one on to what follows."""
        return go_on(self, NumberField, next) or super().focusNextPrevChild(next)

    # Painting

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        top = 13.0 if self._caption else 0.0
        box = QRectF(0.5, top + 0.5, self.width() - 1, self.height() - top - 1)
        if self._caption:
            p.setFont(font(10))
            p.setPen(colour(SOFT))
            p.drawText(
                QRectF(2, 0, self.width(), 12),
                Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                self._caption,
            )
            if self.can_reset:
                p.setPen(colour(AMBER))
                p.drawText(QRectF(0, 0, self.width() - 3, 12), Qt.AlignmentFlag.AlignRight, "↺")
        p.setPen(colour(AMBER if self.hasFocus() else RUST if self._mark == "pending" else LINE))
        p.setBrush(colour(DEEP if self.isEnabled() and not self._locked else PANEL))
        p.drawRoundedRect(box, 4, 4)
        if self._axis is not None:
            p.fillRect(QRectF(box.left() + 1.5, box.top() + 3, 2.5, box.height() - 6), colour(AXES[self._axis]))
        right = box.right() - 6
        if self._locked:
            icons.paint(p, "lock", QRectF(right - 9, box.center().y() - 6, 11, 11), colour(SOFT))
            right -= 13
        elif self._mark != "none":
            tone = colour(RUST if self._mark == "pending" else AMBER)
            centre = QPointF(right - 1, box.center().y())
            p.setPen(tone)
            p.setBrush(tone if self._mark in ("here", "pending") else Qt.BrushStyle.NoBrush)
            p.drawEllipse(centre, 2.4, 2.4)
            right -= 8
        if self.driven:
            p.setFont(font(11))
            p.setPen(colour({"broken": RUST, "moved": REED}.get(self.driven, SKY)))
            sign = {"link": "⟵", "moved": "∿"}.get(self.driven, "ƒ")
            p.drawText(QRectF(right - 12, box.top(), 12, box.height()), Qt.AlignmentFlag.AlignCenter, sign)
            right -= 14
        p.setFont(font(12))
        p.setPen(colour(RUST if self._mark == "pending" else TEXT if self.isEnabled() and not self._locked else SOFT))
        text = format_number(self._value, self.spec.unit)
        room = QRectF(box.left() + 6, box.top(), right - box.left() - 8, box.height())
        metrics = p.fontMetrics()
        if metrics.horizontalAdvance(text) > room.width():
            text = text.replace(" turns", "t").replace(" turn", "t").replace(" + ", "+").replace(" ", "")
        if metrics.horizontalAdvance(text) > room.width():
            p.setFont(font(10))
        p.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)

    # Dragging

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            if self.can_reset and event.position().y() < 13 and event.position().x() > self.width() - 18:
                self.reset_wanted.emit()
                return
            self._press = event.position()
            self._start = self._value
            self._dragging = False
            self.setFocus(Qt.FocusReason.MouseFocusReason)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._press is None:
            return
        moved = event.position().x() - self._press.x()
        if not self._dragging and abs(moved) >= QApplication.startDragDistance() / 2 and not self._locked:
            self._dragging = True
            self.drag_started.emit()
        if self._dragging:
            keys = event.modifiers()
            nudge = step_for(
                self.spec,
                bool(keys & Qt.KeyboardModifier.ShiftModifier),
                bool(keys & Qt.KeyboardModifier.ControlModifier),
            )
            self.dragged.emit(self._clamped(self._start + moved / _PIXELS_PER_NUDGE * nudge))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or self._press is None:
            return
        self._press = None
        if self._dragging:
            self._dragging = False
            self.drag_finished.emit()
        else:
            self.open_editor()

    # Stepping and typing

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or not self.hasFocus() or self._locked:
            if event is not None:
                event.ignore()
            return
        self._step(event.angleDelta().y() / 120.0, event.modifiers())
        event.accept()

    def _step(self, count: float, keys: Qt.KeyboardModifier) -> None:
        if self._locked or count == 0:
            return
        fine, coarse = bool(keys & Qt.KeyboardModifier.ShiftModifier), bool(keys & Qt.KeyboardModifier.ControlModifier)
        self.edited.emit(self._clamped(round(self._value + count * step_for(self.spec, fine, coarse), 9)), True)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = event.key()
        if key == Qt.Key.Key_Escape and self._dragging:
            self._press, self._dragging = None, False
            self.drag_cancelled.emit()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._step(1 if key == Qt.Key.Key_Up else -1, event.modifiers())
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_F2):
            self.open_editor()
        elif self._is_typing(event):
            self.open_editor(event.text())
        else:
            super().keyPressEvent(event)

    def open_editor(self, text: str | None = None) -> None:
        """Type a value; with ``text`` it starts with that."""
        if self._locked or not self.isEnabled() or self.editor is not None:
            return
        editor = QLineEdit(self)
        editor.setGeometry(0, self.height() - 23, self.width(), 23)
        editor.setFont(font(12))
        editor.setText(edit_text(self._value, self.spec.unit) if text is None else text)
        if text is None:
            editor.selectAll()
        editor.editingFinished.connect(self._typed)
        editor.installEventFilter(self)
        self.editor = editor
        editor.show()
        editor.setFocus()

    def eventFilter(self, watched, event) -> bool:  # type: ignore[no-untyped-def]
        if watched is self.editor and event.type() == event.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape:
                self._close_editor()
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                # Taken here: handed on, the same key would open the editor again.
                self._typed()
                return True
            if event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
                self._typed()
                # What was typed may have had the page built anew: then the number stands on it again.
                field = QApplication.focusWidget()
                if isinstance(field, NumberField):
                    field.focusNextPrevChild(event.key() == Qt.Key.Key_Tab)
                return True
        return bool(super().eventFilter(watched, event))

    def _close_editor(self) -> None:
        editor, self.editor = self.editor, None
        if editor is not None:
            had_focus = editor.hasFocus()
            editor.hide()
            editor.deleteLater()
            if had_focus:
                self.setFocus()

    def _typed(self) -> None:
        if self.editor is None:
            return
        text = self.editor.text()
        unchanged = text == edit_text(self._value, self.spec.unit)
        self._close_editor()
        if unchanged:
            return
        try:
            self.edited.emit(self._clamped(parse_number(text, self.spec.unit)), False)
        except ValueError as problem:
            self.refused.emit(f"{self.spec.label}: {problem}")

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()
        super().focusOutEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None:
            self.menu_wanted.emit(event.globalPos())
