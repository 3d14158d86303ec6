"""The card of a mover: its name and strength, a small live graph of what it does, and, unfolded, its numbers."""

import numpy as np
from PyQt6 import sip
from PyQt6.QtCore import QMimeData, QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QDrag, QFont, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from ... import edits
from ...arrays import Array
from ...evaluate import evaluate
from ...scene import AnyNode, Mover, Scene, SceneError, spec
from ...scene.dependencies import stages_of_channels, unmoved_scene
from ...scene.moving import group_of
from ..channels.field import ChannelField
from ..commands.mover_commands import MOVER_MIME, MoverCommands
from ..state.document import Document
from ..widgets.kind_looks import mover_look
from ..widgets.panel_parts import icon_button, popup_menu, set_surface
from ..widgets.theme import AMBER, FAINT, LINE, SOFT, TEXT, colour, font
from ..widgets.unexpected import painted
from .mover_rows import MoverRows
from .rows import Rows

_SAMPLES = 280
_GRAPH = 34


class MoverGraph(QWidget):
    """What a mover makes of a channel over the frames that are played: what comes in thin, what goes out bold; of one
    that adds, what it adds about the line of nothing."""

    def __init__(self, document: Document, node: AnyNode, mover: Mover) -> None:
        super().__init__()
        self._document, self._node_id, self._mover_id = document, node.id, mover.id
        self._tone = mover_look(type(mover)).tone
        self._known: tuple[Scene, Scene, str, tuple[int, int]] | None = None
        self._lines: tuple[Array, Array] | None = None
        self._name = ""
        self.setFixedHeight(_GRAPH)
        self.setAccessibleName(f"What the {mover.label} does")

    def refresh(self) -> None:
        """Draw anew before long, if it does something else now."""
        self._document.turns.ask(self, self._measure)

    def _measure(self) -> None:
        if sip.isdeleted(self):
            return  # The page was built anew while this waited.
        scene = self._document.views.keyed
        node = next((each for each in scene.nodes if each.id == self._node_id), None)
        mover = next((each for each in node.movers if each.id == self._mover_id), None) if node is not None else None
        if node is None or mover is None or not self.isVisible():
            return
        lines = None
        if mover.on and mover.targets:
            # The channel on which it counts most, in the channel's own terms.
            name = max(mover.targets, key=lambda each: abs(each.amount) / spec(node, each.channel).nudge).channel
            group, number = group_of(node, name), node.movers.index(mover)
            before, after = (unmoved_scene(scene, node.id, group, number + k) for k in (0, 1))
            span = self._document.playhead.range
            if self._known is not None and self._known == (before, after, name, span):
                self.update()
                return
            self._known = (before, after, name, span)
            frames = np.linspace(*span, _SAMPLES)
            try:
                lines = tuple(_values(each, node.id, name, frames) for each in (before, after))
            except SceneError:
                lines = None
            if lines is not None and mover.adds:
                lines = (np.zeros(_SAMPLES), lines[1] - lines[0])
            self._name = spec(node, name).label
        else:
            self._known = None
        self._lines = lines  # type: ignore[assignment]
        self.setToolTip(f"What it does to {self._name}, from the first to the last frame that is played")
        self.update()

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(self.rect()).adjusted(2, 3, -2, -3)
        if self._lines is None:
            p.setPen(QPen(colour(FAINT), 1, Qt.PenStyle.DashLine))
            p.drawLine(QPointF(area.left(), area.center().y()), QPointF(area.right(), area.center().y()))
            return
        low = min(float(line.min()) for line in self._lines)
        high = max(float(line.max()) for line in self._lines)
        if high - low < 1e-9:
            low, high = low - 1.0, high + 1.0
        xs = np.linspace(area.left(), area.right(), _SAMPLES)
        for line, pen in zip(self._lines, (QPen(colour(SOFT, 0.55), 1.0), QPen(colour(self._tone), 1.5)), strict=True):
            ys = area.bottom() - (line - low) / (high - low) * area.height()
            p.setPen(pen)
            p.drawPolyline(QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]))
        first, last = self._document.playhead.range
        x = area.left() + (self._document.playhead.frame - first) / max(last - first, 1) * area.width()
        p.setPen(QPen(colour(AMBER, 0.7), 1.0))
        p.drawLine(QPointF(x, 1), QPointF(x, self.height() - 1))


def _values(scene: Scene, node_id: str, name: str, frames: Array) -> Array:
    stages = stages_of_channels(scene).get(node_id)
    here = evaluate(scene, frames, [node_id] if stages else [])
    return here.value(node_id, name)


class MoverCard(QWidget):
    """One mover. Its head is dragged to another place, or onto another node in the Rig; a click folds it."""

    folded = pyqtSignal(str)
    """The mover's id: it was clicked."""
    let_go = pyqtSignal()
    """It was dragged, and is dropped somewhere or nowhere."""

    def __init__(self, rows: Rows, node: AnyNode, number: int, open_: bool, commands: MoverCommands) -> None:
        super().__init__()
        self._document, self._node, self._number, self._commands = rows.document, node, number, commands
        self.mover = mover = node.movers[number]
        self._press: QPoint | None = None
        self.is_dragged = False
        set_surface(self, "card")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 8, 8)
        column.setSpacing(4)
        column.addLayout(self._head(rows, open_))
        self.graph = MoverGraph(rows.document, node, mover)
        column.addWidget(self.graph)
        rows.followers.append(self.graph.refresh)
        if open_:
            inner = Rows(rows.document, node)
            MoverRows(inner, node, mover, commands).build()
            column.addLayout(inner.grid)
            rows.fields.update(inner.fields)
            rows.properties.update(inner.properties)
            rows.followers.append(inner.refresh)
        self.setEnabled(not node.locked)

    def _head(self, rows: Rows, open_: bool) -> QHBoxLayout:
        mover, node = self.mover, self._node
        row = QHBoxLayout()
        row.setSpacing(4)
        self.title = _Title(mover, open_)
        self.title.clicked.connect(lambda: self.folded.emit(mover.id))
        rows.properties[f"{mover.id} title"] = self.title
        row.addWidget(self.title, 1)
        strength = ChannelField(rows.document, node.id, mover.strength)
        strength.setFixedWidth(66)
        rows.fields[mover.strength] = strength
        row.addWidget(strength)
        word = "Turn off" if mover.on else "Turn on"
        switch = icon_button("eye" if mover.on else "eye_shut", f"{word} {mover.label}", size=20)
        switch.clicked.connect(lambda: self._edit(word, on=not mover.on))
        rows.properties[f"{mover.id} on"] = switch
        row.addWidget(switch)
        more = icon_button("more", "Its place in the order, and away with it", size=20)
        more.clicked.connect(lambda: self._menu(more))
        rows.properties[f"{mover.id} more"] = more
        row.addWidget(more)
        return row

    def _edit(self, word: str, **fields: object) -> None:
        self._document.edit(
            f"{word} {self.mover.label} of {self._node.name}",
            lambda scene: edits.change_mover(scene, self._node.id, self.mover.id, **fields),
        )

    def _menu(self, button: QToolButton) -> None:
        document, node, mover = self._document, self._node, self.mover
        menu = popup_menu(button)
        for text, place, can in (
            ("Earlier", self._number - 1, self._number > 0),
            ("Later", self._number + 1, self._number < len(node.movers) - 1),
        ):
            action = menu.addAction(text)
            assert action is not None
            action.setEnabled(can)
            action.triggered.connect(lambda checked, place=place: move_card(document, node.id, mover, place))
        menu.addSeparator()
        copies = menu.addMenu("Copy to")
        assert copies is not None
        for other in document.scene.nodes:
            if other.id != node.id:
                action = copies.addAction(other.name)
                assert action is not None
                action.triggered.connect(lambda checked, other=other: self._commands.copy_to(mover, other.id))
        menu.addSeparator()
        remove = menu.addAction("Remove")
        assert remove is not None
        remove.triggered.connect(
            lambda: document.edit(
                f"Remove {mover.label} of {node.name}", lambda scene: edits.remove_mover(scene, node.id, mover.id)
            )
        )
        menu.exec(button.mapToGlobal(QPoint(0, button.height())))

    # Dragging it to another place

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._press = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._press is None:
            return
        if (event.position().toPoint() - self._press).manhattanLength() < QApplication.startDragDistance():
            return
        press, self._press = self._press, None
        # Its source is what outlives the card, should the page be built anew meanwhile.
        drag = QDrag(self.window())
        data = QMimeData()
        data.setData(MOVER_MIME, f"{self._node.id}\n{self.mover.id}".encode())
        drag.setMimeData(data)
        seen = QPixmap(self.size())
        self.render(seen)
        drag.setPixmap(seen)
        drag.setHotSpot(press)
        self.is_dragged = True
        drag.exec(Qt.DropAction.MoveAction)
        self.is_dragged = False
        if not sip.isdeleted(self):
            self.let_go.emit()


class _Title(QToolButton):
    """The mover's name, with its colour; what shows that it is unfolded is the way the corner points."""

    def __init__(self, mover: Mover, open_: bool) -> None:
        super().__init__()
        self._mover, self._open = mover, open_
        self.setText(mover.label.capitalize())
        self.setFont(font(12, QFont.Weight.DemiBold))
        self.setToolTip(f"{mover.hint}. Click to {'fold' if open_ else 'unfold'}, drag the card to reorder")
        self.setFixedHeight(22)
        self.setSizePolicy(self.sizePolicy().Policy.Expanding, self.sizePolicy().Policy.Fixed)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(mover_look(type(self._mover)).tone if self._mover.on else LINE))
        p.drawEllipse(QPointF(5, middle), 3.6, 3.6)
        p.setFont(self.font())
        p.setPen(colour(TEXT if self._mover.on else SOFT))
        room = QRectF(16, 0, self.width() - 16, self.height())
        p.drawText(room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, self.text())
        x = 16 + p.fontMetrics().horizontalAdvance(self.text()) + 10
        p.setPen(QPen(colour(TEXT if self.hasFocus() or self.underMouse() else SOFT), 1.4))
        corner = [QPointF(-3, -1.5), QPointF(0, 1.5), QPointF(3, -1.5)]
        if not self._open:
            corner = [QPointF(-1.5, -3), QPointF(1.5, 0), QPointF(-1.5, 3)]
        p.drawPolyline(QPolygonF([QPointF(x + at.x(), middle + at.y()) for at in corner]))


def move_card(document: Document, node_id: str, mover: Mover, place: int) -> None:
    """Another place in the order."""
    name = document.scene.node(node_id).name
    document.edit(f"Move {mover.label} of {name}", lambda scene: edits.move_mover(scene, node_id, mover.id, place))
