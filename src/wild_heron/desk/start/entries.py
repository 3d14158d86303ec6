"""One thing that may be begun with: a small picture, a name, and a line about it."""

from PyQt6.QtCore import QEvent, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QKeyEvent, QPainter, QPainterPath, QPaintEvent, QPixmap
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from ..widgets.panel_parts import label
from ..widgets.theme import AMBER, BLANK, RAISED, REED, SOFT, TEXT, colour, elided, font
from ..widgets.unexpected import painted

_PICTURE = QSize(56, 31)
_HEIGHT = 40
_LINE = 30
_PRESSES = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class Entry(QAbstractButton):
    """A row that can be clicked. With a ``mark``, a few letters in place of a picture, it is a single line; ``done``:
    whether it has a tick; ``aside``: what stands at its end."""

    def __init__(
        self,
        name: str,
        line: str,
        picture: QPixmap | None = None,
        mark: str = "",
        done: bool = False,
        aside: str = "",
    ) -> None:
        super().__init__()
        self._name, self._line, self._picture, self._mark, self._done = name, line, picture, mark, done
        self._aside = aside
        self.setText(name)
        self.setAccessibleName(f"{name}, done" if done else name)
        self.setAccessibleDescription(line)
        self.setToolTip(f"{name}: {line}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFixedHeight(_LINE if mark else _HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)

    def event(self, event: QEvent | None) -> bool:
        # Space plays elsewhere; on what has the focus it is a press.
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in _PRESSES:
            event.accept()
            return True
        return bool(super().event(event))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in _PRESSES:
            self.click()
        else:
            super().keyPressEvent(event)

    def sizeHint(self) -> QSize:
        return QSize(190, self.height())

    def minimumSizeHint(self) -> QSize:
        return QSize(140, self.height())

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        if self.hasFocus() or self.underMouse():
            p.setPen(colour(AMBER) if self.hasFocus() else Qt.PenStyle.NoPen)
            p.setBrush(colour(RAISED))
            p.drawRoundedRect(box, 5, 5)
        if self._mark:
            self._paint_line(p)
        else:
            self._paint_picture(p)

    def _paint_line(self, p: QPainter) -> None:
        whole = QRectF(self.rect())
        middle = Qt.AlignmentFlag.AlignVCenter
        p.setPen(colour(REED) if self._done else colour(SOFT))
        p.setFont(font(12, QFont.Weight.DemiBold))
        p.drawText(QRectF(6, 0, 18, whole.height()), middle, "✓" if self._done else self._mark)
        p.setFont(font(11))
        p.setPen(colour(SOFT))
        p.drawText(whole.adjusted(0, 0, -8, 0), middle | Qt.AlignmentFlag.AlignRight, self._aside)
        room = self.width() - 26 - p.fontMetrics().horizontalAdvance(self._aside) - 16
        p.setPen(colour(TEXT))
        p.setFont(font(12, QFont.Weight.Medium))
        p.drawText(whole.adjusted(26, 0, 0, 0), middle, elided(self._name, room, 12, QFont.Weight.Medium))

    def _paint_picture(self, p: QPainter) -> None:
        frame = QRectF(6.0, (self.height() - _PICTURE.height()) / 2, _PICTURE.width(), _PICTURE.height())
        rounded = QPainterPath()
        rounded.addRoundedRect(frame, 3, 3)
        p.fillPath(rounded, colour(BLANK))
        if self._picture is not None and not self._picture.isNull():
            p.setClipPath(rounded)
            p.drawPixmap(frame, self._picture, QRectF(self._picture.rect()))
            p.setClipping(False)
        at = int(frame.right()) + 10
        room = self.width() - at - 6
        p.setPen(colour(TEXT))
        p.setFont(font(12, QFont.Weight.Medium))
        top = self.height() // 2
        p.drawText(at, top - 3, elided(self._name, room, 12, QFont.Weight.Medium))
        p.setPen(colour(SOFT))
        p.setFont(font(11))
        p.drawText(at, top + 12, elided(self._line, room, 11))


class Column(QWidget):
    """A heading and entries under it; what is said where there are none."""

    def __init__(self, title: str, empty: str = "") -> None:
        super().__init__()
        self._empty = empty
        self.entries: list[Entry] = []
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(2)
        heading = label(title, "soft", 11, QFont.Weight.DemiBold)
        heading.setContentsMargins(6, 0, 0, 4)
        self._rows.addWidget(heading)
        self._rows.addStretch()

    def fill(self, entries: list[Entry]) -> None:
        """Show these in place of those before."""
        while self._rows.count() > 2:
            item = self._rows.takeAt(1)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.entries = entries
        shown: list[QWidget] = list(entries)
        if not entries and self._empty:
            line = label(self._empty, "soft", 11)
            line.setWordWrap(True)
            line.setContentsMargins(6, 4, 6, 0)
            shown = [line]
        for number, each in enumerate(shown, 1):
            self._rows.insertWidget(number, each)
