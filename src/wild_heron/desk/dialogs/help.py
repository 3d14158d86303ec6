"""Help: the table of shortcuts, and what this program is."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QHeaderView, QLineEdit, QTableWidget, QTableWidgetItem, QWidget

from ..commands.actions import ActionTable
from ..widgets.dialog import Dialog
from ..widgets.theme import AMBER, SOFT, colour

_MOUSE = (
    ("Lens", "Drag", "Move the camera with the chosen tool (Shift: finer)"),
    ("Lens", "Wheel", "Dolly in and out"),
    ("Overview", "Left drag", "Select, move a node, use its handles; on nothing: slide the view"),
    ("Overview", "Right drag", "Look round (free view)"),
    ("Overview", "Wheel", "Nearer and farther"),
    ("Depth rail", "Drag a tag", "Move a picture in depth (Shift: finer)"),
    ("Lanes", "Drag", "Move keys; on nothing: select by a box (Alt: between frames)"),
    ("Lanes", "Double click", "On a span: choose its ease; on a key: go there; on the ruler: show everything"),
    ("Lanes", "Ctrl+wheel", "Zoom in time; Shift+wheel slides"),
    ("Numbers", "Drag or wheel", "Change (Shift: finer, Ctrl: coarser); click to type a sum"),
)


class ShortcutsDialog(Dialog):
    """Every action and what the mouse does, with a filter."""

    def __init__(self, actions: ActionTable, parent: QWidget | None = None) -> None:
        super().__init__("Shortcuts", parent)
        self.resize(720, 620)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter")
        self.filter.textChanged.connect(self._apply)
        self.table = QTableWidget(0, 3)
        self.table.setHorizontalHeaderLabels(["Where", "Keys", "What"])
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        header = self.table.horizontalHeader()
        assert header is not None
        header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        for each in actions.specs:
            keys = QKeySequence(each.shortcut).toString(QKeySequence.SequenceFormat.NativeText) if each.shortcut else ""
            self._add(actions.titles[each.name.partition(".")[0]], keys, f"{each.text.rstrip('…')}: {each.tip}")
        for where, keys, what in _MOUSE:
            self._add(where, keys, what)
        self.table.setColumnWidth(0, 110)
        self.table.setColumnWidth(1, 130)
        self.column.addWidget(self.filter)
        self.column.addWidget(self.table, 1)

    def _add(self, where: str, keys: str, what: str) -> None:
        row = self.table.rowCount()
        self.table.insertRow(row)
        for k, (text, tone) in enumerate(((where, SOFT), (keys, AMBER), (what, ""))):
            item = QTableWidgetItem(text)
            if tone:
                item.setForeground(colour(tone))
            self.table.setItem(row, k, item)

    def _apply(self, text: str) -> None:
        for row in range(self.table.rowCount()):
            words = " ".join(self.table.item(row, k).text() for k in range(3)).lower()
            self.table.setRowHidden(row, text.lower() not in words)
