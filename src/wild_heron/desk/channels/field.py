"""A number field tied to one channel of the document."""

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PyQt6.QtWidgets import QApplication, QWidget

from ...edits import KeyRef, lock_channel, remove_keys
from ...scene import FormulaError, channel_or_default, is_moved, spec
from ...scene.links import missing_reference
from ..state.document import Document
from ..state.key_edits import edit_keys
from ..state.recording import key_now
from ..widgets.number_field import NumberField
from ..widgets.panel_parts import popup_menu
from ..widgets.quantities import edit_text, parse_number
from ..widgets.theme import DEEP, SKY, colour
from ..widgets.unexpected import painted
from .linking import dragged_place, fill_link_menu, show_wires_of, start_link_drag, take_link

_PLUG = 9.0
"""How wide the plug at the left of a field is, in pixels."""


def channel_mark(document: Document, node_id: str, name: str) -> str:
    """How a channel stands at the playhead: none, keyed, here or pending."""
    frame = document.playhead.frame
    if any(p.node == node_id and p.channel == name and p.frame == frame for p in document.state.pending):
        return "pending"
    channel = document.scene.node(node_id).channel(name)
    if channel is None or not channel.keys:
        return "none"
    return "here" if channel.key_at(frame) else "keyed"


def driven_mark(document: Document, node_id: str, name: str) -> str:
    """What drives a channel besides its keys: nothing (""), link, formula, broken, or moved: only movers or a take."""
    node = document.scene.node(node_id)
    channel = node.channel(name)
    if channel is None or not channel.has_inputs:
        return "moved" if is_moved(node, name) else ""
    if not channel.formula:
        return "link"
    try:
        return "broken" if missing_reference(document.scene, node, channel.formula) else "formula"
    except FormulaError:
        return "broken"


class ChannelField(NumberField):
    """Shows and changes one channel of a node by the rules of auto-key."""

    def __init__(
        self,
        document: Document,
        node_id: str,
        name: str,
        axis: int | None = None,
        parent: QWidget | None = None,
        caption: str = "",
    ) -> None:
        super().__init__(spec(document.scene.node(node_id), name), axis, caption, parent)
        self.document, self.node_id, self.name = document, node_id, name
        self.place = (node_id, name)
        self._plugged: QPointF | None = None
        self._on_plug = False
        self._link_over = False
        self.setAcceptDrops(True)
        self.setMouseTracking(True)
        self.follow(document, self._label, self._set, f"{node_id}/{name}")
        self.menu_wanted.connect(self._menu)
        self.setToolTip(
            f"{self.spec.label}: drag, type, or use the wheel. Right-click to reset, key, lock or drive. "
            "Drag its plug, at the left, onto another channel to link them."
        )
        self.refresh()

    def _label(self) -> str:
        return self.document.label(self.node_id, self.name)

    def refresh(self) -> None:
        """Show the value at the playhead."""
        node = self.document.scene.node(self.node_id)
        stored = node.channel(self.name)
        locked = node.locked or (stored is not None and stored.locked)
        mark = channel_mark(self.document, self.node_id, self.name)
        driven = driven_mark(self.document, self.node_id, self.name)
        shown = self.document.evaluations.keyed_value(self.node_id, self.name)
        self.show_value(shown, mark, locked, driven)

    def _set(self, value: float, merge: str = "") -> None:
        merge = merge and f"{merge}/{self.document.playhead.frame}"
        self.document.recorder.set_values(self._label(), {(self.node_id, self.name): value}, merge, False)

    # Links

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        show_wires_of(self, self.place)

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self.underMouse() or self._link_over:
            p = QPainter(self)
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(QPen(colour(SKY), 1.6))
            p.setBrush(colour(SKY if self._on_plug or self._link_over else DEEP))
            p.drawEllipse(QPointF(5.5, self.height() - 11.5), 2.8, 2.8)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton and event.position().x() < _PLUG:
            self._plugged = event.position()
            return
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._plugged is not None:
            moved = event.position() - self._plugged
            if abs(moved.x()) + abs(moved.y()) >= 4:
                self._plugged = None
                start_link_drag(self, self.place)
            return
        on_plug = event.position().x() < _PLUG and not event.buttons()
        if on_plug != self._on_plug:
            self._on_plug = on_plug
            self.setCursor(Qt.CursorShape.PointingHandCursor if on_plug else Qt.CursorShape.SizeHorCursor)
            self.update()
        super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._plugged = None
        super().mouseReleaseEvent(event)

    def enterEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.update()
        super().enterEvent(event)

    def leaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._on_plug = False
        self.update()
        super().leaveEvent(event)

    def _mark_drop(self, over: bool) -> None:
        self._link_over = over
        self.update()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dragged_place(event.mimeData()) not in (None, self.place):
            event.setDropAction(Qt.DropAction.CopyAction)
            event.accept()
            self._mark_drop(True)

    def dragLeaveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self._mark_drop(False)

    def dropEvent(self, event: QDropEvent | None) -> None:
        self._mark_drop(False)
        if event is not None:
            take_link(self.document, event, self.place)

    def edit_formula(self) -> None:
        """Open the formula of the channel."""
        from .formula_dialog import FormulaDialog

        dialog = FormulaDialog(self.document, self.node_id, self.name, self)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.show()

    def _menu(self, at: QPoint) -> None:
        document, node_id, name = self.document, self.node_id, self.name
        channel = channel_or_default(document.scene.node(node_id), name)
        key = channel.key_at(document.playhead.frame)
        menu = popup_menu(self)
        reset = menu.addAction(f"Reset to {edit_text(self.spec.default, self.spec.unit)}")
        reset.triggered.connect(lambda: self._set(self.spec.default))
        reset.setEnabled(not channel.locked)
        menu.addSeparator()
        put = menu.addAction("Key now")
        put.triggered.connect(
            lambda: document.recorder.apply(
                f"Key {self._label()}", key_now(document.state, [(node_id, name)], document.playhead.frame)
            )
        )
        put.setEnabled(not channel.locked)
        drop = menu.addAction("Delete the key here")
        drop.setEnabled(key is not None)
        drop.triggered.connect(
            lambda: edit_keys(
                document,
                f"Delete key of {self._label()}",
                [(node_id, name)],
                lambda scene: remove_keys(scene, [KeyRef(node_id, name, document.playhead.frame)]),
            )
        )
        clear = menu.addAction("Delete all keys")
        clear.setEnabled(bool(channel.keys))
        clear.triggered.connect(
            lambda: edit_keys(
                document,
                f"Delete all keys of {self._label()}",
                [(node_id, name)],
                lambda scene: remove_keys(scene, [KeyRef(node_id, name, key.frame) for key in channel.keys]),
            )
        )
        menu.addSeparator()
        lock = menu.addAction("Locked")
        lock.setCheckable(True)
        lock.setChecked(channel.locked)
        lock.triggered.connect(
            lambda on: document.edit(
                f"{'Lock' if on else 'Unlock'} {self._label()}",
                lambda scene: lock_channel(scene, node_id, name, on),
            )
        )
        menu.addSeparator()
        menu.addAction("Formula…").triggered.connect(self.edit_formula)
        links = menu.addMenu("Links")
        fill_link_menu(links, document, self.place)
        menu.addSeparator()
        clipboard = QApplication.clipboard()
        menu.addAction("Copy value").triggered.connect(lambda: clipboard.setText(edit_text(self.value, self.spec.unit)))
        menu.addAction("Paste value").triggered.connect(lambda: self._paste(clipboard.text()))
        menu.exec(at)

    def _paste(self, text: str) -> None:
        try:
            self._set(self._clamped(parse_number(text, self.spec.unit)))
        except ValueError as problem:
            self.document.messages.say(str(problem), True)
