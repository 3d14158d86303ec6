"""Writes channel values by the rules of auto-key."""

from collections.abc import Callable, Mapping
from typing import Protocol

from PyQt6.QtCore import QObject, pyqtSignal

from ...edits import KeyRef, is_locked, left_alone
from ...scene import Scene, SceneError
from ...scene.inputs import ChannelRef
from .evaluations import Evaluations
from .gesture import Gesture
from .playhead import Playhead
from .recording import Recorded, Scope, State, in_scope, record, without_keys
from .selection import Selection
from .status_messages import Messages


class RecorderHost(Protocol):
    """Where changes become undo steps."""

    @property
    def scene(self) -> Scene: ...

    def push(self, name: str, state: State, merge: str = "") -> bool: ...

    def edit(self, name: str, change: Callable[[Scene], Scene]) -> bool: ...


class Recorder(QObject):
    """Decides what changes become, and knows which keys were written last."""

    changed = pyqtSignal()
    """Auto-key, or what it keys."""

    def __init__(
        self,
        host: RecorderHost,
        gesture: Gesture,
        playhead: Playhead,
        selection: Selection,
        evaluations: Evaluations,
        messages: Messages,
    ) -> None:
        super().__init__()
        self._host, self._gesture, self._playhead, self._selection = host, gesture, playhead, selection
        self._evaluations, self._messages = evaluations, messages
        self.auto_key = False
        self.scope: Scope = "changed"
        self.last_keys: tuple[Scene, tuple[KeyRef, ...]] | None = None
        """The scene before keys were written last, and which they are."""

    def set_auto_key(self, on: bool) -> None:
        self.auto_key = on
        self.changed.emit()
        self._messages.say("Auto-key is on: every change writes a key at the playhead." if on else "Auto-key is off.")

    def set_scope(self, scope: Scope) -> None:
        self.scope = scope
        self.changed.emit()

    def set_values(self, name: str, changes: Mapping[ChannelRef, float], merge: str = "", seen: bool = True) -> None:
        """Change channels, as one undo step or as part of the running gesture: values as they are ``seen``, or as they
        are before movers and takes."""
        if not changes:
            return
        if self.auto_key and self.scope != "changed":
            changes = dict(changes) | self._along(changes, seen)
        try:
            recorded = record(self._gesture.base, changes, self._playhead.frame, self.auto_key, seen)
        except SceneError as problem:
            self._messages.say(str(problem), True)
            return
        self.apply(name, recorded, merge)

    def _along(self, changes: Mapping[ChannelRef, float], seen: bool) -> dict[ChannelRef, float]:
        """What is keyed along with changes, at the values there are."""
        found: dict[ChannelRef, float] = {}
        scene = self._host.scene
        for node_id in {node for node, _ in changes}:
            for name in in_scope(scene.node(node_id), self.scope):
                if (node_id, name) not in changes and not is_locked(scene.node(node_id), name):
                    value = self._evaluations.value if seen else self._evaluations.keyed_value
                    found[node_id, name] = value(node_id, name)
        return found

    def apply(self, name: str, recorded: Recorded, merge: str = "") -> None:
        """Take over a recorded change and say what it became."""
        if recorded.keys:
            self.last_keys = (self._gesture.base.scene, recorded.keys)
        if self._gesture.running:
            self._gesture.preview(recorded.state)
        else:
            self._host.push(name, recorded.state, merge)
        self.tell(name, recorded)

    def tell(self, name: str, recorded: Recorded) -> None:
        """Say what a change became."""
        say = self._messages.say
        if recorded.locked:
            say(left_alone(self._host.scene, recorded.locked), True)
        elif recorded.keys:
            count = len(recorded.keys)
            say(f"{name}: {count} key{'' if count == 1 else 's'} written.")
        elif recorded.pending:
            say(f"{name}: pending. Key it or discard it.", True)

    @property
    def keys_written(self) -> int:
        """How many of the keys that were written last are still there."""
        return len(self._selection.still_there(self.last_keys[1])) if self.last_keys is not None else 0

    def undo_last_keys(self) -> None:
        """Take just the keys back that were written last; everything else stays."""
        if self.last_keys is None:
            self._messages.say("No keys were written yet.", True)
            return
        before, refs = self.last_keys
        count = len(refs)
        self.last_keys = None
        self._host.edit(
            f"Take back {count} key{'' if count == 1 else 's'}", lambda scene: without_keys(scene, before, refs)
        )
