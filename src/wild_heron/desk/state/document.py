"""The open scene: its state with undo, and everything about it that panels look at."""

from collections.abc import Callable, Iterable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...edits import KeyRef, change_node
from ...scene import Scene, SceneError, Settings, spec
from ...scene.output import with_output_camera
from .audio_cache import AudioCache
from .background import Background
from .check_results import Checked
from .evaluations import Evaluations
from .gesture import Gesture
from .history import History
from .idle_queue import Turns
from .playhead import Playhead
from .recorder import Recorder
from .recording import State
from .scene_file import SceneFile
from .selection import Selection
from .status_messages import Messages
from .versions import Versions
from .views import Views


class Document(QObject):
    """The parts know the scene through it. Panels change it only through its methods and those of its parts."""

    changed = pyqtSignal()
    """The scene or the pending values changed, or another scene is shown."""
    settings_changed = pyqtSignal()
    """Auto-key, the play range, the format or the kept version changed."""
    opened = pyqtSignal()
    """Another scene was opened."""

    def __init__(self) -> None:
        super().__init__()
        self._state = State(Scene())
        self._saved_state: State | None = None
        self.turns = Turns()
        self.background = Background()
        self.messages = Messages()
        self.file = SceneFile(self.messages)
        self.history = History(self._state)
        self.gesture = Gesture(self)
        self.playhead = Playhead(lambda: self.settings)
        self.selection = Selection(lambda: self.scene)
        self.views = Views(lambda: self._state, self.playhead)
        self.evaluations = Evaluations(self.views, self.playhead)
        self.recorder = Recorder(self, self.gesture, self.playhead, self.selection, self.evaluations, self.messages)
        self.versions = Versions()
        self.heard = AudioCache()
        self.checked = Checked()
        self.views.changed.connect(self.changed)
        for signal in (
            self.playhead.range_changed,
            self.views.format_changed,
            self.recorder.changed,
            self.versions.changed,
        ):
            signal.connect(self.settings_changed)
        self.reset(Scene(), None)

    @property
    def scene(self) -> Scene:
        """The scene as it would be saved."""
        return self._state.scene

    @property
    def state(self) -> State:
        return self._state

    @property
    def settings(self) -> Settings:
        return self._state.scene.settings

    # What is open

    def reset(self, scene: Scene, path: Path | None, base: Path | None = None, unsaved: bool = False) -> None:
        """Open another scene; ``base`` is where its artwork paths start from."""
        self.file.move_to(path, base)
        self._state = State(scene)
        self._saved_state = None if unsaved else self._state
        self.history = History(self._state)
        self.gesture.drop()
        self.recorder.last_keys = None
        self.selection.clear()
        self.views.reset()
        self.versions.reset()
        self.evaluations.reset()
        self.playhead.restart()
        for signal in (
            self.file.changed,
            self.changed,
            self.selection.changed,
            self.selection.keys_changed,
            self.playhead.moved,
            self.settings_changed,
            self.opened,
        ):
            signal.emit()
        # Once the event loop has come round, and with it everything has been painted.
        QTimer.singleShot(0, self.evaluations.go_on)

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
        if self.versions.kept is not None:
            self.versions.kept = rewrite(self.versions.kept)
        self.file.move_to(path)
        self._saved_state = self._state
        self.changed.emit()
        self.file.changed.emit()

    def mark_loaded(self) -> None:
        """The state is what is on disk."""
        self._saved_state = self._state
        self.file.changed.emit()

    def stop(self) -> None:
        """For when the program ends."""
        self.background.cancel()
        self.turns.stop()
        self.evaluations.stop()
        # What waits for a file ends with the reader.
        self.file.stop()
        self.background.stop()

    # Changing

    def edit(self, name: str, change: Callable[[Scene], Scene]) -> bool:
        """One undo step that changes the scene. A SceneError is told to the user and changes nothing."""
        try:
            scene = change(self._state.scene)
        except SceneError as problem:
            self.messages.say(str(problem), True)
            return False
        return self.push(name, self._state.with_scene(scene))

    def push(self, name: str, state: State, merge: str = "") -> bool:
        """One undo step to another state; none where nothing changed.

        Steps of the same ``merge`` that follow at once (turns of a wheel, repeats of a key) become one.
        """
        if self.gesture.is_held:
            self.messages.say("Not while a take is recorded. Stop it first.", True)
            return False
        if state == self._state or not self.try_state(state) or not self._is_whole(state.scene):
            return False
        self._add_step(name, merge)
        return True

    def try_state(self, state: State) -> bool:
        """Let a state be the present one if it can be evaluated at the playhead; else say why not.

        What cannot be worked out never enters the document. What is worked out is what the panels look at next.
        """
        self.evaluations.is_settled = not self.gesture.running
        old, known = self._state, self.evaluations.here.faults
        self._state = state
        try:
            faults = {node: fault for node, fault in self.evaluations.here.faults.items() if node not in known}
        except SceneError as problem:
            faults = {"": str(problem)}
        if not faults:
            return True
        self._state = old
        self.messages.say(f"Not done. {next(iter(faults.values()))}", True)
        return False

    def _is_whole(self, scene: Scene) -> bool:
        """Whether a scene may be a step. Else it is said why not, and the state goes back to that of the last step."""
        problem = self.evaluations.why_not(self.history.step.state.scene, scene)
        if problem is None:
            return True
        self._state = self.history.step.state
        self.messages.say(f"Not done. {problem}", True)
        return False

    def _add_step(self, name: str, merge: str = "") -> None:
        self.history.add(name, self._state, self.selection.nodes, merge)
        self._after_change()

    def _after_change(self) -> None:
        self.evaluations.is_settled = not self.gesture.running
        self.views.drop_trial()
        self.selection.drop_what_is_gone()
        self.playhead.keep_inside()
        self.changed.emit()
        if not self.gesture.running:
            self.file.changed.emit()

    # What gestures need

    def show(self, state: State, keys: Iterable[KeyRef] | None = None) -> None:
        """Tell everyone about a state; with ``keys``, those are selected in it."""
        self._state = state
        if keys is not None:
            self.selection.choose_keys(keys)
        self._after_change()

    def finish(self, name: str) -> None:
        """Make the present state a step, or go back to the last one."""
        if self._is_whole(self._state.scene):
            self._add_step(name)
        else:
            self._after_change()

    def cancel(self) -> None:
        """End the running gesture and go back to where it started."""
        if self.gesture.cancel():
            self.messages.say("Cancelled; nothing was changed.")

    # Undo

    def undo(self) -> None:
        if self.gesture.running:
            self.cancel()
        elif (step := self.history.back()) is not None:
            self._go_to_step(f"Undone: {step.name}")

    def redo(self) -> None:
        if not self.gesture.running and (step := self.history.forward()) is not None:
            self._go_to_step(f"Redone: {step.name}")

    def go_to_step(self, position: int) -> None:
        """Go to how the scene was after so many steps, however many lie between."""
        if self.gesture.running:
            self.cancel()
        if self.history.go(position):
            self._go_to_step(f"Back at: {self.history.step.name}" if position else "Back at how it was opened")

    def _go_to_step(self, line: str) -> None:
        step = self.history.step
        self._state = step.state
        self._after_change()
        if not self.selection.nodes:
            # What was selected is gone with the step: go back to what was selected before it.
            self.selection.choose(step.selection)
        self.messages.say(line)

    def keep_version_before(self) -> bool:
        """Keep the version before the last step, until it is let go; whether there is one."""
        before = self.history.before
        if before is None:
            return False
        self.versions.keep(before.state.scene, in_passing=True)
        return True

    # Small conveniences that panels share

    def label(self, node_id: str, channel: str) -> str:
        node = self.scene.node(node_id)
        return f"{node.name} · {spec(node, channel).label}"

    def look_through(self, camera_id: str) -> None:
        """Show a camera or a framing in the Lens; where there is no film, the output shows the camera from now on."""
        node = self.scene.node(camera_id)
        if self.scene.shots or not node.serves_as("camera"):
            self.views.set_lens(camera_id)
        else:
            self.edit(f"Look through {node.name}", lambda scene: with_output_camera(scene, camera_id))
            self.views.set_lens(None)

    def change_nodes(self, name: str, node_ids: Iterable[str], **fields: object) -> None:
        """Change the same fields of several nodes, as one step."""

        def change(scene: Scene) -> Scene:
            for node_id in node_ids:
                scene = change_node(scene, node_id, **fields)
            return scene

        self.edit(name, change)
