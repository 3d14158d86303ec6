"""The lower right area: the numbers of what is selected, or of the scene while nothing is."""

from functools import partial

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QIcon, QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QHBoxLayout, QScrollArea, QToolButton, QVBoxLayout, QWidget

from ...edits.posing import carry_together
from ...scene import AnyNode, Null
from ...scene.channels import POSITION, ROTATION, SCALE
from ..channels.field import ChannelField
from ..commands.mover_commands import MoverCommands
from ..state.document import Document
from ..widgets import icons
from ..widgets.panel_parts import icon_button, label, popup_menu, set_surface, show_page
from ..widgets.theme import NODE_COLOURS, SOFT, TEXT, colour, heading_font
from ..widgets.unexpected import painted
from . import camera_rows, content_rows, ground_rows, light_rows, window_rows
from .bind_rows import bind_rows, is_turned
from .content_rows import text_rows
from .dial_rows import dial_rows
from .film_rows import event_rows, event_shape, shot_rows, shot_shape, shot_title
from .mover_page import MoverList, mover_page, movers_shape
from .rows import Page, Pages, Rows
from .scene_page import scene_rows

PAGES: Pages = (
    {Null: Page(lambda rows, node: None)}
    | camera_rows.PAGES
    | content_rows.PAGES
    | light_rows.PAGES
    | ground_rows.PAGES
    | window_rows.PAGES
)


def _place_rows(rows: Rows, node: AnyNode) -> None:
    rows.channels("Position", POSITION)
    if is_turned(node):
        rows.channels("Roll", (ROTATION[2],), axis=False)
    else:
        rows.channels("Rotation", ROTATION)
    if node.scales:
        rows.channels("Scale", SCALE)


class _Chip(QAbstractButton):
    """The node's colour; click to choose another."""

    def __init__(self) -> None:
        super().__init__()
        self.tone = SOFT
        self.setFixedSize(16, 16)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Colour of the node in Rig, Overview and Lanes")
        self.setAccessibleName("Colour")

    def sizeHint(self) -> QSize:
        return QSize(16, 16)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(colour(TEXT) if self.hasFocus() else Qt.PenStyle.NoPen)
        p.setBrush(colour(self.tone))
        p.drawRoundedRect(QRectF(2, 2, 12, 12), 4, 4)


class Inspector(QWidget):
    """The lower right area."""

    def __init__(self, document: Document, movers: MoverCommands) -> None:
        super().__init__()
        self._document, self._movers = document, movers
        self._shows_movers = False
        self._unfolded: dict[str, frozenset[str]] = {}
        """By node, the movers whose cards are unfolded."""
        self.cards: MoverList | None = None
        """The movers' cards, while they are shown."""
        movers.added.connect(self._show_added)
        set_surface(self, "panel")
        self._outer = QVBoxLayout(self)
        self._outer.setContentsMargins(0, 0, 0, 0)
        self._scroll = QScrollArea()
        # Its fields are gone to, and come into view by themselves.
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setAccessibleName("Numbers of what is selected")
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._outer.addWidget(self._scroll)
        self._built_for: tuple[object, ...] | None = None
        self._rows: Rows | None = None
        self.tabs: dict[bool, QToolButton] = {}
        """The words for numbers and for movers."""
        for signal in (document.changed, document.selection.changed, document.selection.film_changed):
            signal.connect(self.refresh)
        document.playhead.moved.connect(lambda: document.turns.ask(self, self._refresh_values))
        self.refresh()

    @property
    def fields(self) -> dict[str, ChannelField]:
        """The fields of channels, by channel."""
        return self._rows.fields if self._rows else {}

    @property
    def properties(self) -> dict[str, QWidget]:
        """The other fields, by what they are called."""
        return self._rows.properties if self._rows else {}

    def refresh(self) -> None:
        """Build the page anew where other rows are needed, and show the present values."""
        if self.cards is not None and self.cards.is_dragged:
            return  # It would take the card away that is held.
        node = self._document.selection.active
        key = self._shape_of(node)
        if key != self._built_for:
            again = self._focused() if self._built_for and node is not None and self._built_for[0] == node.id else None
            self._built_for = key
            self._build(node)
            field = {**self.fields, **self.properties}.get(again or "")
            if field is not None:
                field.setFocus()
        self._refresh_values()

    def _focused(self) -> str | None:
        """By its name, the field that has the focus."""
        return next((name for name, each in {**self.fields, **self.properties}.items() if each.hasFocus()), None)

    def _shape_of(self, node: AnyNode | None) -> tuple[object, ...]:
        """All that decides which rows there are, and what is written on their buttons."""
        scene, selection = self._document.scene, self._document.selection
        if node is None and selection.shots:
            number = selection.shots[-1]
            return (*shot_shape(scene, number), len(selection.shots), scene.shots[number].name)
        if node is None and selection.film_event is not None:
            number = selection.film_event
            return (*event_shape(scene, number), scene.events[number].name)
        if node is None:
            return (bool(scene.nodes), scene.settings.distance is None)
        carrier = node.carrier and scene.node(node.carrier).name
        common = (
            node.id, node.name, carrier, node.colour, node.hidden, node.locked, node.binds, node.dials,
            len(self._document.selection.nodes),
        )  # fmt: skip
        if self._shows_movers:
            return (*common, "movers", *movers_shape(scene, node, self._unfolded.get(node.id, frozenset())))
        return (*common, len(node.movers), *PAGES[type(node)].shape(node))

    # Numbers or movers

    def show_movers(self, on: bool) -> None:
        """Show the movers of what is selected, or its numbers."""
        self._shows_movers = on
        self.refresh()

    def _show_added(self, node_id: str, mover_id: str) -> None:
        """A mover was made: show it unfolded."""
        self._unfolded[node_id] = frozenset({mover_id})
        self.show_movers(True)

    def _fold(self, node_id: str, mover_id: str) -> None:
        self._unfolded[node_id] = self._unfolded.get(node_id, frozenset()) ^ {mover_id}
        self.refresh()

    def _tabs(self, node: AnyNode) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(12)
        group = QButtonGroup(self)
        count = f"MOVERS {len(node.movers)}" if node.movers else "MOVERS"
        for word, movers, tip in (
            ("NUMBERS", False, "Place, lens, binds and dials"),
            (count, True, "What moves it besides its keys: sway, shake, overshoot"),
        ):
            button = QToolButton()
            button.setText(word)
            button.setCheckable(True)
            button.setChecked(self._shows_movers == movers)
            button.setFont(heading_font())
            button.setToolTip(tip)
            button.setProperty("look", "tab")
            button.setMinimumWidth(button.fontMetrics().horizontalAdvance(word) + 6)
            button.clicked.connect(lambda checked, movers=movers: self.show_movers(movers))
            group.addButton(button)
            row.addWidget(button)
            self.tabs[movers] = button
        row.addStretch()
        return row

    def _build(self, node: AnyNode | None) -> None:
        page = QWidget()
        set_surface(page, "panel")
        column = QVBoxLayout(page)
        column.setContentsMargins(14, 9, 8, 10)
        column.setSpacing(8)
        rows = Rows(self._document, node)
        self._rows = rows
        selection, scene = self._document.selection, self._document.scene
        if node is None and selection.shots:
            number = selection.shots[-1]
            self._film_page(column, rows, shot_title(scene.shots, number, len(selection.shots)))
            shot_rows(rows, number)
        elif node is None and selection.film_event is not None:
            self._film_page(column, rows, scene.events[selection.film_event].name)
            event_rows(rows, selection.film_event)
        elif node is None:
            column.addWidget(label("Scene", size=13, weight=QFont.Weight.DemiBold))
            column.addLayout(rows.grid)
            scene_rows(rows)
            hint = "Select something in the Rig, the Depth rail or the Overview to see its numbers."
            text = label(
                hint if self._document.scene.nodes else "Bring artwork in (Ctrl+I) or drop it on the window.", "soft"
            )
            text.setWordWrap(True)
            column.addWidget(text)
        else:
            column.addLayout(self._head(node))
            column.addLayout(self._tabs(node))
            if self._shows_movers:
                unfolded = self._unfolded.get(node.id, frozenset())
                self.cards = mover_page(column, rows, node, unfolded, self._movers)
                for card in self.cards.cards:
                    card.folded.connect(partial(self._fold, node.id))
                    card.let_go.connect(lambda: self._document.turns.ask(self, self.refresh))
            else:
                column.addLayout(rows.grid)
                self._node_rows(node, rows)
        column.addStretch()
        show_page(self._scroll, page)

    def _film_page(self, column: QVBoxLayout, rows: Rows, title: str) -> None:
        name = label(title, size=13, weight=QFont.Weight.DemiBold)
        name.setProperty("role", "active")
        name.setMinimumWidth(20)
        column.addWidget(name)
        column.addLayout(rows.grid)

    def _node_rows(self, node: AnyNode, rows: Rows) -> None:
        text_rows(rows, node)
        if node.placed:
            _place_rows(rows, node)
        PAGES[type(node)].rows(rows, node)
        bind_rows(rows, node)
        dial_rows(rows, node)

    def _head(self, node: AnyNode) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(5)
        chip = _Chip()
        chip.tone = node.colour or SOFT
        chip.clicked.connect(lambda: self._colour_menu(chip, node))
        row.addWidget(chip)
        others = len(self._document.selection.nodes) - 1
        name = label(node.name + (f"  + {others}" if others else ""), size=13, weight=QFont.Weight.DemiBold)
        name.setProperty("role", "active")
        name.setMinimumWidth(20)
        row.addWidget(name, 1)
        carrier = QToolButton()
        held = self._document.scene.node(node.carrier).name if node.carrier else None
        carrier.setText(f"carried by {held} ▾" if held else "no carrier ▾")
        carrier.setToolTip("Choose what carries it; the world pose is kept")
        carrier.clicked.connect(lambda: self._carrier_menu(carrier, node))
        switches = (
            ("eye_shut" if node.hidden else "eye", node.hidden, "hidden", ("Show", "Hide")),
            ("lock", node.locked, "locked", ("Unlock", "Lock")),
        )
        # What is nowhere in space is carried by nothing, and not seen.
        if node.placed:
            row.addWidget(carrier)
        for name_, on, field, words in switches if node.placed else switches[1:]:
            word = words[0] if on else words[1]
            button = icon_button(name_, f"{word} {node.name}", size=22)
            button.setIcon(icons.icon(name_, TEXT if on else SOFT))
            button.clicked.connect(
                lambda checked, field=field, on=on, word=word: self._document.change_nodes(
                    f"{word} {node.name}", [node.id], **{field: not on}
                )
            )
            row.addWidget(button)
        return row

    def _refresh_values(self) -> None:
        # While a rig is only proposed, a node may have other channels in the views than it has here.
        if self._rows is not None and self._document.views.moving is self._document.scene:
            self._rows.refresh()

    def _colour_menu(self, chip: _Chip, node: AnyNode) -> None:
        menu = popup_menu(self)
        for tone in NODE_COLOURS:
            action = menu.addAction(_swatch(tone), "")
            action.triggered.connect(
                lambda checked, tone=tone: self._document.change_nodes(
                    f"Colour {node.name}", self._document.selection.nodes, colour=tone
                )
            )
        menu.addSeparator()
        menu.addAction("No colour").triggered.connect(
            lambda: self._document.change_nodes(f"Colour {node.name}", self._document.selection.nodes, colour="")
        )
        menu.exec(chip.mapToGlobal(QPoint(0, chip.height())))

    def _carrier_menu(self, button: QToolButton, node: AnyNode) -> None:
        document = self._document
        menu = popup_menu(self)
        choices = [
            (None, "Nothing"),
            *((other.id, other.name) for other in document.scene.nodes if other.id != node.id and other.placed),
        ]
        for carrier_id, name in choices:
            action = menu.addAction(name)
            action.setCheckable(True)
            action.setChecked(node.carrier == carrier_id)
            action.triggered.connect(
                lambda checked, carrier_id=carrier_id, name=name: document.edit(
                    f"Hang {node.name} on {name}" if carrier_id else f"Take {node.name} off its carrier",
                    lambda scene: carry_together(scene, document.selection.nodes, carrier_id, document.playhead.frame),
                )
            )
        menu.exec(button.mapToGlobal(QPoint(0, button.height())))


def _swatch(tone: str) -> QIcon:
    pixmap = QPixmap(16, 16)
    pixmap.fill(colour(tone))
    return QIcon(pixmap)
