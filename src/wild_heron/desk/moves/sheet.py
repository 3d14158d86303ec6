"""The sheet: a small film for each move; all play in step, or the one that is pointed at."""

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ..widgets.theme import AMBER, DEEP, LINE, REED, RUST, SOFT, TEXT, colour, font

PICTURE = QSize(148, 83)
_FOOT = 37
_TICK_MS = 110
_NAME, _LINE, _TONE = (Qt.ItemDataRole.UserRole + k for k in range(3))


_K = Qt.Key
_OWN_KEYS = (
    _K.Key_Left, _K.Key_Right, _K.Key_Up, _K.Key_Down, _K.Key_Home, _K.Key_End, _K.Key_PageUp, _K.Key_PageDown,
    _K.Key_Return, _K.Key_Enter,
)  # fmt: skip


class MoveSheet(QListWidget):
    """Cards of moves, by their numbers."""

    picked = pyqtSignal(int)
    """A card was chosen: its number."""
    taken = pyqtSignal(int)
    """It was double-clicked, or Return was pressed on it."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Moves")
        self.setViewMode(QListWidget.ViewMode.IconMode)
        self.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.setMovement(QListWidget.Movement.Static)
        self.setUniformItemSizes(True)
        self.setSpacing(4)
        self.setMouseTracking(True)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setItemDelegate(_Card(self))
        self.films: dict[int, list[QPixmap]] = {}
        self.plays_all = False
        self.beat = 0
        self.pointed = -1
        self._order: list[int] = []
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        self.currentRowChanged.connect(self._picked)
        self.itemActivated.connect(lambda item: self.taken.emit(self._order[self.row(item)]))

    def show_cards(self, cards: Sequence[tuple[int, str, str]], chosen: int | None = None) -> None:
        """Cards with a number, a name and a line; one of them chosen, quietly."""
        self.blockSignals(True)
        self.clear()
        self._order = [number for number, *_ in cards]
        for _, name, line in cards:
            item = QListWidgetItem(name)
            item.setData(_NAME, name)
            item.setData(_LINE, line)
            item.setToolTip(f"{name}. {line}" if line else name)
            item.setSizeHint(QSize(PICTURE.width() + 8, PICTURE.height() + _FOOT))
            self.addItem(item)
        if chosen in self._order:
            self.setCurrentRow(self._order.index(chosen))
        self.blockSignals(False)
        self._timer.start()

    def tell(self, number: int, line: str, good: bool | None) -> None:
        """What came of one of them; whether it is well, or nothing about that."""
        if number in self._order:
            item = self.item(self._order.index(number))
            assert item is not None
            item.setData(_LINE, line)
            item.setData(_TONE, {True: REED, False: RUST, None: SOFT}[good])
            item.setToolTip(f"{item.data(_NAME)}: {line}")

    @property
    def chosen(self) -> int | None:
        row = self.currentRow()
        return self._order[row] if 0 <= row < len(self._order) else None

    def film_of(self, row: int) -> QPixmap | None:
        """The picture of a card that is seen now."""
        film = self.films.get(self._order[row], []) if row < len(self._order) else []
        if not film:
            return None
        plays = self.plays_all or row == self.pointed or row == self.currentRow()
        return film[self.beat % len(film)] if plays else film[len(film) // 2]

    def _tick(self) -> None:
        if self.isVisible() and self.films:
            self.beat += 1
            view = self.viewport()
            assert view is not None
            view.update()

    def _picked(self, row: int) -> None:
        if 0 <= row < len(self._order):
            self.picked.emit(self._order[row])

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.pointed = self.indexAt(event.position().toPoint()).row()
        super().mouseMoveEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.pointed = -1
        super().leaveEvent(event)

    def event(self, event: QEvent | None) -> bool:
        # The arrows go through the cards, not through frames.
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in _OWN_KEYS:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        # Return takes the chosen one, whatever else the window does with it.
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen is not None:
            self.taken.emit(self.chosen)
            event.accept()
            return
        super().keyPressEvent(event)


class _Card(QStyledItemDelegate):
    """Paints a card: its film, its name, and what came of it."""

    def __init__(self, sheet: MoveSheet) -> None:
        super().__init__(sheet)
        self._sheet = sheet

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index) -> None:  # type: ignore[no-untyped-def]
        assert painter is not None
        room = QRectF(option.rect).adjusted(4, 2, -4, -2)
        frame = QRectF(room.left(), room.top(), PICTURE.width(), PICTURE.height())
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(frame, colour(DEEP))
        picture = self._sheet.film_of(index.row())
        if picture is not None:
            size = picture.size().scaled(PICTURE, Qt.AspectRatioMode.KeepAspectRatio)
            middle = frame.center()
            painter.drawPixmap(
                QRectF(middle.x() - size.width() / 2, middle.y() - size.height() / 2, size.width(), size.height()),
                picture, QRectF(picture.rect()),
            )  # fmt: skip
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.setPen(QPen(colour(AMBER if chosen else LINE), 2.0 if chosen else 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
        for role, tone, top, points in ((_NAME, TEXT, 2, 11), (_LINE, index.data(_TONE) or SOFT, 17, 10)):
            painter.setFont(font(points))
            painter.setPen(colour(tone))
            line = QRectF(frame.left(), frame.bottom() + top, frame.width(), 16)
            text = painter.fontMetrics().elidedText(
                str(index.data(role) or ""), Qt.TextElideMode.ElideRight, int(line.width())
            )
            painter.drawText(line, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()
