"""Every action in one list, to be read and to be run; and what the mouse does."""

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QHeaderView, QLineEdit, QTableWidget, QTableWidgetItem, QWidget

from ..commands.actions import ActionTable
from ..widgets.dialog import Dialog
from ..widgets.panel_parts import label
from ..widgets.theme import AMBER, FADED, SOFT, colour

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
    ("Numbers", "Tab", "On to the next number; Shift+Tab: back to the one before"),
)
_NAME, _WORDS = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1
_COLUMNS = ["Action", "Keys", "Where", "What it does"]


class ActionsDialog(Dialog):
    """Type words of what you want to do; the arrows choose, Enter or a double click does it."""

    def __init__(self, actions: ActionTable, title: str, parent: QWidget | None = None) -> None:
        super().__init__(title, parent)
        self._actions = actions
        self.resize(860, 620)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("What do you want to do?")
        self.filter.setAccessibleName("Words of an action")
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(self._apply)
        self.filter.installEventFilter(self)
        self.table = QTableWidget(0, len(_COLUMNS))
        self.table.setAccessibleName("Actions")
        self.table.setHorizontalHeaderLabels(_COLUMNS)
        self.table.setWordWrap(False)
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.table.setTabKeyNavigation(False)
        self.table.installEventFilter(self)
        self.table.itemDoubleClicked.connect(lambda item: self._run(item.row()))
        header = self.table.horizontalHeader()
        assert header is not None
        header.setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        header.setHighlightSections(False)
        for each in actions.specs:
            chords = [QKeySequence(chord) for chord in (each.shortcut, each.also) if chord]
            keys = " or ".join(chord.toString(QKeySequence.SequenceFormat.NativeText) for chord in chords)
            where = actions.titles[each.name.partition(".")[0]] + (f" ▸ {each.sub}" if each.sub else "")
            waits = each.needs if not actions[each.name].isEnabled() else ""
            said = f"{each.tip}. Not now: {waits[0].lower()}{waits[1:]}." if waits else each.tip
            self._add(each.text, keys, where, said, each.name, each.words)
        for where, keys, what in _MOUSE:
            self._add("", keys, where, what, "")
        for column, width in enumerate((210, 130, 140)):
            self.table.setColumnWidth(column, width)
        self.column.addWidget(self.filter)
        self.column.addWidget(self.table, 1)
        self.column.addWidget(label("Enter does it. What cannot be done now is paler.", "soft", 11))
        self._apply("")

    def _add(self, action: str, keys: str, where: str, what: str, name: str, words: str = "") -> None:
        row = self.table.rowCount()
        self.table.insertRow(row)
        able = not name or self._actions[name].isEnabled()
        plain = "" if able else FADED
        for k, (text, tone) in enumerate(((action, plain), (keys, AMBER), (where, SOFT), (what, plain or SOFT))):
            item = QTableWidgetItem(text)
            item.setToolTip(text)
            item.setData(_NAME, name)
            item.setData(_WORDS, words)
            if tone:
                item.setForeground(colour(tone))
            self.table.setItem(row, k, item)

    def _apply(self, text: str) -> None:
        """Show what has all of the words; what is called so comes first, then what people call so, then what is only
        said of others."""
        words = text.lower().split()
        ranks: dict[int, list[int]] = {0: [], 1: [], 2: []}
        for row in range(self.table.rowCount()):
            first = self.table.item(row, 0)
            name, known = first.text().lower(), str(first.data(_WORDS) or "")
            said = " ".join(self.table.item(row, k).text() for k in range(1, len(_COLUMNS))).lower()
            everything = f"{name} {known} {said}"
            there = all(word in everything for word in words)
            self.table.setRowHidden(row, not there)
            if there:
                rank = 0 if all(word in name for word in words) else 1
                rank = 2 if rank and not all(word in f"{name} {known}" for word in words) else rank
                ranks[rank].append(row)
        self._choose(ranks[0] or ranks[1] or ranks[2])

    def _shown(self) -> list[int]:
        return [row for row in range(self.table.rowCount()) if not self.table.isRowHidden(row)]

    def _choose(self, rows: list[int]) -> None:
        self.table.clearSelection()
        if rows:
            self.table.setCurrentCell(rows[0], 0)

    def _step(self, by: int) -> None:
        rows = self._shown()
        if rows:
            at = rows.index(self.table.currentRow()) if self.table.currentRow() in rows else 0
            self._choose([rows[min(max(at + by, 0), len(rows) - 1)]])

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._run(self.table.currentRow())
                return True
            if watched is self.filter and event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                self._step(1 if event.key() == Qt.Key.Key_Down else -1)
                return True
        return super().eventFilter(watched, event)

    def _run(self, row: int) -> None:
        item = self.table.item(row, 0) if row >= 0 and not self.table.isRowHidden(row) else None
        name = item.data(_NAME) if item is not None else ""
        if name and self._actions[name].isEnabled():
            self.close()
            self._actions[name].trigger()
