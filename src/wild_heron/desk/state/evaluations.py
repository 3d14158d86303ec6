"""Evaluations of the shown scene: at the playhead, around it, and as a trial of new states."""

import numpy as np

from ...arrays import Array
from ...evaluate import CameraView, Evaluation, evaluate
from ...scene import Scene, SceneError
from ...scene.output import cameras, has_output, lens_nodes
from ...scene.validate import validate_change
from .playhead import Playhead
from .prefetch import Ahead, Look
from .views import Views

_LOOKED_AT = 5
"""At how many frames of the range a step is evaluated before it enters the document."""


class Evaluations:
    """What the panels look numbers up in."""

    def __init__(self, views: Views, playhead: Playhead) -> None:
        self._views, self._playhead = views, playhead
        self._here: tuple[Scene, float, Evaluation] | None = None
        self._over_range: Evaluation | None = None
        self._ahead = Ahead()
        self.is_settled = True
        """Whether no gesture is changing the scene all the time."""
        self._basis: Scene | None = None
        self.drawing_problems: dict[str, str] = {}
        """By node id, what the renderer found wrong: files that cannot be read, what cannot be drawn."""

    def lean_on(self, scene: Scene | None) -> None:
        """Take from evaluations of this scene ahead of the playhead what does not differ in those that are shown: for
        when another scene is shown with every frame; None: no more."""
        self._basis = scene

    @property
    def here(self) -> Evaluation:
        """The shown scene at the playhead (N = 1)."""
        scene, frame, known = self._views.shown, self._playhead.frame, self._here
        if known is None or known[0] is not scene or known[1] != frame:
            found = self._ahead.look_up(scene, frame)
            if found is None:
                previous = known[2] if known is not None else None
                if self._basis is not None and (previous is None or previous.frames[0] != frame):
                    previous = self._ahead.look_up(self._basis, frame) or previous
                found = self._ahead.begin(scene, frame) if known is None else None
                if found is None:
                    found = evaluate(scene, frame, previous=previous)
            known = self._here = (scene, frame, found)
            if self._basis is not None:
                self._ahead.ask(self._basis, frame, self._looks(self._basis))
            elif self.is_settled and not self._views.is_proposing:
                self._ahead.ask(scene, frame, self._looks(scene))
        return known[2]

    def _looks(self, scene: Scene) -> tuple[Look, ...]:
        """What panels look at: the Lens, in its format and in the scene's own frame, and every camera."""
        lens = self._views.lens
        seen: list[str | None] = [None] if has_output(scene) else []
        if lens is not None and lens in scene:
            seen = [lens]
        shapes = dict.fromkeys((self._views.format_or_none, None))
        return (*((each, shape) for each in seen for shape in shapes), *((each, None) for each in cameras(scene)))

    @property
    def seen(self) -> CameraView | None:
        """What the Lens shows at the playhead (N = 1)."""
        lens, scene = self._lens, self._views.shown
        return self.here.camera(lens, self._views.format_or_none) if lens or has_output(scene) else None

    @property
    def _lens(self) -> str | None:
        """What the Lens shows; where that is not in what is proposed, the output."""
        lens = self._views.lens
        return lens if lens is not None and lens in self._views.shown else None

    def around(self) -> tuple[CameraView, CameraView]:
        """What the Lens shows a frame before and a frame after the playhead."""
        scene, frame = self._views.shown, self._playhead.frame
        times = (frame - 1.0, frame + 1.0)
        before, after = (self._ahead.look_up(scene, each) for each in times)
        if before is None or after is None:
            both = evaluate(scene, times, lens_nodes(scene, self._lens))
            before, after = both.at(0), both.at(1)
        return before.camera(self._lens), after.camera(self._lens)

    def value(self, node_id: str, channel: str) -> float:
        here = self.here
        if not here.has_channel(node_id, channel):
            # What is proposed has no such channel; the scene itself has.
            here = evaluate(self._views.keyed, self._playhead.frame, [node_id])
        return float(here.value(node_id, channel)[0])

    def keyed_value(self, node_id: str, channel: str) -> float:
        """What a channel's keys, links and formula come to at the playhead, whatever movers and takes make of it."""
        here = self.here
        if not here.has_channel(node_id, channel):
            here = evaluate(self._views.keyed, self._playhead.frame, [node_id])
        return float(here.unmoved(here.node(node_id), channel)[0])

    def world(self, node_id: str) -> Array:
        """A node's world matrix (4, 4) at the playhead."""
        return np.asarray(self.here.world(node_id)[0])

    @property
    def problems(self) -> dict[str, str]:
        """By node id of the scene, what is wrong with it here: why it stands still, or cannot be shown."""
        found, scene = self.drawing_problems | self.here.faults, self._views.keyed
        return {node: problem for node, problem in found.items() if node in scene}

    def why_not(self, before: Scene, scene: Scene) -> str | None:
        """Why a scene may not follow on another: it cannot be saved, or evaluated over all of its range. None: it
        may."""
        frames = np.linspace(scene.settings.first, scene.settings.last, _LOOKED_AT)
        known = self._over_range
        try:
            validate_change(before, scene)
            found = evaluate(scene, frames, previous=known)
        except SceneError as refused:
            return str(refused)
        faults = [fault for node, fault in found.faults.items() if known is None or node not in known.faults]
        if known is not None and faults:
            return faults[0]
        self._over_range = found
        return None

    def reset(self) -> None:
        """Another scene is open: nothing is evaluated ahead until its panels are there."""
        self._over_range = self._here = None
        self._ahead.hold()

    def go_on(self) -> None:
        """The panels are there."""
        self._ahead.go_on()

    def stop(self) -> None:
        """For when the program ends."""
        self._ahead.stop()
