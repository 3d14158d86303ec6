"""Recording takes: a count-in, then every pass of the range is a take, from the tracker or from what is dragged."""

import time
from collections.abc import Callable
from typing import Literal, NamedTuple

import msgspec
import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ... import edits
from ...arrays import Array
from ...edits.take_places import BY_HAND, angles_near, constant, loosened, recorded_channels, standing, with_takes
from ...evaluate import evaluate
from ...motion.takes.arranging import start_here
from ...motion.takes.mending import find_marks
from ...scene import TURN, Channel, Scene, SceneError, Take, packed
from ...scene.channels import POSITION, ROTATION
from ...space.rotation import euler_to_quaternion
from ...tracker.listening import Listener, offset_of
from ...tracker.messages import HOST, PORT, Pose
from ..state.background import Errand
from ..state.document import Document
from ..state.playback import Playback, steady_clock
from ..state.recording import State

Source = Literal["tracker", "hand"]
"""The tracker, or whatever is dragged in the Lens, the Overview or on dials."""
_LEAST = 4
"""Samples that make a take."""
_COUNT_IN = 3
_OPEN = "0.0.0.0"
_REST = 3.0
"""How much longer than the node took to follow the tracker it does nothing."""
_SETTLED_MS = 120


class _Pass(NamedTuple):
    """One go over the range: the frame it began at, when that was, and where the source stood then."""

    frame: float
    began: float
    first: int


_Prepared = tuple[list[Take], tuple[Scene, Scene, list[str]] | None]
"""Takes with their marks; a scene, and that scene with them in it and their ids, where that could be worked out."""


class TakeRecorder(QObject):
    """Idle, counting in, or recording. What is recorded becomes takes, as one step, when it is stopped."""

    changed = pyqtSignal()
    finished = pyqtSignal(list)
    """The ids of the takes that were made."""

    def __init__(self, document: Document, playback: Playback, clock: Callable[[], float] = steady_clock) -> None:
        super().__init__()
        self._document, self._playback, self._clock = document, playback, clock
        self.source: Source = "hand"
        self.open_to_others = False
        """Whether other machines than this one are listened to."""
        self.port = PORT
        self.listener: Listener | None = None
        self.left = 0
        """Counts until it begins; 0 while it does not count in."""
        self.is_recording = False
        self.count_in = True
        self._node = ""
        self._auto_key = False
        self._passes: list[_Pass] = []
        self._heard: list[tuple[float, tuple[float, ...]]] = []
        """Of a hand: the moment and the values of all channels that are recorded."""
        self._names: tuple[str, ...] = ()
        self._made: list[Take] = []
        self._last_frame = 0.0
        self._rests_until = 0.0
        self._first_pose: Pose | None = None
        self._last_pose: Pose | None = None
        self._to_prepare: Callable[[Errand], _Prepared] | None = None
        """What is to be done with a recording once the window has taken in that it is over."""
        self._preparing: Errand | None = None
        self._settling = QTimer(self)
        self._settling.setSingleShot(True)
        self._settling.setInterval(_SETTLED_MS)
        self._settling.timeout.connect(self._begin_preparing)
        self._counting = QTimer(self)
        self._counting.timeout.connect(self._count)
        playback.changed.connect(self._playback_changed)
        document.playhead.moved.connect(self._moved)
        document.changed.connect(self._look)
        document.opened.connect(self.forget)

    # The tracker

    def set_source(self, source: Source) -> None:
        """Choose what is recorded from; the tracker is listened to from then on."""
        self.source = source
        if source == "tracker":
            self.listen()
        else:
            self.stop_listening()
        self.changed.emit()

    def listen(self) -> bool:
        """Listen to the tracker's port; whether it can be."""
        if self.listener is not None and not self.listener.problem:
            return True
        self.stop_listening()
        try:
            self.listener = Listener(self.port, _OPEN if self.open_to_others else HOST, self._clock)
        except OSError as problem:
            self._document.messages.say(
                f"Port {self.port} cannot be listened to: {problem.strerror}. Close what uses it, and try again.", True
            )
            return False
        return True

    def set_port(self, port: int) -> None:
        """Listen to another port."""
        self.port = port
        if self.listener is not None:
            self.stop_listening()
            self.listen()
        self.changed.emit()

    def set_open(self, on: bool) -> None:
        """Listen to other machines too, or to this one alone."""
        self.open_to_others = on
        if self.listener is not None:
            self.stop_listening()
            self.listen()
        self.changed.emit()

    def stop_listening(self) -> None:
        if self.listener is not None:
            self.listener.close()
            self.listener = None

    # Beginning and ending

    @property
    def is_busy(self) -> bool:
        return self.is_recording or self.left > 0

    @property
    def pass_began(self) -> float | None:
        """The frame at which the pass that is recorded began; None while nothing is."""
        return self._passes[-1].frame if self.is_recording and self._passes else None

    def toggle(self) -> None:
        """Begin, with a count-in, or stop."""
        if self.is_busy:
            self.stop()
        else:
            self.start()

    def start(self) -> None:
        """Count in, and record the selected node from the start of the range."""
        document = self._document
        node = document.selection.active or document.views.camera
        if node is None:
            document.messages.say("Select the camera or node whose motion is recorded.", True)
            return
        if node.locked:
            document.messages.say(f"{node.name} is locked. Unlock it first.", True)
            return
        if self.source == "tracker" and not self.listen():
            return
        if self.source == "tracker" and self.listener is not None and self.listener.latest is None:
            document.messages.say(
                f"Nothing is heard on port {self.port} yet. Start the tracker, or: wild-heron tracker --repeat.",
                True,
            )
            return
        self._node = node.id
        self._playback.stop()
        first = float(document.playhead.range[0])
        document.playhead.set_frame(first)
        if not self.count_in:
            self._begin()
            return
        beats = document.scene.beats
        self.left = beats.bar if beats is not None else _COUNT_IN
        beat = 60.0 / beats.tempo if beats is not None else 1.0
        self._counting.start(round(1000.0 * beat))
        self.changed.emit()

    def _count(self) -> None:
        self.left -= 1
        if self.left <= 0:
            self.left = 0
            self._counting.stop()
            self._begin()
        self.changed.emit()

    def _begin(self) -> None:
        document = self._document
        node = document.scene.node(self._node)
        self._names = recorded_channels(node)
        self._auto_key, document.recorder.auto_key = document.recorder.auto_key, False
        loose = loosened(document.scene, node.id, self._names, document.playhead.frame)
        if not document.gesture.hold("Record", State(loose)):
            document.recorder.auto_key = self._auto_key
            return
        document.evaluations.lean_on(loose)
        self._made = []
        self.is_recording = True
        self._last_frame = document.playhead.frame
        self._begin_pass()
        self._playback.play()
        self.changed.emit()

    def stop(self) -> None:
        """End it, and keep what was recorded as takes; the last is in use."""
        if self.left:
            self.left = 0
            self._counting.stop()
            self.changed.emit()
            return
        if not self.is_recording:
            return
        self._end_pass()
        self.is_recording = False
        self._playback.stop()
        document = self._document
        document.recorder.auto_key = self._auto_key
        document.evaluations.lean_on(None)
        document.gesture.let_go()
        made, self._made = self._made, []
        if made:
            self._prepare(made)
        else:
            why = "" if self.listener is None else self.listener.problem
            document.messages.say(why or "Nothing moved, so there is no take.", True)
        self.changed.emit()

    def forget(self) -> None:
        """Another scene is open."""
        self._counting.stop()
        self.left, self.is_recording = 0, False
        self._passes, self._made = [], []

    def shut_down(self) -> None:
        """For when the window closes."""
        self._counting.stop()
        if self.is_recording:
            self.stop()
        self.finish()
        self.stop_listening()

    # While it goes on

    def _begin_pass(self) -> None:
        heard = self.listener.count if self.listener is not None else 0
        self._passes.append(_Pass(self._document.playhead.frame, self._clock(), heard))
        self._heard = []
        self._first_pose = self._last_pose = None
        self._look()

    def _moved(self) -> None:
        if not self.is_recording:
            return
        frame = self._document.playhead.frame
        if frame < self._last_frame:
            # It plays round and round: each time is a take.
            self._end_pass()
            self._begin_pass()
        self._last_frame = frame
        self._look()
        if self.source == "tracker":
            # By itself, when the playhead has been seen to move: both at once would hold the window up.
            self._document.turns.ask(self, self._show_tracker)

    def _playback_changed(self) -> None:
        if self.is_recording and not self._playback.is_playing:
            self.stop()

    def _look(self) -> None:
        """Sample what the hand has made of the node."""
        if not self.is_recording or self.source != "hand" or not self._passes:
            return
        scene = self._document.scene
        if self._node not in scene:
            return
        node = scene.node(self._node)
        values = tuple(constant(node, name) for name in self._names)
        now = self._clock()
        if not self._heard or now - self._heard[-1][0] > 1e-3:
            self._heard.append((now, values))
        else:
            self._heard[-1] = (self._heard[-1][0], values)

    def _show_tracker(self) -> None:
        """Let the node follow the tracker's last message, from where it stood."""
        listener = self.listener
        pose = listener.latest if listener is not None else None
        now = time.perf_counter()
        if not self.is_recording or pose is None or pose is self._last_pose or now < self._rests_until:
            return
        self._last_pose = pose
        if self._first_pose is None:
            self._first_pose = pose
        first = self._first_pose
        document = self._document
        times = np.array([0.0, 1.0])
        rows = np.array([[*first.position, *first.quaternion], [*pose.position, *pose.quaternion]])
        live = Take("live", "live", self._node, (*POSITION, *TURN), packed(times, rows))
        base = document.gesture.base
        node = base.scene.node(self._node)
        put = start_here(live, *standing(base.scene, self._node, document.playhead.frame))
        scene = base.scene
        last = put.table()[-1, 1:]
        angles = angles_near(node, last[3:])
        for name, value in zip((*POSITION, *ROTATION), (*last[:3].tolist(), *angles), strict=True):
            scene = edits.set_channel(scene, self._node, Channel(name, float(value)))
        document.gesture.preview(State(scene))
        # However long that takes here, most of the time is the window's.
        done = time.perf_counter()
        self._rests_until = done + _REST * (done - now)

    def _end_pass(self) -> None:
        """Make a take of what was recorded since the pass began."""
        if not self._passes:
            return
        gone = self._passes.pop()
        take = self._tracked(gone) if self.source == "tracker" else self._by_hand(gone)
        if take is not None:
            self._made.append(take)

    def _tracked(self, gone: _Pass) -> Take | None:
        if self.listener is None:
            return None
        samples = self.listener.samples(gone.first)
        if len(samples.times) < _LEAST:
            return None
        kept = samples.times + offset_of(samples) >= gone.began - 1e-3
        times = samples.times[kept]
        if len(times) < _LEAST:
            return None
        start = float(times[0] + offset_of(samples) - gone.began)
        columns = np.concatenate([samples.position, samples.quaternion], axis=1)[kept]
        return self._take(gone, (*POSITION, *TURN), times - times[0], columns, start)

    def _by_hand(self, gone: _Pass) -> Take | None:
        if len(self._heard) < _LEAST:
            return None
        times = np.array([at for at, _ in self._heard])
        values = np.array([row for _, row in self._heard])
        node = self._document.scene.node(self._node)
        moved = [k for k in range(len(self._names)) if float(np.ptp(values[:, k])) > 1e-9]
        if not moved:
            return None
        place = [self._names.index(name) for name in POSITION]
        turns = [self._names.index(name) for name in ROTATION]
        names: list[str] = []
        parts: list[Array] = []
        if set(place) & set(moved):
            names += POSITION
            parts.append(values[:, place])
        if set(turns) & set(moved):
            names += TURN
            parts.append(euler_to_quaternion(np.radians(values[:, turns]), node.rotation_order))
        others = [k for k in moved if k not in (*place, *turns)]
        names += [self._names[k] for k in others]
        parts.append(values[:, others])
        start = float(times[0] - gone.began)
        made = self._take(gone, tuple(names), times - times[0], np.concatenate(parts, axis=1), start)
        return msgspec.structs.replace(made, step=BY_HAND)

    def _take(self, gone: _Pass, names: tuple[str, ...], times: Array, columns: Array, start: float) -> Take:
        node = self._document.scene.node(self._node)
        number = len(self._made) + 1 + sum(not take.source for take in self._document.scene.takes)
        fps = self._document.settings.rate.fps
        return Take(
            f"take-{number}", f"{node.name} take {number}"[:200], node.id, names, packed(times, columns),
            frame=round(gone.frame + max(start, 0.0) * fps, 6),
        )  # fmt: skip

    def _prepare(self, made: list[Take]) -> None:
        """Look for what is wrong with recordings, which takes a while where they are long, away from the interface."""
        if self.source == "hand":
            self._keep(made)
            return
        scene, node_id, frame = self._document.scene, self._node, self._document.playhead.frame

        def work(errand: Errand) -> _Prepared:
            takes = [msgspec.structs.replace(take, marks=find_marks(take)) for take in made]
            try:
                kept, ids = with_takes(scene, node_id, takes)
                # What is worked out of a take for the first time is kept, and is there when the window asks for it.
                evaluate(kept, [frame], [node_id])
            except SceneError:
                return takes, None
            return takes, (scene, kept, ids)

        self._to_prepare = work
        self._settling.start()

    def _begin_preparing(self) -> None:
        work, self._to_prepare = self._to_prepare, None
        if work is not None:
            self._preparing = self._document.background.start(
                "looking at takes", work, lambda found: self._keep(*found)
            )

    def finish(self) -> None:
        """Wait until what was recorded is kept; for tests, and when the window closes."""
        self._settling.stop()
        self._begin_preparing()
        self._document.background.finish(self._preparing)

    def _keep(self, made: list[Take], ready: tuple[Scene, Scene, list[str]] | None = None) -> None:
        """Add the takes as one step, and use the last. ``ready``: a scene, and that scene with them in it."""
        document, ids = self._document, list[str]()
        node_id, self._preparing = self._node, None
        if node_id not in document.scene:
            return

        def change(scene: Scene) -> Scene:
            if ready is not None and ready[0] is scene:
                ids[:] = ready[2]
                return ready[1]
            scene, ids[:] = with_takes(scene, node_id, made)
            return scene

        name = document.scene.node(node_id).name
        word = "take" if len(made) == 1 else f"{len(made)} takes"
        if document.edit(f"Record {word} of {name}", change):
            document.messages.say(f"{name}: {word} recorded, {made[-1].count} samples in the last. It is in use.")
            self.finished.emit(ids)
