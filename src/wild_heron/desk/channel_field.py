"""A number field tied to one channel of the document."""

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QApplication, QMenu, QWidget

from ..scene import channel_or_default, spec
from ..scene.edits import KeyRef, lock_channel, remove_keys
from .document import Document
from .number_field import NumberField
from .quantities import edit_text, parse_number
from .recording import key_now


def channel_mark(document: Document, node_id: str, name: str) -> str:
    """How a channel stands at the playhead: none, keyed, here or pending."""
    frame = document.frame
    if any(p.node == node_id and p.channel == name and p.frame == frame for p in document.state.pending):
        return "pending"
    channel = document.scene.node(node_id).channel(name)
    if channel is None or not channel.keys:
        return "none"
    return "here" if channel.key_at(frame) else "keyed"


class ChannelField(NumberField):
    """Shows and changes one channel of a node by the rules of auto-key."""

    def __init__(
        self, document: Document, node_id: str, name: str, axis: int | None = None, parent: QWidget | None = None
    ) -> None:
        super().__init__(spec(document.scene.node(node_id), name), axis, parent=parent)
        self.document, self.node_id, self.name = document, node_id, name
        self.follow(document, self._label, self._set, f"{node_id}/{name}")
        self.menu_wanted.connect(self._menu)
        self.setToolTip(f"{self.spec.label}: drag, type, or use the wheel. Right-click to reset, key or lock.")
        self.refresh()

    def _label(self) -> str:
        return self.document.label(self.node_id, self.name)

    def refresh(self) -> None:
        """Show the value at the playhead."""
        node = self.document.scene.node(self.node_id)
        stored = node.channel(self.name)
        locked = node.locked or (stored is not None and stored.locked)
        mark = channel_mark(self.document, self.node_id, self.name)
        self.show_value(self.document.value(self.node_id, self.name), mark, locked)

    def _set(self, value: float, merge: str = "") -> None:
        merge = merge and f"{merge}/{self.document.frame}"
        self.document.set_values(self._label(), {(self.node_id, self.name): value}, merge)

    def _menu(self, at: QPoint) -> None:
        document, node_id, name = self.document, self.node_id, self.name
        channel = channel_or_default(document.scene.node(node_id), name)
        key = channel.key_at(document.frame)
        menu = QMenu(self)
        reset = menu.addAction(f"Reset to {edit_text(self.spec.default, self.spec.unit)}")
        reset.triggered.connect(lambda: self._set(self.spec.default))
        reset.setEnabled(not channel.locked)
        menu.addSeparator()
        put = menu.addAction("Key now")
        put.triggered.connect(
            lambda: document.apply_recorded(
                f"Key {self._label()}", key_now(document.state, [(node_id, name, self.value)], document.frame)
            )
        )
        put.setEnabled(not channel.locked)
        drop = menu.addAction("Delete the key here")
        drop.setEnabled(key is not None)
        drop.triggered.connect(
            lambda: document.edit(
                f"Delete key of {self._label()}",
                lambda scene: remove_keys(scene, [KeyRef(node_id, name, document.frame)]),
            )
        )
        clear = menu.addAction("Delete all keys")
        clear.setEnabled(bool(channel.keys))
        clear.triggered.connect(
            lambda: document.edit(
                f"Delete all keys of {self._label()}",
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
        clipboard = QApplication.clipboard()
        menu.addAction("Copy value").triggered.connect(lambda: clipboard.setText(edit_text(self.value, self.spec.unit)))
        menu.addAction("Paste value").triggered.connect(lambda: self._paste(clipboard.text()))
        menu.exec(at)

    def _paste(self, text: str) -> None:
        try:
            self._set(self._clamped(parse_number(text, self.spec.unit)))
        except ValueError as problem:
            self.document.say(str(problem), True)
