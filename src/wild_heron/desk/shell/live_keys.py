"""Keys of live switching, which go before every other shortcut while it is on."""

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

from ..commands.live_switching import LiveSwitching

_TYPED_IN = (QLineEdit, QPlainTextEdit, QAbstractSpinBox, QComboBox, QAbstractItemView)


class LiveKeys(QObject):
    """1 to 9 choose, Enter goes on, Backspace goes back; not where something is typed."""

    def __init__(self, live: LiveSwitching, window: QWidget) -> None:
        super().__init__(window)
        self._live, self._window = live, window
        live.changed.connect(self._listen)

    def _listen(self) -> None:
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)
            if self._live.on:
                app.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() not in (QEvent.Type.ShortcutOverride, QEvent.Type.KeyPress):
            return False
        focus = QApplication.focusWidget()
        if watched is not focus or focus is None or focus.window() is not self._window or isinstance(focus, _TYPED_IN):
            return False
        plain = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier == Qt.KeyboardModifier.NoModifier
        key = event.key()
        digit = key - Qt.Key.Key_0.value
        means = 1 <= digit <= 9 or key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Backspace)
        if not plain or not means:
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        if 1 <= digit <= 9:
            self._live.press(digit)
        else:
            self._live.step(key != Qt.Key.Key_Backspace)
        return True
