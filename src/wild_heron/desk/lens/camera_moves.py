"""A camera's moves since a pose: by mouse and by number, each of which can be reset."""

from math import radians, tan

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from ...edits.posing import values_for_pose
from ...evaluate import evaluate
from ...scene import Scene, Tour, View, bind_subject
from ...scene.channels import FOCAL, POSITION, ROTATION
from ...space.moves import Moves, moved_pose
from ...space.transform import apply, invert
from ..state.document import Document
from ..state.recording import State

MOVE_NAMES = ("pan", "tilt", "roll", "truck", "pedestal", "dolly", "zoom", "orbit", "lift")


class CameraMoves(QObject):
    """The running tally of moves of the Lens's camera at the playhead.

    It begins anew when the camera, the frame or anything else changes; until then every move stays a number that can
    be typed or put back to nothing.
    """

    changed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._mine = False
        self._made: State | None = None
        self.moves = Moves()
        self._base: tuple[str, float, Scene] | None = None
        document.changed.connect(self._changed_elsewhere)
        document.playhead.moved.connect(self.restart)
        document.settings_changed.connect(self.restart)

    def restart(self) -> None:
        self.moves = Moves()
        self._base = None
        self.changed.emit()

    def _changed_elsewhere(self) -> None:
        # The end of a drag leaves the state that the last move made: the tally goes on.
        if not self._mine and self._document.state is not self._made:
            self.restart()

    def _start(self) -> tuple[str, float, Scene] | None:
        camera = self._document.views.camera
        if camera is None:
            return None
        if self._base is None:
            self._base = (camera.id, self._document.playhead.frame, self._document.views.shown)
        return self._base

    def refused(self, name: str) -> str | None:
        """Why a move cannot be made, or None."""
        camera = self._document.views.camera
        if camera is None:
            return "There is no camera. Camera ▸ Add camera makes one."
        if camera.locked:
            return f"{camera.name} is locked. Unlock it in the Rig first."
        if any(bind.takes_lens and bind.on and not isinstance(bind, Tour) for bind in camera.binds):
            return (
                f"{camera.name} is a mix of other cameras, which decide where it is. Move those, or change its weights."
            )
        if any(isinstance(bind, Tour) and bind.on for bind in camera.binds):
            return (
                f"{camera.name} is on tour, which decides where it is. "
                "Update one of its framings, or Film ▸ Framings ▸ Leave the tour."
            )
        if camera.aim is not None and camera.aim.on and camera.aim.targets and name in ("pan", "tilt"):
            target = bind_subject(self._document.scene, camera.aim)
            return (
                f"{camera.name} is aimed at {target}, which decides where it looks. "
                f"Move {target}, or Rig ▸ Remove the aim."
            )
        return None

    def focus_point(self) -> tuple[np.ndarray, float]:
        """What the camera orbits (3,) and its distance: the aim, or the point in focus."""
        camera = self._document.views.camera
        assert camera is not None
        view = self._document.evaluations.here.camera(camera.id)
        point = view.subject()[0]
        return point, max(float(np.linalg.norm(point - view.position[0])), 1e-3)

    def set_moves(self, moves: Moves, label: str, merge: str = "") -> None:
        """Put the camera where these moves from the starting pose lead."""
        base = self._start()
        if base is None:
            return
        camera_id, frame, scene = base
        changes = self._changes(scene, camera_id, frame, moves)
        self.moves = moves
        self._mine = True
        try:
            self._document.recorder.set_values(
                label, {(camera_id, name): value for name, value in changes.items()}, merge
            )
        finally:
            self._mine = False
            self._made = self._document.state
        self.changed.emit()

    def _changes(self, scene: Scene, camera_id: str, frame: float, moves: Moves) -> dict[str, float]:
        camera = scene.node(camera_id)
        assert isinstance(camera, View)
        here = evaluate(scene, frame, [camera_id])
        view = here.camera(camera_id)
        after, aim_after = moved_pose(view.pose[0], view.subject()[0], moves)
        base = {name: float(here.value(camera_id, name)[0]) for name in (*POSITION, *ROTATION, FOCAL)}
        placed = values_for_pose(scene, camera_id, after, frame)
        wanted = {name: placed.get(name, base[name]) for name in POSITION}
        if camera.aim is None or not camera.aim.on:
            wanted |= {name: placed.get(name, base[name]) for name in ROTATION}
        else:
            wanted[ROTATION[2]] = base[ROTATION[2]] + moves.roll
        if camera.aim is not None and not camera.aim.targets:
            carrier = here.world(camera.carrier)[0] if camera.carrier else np.eye(4)
            local = apply(invert(carrier), aim_after) if moves.pan or moves.tilt else None
            for k, name in enumerate(f"{camera.aim.id}.{axis}" for axis in "xyz"):
                wanted[name] = float(here.value(camera_id, name)[0]) if local is None else round(float(local[k]), 10)
        wanted[FOCAL] = min(max(base[FOCAL] * moves.zoom, 1.0), 5000.0)
        present = self._document.evaluations.value
        return {name: value for name, value in wanted.items() if abs(value - present(camera_id, name)) > 1e-9}

    def set_amount(self, name: str, amount: float, repeats: bool = False) -> None:
        """One move's amount, typed. The zoom's is a focal length in millimetres."""
        why = self.refused(name)
        if why:
            self._document.messages.say(why, True)
            return
        if name == "zoom":
            base = self._start()
            assert base is not None
            focal = float(evaluate(base[2], base[1], [base[0]]).value(base[0], FOCAL)[0])
            amount = amount / focal
        merge = f"moves/{name}/{self._document.playhead.frame}" if repeats else ""
        self.set_moves(self.moves.with_amount(name, amount), name.capitalize(), merge)

    def reset(self, name: str) -> None:
        """Undo one move and keep the others."""
        self.set_moves(self.moves.with_amount(name, getattr(Moves(), name)), f"Reset {name}")

    def reset_all(self) -> None:
        if not self.moves.is_none:
            self.set_moves(Moves(), "Reset the camera's moves")

    def dragged(
        self,
        tool: str,
        dx: float,
        dy: float,
        size: tuple[float, float],
        distance: float,
        start: Moves,
        angle: float,
    ) -> Moves:
        """The moves after a drag with a tool: pixels since the press over a picture of ``size``, the distance of what
        was looked at when it began, and for the roll the angle in degrees swept about the picture's middle."""
        camera = self._document.views.camera
        assert camera is not None
        across, up = self._document.evaluations.here.camera(camera.id, self._document.views.format_or_none).angles()
        width, height = size
        if tool == "turn":
            pan, tilt = dx / width * float(across[0]), dy / height * float(up[0])
            return replace(start, pan=start.pan + pan, tilt=start.tilt + tilt)
        if tool == "roll":
            return replace(start, roll=start.roll - angle)
        if tool == "slide":
            per_pixel = 2.0 * distance * tan(radians(float(across[0])) / 2.0) / width
            return replace(start, truck=start.truck - dx * per_pixel, pedestal=start.pedestal + dy * per_pixel)
        if tool == "push":
            return replace(start, dolly=start.dolly - dy * distance / height)
        if tool == "zoom":
            return replace(start, zoom=start.zoom * float(np.exp(-1.5 * dy / height)))
        return replace(start, orbit=start.orbit - 180.0 * dx / width, lift=start.lift + 120.0 * dy / height)
