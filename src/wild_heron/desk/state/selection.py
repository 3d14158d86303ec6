"""Which nodes, keys, shots and events are selected."""

from collections.abc import Callable, Collection, Iterable

from PyQt6.QtCore import QObject, pyqtSignal

from ...edits import KeyRef
from ...edits.keys import by_channel
from ...scene import AnyNode, Scene


class Selection(QObject):
    """Nodes in the order in which they were selected, and keys; or shots, or an event, while no node is."""

    changed = pyqtSignal()
    keys_changed = pyqtSignal()
    film_changed = pyqtSignal()
    """Other shots, or another event."""

    def __init__(self, scene: Callable[[], Scene]) -> None:
        super().__init__()
        self._scene = scene
        self.nodes: tuple[str, ...] = ()
        self.keys: frozenset[KeyRef] = frozenset()
        self.shots: tuple[int, ...] = ()
        """Their numbers, in the order in which they were selected."""
        self.film_event: int | None = None
        """Its number."""

    @property
    def active(self) -> AnyNode | None:
        """The node selected last."""
        return self._scene().node(self.nodes[-1]) if self.nodes else None

    def choose(self, node_ids: Iterable[str]) -> None:
        """Select these nodes, as far as they are there."""
        scene = self._scene()
        chosen = tuple(dict.fromkeys(node_id for node_id in node_ids if node_id in scene))
        if chosen:
            self._choose_film((), None)
        if chosen != self.nodes:
            self.nodes = chosen
            self.changed.emit()

    def choose_shots(self, numbers: Iterable[int]) -> None:
        """Select these shots, as far as they are there, in place of nodes."""
        chosen = tuple(dict.fromkeys(k for k in numbers if 0 <= k < len(self._scene().shots)))
        if chosen:
            self.choose(())
        self._choose_film(chosen, None)

    def choose_event(self, number: int | None) -> None:
        """Select an event in place of nodes."""
        if number is not None:
            self.choose(())
        self._choose_film((), number)

    def _choose_film(self, shots: tuple[int, ...], event: int | None) -> None:
        if (shots, event) != (self.shots, self.film_event):
            self.shots, self.film_event = shots, event
            self.film_changed.emit()

    def choose_keys(self, refs: Iterable[KeyRef]) -> None:
        chosen = frozenset(refs)
        if chosen != self.keys:
            self.keys = chosen
            self.keys_changed.emit()

    def clear(self) -> None:
        """Select nothing, of another scene; who opens it says so."""
        self.nodes, self.keys, self.shots, self.film_event = (), frozenset(), (), None

    def drop_what_is_gone(self) -> None:
        self.choose(self.nodes)
        scene = self._scene()
        shots = tuple(k for k in self.shots if k < len(scene.shots))
        event = self.film_event
        event = event if event is not None and event < len(scene.events) else None
        self._choose_film(shots, event)
        if self.keys:
            self.choose_keys(self.still_there(self.keys))

    def still_there(self, refs: Collection[KeyRef]) -> Collection[KeyRef]:
        """Those of some keys that the scene has."""
        scene, lost = self._scene(), False
        frames: dict[tuple[str, str], set[float]] = {}
        for (node, name), wanted in by_channel(refs).items():
            channel = scene.node(node).channel(name) if node in scene else None
            there = frames[node, name] = {key.frame for key in channel.keys} if channel else set()
            lost = lost or not there.issuperset(wanted)
        return [ref for ref in refs if ref.frame in frames[ref.node, ref.channel]] if lost else refs
