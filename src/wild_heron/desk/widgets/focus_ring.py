"""An outline round what has the focus from the keyboard: who clicks somewhere knows where that is."""

from PyQt6.QtCore import QEvent, QObject, QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from .theme import AMBER, colour
from .unexpected import painted

BY_KEYBOARD = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason, Qt.FocusReason.ShortcutFocusReason)


class FocusRing(QWidget):
    """Lies over a whole widget, and lets everything through."""

    def __init__(self, around: QWidget) -> None:
        super().__init__(around)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hide()

    def heed(self, event: QFocusEvent | None) -> None:
        """The widget got or lost the focus."""
        on = event is not None and event.gotFocus() and event.reason() in BY_KEYBOARD
        if on:
            around = self.parentWidget()
            assert around is not None
            around.installEventFilter(self)
            self.setGeometry(around.rect())
            self.raise_()
        elif self.isVisible():
            self.parentWidget().removeEventFilter(self)
        self.setVisible(on)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        # Only while it is shown.
        if event is not None:
            if event.type() == QEvent.Type.Resize and isinstance(watched, QWidget):
                self.setGeometry(watched.rect())
            elif event.type() == QEvent.Type.MouseButtonPress:
                self.heed(None)
        return False

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(colour(AMBER), 2))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 3, 3)
