"""What can be dragged in the Overview: the view, a node, a handle of the gizmo, a point of a path, a key of a move."""

import numpy as np
from PyQt6.QtCore import QPointF

from ...edits.posing import values_for_pose
from ...evaluate import evaluate
from ...scene import SceneError
from ...scene.channels import POSITION
from ..widgets.drag import Drag, Keys
from .gizmo import Handle, moved_by
from .viewpoint import Viewpoint


class OverviewDrag(Drag):
    """In the Overview; ``eye`` is how it looked when the drag began."""

    def __init__(self, view: Viewpoint, start: QPointF) -> None:
        super().__init__(start)
        self.view, self.eye = view, view.eye


class OrbitDrag(OverviewDrag):
    """Looks round."""

    def move(self, at: QPointF, keys: Keys) -> None:
        self.view.look(self.eye.orbited(self.offset(at).x(), self.offset(at).y()))


class OverviewPanDrag(OverviewDrag):
    """Slides the view."""

    def move(self, at: QPointF, keys: Keys) -> None:
        self.view.look(self.eye.panned(self.offset(at).x(), self.offset(at).y(), self.view.width()))


class _SceneDrag(OverviewDrag):
    """Changes the scene, as a gesture. Shift: finer; Alt: apart from what goes along."""

    def move(self, at: QPointF, keys: Keys) -> None:
        if self.is_past(at) or self.view.document.gesture.running:
            slow = 0.1 if keys & Keys.ShiftModifier else 1.0
            self.change(self.offset(at) * slow, bool(keys & Keys.AltModifier))

    def change(self, offset: QPointF, broken: bool) -> None:
        raise NotImplementedError

    def release(self, at: QPointF) -> None:
        self.view.document.gesture.commit()

    def cancel(self) -> None:
        self.view.document.cancel()


class GripDrag(_SceneDrag):
    """A point or a handle of a path."""

    def change(self, offset: QPointF, broken: bool) -> None:
        self.view.path_editor.drag(np.array([offset.x(), offset.y()]), self.view.eye, self.view.width(), broken)

    def release(self, at: QPointF) -> None:
        self.view.path_editor.release()
        super().release(at)

    def cancel(self) -> None:
        self.view.path_editor.release()
        super().cancel()


class PathKeyDrag(_SceneDrag):
    """A key on a node's motion path, or a handle of one."""

    def change(self, offset: QPointF, broken: bool) -> None:
        self.view.path_key_editor.drag(lambda place: self.view.step(place, offset), broken)

    def release(self, at: QPointF) -> None:
        self.view.path_key_editor.release()
        super().release(at)

    def cancel(self) -> None:
        self.view.path_key_editor.release()
        super().cancel()


class HandleDrag(_SceneDrag):
    """A handle of the gizmo: one channel of the active node."""

    def __init__(self, view: Viewpoint, start: QPointF, handle: Handle) -> None:
        super().__init__(view, start)
        self._handle = handle

    def change(self, offset: QPointF, broken: bool) -> None:
        view, handle = self.view, self._handle
        document, node = view.document, view.document.selection.active
        if node is None:
            return
        frame = document.playhead.frame
        name = document.label(node.id, handle.channel)
        document.gesture.begin(name)
        base = document.gesture.base.shown(frame)
        before = float(evaluate(base, frame, [node.id]).value(node.id, handle.channel)[0])
        there = document.evaluations.here if handle.turns else evaluate(base, frame, [node.id])
        end = self.start + offset
        amount = moved_by(
            handle,
            np.array([self.start.x(), self.start.y()]),
            np.array([end.x(), end.y()]),
            there.position(node.id)[0],
            view.eye,
            view.width(),
            view.height(),
        )
        document.recorder.set_values(name, {(node.id, handle.channel): before + amount})


class NodeDrag(_SceneDrag):
    """A node, in the plane of the view, along its carrier's axes as they come."""

    def __init__(self, view: Viewpoint, start: QPointF, node_id: str) -> None:
        super().__init__(view, start)
        self._node_id = node_id

    def change(self, offset: QPointF, broken: bool) -> None:
        document, node_id = self.view.document, self._node_id
        frame, node = document.playhead.frame, document.scene.node(node_id)
        document.gesture.begin(f"Move {node.name}")
        base = document.gesture.base.shown(frame)
        world = evaluate(base, frame, [node_id]).world(node_id)[0].copy()
        world[:3, 3] += self.view.step(world[:3, 3], offset)
        try:
            values = values_for_pose(base, node_id, world, frame)
        except SceneError as problem:
            document.messages.say(str(problem), True)
            return
        changes = {(node_id, name): value for name, value in values.items() if name in POSITION}
        document.recorder.set_values(f"Move {node.name}", changes)
