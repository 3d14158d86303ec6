"""The steps of a scene by name: click one to go there."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel_parts import label
from ..widgets.theme import AMBER, SOFT, TEXT, colour


class StepsDialog(Dialog):
    """Stays open beside the work; the present step is marked, those that were undone are paler."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Steps", parent)
        self._document = document
        self.resize(320, 460)
        self.column.addWidget(label("The newest is at the foot. Click a step to go there.", "soft", 11))
        self.list = QListWidget()
        self.list.setAccessibleName("Steps")
        self.list.itemClicked.connect(lambda item: self._go(self.list.row(item)))
        self.list.itemActivated.connect(lambda item: self._go(self.list.row(item)))
        self.column.addWidget(self.list, 1)
        self.add_buttons(push_button("Close", self.close, default=False))
        document.changed.connect(self.refresh)
        self.refresh()

    def _go(self, place: int) -> None:
        self._document.go_to_step(place)

    def refresh(self) -> None:
        history = self._document.history
        names = history.names
        if [self.list.item(k).text() for k in range(self.list.count())] != names:
            self.list.clear()
            for name in names:
                self.list.addItem(QListWidgetItem(name))
        for k in range(self.list.count()):
            tone = AMBER if k == history.position else TEXT if k < history.position else SOFT
            self.list.item(k).setForeground(colour(tone))
            self.list.item(k).setData(Qt.ItemDataRole.AccessibleDescriptionRole, "now" if k == history.position else "")
        self.list.setCurrentRow(history.position)
