"""Which nodes and which keys are selected."""

from collections.abc import Callable, Iterable

from PyQt6.QtCore import QObject, pyqtSignal

from ...scene import AnyNode, Scene
from ...scene.edits import KeyRef
from ...scene.edits.keys import by_channel


class Selection(QObject):
    """Nodes in the order in which they were selected, and keys."""

    changed = pyqtSignal()
    keys_changed = pyqtSignal()

    def __init__(self, scene: Callable[[], Scene]) -> None:
        super().__init__()
        self._scene = scene
        self.nodes: tuple[str, ...] = ()
        self.keys: frozenset[KeyRef] = frozenset()

    @property
    def active(self) -> AnyNode | None:
        """The node selected last."""
        return self._scene().node(self.nodes[-1]) if self.nodes else None

    def choose(self, node_ids: Iterable[str]) -> None:
        """Select these nodes, as far as they are there."""
        scene = self._scene()
        chosen = tuple(dict.fromkeys(node_id for node_id in node_ids if node_id in scene))
        if chosen != self.nodes:
            self.nodes = chosen
            self.changed.emit()

    def choose_keys(self, refs: Iterable[KeyRef]) -> None:
        chosen = frozenset(refs)
        if chosen != self.keys:
            self.keys = chosen
            self.keys_changed.emit()

    def clear(self) -> None:
        """Select nothing, of another scene; who opens it says so."""
        self.nodes, self.keys = (), frozenset()

    def drop_what_is_gone(self) -> None:
        self.choose(self.nodes)
        if self.keys:
            self.choose_keys(self.still_there(self.keys))

    def still_there(self, refs: Iterable[KeyRef]) -> list[KeyRef]:
        """Those of some keys that the scene has."""
        scene, refs = self._scene(), list(refs)
        frames: dict[tuple[str, str], set[float]] = {}
        for node, name in by_channel(refs):
            channel = scene.node(node).channel(name) if node in scene else None
            frames[node, name] = {key.frame for key in channel.keys} if channel else set()
        return [ref for ref in refs if ref.frame in frames[ref.node, ref.channel]]
