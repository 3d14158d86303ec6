"""The Shots tab: tools over the film, the shelf of framings beside it, the contact sheet below."""

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from ....edits.film import Order
from ...state.document import Document
from ...widgets.panel_parts import menu_button, popup_menu
from ...widgets.pill import PillSwitch
from ...widgets.strip import Strip
from ...widgets.theme import font
from ..film_parts import FilmParts
from ..heads import head
from .contact import ContactSheet
from .shelf import Shelf
from .shots_view import ShotsView

_TOOLS = (
    ("cut", "Cut here"),
    ("blend", "Blend here"),
    ("split", "Split"),
    ("run", "Run of cuts…"),
    ("rules", "Joining rules…"),
)
_ROOMY = 200
_ORDERS: tuple[Order, ...] = ("in order", "back and forth", "shuffled")


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
        strip, row = head(tabs)
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
        self.live = PillSwitch("Live")
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
