"""What every dialog has in common: its frame, and its row of buttons."""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

NUMBERS = "numbers"
"""What the place of the inspector in the window is called."""


class Dialog(QDialog):
    """Over a window, not modal, and gone once it is closed unless it ``stays``. What it shows goes into ``column``.

    One that is ``looked_past``, since the views show what it does, opens over the numbers of the window.
    """

    def __init__(
        self, title: str, parent: QWidget | None, width: int = 0, stays: bool = False, looked_past: bool = False
    ) -> None:
        super().__init__(parent.window() if parent is not None else None)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, not stays)
        self.setWindowTitle(title)
        self._looked_past = looked_past
        self.is_left = False
        """Whether it was closed, and may be gone: what work in the background says then goes to the status line."""
        if not stays:
            self.finished.connect(self._left)
        if width:
            self.setMinimumWidth(width)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(18, 16, 18, 14)
        self.column.setSpacing(10)

    def _left(self) -> None:
        self.is_left = True

    def showEvent(self, event: QShowEvent | None) -> None:
        for form in self.findChildren(QFormLayout):
            name_fields(form)
        super().showEvent(event)
        if self._looked_past:
            self._go_over_numbers()

    def event(self, event: QEvent | None) -> bool:
        done = super().event(event)
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self._show_whole()
        return done

    def _show_whole(self) -> None:
        """Grow until lines that go on in a next one are there to their ends; a dialog's least height is for one."""
        needed = self.column.totalHeightForWidth(self.width()) if self.column.hasHeightForWidth() else 0
        screen = self.screen()
        if needed > self.height() and screen is not None:
            self.resize(self.width(), min(needed, screen.availableGeometry().height()))

    def shrink(self) -> None:
        """As low as what it shows now lets it be."""
        self.column.activate()
        self.resize(self.width(), 0)
        self._show_whole()

    def _go_over_numbers(self) -> None:
        parent = self.parentWidget()
        numbers = parent.findChild(QWidget, NUMBERS) if parent is not None else None
        if parent is None or numbers is None or not numbers.isVisible():
            return
        corner = numbers.mapToGlobal(QPoint(0, 0))
        room = parent.screen().availableGeometry() if parent.screen() is not None else parent.frameGeometry()
        x = min(corner.x() + max(numbers.width() - self.width(), 0) // 2, room.right() - self.frameGeometry().width())
        y = min(corner.y() + 8, room.bottom() - self.frameGeometry().height())
        self.move(max(x, room.left()), max(y, room.top()))

    def add_buttons(self, *buttons: QPushButton, apart: QPushButton | None = None) -> None:
        """The row at the foot: at its right the buttons, of which the last is what the dialog is for; one ``apart``."""
        row = QHBoxLayout()
        if apart is not None:
            row.addWidget(apart)
        row.addStretch()
        for button in buttons:
            row.addWidget(button)
        buttons[-1].setProperty("main", True)
        self.column.addLayout(row)


def name_fields(form: QFormLayout) -> None:
    """Give what stands beside a label its name for those who hear the screen, unless it has one."""
    for row in range(form.rowCount()):
        heard, field = (form.itemAt(row, part) for part in (_LABEL, _FIELD))
        text = heard.widget() if heard is not None else None
        if field is None or not isinstance(text, QLabel):
            continue
        several = field.layout()
        items = [several.itemAt(k) for k in range(several.count())] if several is not None else [field]
        for item in items:
            widget = item.widget() if item is not None else None
            if widget is not None and not widget.accessibleName() and not isinstance(widget, QAbstractButton):
                widget.setAccessibleName(text.text())


_LABEL, _FIELD = QFormLayout.ItemRole.LabelRole, QFormLayout.ItemRole.FieldRole


def push_button(text: str, slot: Callable[[], object], tip: str = "", default: bool = True) -> QPushButton:
    """A button with words; without ``default``, Enter never presses it."""
    out = QPushButton(text)
    out.setToolTip(tip)
    out.setAutoDefault(default)
    out.clicked.connect(lambda: slot())
    return out


def beside(*widgets: QWidget, even: bool = False) -> QHBoxLayout:
    """Widgets side by side, as one field of a form. What is typed or chosen in takes the room, or all do evenly."""
    row = QHBoxLayout()
    row.setSpacing(8)
    for widget in widgets:
        row.addWidget(widget, 1 if even or isinstance(widget, QLineEdit | QComboBox) else 0)
    return row
