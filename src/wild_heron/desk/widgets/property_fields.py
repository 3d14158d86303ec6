"""Fields for what is not animated: numbers, choices, colours, switches and words of a node or of the scene."""

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QColor, QFocusEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractButton, QColorDialog, QLineEdit, QPlainTextEdit, QToolButton, QWidget

from ...files.errors import FileError
from ...scene import Scene, SceneError
from ...scene.channels import ChannelSpec
from ...scene.fields import Room, room_of
from ..state.document import Document
from .number_field import NumberField
from .panel_parts import Choice
from .theme import AMBER, LINE, RAISED, SOFT, TEXT, colour, font
from .unexpected import painted

Get = Callable[[Scene], Any]
Put = Callable[[Scene, Any], Scene]


class Property:
    """One value of the scene: how to read it, how to change it, and what a change is called."""

    def __init__(
        self, document: Document, name: str, get: Get, put: Put, field: tuple[type, str] | None = None
    ) -> None:
        """``field``: of which kind of thing it is which field, where it is one: that says what it may be."""
        self.document, self.name, self._get, self._put = document, name, get, put
        self._field = field

    @property
    def room(self) -> Room | None:
        """What a number may be, where that is known."""
        return None if self._field is None else room_of(*self._field)

    @property
    def value(self) -> Any:
        """The present value, or None where what it belongs to is gone."""
        try:
            return self._get(self.document.scene)
        except (LookupError, AttributeError):
            return None

    def rounded(self) -> "Property":
        """The same, of whole numbers."""
        return Property(
            self.document, self.name, self._get, lambda scene, value: self._put(scene, round(value)), self._field
        )

    def changed(self, scene: Scene, value: Any) -> Scene:
        """A scene with another value."""
        return self._put(scene, value)

    def set(self, value: Any, merge: str = "") -> None:
        """Change it, as one undo step or as part of the running gesture. A refusal is told."""
        base = self.document.gesture.base
        try:
            state = base.with_scene(self._put(base.scene, value))
        except (SceneError, ValueError) as problem:
            self.document.messages.say(str(problem), True)
            return
        if self.document.gesture.running:
            self.document.gesture.preview(state)
        else:
            self.document.push(self.name, state, merge)


class PropertyField(NumberField):
    """A number that is not a channel: typed, dragged and stepped like one."""

    def __init__(self, prop: Property, spec: ChannelSpec, axis: int | None = None, caption: str = "") -> None:
        super().__init__(spec, axis, caption)
        self._property = prop
        self.follow(prop.document, lambda: prop.name, prop.set, f"{prop.name}/{id(self)}")
        self.setToolTip(f"{spec.label.capitalize()}: drag, type, or use the wheel")
        self.refresh()

    def refresh(self) -> None:
        value = self._property.value
        if value is not None:
            self.show_value(float(value))


class ChoiceField(Choice):
    """One of a few words."""

    def __init__(self, prop: Property, choices: Sequence[tuple[Any, str]], tip: str) -> None:
        super().__init__()
        self._property = prop
        self.setToolTip(tip)
        self.setAccessibleName(tip)
        self.setFont(font(11))
        self.setFixedHeight(23)
        self.setMinimumWidth(40)
        self.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for value, text in choices:
            self.addItem(text, value)
        self.activated.connect(lambda index: prop.set(self.itemData(index)))
        self.refresh()

    def refresh(self) -> None:
        index = next((k for k in range(self.count()) if self.itemData(k) == self._property.value), -1)
        if index != self.currentIndex():
            self.setCurrentIndex(index)


class FamilyField(ChoiceField):
    """A font's family; the installed ones are looked through when the list is first opened."""

    def __init__(self, prop: Property) -> None:
        super().__init__(prop, [(prop.value, str(prop.value))], "Font")
        self._filled = False

    def showPopup(self) -> None:
        if not self._filled:
            self._filled = True
            self.clear()
            try:
                names = self._property.document.file.reader.families()
            except FileError as problem:
                names = []
                self._property.document.messages.say(str(problem), True)
            now = self._property.value
            for name in names if now in names else [now, *names]:
                self.addItem(name, name)
            self.refresh()
        super().showPopup()


class SwitchField(QToolButton):
    """On or off."""

    def __init__(self, prop: Property, text: str, tip: str) -> None:
        super().__init__()
        self._property = prop
        self.setText(text)
        self.setToolTip(tip)
        self.setAccessibleName(tip)
        self.setCheckable(True)
        self.setFixedHeight(23)
        self.setFont(font(11))
        self.setProperty("look", "switch")
        self.clicked.connect(prop.set)
        self.refresh()

    def refresh(self) -> None:
        self.setChecked(bool(self._property.value))


class ToneField(QAbstractButton):
    """A colour; the picture follows while one is chosen."""

    def __init__(self, prop: Property, tip: str, empty: str = "") -> None:
        super().__init__()
        self._property = prop
        self._empty = empty
        self._shown = ""
        self.setToolTip(tip)
        self.setAccessibleName(tip)
        self.setFixedHeight(23)
        self.setMinimumWidth(40)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(self._choose)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(78, 23)

    def refresh(self) -> None:
        value = str(self._property.value or "")
        if value != self._shown:
            self._shown = value
            self.update()

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        p.setPen(colour(AMBER if self.hasFocus() else LINE))
        p.setBrush(colour(RAISED))
        p.drawRoundedRect(box, 4, 4)
        p.setFont(font(11))
        if not self._shown:
            p.setPen(colour(SOFT))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, self._empty)
            return
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(self._shown))
        p.drawRoundedRect(QRectF(4, 4, 22, self.height() - 8), 3, 3)
        if self.width() > 84:
            p.setPen(colour(TEXT))
            p.drawText(box.adjusted(32, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self._shown)

    def _choose(self) -> None:
        document = self._property.document
        dialog = QColorDialog(QColor(self._shown or "#808080"), self)
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.setWindowTitle(self._property.name)
        document.gesture.begin(self._property.name)
        dialog.currentColorChanged.connect(lambda tone: self._property.set(tone.name()))

        def accept() -> None:
            self._property.set(dialog.currentColor().name())
            document.gesture.commit()

        dialog.accepted.connect(accept)
        dialog.rejected.connect(document.cancel)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()


class LineField(QLineEdit):
    """Words of one line, taken over with Enter or when the focus goes."""

    def __init__(self, prop: Property, tip: str) -> None:
        super().__init__()
        self._property = prop
        self.setToolTip(tip)
        self.setAccessibleName(tip)
        self.setFont(font(12))
        self.setFixedHeight(23)
        self.editingFinished.connect(self._take_over)
        self.refresh()

    def _take_over(self) -> None:
        words = self.text().strip()
        if words == self._property.value:
            return
        # The page may be built anew with it, and this field be gone.
        self.setModified(False)
        self._property.set(words)

    def refresh(self) -> None:
        value = self._property.value
        if value is not None and value != self.text() and not (self.hasFocus() and self.isModified()):
            self.setText(value)


class WordsField(QPlainTextEdit):
    """Words of any number of lines; each pause in typing is one undo step."""

    def __init__(self, prop: Property, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._property = prop
        self.setFixedHeight(58)
        self.setTabChangesFocus(True)
        self.setAccessibleName("Text")
        self.setToolTip("The text; Return starts a new line")
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(120)
        self._pause.timeout.connect(self._take_over)
        self.textChanged.connect(self._pause.start)
        self.refresh()

    def _take_over(self) -> None:
        words = self.toPlainText()
        if words.strip() and words != self._property.value:
            self._property.set(words, f"{self._property.name}/{id(self)}")

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self._pause.stop()
        self._take_over()
        super().focusOutEvent(event)

    def refresh(self) -> None:
        value = self._property.value
        if value is not None and value != self.toPlainText() and not (self.hasFocus() and self._pause.isActive()):
            self.blockSignals(True)
            self.setPlainText(value)
            self.blockSignals(False)
