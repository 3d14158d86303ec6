"""The contact sheet: every camera and framing at the playhead as a small live picture, to choose from."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from ....scene import View
from ....scene.output import shown_nodes
from ...state.document import Document
from ...widgets.panel_parts import set_surface
from ...widgets.strip import Strip
from ...widgets.theme import heading_font
from ..axis import LABELS
from ..film_parts import FilmParts
from .card import CardHolder, ViewCard

HEIGHT = 50


class ContactCard(ViewCard):
    """One camera or framing; pressed while it plays live, the film goes over to it."""

    def __init__(self, sheet: "ContactSheet", node: View, number: int) -> None:
        super().__init__(node, sheet.parts.small, number, foot=False)
        self._sheet = sheet
        key = f" ({number} while live)" if number <= 9 else ""
        self.say(f"{node.name}{key}. Click to look through it; double-click to cut to it here; drag it onto the film.")
        self.clicked.connect(lambda: sheet.parts.live.show(node.id))

    def doubleClicked(self) -> None:
        if not self._sheet.parts.live.on:
            self._sheet.parts.shots.cut_here(self.node.id)


class ContactSheet(CardHolder):
    """Under the film."""

    def __init__(self, document: Document, parts: FilmParts) -> None:
        super().__init__(document, parts)
        set_surface(self, "panel", "top")
        self.setFixedHeight(HEIGHT)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 6, 0)
        row.setSpacing(0)
        title = QLabel("CONTACT SHEET")
        title.setFont(heading_font())
        title.setProperty("role", "heading")
        title.setFixedWidth(LABELS - 2)
        title.setToolTip("Every camera and framing at the playhead: click to look through one")
        row.addWidget(title)
        self._holder = QHBoxLayout()
        row.addLayout(self._holder, 1)
        self._strip: Strip | None = None
        self.cards: list[ContactCard] = []
        self._built: tuple[object, ...] = ()
        for signal in (document.changed, document.selection.changed, parts.live.changed):
            signal.connect(self.refresh)
        document.playhead.moved.connect(self._mark)
        self.refresh()

    def refresh(self) -> None:
        """Build it anew where there are others to choose from."""
        nodes = list(shown_nodes(self.document.scene).values())
        key = (
            *((node.id, node.name, node.kind) for node in nodes),
            self.document.settings.width,
            self.document.settings.height,
        )
        if key != self._built:
            self._built = key
            self._build(nodes)
        self._mark()

    def _build(self, nodes: list[View]) -> None:
        if self._strip is not None:
            self._holder.removeWidget(self._strip)
            self._strip.deleteLater()
        page = QWidget()
        page.setFixedHeight(HEIGHT - 2)
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 2, 8, 2)
        row.setSpacing(6)
        settings = self.document.settings
        width = round(min((HEIGHT - 14) * settings.width / settings.height, 120)) + 8
        self.cards = [ContactCard(self, node, number) for number, node in enumerate(nodes, 1)]
        for card in self.cards:
            card.setFixedSize(width, HEIGHT - 6)
            row.addWidget(card)
        row.addStretch()
        self._strip = Strip(page)
        self._holder.addWidget(self._strip)
        self.show_frame()

    def every_card(self) -> Sequence[ViewCard]:
        return self.cards

    def _mark(self) -> None:
        document = self.document
        shown = document.views.camera_id
        for card in self.cards:
            chosen = card.node.id in document.selection.nodes
            if (card.is_shown, card.isChecked()) != (card.node.id == shown, chosen):
                card.is_shown = card.node.id == shown
                card.setChecked(chosen)
                card.update()
