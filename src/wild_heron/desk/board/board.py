"""The board: the dials of a scene as sliders, in groups, floating or docked."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QContextMenuEvent, QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QShowEvent
from PyQt6.QtWidgets import (
    QBoxLayout,
    QDockWidget,
    QGridLayout,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...scene import Dial
from ..channels.field import ChannelField, channel_mark
from ..inspector.dial_rows import dial_menu
from ..state.document import Document
from ..widgets.panel_parts import icon_button, label, set_surface, show_page
from ..widgets.quantities import step_for
from ..widgets.theme import AMBER, DEEP, REED, RUST, SOFT, TEXT, colour
from ..widgets.unexpected import painted
from .pad import DialPad

_Area = Qt.DockWidgetArea
_SIDES = _Area.LeftDockWidgetArea | _Area.RightDockWidgetArea | _Area.BottomDockWidgetArea
_EMPTY = """Dials you make stand here: sliders that drive any channel.
Rig ▸ New dial gives the selected node one."""


class DialSlider(QWidget):
    """A dial's range as a bar that is dragged; a double click goes back to the default."""

    def __init__(self, field: ChannelField, dial: Dial) -> None:
        super().__init__()
        self._field, self._dial = field, dial
        self._pressed = False
        self.setFixedHeight(23)
        self.setMinimumWidth(70)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"{dial.name} slider")
        self.setToolTip(f"{dial.name}: drag, or use the arrow keys. A double click goes back to {dial.default:g}.")

    def sizeHint(self) -> QSize:
        return QSize(110, 23)

    def _place(self, value: float) -> float:
        share = min(max((value - self._dial.low) / (self._dial.high - self._dial.low), 0.0), 1.0)
        return 7.0 + share * (self.width() - 14.0)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(DEEP))
        p.drawRoundedRect(QRectF(4, middle - 3, self.width() - 8, 6), 3, 3)
        mark = channel_mark(self._field.document, *self._field.place)
        tone = RUST if mark == "pending" else AMBER if mark == "here" else REED
        start, at = self._place(min(max(0.0, self._dial.low), self._dial.high)), self._place(self._field.value)
        p.setBrush(colour(tone, 0.55))
        p.drawRoundedRect(QRectF(min(start, at), middle - 3, abs(at - start), 6), 3, 3)
        x = self._place(self._dial.default)
        p.setBrush(colour(SOFT))
        p.drawRect(QRectF(x - 0.5, middle - 6, 1, 12))
        p.setPen(colour(TEXT) if self.hasFocus() else colour(DEEP))
        p.setBrush(colour(tone))
        p.drawEllipse(QPointF(at, middle), 6, 6)

    def _value_at(self, x: float) -> float:
        share = min(max((x - 7.0) / max(self.width() - 14.0, 1.0), 0.0), 1.0)
        value = self._dial.low + share * (self._dial.high - self._dial.low)
        if self._dial.unit == "count":
            return float(round(value))
        return float(f"{value:.4g}")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._pressed = True
            self.setFocus()
            self._field.drag_started.emit()
            self._field.dragged.emit(self._value_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pressed:
            self._field.dragged.emit(self._value_at(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._pressed:
            self._pressed = False
            self._field.drag_finished.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self._field.edited.emit(self._dial.default, False)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1}
        if event.key() == Qt.Key.Key_Escape and self._pressed:
            self._pressed = False
            self._field.drag_cancelled.emit()
        elif event.key() in steps:
            keys = event.modifiers()
            fine, coarse = (
                bool(keys & Qt.KeyboardModifier.ShiftModifier),
                bool(keys & Qt.KeyboardModifier.ControlModifier),
            )
            step = step_for(self._field.spec, fine, coarse) * steps[Qt.Key(event.key())]
            low, high = self._dial.limits
            value = min(max(self._field.value + step, low), high)
            self._field.edited.emit(float(f"{value:.9g}"), True)
        else:
            super().keyPressEvent(event)

    def event(self, event) -> bool:  # type: ignore[no-untyped-def]
        # The arrows step the dial, not the playhead.
        if event.type() == event.Type.ShortcutOverride and event.key() in (
            Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Escape,
        ):  # fmt: skip
            event.accept()
            return True
        return super().event(event)


class _Name(QToolButton):
    """A dial's name; a click selects its node, a right click changes the dial."""

    def __init__(self, document: Document, node_id: str, dial: Dial) -> None:
        super().__init__()
        self._document, self._node_id, self._dial = document, node_id, dial
        self.setText(dial.name)
        self.setToolTip(f"{dial.name}, a dial of {document.scene.node(node_id).name}. Right-click to change it.")
        self.setProperty("look", "dial")
        self.clicked.connect(lambda: document.selection.choose([node_id]))

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None:
            dial_menu(self._document, self._node_id, self._dial, self, event.globalPos())


class Board(QDockWidget):
    """Every dial of the scene, by board."""

    def __init__(self, document: Document, parent: QWidget) -> None:
        super().__init__("Board", parent)
        self._document = document
        self.setObjectName("board")
        self.setAllowedAreas(_SIDES)
        self.fields: dict[tuple[str, str], ChannelField] = {}
        self.sliders: dict[tuple[str, str], DialSlider] = {}
        self.pads: dict[tuple[str, str], DialPad] = {}
        self._built_for: object = None
        self._title()
        self._scroll = QScrollArea()
        self._scroll.setAccessibleName("Dials")
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setMinimumWidth(296)
        self.setWidget(self._scroll)
        self.topLevelChanged.connect(lambda floating: self.refresh())
        self.dockLocationChanged.connect(lambda area: self.refresh())
        document.changed.connect(self.refresh)
        document.playhead.moved.connect(lambda: document.turns.ask(self, self._refresh_values))

    def sizeHint(self) -> QSize:
        return QSize(300, 240)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def _title(self) -> None:
        bar = QWidget()
        set_surface(bar, "raised")
        row = QHBoxLayout(bar)
        row.setContentsMargins(12, 3, 4, 3)
        row.addWidget(label("Board", size=12, weight=QFont.Weight.DemiBold), 1)
        self.float_button = icon_button("swap", "Float it, or dock it again", size=22)
        self.float_button.clicked.connect(lambda: self.setFloating(not self.isFloating()))
        close = icon_button("cross", "Close the board", size=22)
        close.clicked.connect(self.close)
        row.addWidget(self.float_button)
        row.addWidget(close)
        self.setTitleBarWidget(bar)

    @property
    def is_flat(self) -> bool:
        """Whether it lies along the lower edge, with its groups side by side."""
        window = self.parentWidget()
        if self.isFloating() or not isinstance(window, QMainWindow):
            return False
        return window.dockWidgetArea(self) == _Area.BottomDockWidgetArea

    def refresh(self) -> None:
        """Build the board anew where there are other dials, and show the present values."""
        if not self.isVisible():
            return
        scene = self._document.scene
        shape = (self.is_flat, *((node.id, node.name, node.dials) for node in scene.nodes if node.dials))
        if shape != self._built_for:
            self._built_for = shape
            self._build()
        self._refresh_values()

    def _build(self) -> None:
        self.fields, self.sliders, self.pads = {}, {}, {}
        page = QWidget()
        set_surface(page, "panel")
        column = QVBoxLayout(page)
        column.setContentsMargins(10, 8, 10, 10)
        column.setSpacing(8)
        bottom = self.is_flat
        holder = QBoxLayout(QBoxLayout.Direction.LeftToRight if bottom else QBoxLayout.Direction.TopToBottom)
        holder.setSpacing(22 if bottom else 10)
        column.addLayout(holder)
        groups: dict[str, list[tuple[str, Dial]]] = {}
        for node in self._document.scene.nodes:
            for dial in node.dials:
                groups.setdefault(dial.board, []).append((node.id, dial))
        for name, dials in groups.items():
            head = label(name, "group", 11, QFont.Weight.DemiBold)
            group = QVBoxLayout()
            group.setSpacing(6)
            group.addWidget(head)
            grid = QGridLayout()
            grid.setHorizontalSpacing(6)
            grid.setVerticalSpacing(4)
            grid.setColumnMinimumWidth(0, 74)
            grid.setColumnStretch(1, 1)
            for row, (node_id, dial) in enumerate(dials):
                field = ChannelField(self._document, node_id, dial.channel)
                field.setFixedWidth(76)
                slider = DialSlider(field, dial)
                self.fields[node_id, dial.channel] = field
                self.sliders[node_id, dial.channel] = slider
                for k, widget in enumerate((_Name(self._document, node_id, dial), slider, field)):
                    grid.addWidget(widget, row, k)
            group.addLayout(grid)
            for node_id, dial in dials:
                own = (each for other, each in dials if dial.pad and other == node_id)
                up = next((each for each in own if each.id == dial.pad), None)
                if up is not None:
                    ends = [(self.fields[node_id, each.channel], each) for each in (dial, up)]
                    self.pads[node_id, dial.channel] = pad = DialPad(self._document, node_id, *ends)
                    group.addWidget(pad, 0, Qt.AlignmentFlag.AlignHCenter)
            group.addStretch()
            holder.addLayout(group)
        if not groups:
            words = label(_EMPTY, "soft", 11)
            words.setWordWrap(True)
            column.addWidget(words)
        column.addStretch()
        show_page(self._scroll, page)

    def _refresh_values(self) -> None:
        if not self.isVisible() or self._document.views.moving is not self._document.scene:
            return
        for place, field in self.fields.items():
            field.refresh()
            self.sliders[place].update()
        for pad in self.pads.values():
            pad.update()
