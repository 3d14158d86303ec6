"""The movers of a node in the inspector: its life, a card for each mover in order, and what can be done to all."""

from PyQt6.QtCore import QPoint, QRectF
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ...edits.mover_baking import alive_with
from ...scene import AnyNode, Scene
from ...scene.movers import LIFE
from ..commands.mover_commands import MoverCommands, dragged_mover
from ..state.document import Document
from ..widgets.panel_parts import label, menu_button, popup_menu
from ..widgets.theme import AMBER, colour
from ..widgets.unexpected import painted
from .mover_card import MoverCard, move_card
from .mover_rows import mover_shape
from .rows import Rows
from .take_card import take_card, take_shape


def movers_shape(scene: Scene, node: AnyNode, unfolded: frozenset[str]) -> tuple[object, ...]:
    """All that decides which cards there are, and what is on them."""
    return (
        tuple(mover_shape(mover) for mover in node.movers), unfolded & {mover.id for mover in node.movers},
        node.unmoved is not None, alive_with(scene, node.id), take_shape(scene, node), tuple(scene.markers),
        len(scene.events),
        tuple(node.channel(name) for mover in node.movers for name in mover.names),
    )  # fmt: skip


class MoverList(QWidget):
    """The cards, one under the other; a card that is dragged over them is put where the line is."""

    def __init__(self, document: Document, node: AnyNode) -> None:
        super().__init__()
        self._document, self._node = document, node
        self.cards: list[MoverCard] = []
        self._line: float | None = None
        self.setAcceptDrops(True)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(8)

    @property
    def is_dragged(self) -> bool:
        """Whether one of the cards is held."""
        return any(card.is_dragged for card in self.cards)

    def add(self, card: MoverCard) -> None:
        self.cards.append(card)
        self.column.addWidget(card)

    def _place_at(self, y: float) -> int:
        """Before which card a height lies."""
        return sum(card.geometry().center().y() < y for card in self.cards)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and self._dragged(event) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is None:
            return
        place = self._place_at(event.position().y())
        self._line = self.cards[place].y() - 4.0 if place < len(self.cards) else self.height() - 1.0
        self.update()
        event.acceptProposedAction()

    def dragLeaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._line = None
        self.update()

    def dropEvent(self, event: QDropEvent | None) -> None:
        self._line = None
        self.update()
        mover_id = self._dragged(event) if event is not None else None
        if event is None or mover_id is None:
            return
        now = [mover.id for mover in self._node.movers].index(mover_id)
        place = self._place_at(event.position().y())
        event.acceptProposedAction()
        move_card(self._document, self._node.id, self._node.movers[now], place - (place > now))

    def _dragged(self, event: QDropEvent) -> str | None:
        """The id of the mover of this node that is dragged."""
        found = dragged_mover(event.mimeData())
        own = found is not None and found[0] == self._node.id
        return found[1] if found is not None and own and found[1] in {m.id for m in self._node.movers} else None

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._line is not None:
            p = QPainter(self)
            p.fillRect(QRectF(0, max(self._line, 0.0), self.width(), 2), colour(AMBER))


def mover_page(
    column: QVBoxLayout, rows: Rows, node: AnyNode, unfolded: frozenset[str], commands: MoverCommands
) -> MoverList:
    """Build the page into a column."""
    document = rows.document
    cards = MoverList(document, node)
    if node.movers:
        _life_row(rows, node)
        column.addLayout(rows.grid)
    if node.take is not None:
        column.addWidget(take_card(rows, node))
    if node.movers:
        for number, mover in enumerate(node.movers):
            cards.add(MoverCard(rows, node, number, mover.id in unfolded, commands))
        column.addWidget(cards)
    elif node.take is None:
        words = label(
            "Nothing moves it but its keys. Add a mover: a sway, a shake, an overshoot. The keys stay as they are.",
            "soft",
        )
        words.setWordWrap(True)
        column.addWidget(words)
    column.addLayout(_foot(rows, node, commands))
    return cards


def _life_row(rows: Rows, node: AnyNode) -> None:
    row = rows.channels("Life", (LIFE,), axis=False)
    others = [
        rows.document.scene.node(each).name for each in alive_with(rows.document.scene, node.id) if each != node.id
    ]
    note = label("scales all strengths" if not others else f"{', '.join(others)} moves too", "soft", 11)
    note.setToolTip("How strong all movers of this node are. L, M and L, Shift+M change it for what carries it as well")
    note.setMinimumWidth(20)
    rows.grid.addWidget(note, row, 2, 1, 2)


def _foot(rows: Rows, node: AnyNode, commands: MoverCommands) -> QHBoxLayout:
    row = QHBoxLayout()
    row.setSpacing(6)

    def add() -> None:
        menu = popup_menu(button)
        menu.setToolTipsVisible(True)
        commands.fill_menu(menu)
        menu.exec(button.mapToGlobal(QPoint(0, button.height())))

    if node.unmoved is not None:
        back = menu_button(
            "Back to movers", "Take the keys that were made of movers back, and let those go on", commands.back
        )
        rows.properties["back to movers"] = back
        row.addWidget(back)
    elif node.movers or node.take is not None:
        keys = menu_button("Turn into keys", "As few keys as look like it; the movers can come back", commands.to_keys)
        rows.properties["turn into keys"] = keys
        row.addWidget(keys)
    if node.movers:
        keep = menu_button("Keep…", "Keep these movers by name, for this and other scenes", commands.keep)
        rows.properties["keep movers"] = keep
        row.addWidget(keep)
    row.addStretch()
    button = menu_button(
        "Add a mover ▾", "Sway, drift, shake, overshoot and others, and sets that feel like something", add
    )
    button.setProperty("look", "main")
    button.setFixedHeight(24)
    rows.properties["add a mover"] = button
    row.addWidget(button)
    return row
