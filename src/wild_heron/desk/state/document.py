"""The open scene: its state with undo, the playhead, what is selected, and where it is saved."""

import os
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

import numpy as np
from PyQt6.QtCore import pyqtSignal

from ...evaluate import Evaluation, evaluate
from ...files.errors import FileError
from ...files.permission import allow, allowed_folders, for_scene
from ...scene import AnyNode, Scene, SceneError, spec
from ...scene.edits import KeyRef, change_node, is_locked, left_alone
from ...scene.output import with_output_camera
from ...scene.validate import validate_change
from .history import History
from .recording import Recorded, Scope, State, in_scope, record, without_keys
from .shown import ShownScene

_LOOKED_AT = 5
"""At how many frames of the range a step is evaluated before it enters the document."""


class Document(ShownScene):
    """Everything the panels look at. Panels change it only through its methods and listen to its signals."""

    selection_changed = pyqtSignal()
    keys_selected = pyqtSignal()
    file_changed = pyqtSignal()
    """The path, or whether there is something to save, changed."""
    opened = pyqtSignal()
    """Another scene was opened."""
    said = pyqtSignal(str, bool)
    """A line for the status bar, and whether it is a warning."""

    def __init__(self) -> None:
        super().__init__()
        self.allowed = allowed_folders()
        """Folders outside the scene's own whose files may be read."""
        self.path: Path | None = None
        self.base: Path | None = None
        self.auto_key = False
        self.scope: Scope = "changed"
        self.last_keys: tuple[Scene, tuple[KeyRef, ...]] | None = None
        """The scene before keys were written last, and which they are."""
        self.kept: Scene | None = None
        """A version to compare with."""
        self._kept_in_passing = False
        self._over_range: Evaluation | None = None
        self.selected_keys: frozenset[KeyRef] = frozenset()
        self._saved_state: State | None = None
        self.history = History(self._state)
        self._selection: tuple[str, ...] = ()
        self.reset(Scene(), None)

    # What is open

    def reset(self, scene: Scene, path: Path | None, base: Path | None = None, unsaved: bool = False) -> None:
        """Open another scene; ``base`` is where its artwork paths start from."""
        self.path = path
        self.base = base if base is not None else (path.parent if path else None)
        self._permit()
        self._state = State(scene)
        self._proposed, self.is_trying = None, False
        self.history = History(self._state)
        self.last_keys = None
        self._gesture = None
        self._saved_state = None if unsaved else self._state
        self._selection = ()
        self.selected_keys = frozenset()
        self.play_range = None
        self.format_name = None
        self.solo = frozenset()
        self.kept = None
        self._shown = None
        self._over_range = None
        self._frame = float(scene.settings.first)
        for signal in (
            self.file_changed,
            self.changed,
            self.selection_changed,
            self.keys_selected,
            self.frame_changed,
            self.settings_changed,
            self.opened,
        ):
            signal.emit()

    def allow_files(self, files: Iterable[Path]) -> None:
        """The user chose these files: what lies in their folders may be read from now on."""
        try:
            self.allowed = allow(files)
        except FileError as problem:
            # For now it is allowed all the same; it will be asked about again.
            self.allowed = (*self.allowed, *(os.path.realpath(file.parent) for file in files))
            self.say(str(problem), True)
        self._permit()
        self.file_changed.emit()

    def _permit(self) -> None:
        self.permission = for_scene(self.base, self.allowed)
        if self._reader is not None:
            self._reader.permission = self.permission

    @property
    def is_modified(self) -> bool:
        return self._state != self._saved_state

    def mark_saved(self, path: Path, rewrite: Callable[[Scene], Scene]) -> None:
        """The state is now on disk at ``path``. ``rewrite`` fits artwork paths to it, in every undo step too."""
        rewritten: dict[int, Scene] = {}

        def moved(state: State) -> State:
            if id(state.scene) not in rewritten:
                rewritten[id(state.scene)] = rewrite(state.scene)
            return State(rewritten[id(state.scene)], state.pending)

        self.history.rewrite(moved)
        self._state = self.history.step.state
        self.kept = rewrite(self.kept) if self.kept is not None else None
        self.path, self.base = path, path.parent
        self._permit()
        self._saved_state = self._state
        self.changed.emit()
        self.file_changed.emit()

    def mark_loaded(self) -> None:
        """The state is what is on disk."""
        self._saved_state = self._state
        self.file_changed.emit()

    # The selection

    @property
    def selection(self) -> tuple[str, ...]:
        return self._selection

    @property
    def active(self) -> AnyNode | None:
        """The node selected last."""
        return self.scene.node(self._selection[-1]) if self._selection else None

    def select(self, node_ids: Iterable[str]) -> None:
        chosen = tuple(dict.fromkeys(node_id for node_id in node_ids if node_id in self.scene))
        if chosen != self._selection:
            self._selection = chosen
            self.selection_changed.emit()

    def select_keys(self, refs: Iterable[KeyRef]) -> None:
        chosen = frozenset(refs)
        if chosen != self.selected_keys:
            self.selected_keys = chosen
            self.keys_selected.emit()

    def set_auto_key(self, on: bool) -> None:
        self.auto_key = on
        self.settings_changed.emit()
        self.say("Auto-key is on: every change writes a key at the playhead." if on else "Auto-key is off.")

    def say(self, text: str, warning: bool = False) -> None:
        self.said.emit(text, warning)

    # Changing

    def edit(self, name: str, change: Callable[[Scene], Scene]) -> bool:
        """One undo step that changes the scene. A SceneError is told to the user and changes nothing."""
        try:
            scene = change(self._state.scene)
        except SceneError as problem:
            self.say(str(problem), True)
            return False
        return self.push(name, self._state.with_scene(scene))

    def push(self, name: str, state: State, merge: str = "") -> bool:
        """One undo step to another state; none where nothing changed.

        Steps of the same ``merge`` that follow at once (turns of a wheel, repeats of a key) become one.
        """
        if state == self._state or not self._take(state) or not self._is_whole(state.scene):
            return False
        self._add_step(name, merge)
        return True

    def _take(self, state: State) -> bool:
        """Let a state be the present one if it can be evaluated at the playhead; else say why not.

        What cannot be worked out never enters the document. What is worked out is what the panels look at next.
        """
        old, known = self._state, self.here.faults
        self._state = state
        try:
            faults = {node: fault for node, fault in self.here.faults.items() if node not in known}
        except SceneError as problem:
            faults = {"": str(problem)}
        if not faults:
            return True
        self._state = old
        self.say(f"Not done. {next(iter(faults.values()))}", True)
        return False

    def _is_whole(self, scene: Scene) -> bool:
        """Whether a scene may be a step: it can be saved, and evaluated over all of its range. Else it is said why not,
        and the state goes back to that of the last step."""
        frames = np.linspace(scene.settings.first, scene.settings.last, _LOOKED_AT)
        before = self._over_range
        try:
            validate_change(self.history.step.state.scene, scene)
            found = evaluate(scene, frames, previous=before)
            faults = {
                node: fault for node, fault in found.faults.items() if before is None or node not in before.faults
            }
            if before is None or not faults:
                self._over_range = found
                return True
            problem = next(iter(faults.values()))
        except SceneError as refused:
            problem = str(refused)
        self._state = self.history.step.state
        self.say(f"Not done. {problem}", True)
        return False

    def _add_step(self, name: str, merge: str = "") -> None:
        self.history.add(name, self._state, self._selection, merge)
        self._after_change()

    def _after_change(self) -> None:
        if self.is_trying:
            self._proposed, self._shown, self.is_trying = None, None, False
        kept = tuple(node_id for node_id in self._selection if node_id in self.scene)
        if kept != self._selection:
            self._selection = kept
            self.selection_changed.emit()
        if self.selected_keys:
            self.select_keys(self._still_there(self.selected_keys))
        if not self.settings.first <= self._frame <= self.settings.last:
            self.set_frame(self._frame)
        self.changed.emit()
        self.file_changed.emit()

    def _still_there(self, refs: Iterable[KeyRef]) -> list[KeyRef]:
        frames: dict[tuple[str, str], set[float]] = {}
        for node, name in {(ref.node, ref.channel) for ref in refs}:
            channel = self.scene.node(node).channel(name) if node in self.scene else None
            frames[node, name] = {key.frame for key in channel.keys} if channel else set()
        return [ref for ref in refs if ref.frame in frames[ref.node, ref.channel]]

    def set_values(self, name: str, changes: Mapping[tuple[str, str], float], merge: str = "") -> None:
        """Change channels, as one undo step or as part of the running gesture, by the rules of auto-key."""
        if not changes:
            return
        base = self._gesture[1] if self._gesture else self._state
        if self.auto_key and self.scope != "changed":
            changes = dict(changes) | self._along(changes)
        try:
            recorded = record(base, changes, self._frame, self.auto_key)
        except SceneError as problem:
            self.say(str(problem), True)
            return
        self.apply_recorded(name, recorded, merge)

    def _along(self, changes: Mapping[tuple[str, str], float]) -> dict[tuple[str, str], float]:
        """What is keyed along with changes, at the values there are."""
        found = {}
        for node_id in {node for node, _ in changes}:
            for name in in_scope(self.scene.node(node_id), self.scope):
                if (node_id, name) not in changes and not is_locked(self.scene.node(node_id), name):
                    found[node_id, name] = self.value(node_id, name)
        return found

    def set_scope(self, scope: Scope) -> None:
        self.scope = scope
        self.settings_changed.emit()

    @property
    def keys_written(self) -> int:
        """How many of the keys that were written last are still there."""
        return len(self._still_there(self.last_keys[1])) if self.last_keys is not None else 0

    def undo_last_keys(self) -> None:
        """Take just the keys back that were written last; everything else stays."""
        if self.last_keys is None:
            self.say("No keys were written yet.", True)
            return
        before, refs = self.last_keys
        count = len(refs)
        self.last_keys = None
        self.edit(f"Take back {count} key{'' if count == 1 else 's'}", lambda scene: without_keys(scene, before, refs))

    def apply_recorded(self, name: str, recorded: Recorded, merge: str = "") -> None:
        """Take over a recorded change and say what it became."""
        if recorded.keys:
            self.last_keys = (self.gesture_base.scene, recorded.keys)
        if self._gesture:
            self.preview(recorded.state)
        else:
            self.push(name, recorded.state, merge)
        self.tell(name, recorded)

    def tell(self, name: str, recorded: Recorded) -> None:
        if recorded.locked:
            self.say(left_alone(self.scene, recorded.locked), True)
        elif recorded.keys:
            count = len(recorded.keys)
            self.say(f"{name}: {count} key{'' if count == 1 else 's'} written.")
        elif recorded.pending:
            self.say(f"{name}: pending. Key it or discard it.", True)

    # Gestures: a drag previews many states and leaves one undo step.

    def begin(self, name: str) -> None:
        if self._gesture is None:
            self._gesture = (name, self._state)

    @property
    def gesture_base(self) -> State:
        """The state the running gesture started from (the present one where none runs)."""
        return self._gesture[1] if self._gesture else self._state

    def preview(self, state: State, keys: Iterable[KeyRef] | None = None) -> None:
        """Show a state of the running gesture; with ``keys``, those are selected in it."""
        assert self._gesture is not None
        if state != self._state and self._take(state):
            if keys is not None:
                self.select_keys(keys)
            self._after_change()

    def commit(self) -> None:
        """End the gesture; what it changed is one undo step."""
        if self._gesture is None:
            return
        name, base = self._gesture
        self._gesture = None
        if self._state == base:
            return
        if self._is_whole(self._state.scene):
            self._add_step(name)
        else:
            self._after_change()

    def cancel(self) -> None:
        """End the gesture and go back to where it started."""
        if self._gesture is None:
            return
        _, base = self._gesture
        self._gesture = None
        self._state = base
        self._after_change()
        self.say("Cancelled; nothing was changed.")

    # Undo

    @property
    def undo_name(self) -> str | None:
        return self.history.step.name if self.history.before is not None else None

    @property
    def redo_name(self) -> str | None:
        return self.history.after.name if self.history.after is not None else None

    def undo(self) -> None:
        if self._gesture is not None:
            self.cancel()
        elif (step := self.history.back()) is not None:
            self._go_to_step(f"Undone: {step.name}")

    def redo(self) -> None:
        if self._gesture is None and (step := self.history.forward()) is not None:
            self._go_to_step(f"Redone: {step.name}")

    def _go_to_step(self, line: str) -> None:
        step = self.history.step
        self._state = step.state
        self._after_change()
        if not self._selection:
            # What was selected is gone with the step: go back to what was selected before it.
            self.select(step.selection)
        self.say(line)

    # Small conveniences that panels share

    def keep_version(self) -> None:
        """Keep this version of the scene to compare with."""
        self.kept, self._kept_in_passing = self.scene, False
        self.settings_changed.emit()

    def keep_version_before(self) -> bool:
        """Keep the version before the last step, until it is let go; whether there is one."""
        before = self.history.before
        if before is None:
            return False
        self.kept, self._kept_in_passing = before.state.scene, True
        self.settings_changed.emit()
        return True

    def let_version_go(self) -> None:
        """Keep only a version that was asked to be kept."""
        if self._kept_in_passing:
            self.kept, self._kept_in_passing = None, False

    def label(self, node_id: str, channel: str) -> str:
        node = self.scene.node(node_id)
        return f"{node.name} · {spec(node, channel).label}"

    def look_through(self, camera_id: str) -> None:
        """Make a camera the scene's camera."""
        name = self.scene.node(camera_id).name
        self.edit(f"Look through {name}", lambda scene: with_output_camera(scene, camera_id))

    def change_nodes(self, name: str, node_ids: Iterable[str], **fields: object) -> None:
        """Change the same fields of several nodes, as one step."""

        def change(scene: Scene) -> Scene:
            for node_id in node_ids:
                scene = change_node(scene, node_id, **fields)
            return scene

        self.edit(name, change)
