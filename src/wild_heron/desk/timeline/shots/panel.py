"""The Shots tab: tools over the film, the shelf of framings beside it, the contact sheet below."""

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from ....scene.edits.film import Order
from ...state.document import Document
from ...widgets.panel import menu_button, popup_menu, set_surface
from ...widgets.strip import Strip
from ...widgets.theme import DEEP, HOVER, RUST, SOFT, TEXT, colour, font
from ...widgets.unexpected import painted
from ..axis import LABELS
from ..film_parts import FilmParts
from .contact import ContactSheet
from .shelf import Shelf
from .view import ShotsView

_TOOLS = (
    ("cut", "Cut here"),
    ("blend", "Blend here"),
    ("split", "Split"),
    ("run", "Run of cuts…"),
    ("rules", "Joining rules…"),
)
_ROOMY = 200
_ORDERS: tuple[Order, ...] = ("in order", "back and forth", "shuffled")


class LiveButton(QAbstractButton):
    """The live switch: a ring while off, filled while the keys choose what is shown."""

    def __init__(self) -> None:
        super().__init__()
        self.setCheckable(True)
        self.setText("Live")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(70, 24)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        on = self.isChecked()
        box = QRectF(1, (self.height() - 22) / 2, self.width() - 2, 22)
        p.setPen(QPen(colour(TEXT if self.hasFocus() else RUST), 1.3))
        p.setBrush(colour(RUST) if on else colour(HOVER) if self.underMouse() else Qt.BrushStyle.NoBrush)
        p.drawRoundedRect(box, 11, 11)
        tone = colour(DEEP if on else RUST)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(tone)
        p.drawEllipse(QRectF(box.left() + 10, box.center().y() - 4, 8, 8))
        p.setPen(colour(DEEP if on else SOFT))
        p.setFont(font(12, QFont.Weight.DemiBold))
        p.drawText(box.adjusted(24, 0, -8, 0), Qt.AlignmentFlag.AlignVCenter, "Live")


class ShotsPanel(QWidget):
    """The film and what it is made from."""

    def __init__(self, document: Document, tabs: QWidget, parts: FilmParts) -> None:
        super().__init__()
        self._document, self._parts = document, parts
        self.view = ShotsView(document, parts)
        self.shelf = Shelf(document, parts)
        self.contact = ContactSheet(document, parts)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._tools(tabs))
        across = QHBoxLayout()
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(0)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addWidget(self.view, 1)
        left.addWidget(self.contact)
        across.addLayout(left, 1)
        across.addWidget(self.shelf)
        column.addLayout(across, 1)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        # Where there is little room the film has all of it.
        self.contact.setVisible(self.height() >= _ROOMY)
        super().resizeEvent(event)

    def _tools(self, tabs: QWidget) -> QWidget:
        strip = QWidget()
        set_surface(strip, "panel", "bottom")
        strip.setFixedHeight(32)
        row = QHBoxLayout(strip)
        row.setContentsMargins(14, 0, 10, 0)
        row.setSpacing(6)
        holder = QWidget()
        holder.setFixedWidth(LABELS - 16)
        held = QHBoxLayout(holder)
        held.setContentsMargins(0, 0, 0, 0)
        held.addWidget(tabs)
        held.addStretch()
        row.addWidget(holder)
        inner = QWidget()
        tools = QHBoxLayout(inner)
        tools.setContentsMargins(0, 0, 0, 0)
        tools.setSpacing(6)
        actions = self._parts.actions
        for name, text in _TOOLS:
            button = QToolButton()
            button.setDefaultAction(actions[f"film.{name}"])
            button.setText(text)
            button.setFont(font(11))
            actions[f"film.{name}"].changed.connect(lambda button=button, text=text: button.setText(text))
            tools.addWidget(button)
        tools.addStretch()
        self.order = menu_button(
            "in order ▾", "In which order Enter goes through cameras and framings", self._order_menu
        )
        tip = "Films that were switched live, to choose from"
        self.passes = menu_button("passes ▾", tip, self._passes_menu)
        tools.addWidget(self.order)
        tools.addWidget(self.passes)
        inner.setFixedHeight(30)
        row.addWidget(Strip(inner), 1)
        self.live = LiveButton()
        self.live.setToolTip(actions.tip("film.live"))
        self.live.clicked.connect(actions["film.live"].trigger)
        row.addWidget(self.live)
        self._parts.live.changed.connect(self._show_live)
        self._document.changed.connect(self._show_live)
        self._show_live()
        return strip

    def _show_live(self) -> None:
        live = self._parts.live
        self.live.setChecked(live.on)
        count = f", {len(live.chosen)} chosen" if live.chosen else ""
        self.order.setText(f"{live.order}{count} ▾")
        kept = len(self._document.scene.passes)
        self.passes.setText(f"{kept} passes ▾" if kept else "passes ▾")
        self.passes.setEnabled(bool(kept))

    def _order_menu(self) -> None:
        live, menu = self._parts.live, popup_menu(self)
        for order in _ORDERS:
            action = menu.addAction(order.capitalize())
            action.setCheckable(True)
            action.setChecked(order == live.order)
            action.triggered.connect(lambda checked, order=order: live.set_order(order))
        menu.addSeparator()
        menu.addAction("Only the selected ones").triggered.connect(live.choose_list)
        again = menu.addAction("Shuffle anew")
        again.triggered.connect(live.shuffle_anew)
        menu.exec(self.order.mapToGlobal(QPoint(0, self.order.height())))

    def _passes_menu(self) -> None:
        menu, scene = popup_menu(self), self._document.scene
        for kept in reversed(scene.passes):
            action = menu.addAction(f"{kept.name}: {len(kept.shots)} shots")
            action.setCheckable(True)
            action.setChecked(kept.shots == scene.shots)
            action.triggered.connect(lambda checked, kept=kept: self._parts.shots.take_pass(kept))
        menu.addSeparator()
        menu.addAction("Forget them").triggered.connect(self._parts.shots.clear_passes)
        menu.exec(self.passes.mapToGlobal(QPoint(0, self.passes.height())))
