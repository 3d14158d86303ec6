"""Evaluates blocks of frames around the playhead in a thread. Free of Qt."""

import threading
from collections import OrderedDict

import numpy as np

from ...evaluate import Evaluation, evaluate
from ...log import log
from ...scene import Format, Scene, SceneError

BLOCK = 32
"""Frames that are evaluated together, which costs hardly more than one of them."""
_KEPT = 24
_SETTLE_SECONDS = 0.08
"""How long a scene must stay the same before it is worth evaluating ahead: a drag changes it all the time."""

Look = tuple[str | None, Format | None]
"""Through which camera (None: what the output shows), and in which format."""


class Ahead:
    """The blocks of one scene at a time."""

    def __init__(self) -> None:
        self._wake = threading.Condition()
        self._wanted: tuple[Scene, float, tuple[Look, ...]] | None = None
        self._scene: Scene | None = None
        self._blocks: OrderedDict[int, Evaluation] = OrderedDict()
        self._thread: threading.Thread | None = None
        self._stopped = self._held = False

    def hold(self) -> None:
        """Evaluate nothing ahead until ``go_on``: another scene is open, and its panels come first."""
        with self._wake:
            self._held = True

    def go_on(self) -> None:
        with self._wake:
            self._held = False
            self._wake.notify()

    def begin(self, scene: Scene, frame: float) -> Evaluation | None:
        """A scene at the first frame of it that is looked at, evaluated here with its whole block: that costs little
        more, and what is still is seen by it. None between whole frames."""
        if frame != int(frame):
            return None
        block, inside = divmod(int(frame), BLOCK)
        made = evaluate(scene, np.arange(block * BLOCK, (block + 1) * BLOCK, dtype=np.float64))
        with self._wake:
            self._scene, self._blocks = scene, OrderedDict({block: made})
        return made.at(inside)

    def ask(self, scene: Scene, frame: float, looks: tuple[Look, ...] = ()) -> None:
        """Evaluate this scene from now on, what is near the frame first, with what is seen through some cameras."""
        with self._wake:
            if self._stopped:
                return
            self._wanted = (scene, frame, looks)
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, name="evaluate ahead", daemon=True)
                self._thread.start()
            self._wake.notify()

    def look_up(self, scene: Scene, frame: float) -> Evaluation | None:
        """The scene at a whole frame, if it has been evaluated."""
        block, inside = divmod(int(frame), BLOCK)
        with self._wake:
            if frame != int(frame) or self._scene is not scene or block not in self._blocks:
                return None
            self._blocks.move_to_end(block)
            return self._blocks[block].at(inside)

    def stop(self) -> None:
        with self._wake:
            self._stopped = True
            self._wake.notify()
        if self._thread is not None:
            self._thread.join(5.0)

    def _run(self) -> None:
        while True:
            with self._wake:
                task = self._next()
                while task is None and not self._stopped:
                    self._wake.wait()
                    # Until it has not changed for a moment.
                    while not self._stopped and self._wake.wait(_SETTLE_SECONDS):
                        pass
                    task = self._next()
                if self._stopped:
                    return
            assert task is not None
            scene, block, looks = task
            try:
                made = evaluate(scene, np.arange(block * BLOCK, (block + 1) * BLOCK, dtype=np.float64))
                for camera, shape in looks:
                    made.camera(camera, shape)
            except Exception as problem:  # A thread must not end with it.
                if not isinstance(problem, SceneError):
                    log.error("evaluating ahead", exc_info=problem)
                made = None
            with self._wake:
                if made is None:
                    self._wanted = None
                elif self._scene is scene:
                    self._blocks[block] = made
                    while len(self._blocks) > _KEPT:
                        self._blocks.popitem(last=False)

    def _next(self) -> tuple[Scene, int, tuple[Look, ...]] | None:
        """What is most worth evaluating; None for nothing. Called with the lock held."""
        if self._wanted is None or self._held:
            return None
        scene, frame, looks = self._wanted
        if self._scene is not scene:
            self._scene = scene
            self._blocks = OrderedDict()
        here = int(frame // BLOCK)
        first, last = int(scene.settings.first // BLOCK), int(scene.settings.last // BLOCK)
        near = sorted(
            range(max(first, here - _KEPT // 3), min(last, here + _KEPT // 2) + 1), key=lambda b: abs(b - here)
        )
        block = next((each for each in near if each not in self._blocks), None)
        return None if block is None else (scene, block, looks)
