"""The shelf: framings with their pictures, in an order that is changed by dragging."""

from collections.abc import Sequence

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QContextMenuEvent, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ....edits.framings import framings
from ....scene import Ease, Framing, span_label
from ...state.document import Document
from ...widgets.ease_menu import add_eases
from ...widgets.panel_parts import icon_button, label, menu_button, popup_menu, set_surface, show_page
from ...widgets.theme import font, heading_font
from ..film_parts import FilmParts
from .card import CardHolder, ViewCard, framing_tip
from .shots_view import VIEW_MIME

_GAP = 7


class FramingCard(ViewCard):
    """One framing on the shelf."""

    def __init__(self, shelf: "Shelf", node: Framing) -> None:
        super().__init__(node, shelf.parts.small)
        self._shelf = shelf
        self.say(framing_tip(node))
        self.clicked.connect(lambda: shelf.document.selection.choose([node.id]))

    def doubleClicked(self) -> None:
        self._shelf.parts.framings.go(self.node.id)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        self._shelf.document.selection.choose([self.node.id])
        self._shelf.menu(event.globalPos())


class _Cards(QWidget):
    """The grid; what is dropped in it is put there in the order."""

    def __init__(self, shelf: "Shelf") -> None:
        super().__init__()
        self._shelf = shelf
        self.setAcceptDrops(True)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasFormat(VIEW_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasFormat(VIEW_MIME):
            self._shelf.dropped(data.data(VIEW_MIME).data().decode(), event.position().toPoint())
            event.acceptProposedAction()


class Shelf(CardHolder):
    """Beside the film."""

    def __init__(self, document: Document, parts: FilmParts) -> None:
        super().__init__(document, parts)
        set_surface(self, "panel", "left")
        self.setFixedWidth(316)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 8, 6)
        column.setSpacing(5)
        head = QHBoxLayout()
        head.setSpacing(6)
        title = QLabel("FRAMINGS")
        title.setFont(heading_font())
        title.setProperty("role", "heading")
        head.addWidget(title)
        head.addStretch()
        tip = "One ease for every leg of a tour, or each framing's own"
        self.ease = menu_button("ease ▾", tip, self._ease_menu)
        self.tour = menu_button("tour ▾", "Play the camera through the framings", self._tour_menu)
        self.more = icon_button("more", "What can be done with the chosen framing", size=24)
        self.more.clicked.connect(lambda: self.menu(None))
        self.keep = QToolButton()
        self.keep.setDefaultAction(parts.actions["film.keep"])
        self.keep.setText("Keep")
        self.keep.setFont(font(11))
        self.keep.setProperty("look", "main")
        parts.actions["film.keep"].changed.connect(lambda: self.keep.setText("Keep"))
        for button in (self.ease, self.tour, self.more, self.keep):
            head.addWidget(button)
        column.addLayout(head)
        self._scroll = QScrollArea()
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setWidgetResizable(True)
        self._scroll.setMinimumHeight(20)
        self._scroll.setAccessibleName("Framings")
        words = "Keep what the Lens shows (F, K): a framing to go to, to cut to, or to tour through."
        self.hint = label(words, "soft")
        self.hint.setWordWrap(True)
        column.addWidget(self.hint)
        column.addWidget(self._scroll, 1)
        self.cards: list[FramingCard] = []
        self._built: tuple[Framing, ...] = ()
        document.changed.connect(self.refresh)
        document.selection.changed.connect(self._mark)
        self.refresh()

    def refresh(self) -> None:
        """Build the cards anew where the framings are others."""
        shelf = tuple(framings(self.document.scene))
        if shelf != self._built:
            held = next((card.node.id for card in self.cards if card.hasFocus()), None)
            self._built = shelf
            self.cards = [FramingCard(self, each) for each in shelf]
            self._lay_out()
            for card in self.cards:
                if card.node.id == held:
                    card.setFocus()
            self.show_frame()
        self.hint.setVisible(not shelf)
        self._mark()

    def _lay_out(self) -> None:
        page = _Cards(self)
        set_surface(page, "panel")
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 4, 0)
        grid.setSpacing(_GAP)
        width = (self.width() - 20 - _GAP - 14) // 2
        settings = self.document.settings
        height = round(min(max(width * settings.height / settings.width, 44), 110)) + 27
        for k, card in enumerate(self.cards):
            card.setFixedSize(width, height)
            grid.addWidget(card, k // 2, k % 2)
        grid.setRowStretch(len(self.cards) // 2 + 1, 1)
        grid.setColumnStretch(2, 1)
        show_page(self._scroll, page)

    def _mark(self) -> None:
        chosen, shown = self.document.selection.nodes, self.document.views.lens
        for card in self.cards:
            card.setChecked(card.node.id in chosen)
            card.is_shown = card.node.id == shown
            card.update()

    def every_card(self) -> Sequence[ViewCard]:
        return self.cards

    def dropped(self, node_id: str, at: QPoint) -> None:
        """A card was dropped: it goes before the card whose first half that is, or behind it."""
        ids = [card.node.id for card in self.cards]
        if node_id not in ids:
            return
        rest = [card for card in self.cards if card.node.id != node_id]
        place = len(rest)
        for k, card in enumerate(rest):
            box = card.geometry()
            if box.top() - _GAP <= at.y() <= box.bottom() + _GAP and at.x() < box.center().x():
                place = k
                break
            if at.y() < box.top():
                place = k
                break
        self.parts.framings.move(node_id, place)

    # Menus

    def menu(self, at: QPoint | None) -> None:
        """What can be done with the chosen framing."""
        menu = popup_menu(self)
        node = self.document.selection.active
        actions = self.parts.actions
        for name in ("go", "glide", "key_framing", "update", "keep_before"):
            menu.addAction(actions[f"film.{name}"])
        if isinstance(node, Framing):
            menu.addAction("Cut to it here").triggered.connect(lambda: self.parts.shots.cut_here(node.id))
            menu.addSeparator()
            menu.addAction("Rename…").triggered.connect(lambda: self.rename(node))
            menu.addAction(actions["edit.delete"])
        menu.exec(at or self.more.mapToGlobal(QPoint(0, self.more.height())))

    def rename(self, node: Framing) -> None:
        """Ask for a name."""
        name, accepted = QInputDialog.getText(self, "Framing", "Its name:", text=node.name)
        if accepted:
            self.parts.framings.rename(node.id, name)

    def _tour_menu(self) -> None:
        menu = popup_menu(self)
        for name in ("tour", "tour_loop", "tour_back", "leave_tour"):
            menu.addAction(self.parts.actions[f"film.{name}"])
        menu.exec(self.tour.mapToGlobal(QPoint(0, self.tour.height())))

    def _ease_menu(self) -> None:
        menu = popup_menu(self)
        own = menu.addAction("Each framing's own ease")
        own.setCheckable(True)
        own.setChecked(self.parts.framings.ease is None)
        own.triggered.connect(lambda: self._set_ease(None))
        menu.addSeparator()
        add_eases(menu, self.document.scene.eases, self.parts.framings.ease, self._set_ease)
        menu.exec(self.ease.mapToGlobal(QPoint(0, self.ease.height())))

    def _set_ease(self, ease: Ease | None) -> None:
        self.parts.framings.ease = ease
        self.ease.setText("ease ▾" if ease is None else f"{span_label(ease)} ▾")
