"""The Rig: who carries whom. Drag a row onto another to hang it there; the world pose is kept."""

from PyQt6.QtCore import QEvent, QModelIndex, QRect, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QFocusEvent, QFont, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolTip,
    QTreeWidget,
    QTreeWidgetItem,
    QWidget,
)

from ...edits import rename
from ...edits.posing import carry_together
from ..commands.mover_commands import MoverCommands, dragged_mover
from ..state.document import Document
from ..widgets import icons
from ..widgets.focus_ring import FocusRing
from ..widgets.panel_parts import Panel, label
from ..widgets.plain_text import as_plain
from ..widgets.theme import AMBER, DEEP, LINE, RAISED, REED, RUST, SOFT, TEXT, colour, font
from ..widgets.unexpected import painted

_ID = Qt.ItemDataRole.UserRole
_ROW = 22


class _Row(QStyledItemDelegate):
    """Draws a node: its kind, name, and the eye and lock at the right."""

    def __init__(self, tree: "_Tree") -> None:
        super().__init__(tree)
        self._tree = tree

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(80, _ROW)

    @painted
    def paint(self, p: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if p is None:
            return
        document = self._tree.document
        node_id = index.data(_ID)
        if node_id not in document.scene:
            return
        node = document.scene.node(node_id)
        selected = node_id in document.selection.nodes
        active = selected and document.selection.nodes[-1] == node_id
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        row = QRectF(6, option.rect.top() + 0.5, self._tree.viewport().width() - 12, _ROW - 1)
        if selected:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(colour(RAISED))
            p.drawRoundedRect(row, 4, 4)
            p.fillRect(QRectF(row.left(), row.top() + 1, 3, row.height() - 2), colour(AMBER))
        faded = 0.45 if node.hidden else 1.0
        x = option.rect.left()
        self._lines(p, index, x, option.rect)
        tone = AMBER if selected else node.colour or (REED if node.kind == "null" else SOFT)
        icons.paint(p, node.kind, QRectF(x + 5, row.center().y() - 7, 14, 14), colour(tone, faded))
        p.setFont(font(12, QFont.Weight.Medium if active else QFont.Weight.Normal))
        p.setPen(colour(AMBER if selected else TEXT, faded))
        right = row.right() - 4
        hovered = self._tree.hovered == node_id
        for name, on in (("lock", node.locked), ("eye_shut" if node.hidden else "eye", node.hidden)):
            if on or hovered:
                icons.paint(
                    p, name, QRectF(right - 14, row.center().y() - 6.5, 13, 13), colour(TEXT if on else SOFT, 0.9)
                )
            right -= 18
        camera = document.views.camera_id == node_id
        if camera:
            p.save()
            p.setBrush(colour(AMBER))
            p.setPen(Qt.PenStyle.NoPen)
            p.drawEllipse(QRectF(right - 9, row.center().y() - 2.5, 5, 5))
            p.restore()
            right -= 12
        if node_id in document.evaluations.problems:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(colour(RUST))
            p.drawRoundedRect(QRectF(right - 13, row.center().y() - 6.5, 13, 13), 3, 3)
            p.setPen(colour(DEEP))
            p.setFont(font(10, QFont.Weight.Bold))
            p.drawText(QRectF(right - 13, row.center().y() - 7, 13, 14), Qt.AlignmentFlag.AlignCenter, "!")
            right -= 18
            p.setFont(font(12, QFont.Weight.Medium if active else QFont.Weight.Normal))
            p.setPen(colour(AMBER if selected else TEXT, faded))
        room = QRectF(x + 24, row.top(), right - x - 27, row.height())
        text = p.fontMetrics().elidedText(node.name, Qt.TextElideMode.ElideRight, int(room.width()))
        p.drawText(room, Qt.AlignmentFlag.AlignVCenter, text)
        p.restore()

    def _lines(self, p: QPainter, index: QModelIndex, x: float, rect: QRect) -> None:
        """Faint lines down from the carriers."""
        p.setPen(QPen(colour(LINE), 1))
        at, depth = index.parent(), 1
        while at.isValid():
            left = x - depth * self._tree.indentation() + 12
            p.drawLine(int(left), rect.top(), int(left), rect.bottom())
            at = at.parent()
            depth += 1

    def helpEvent(self, event, view, option, index) -> bool:  # type: ignore[no-untyped-def]
        """What is wrong with a node, where it is marked."""
        problem = self._tree.document.evaluations.problems.get(index.data(_ID), "")
        QToolTip.showText(event.globalPos(), as_plain(problem), view)
        return bool(problem)

    def createEditor(self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex) -> QWidget | None:
        editor = super().createEditor(parent, option, index)
        if editor is not None:
            editor.setFont(font(12))
        return editor

    def updateEditorGeometry(self, editor: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if editor is not None:
            left = option.rect.left() + 18
            editor.setGeometry(left, option.rect.top(), self._tree.viewport().width() - left - 8, _ROW)

    def editorEvent(self, event, model, option, index) -> bool:  # type: ignore[no-untyped-def]
        if event.type() == QEvent.Type.MouseButtonPress and isinstance(event, QMouseEvent):
            document = self._tree.document
            node = document.scene.node(index.data(_ID))
            from_right = self._tree.viewport().width() - 10 - event.position().x()
            if 0 <= from_right < 18:
                document.change_nodes(
                    f"{'Unlock' if node.locked else 'Lock'} {node.name}", [node.id], locked=not node.locked
                )
                return True
            if 18 <= from_right < 36:
                document.change_nodes(
                    f"{'Show' if node.hidden else 'Hide'} {node.name}", [node.id], hidden=not node.hidden
                )
                return True
        return bool(super().editorEvent(event, model, option, index))


class _Tree(QTreeWidget):
    def __init__(self, document: Document, movers: MoverCommands) -> None:
        super().__init__()
        self._ring = FocusRing(self)
        self.document, self._movers = document, movers
        self.hovered: str | None = None
        self.setHeaderHidden(True)
        self.setIndentation(14)
        self.setRootIsDecorated(False)
        self.setItemsExpandable(False)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setItemDelegate(_Row(self))
        self.setMouseTracking(True)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Rig")
        self._building = False
        self._structure: tuple[tuple[str, str | None, str], ...] = ()
        self.itemSelectionChanged.connect(self._selected)
        self.itemChanged.connect(self._renamed)
        document.changed.connect(self.rebuild)
        self._shown: str | None = None
        document.playhead.moved.connect(self._mark_shown)
        document.selection.changed.connect(self.show_selection)
        self.rebuild()

    def drawBranches(self, painter: QPainter | None, rect: QRect, index: QModelIndex) -> None:
        pass

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._ring.heed(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self._ring.heed(event)

    def rebuild(self) -> None:
        scene = self.document.scene
        # Framings are on the shelf.
        hung = {node.carrier for node in scene.nodes}
        shelved = {node.id for node in scene.nodes if node.serves_as("framing") and node.id not in hung}
        structure = tuple((node.id, node.carrier, node.name) for node in scene.nodes if node.id not in shelved)
        if structure != self._structure:
            self._structure = structure
            self._building = True
            self.clear()
            waiting: list[tuple[str | None, QTreeWidgetItem | None]] = [(None, self.invisibleRootItem())]
            while waiting:
                carrier, parent = waiting.pop()
                for node in scene.carried_by(carrier):
                    if node.id in shelved:
                        continue
                    item = QTreeWidgetItem(parent, [node.name])
                    item.setData(0, _ID, node.id)
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
                    waiting.append((node.id, item))
            self.expandAll()
            self._building = False
            self.show_selection()
        self.viewport().update()

    def _mark_shown(self) -> None:
        """Another camera is shown at the playhead."""
        shown = self.document.views.camera_id
        if shown != self._shown:
            self._shown = shown
            self.viewport().update()

    def items(self) -> dict[str, QTreeWidgetItem]:
        found: dict[str, QTreeWidgetItem] = {}
        waiting = [self.invisibleRootItem()]
        while waiting:
            item = waiting.pop()
            for i in range(item.childCount()):
                child = item.child(i)
                assert child is not None
                found[child.data(0, _ID)] = child
                waiting.append(child)
        return found

    def show_selection(self) -> None:
        if self._building:
            return
        self._building = True
        self.clearSelection()
        items = self.items()
        for node_id in self.document.selection.nodes:
            if node_id in items:
                items[node_id].setSelected(True)
        if self.document.selection.nodes and self.document.selection.nodes[-1] in items:
            current = items[self.document.selection.nodes[-1]]
            self.setCurrentItem(current, 0, self.selectionModel().SelectionFlag.NoUpdate)
            self.scrollToItem(current)
        self._building = False
        self.viewport().update()

    def _selected(self) -> None:
        if self._building:
            return
        chosen = [item.data(0, _ID) for item in self.selectedItems()]
        # Keep the order in which they were selected; what is new comes last.
        kept = [node_id for node_id in self.document.selection.nodes if node_id in chosen]
        self._building = True
        self.document.selection.choose([*kept, *(node_id for node_id in chosen if node_id not in kept)])
        self._building = False
        self.viewport().update()

    def _renamed(self, item: QTreeWidgetItem) -> None:
        if self._building:
            return
        node_id, text = item.data(0, _ID), item.text(0)
        # After the editor is done: a rename builds the rows anew.
        QTimer.singleShot(0, lambda: self._rename(node_id, text))

    def _rename(self, node_id: str, text: str) -> None:
        if not self.document.edit(f"Rename to {text.strip()}", lambda scene: rename(scene, node_id, text)):
            self._structure = ()
            self.rebuild()

    def rename_active(self) -> None:
        active = self.document.selection.active
        if active is not None:
            self.editItem(self.items()[active.id], 0)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dragged_mover(event.mimeData()) is not None:
            event.acceptProposedAction()
            return
        super().dragEnterEvent(event)

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and dragged_mover(event.mimeData()) is not None:
            item = self.itemAt(event.position().toPoint())
            self.hovered = item.data(0, _ID) if item is not None else None
            self.viewport().update()
            event.setAccepted(item is not None)
            return
        super().dragMoveEvent(event)

    def _drop_mover(self, event: QDropEvent, node_id: str, mover_id: str) -> None:
        """A mover's card was dropped on a row: that node gets one like it."""
        target = self.itemAt(event.position().toPoint())
        scene = self.document.scene
        if target is None or node_id not in scene or target.data(0, _ID) == node_id:
            return
        mover = next((each for each in scene.node(node_id).movers if each.id == mover_id), None)
        if mover is not None:
            event.acceptProposedAction()
            self._movers.copy_to(mover, target.data(0, _ID))

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is None:
            return
        dragged = dragged_mover(event.mimeData())
        if dragged is not None:
            self._drop_mover(event, *dragged)
            return
        target = self.itemAt(event.position().toPoint())
        on_row = self.dropIndicatorPosition() == QAbstractItemView.DropIndicatorPosition.OnItem
        carrier = target.data(0, _ID) if target is not None and on_row else None
        if target is not None and not on_row:
            above = target.parent()
            carrier = above.data(0, _ID) if above is not None else None
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        self.hang(self.document.selection.nodes, carrier)

    def hang(self, node_ids: tuple[str, ...], carrier: str | None) -> None:
        """Hang nodes on a carrier, or on nothing, their world poses kept."""
        names = ", ".join(self.document.scene.node(i).name for i in node_ids if i != carrier)
        where = (
            f"Hang {names} on {self.document.scene.node(carrier).name}" if carrier else f"Take {names} off the carrier"
        )
        frame = self.document.playhead.frame
        if self.document.edit(where, lambda scene: carry_together(scene, node_ids, carrier, frame)):
            self.document.messages.say(f"{where}; the pose is kept.")

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            item = self.itemAt(event.position().toPoint())
            hovered = item.data(0, _ID) if item else None
            if hovered != self.hovered:
                self.hovered = hovered
                self.viewport().update()
        super().mouseMoveEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.hovered = None
        self.viewport().update()
        super().leaveEvent(event)


class RigPanel(Panel):
    """The upper left area."""

    def __init__(self, document: Document, movers: MoverCommands) -> None:
        super().__init__("Rig")
        self.strip.addStretch()
        self._document = document
        self.tree = _Tree(document, movers)
        self._hint = label(
            "Add a camera, then hang it on a null:\nCamera ▸ Add camera,\nRig ▸ Add a null in the middle.", "soft"
        )
        self._hint.setWordWrap(True)
        self._hint.setContentsMargins(14, 4, 10, 8)
        self.body.addWidget(self._hint)
        self.body.addWidget(self.tree, 1)
        document.changed.connect(self._refresh)
        self._refresh()

    def _refresh(self) -> None:
        self._hint.setVisible(not self._document.scene.nodes)
