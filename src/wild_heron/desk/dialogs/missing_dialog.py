"""Missing artwork: a list of pictures whose files are not there, with find…"""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFileDialog,
    QListWidget,
    QListWidgetItem,
    QWidget,
)

from ...files.artwork_files import missing_artwork, relink
from ...scene import Scene
from ..state.document import Document
from ..widgets.dialog import Dialog, push_button
from ..widgets.panel_parts import label


class MissingDialog(Dialog):
    """Finding one file finds every other missing one of the same name beside it."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__("Missing artwork", parent)
        self._document = document
        self._last: Path | None = None
        self.resize(560, 320)
        self.text = label("", "soft")
        self.text.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Missing files")
        self.find_button = push_button("Find…", self._find)
        self.column.addWidget(self.text)
        self.column.addWidget(self.list, 1)
        self.add_buttons(push_button("Close", self.close), self.find_button)
        document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        found = missing_artwork(self._document.scene, self._document.file.base)
        self.list.clear()
        for each in found:
            item = QListWidgetItem(f"{each.name}    {each.path}")
            item.setData(Qt.ItemDataRole.UserRole, (each.node, str(each.path)))
            self.list.addItem(item)
        self.find_button.setEnabled(bool(found))
        if found:
            self.list.setCurrentRow(0)
            self.text.setText(
                "These pictures are drawn as labelled stand-ins. Find one, and the others are looked for beside it."
            )
        else:
            self.text.setText("Every picture's file is there.")

    def _find(self) -> None:
        item = self.list.currentItem()
        if item is None:
            return
        _, path = item.data(Qt.ItemDataRole.UserRole)
        start = str(self._last or self._document.file.base or Path.home())
        name, _ = QFileDialog.getOpenFileName(self, f"Find {Path(path).name}", start)
        if name:
            self._last = Path(name).parent
            self.relink_to(Path(name))

    def relink_to(self, path: Path) -> None:
        """Point the chosen picture at a file."""
        item = self.list.currentItem()
        if item is None:
            return
        node, _ = item.data(Qt.ItemDataRole.UserRole)
        base = self._document.file.base
        found = 0

        def change(scene: Scene) -> Scene:
            nonlocal found
            scene, found = relink(scene, base, node, path)
            return scene

        if self._document.edit("Find missing artwork", change):
            self._document.messages.say(f"Found {found} picture{'' if found == 1 else 's'}.")
