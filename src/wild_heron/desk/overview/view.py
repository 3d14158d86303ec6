"""The Overview: look round the set, select nodes, move and turn them."""

import numpy as np
from PyQt6.QtCore import QPointF, QSize, Qt, QTimer
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QWidget

from ...evaluate import evaluate
from ...evaluate.posing import values_for_pose
from ...render.messages import FrameRequest, FreeView
from ...scene import Path as ScenePath
from ...scene import Scene, SceneError
from ...scene.channels import POSITION
from ...scene.output import output_camera
from ..pictures.render_link import RenderLink
from ..state.document import Document
from ..widgets.theme import DEEP, SKY, TEXT, colour, font
from ..widgets.unexpected import painted
from .eye import Eye
from .gizmo import Handle, handle_at, handles, moved_by
from .motion_path_editing import MotionPathEditor
from .painting import MotionPath, OverviewPainter, body_corners, motion_path
from .path_editing import PathEditor, samples
from .picking import node_at

MODES = ("free", "plan", "side", "front")
_REST_MS = 140
_AXIS_KEYS = {Qt.Key.Key_X: 0, Qt.Key.Key_Y: 1, Qt.Key.Key_Z: 2}
_DELETES = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)


class OverviewView(QWidget):
    """The set from outside. Left: select, move, turn. Right or middle: look round, slide. Wheel: nearer, farther."""

    def __init__(self, document: Document, link: RenderLink) -> None:
        super().__init__()
        self._document, self._link = document, link
        self.eyes = {mode: Eye(mode) for mode in MODES}
        self.mode = "free"
        self.scale = 0.5
        self.onion = False
        self._only: int | None = None
        self._image: QImage | None = None
        self._still: tuple[Scene, tuple[object, ...], QPixmap] | None = None
        self._paths: dict[str, tuple[Scene, MotionPath | None]] = {}
        self.path_editor = PathEditor(document)
        self.way_editor = MotionPathEditor(document)
        self._framed = False
        self._drag: tuple[str, QPointF, object] | None = None
        self._hovered: Handle | None = None
        # While the playhead moves nobody reaches for a handle: they come back once it rests.
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.update)
        document.frame_changed.connect(self._rest.start)
        self.setMinimumSize(200, 130)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Overview")
        self.setToolTip("")
        link.drawn.connect(self._drawn)
        link.restarted.connect(self.ask)
        for signal in (document.changed, document.frame_changed, document.settings_changed, document.selection_changed):
            signal.connect(lambda: document.turns.ask(self, self.ask))
        document.keys_selected.connect(lambda: document.turns.ask(self, self.ask))

    def sizeHint(self) -> QSize:
        return QSize(380, 226)

    @property
    def eye(self) -> Eye:
        return self.eyes[self.mode]

    def set_mode(self, mode: str) -> None:
        self.mode = mode
        self._image = None
        self.ask()

    def show_onion(self, on: bool) -> None:
        self.onion = on
        self.update()

    def set_scale(self, scale: float) -> None:
        self.scale = scale
        self.ask()

    def look(self, eye: Eye) -> None:
        self.eyes[self.mode] = eye
        self.ask()

    def frame_all(self, node_ids: tuple[str, ...] = ()) -> None:
        """Show the given nodes, or everything that the camera has to do with."""
        for mode in MODES if not node_ids else (self.mode,):
            self.eyes[mode] = self.eyes[mode].framing(
                self._extent(node_ids), max(self.width(), 1), max(self.height(), 1)
            )
        self.ask()

    def _extent(self, node_ids: tuple[str, ...]) -> np.ndarray:
        """World points (N, 3) to be seen, with the whole way of what moves. Without ids: the camera's way, and what is
        not far beyond its aim, so that a distant backdrop does not make everything else small."""
        scene, here = self._document.shown, self._document.here
        points = []
        camera = self._document.camera
        reach, lens, ahead = np.inf, np.zeros(3), np.zeros(3)
        if camera is not None and not node_ids:
            view = here.camera()
            lens, ahead = view.position[0], view.axis[0]
            distance = view.aim_distance()
            reach = 1.7 * float(view.focus[0] if distance is None else distance[0])
        for node in scene.nodes:
            if node_ids and node.id not in node_ids:
                continue
            if node.serves_as("seen") and (node_ids or camera is None):
                points.append(body_corners(node, scene, here))
            if isinstance(node, ScenePath) and node_ids:
                points.append(samples(node, here.world(node.id)[0]))
                continue
            position = here.position(node.id)
            # Nor a set far behind the camera, which another camera is for.
            if -0.35 * reach <= float((position[0] - lens) @ ahead) <= reach:
                points.append(position)
            path = self._path(node.id) if node_ids or node.id == output_camera(scene) else None
            if path is not None:
                points.append(path.positions)
        return np.concatenate(points) if points else np.zeros((0, 3))

    def ask(self) -> None:
        """Ask for the picture, and draw what lies over it."""
        self._link.set_scene(self._document.shown, self._document.base)
        self.update()
        if not self.isVisible():
            return
        eye = self.eye
        ratio = self.devicePixelRatioF() * self.scale
        width, height = max(16, round(self.width() * ratio)), max(16, round(self.height() * ratio))
        view = FreeView(tuple(eye.pose().ravel().tolist()), eye.focal_px(width), eye.pixels_per_unit(width), DEEP)
        self._link.want("overview", FrameRequest(self._document.frame, view, min(width, 8192), min(height, 4320)))

    def _drawn(self, stream: str, image: QImage, frame: float) -> None:
        if stream == "overview":
            self._image = image.convertToFormat(QImage.Format.Format_RGBX8888).convertToFormat(
                QImage.Format.Format_RGB32
            )
            self.update()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if not self._framed and self.width() > 50:
            self._framed = True
            self.frame_all()
        self.ask()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    def _path(self, node_id: str) -> MotionPath | None:
        scene = self._document.moving
        known = self._paths.get(node_id)
        if known is None or known[0] is not scene:
            self._paths = {key: value for key, value in self._paths.items() if value[0] is scene}
            known = self._paths[node_id] = (scene, motion_path(scene, node_id))
        return known[1]

    def _handles(self) -> list[Handle]:
        node = self._document.active
        if node is None or node.locked or self._rest.isActive():
            return []
        return handles(node, self._document.here, self.eye, self.width(), self.height())

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        if self._image is None:
            p.fillRect(self.rect(), colour(DEEP))
        else:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(self.rect(), self._image)
        scene = self._document.shown
        if not scene.nodes:
            p.setPen(colour(TEXT, 0.8))
            p.setFont(font(12))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "The set appears here.\nAdd pictures and a camera.")
            return
        p.drawPixmap(0, 0, self._still_layer())
        painter = OverviewPainter(p, self._document, self.eye, self.width(), self.height())
        painter.pictures(still=False)
        painter.carriers()
        painter.nulls(still=False)
        painter.projections(still=False)
        painter.lights(still=False)
        painter.cameras()
        painter.paths(still=False)
        painter.labels()
        if not self._rest.isActive():
            self.path_editor.paint(p, self._project)
            self.way_editor.paint(p, self._project)
        painter.handles(self._handles(), self._hovered)

    def _project(self, points: np.ndarray) -> np.ndarray:
        return self.eye.project(np.asarray(points, dtype=np.float64), self.width(), self.height())[0]

    def _still_layer(self) -> QPixmap:
        """The grid, the pictures that stand still and the paths: drawn once for as long as nothing of them changes."""
        scene = self._document.shown
        key = (self.eye, self.size(), self._document.selection, self.devicePixelRatioF(), self.onion)
        if self._still is None or self._still[0] is not scene or self._still[1] != key:
            pixmap = QPixmap(self.size() * self.devicePixelRatioF())
            pixmap.setDevicePixelRatio(self.devicePixelRatioF())
            pixmap.fill(Qt.GlobalColor.transparent)
            p = QPainter(pixmap)
            painter = OverviewPainter(p, self._document, self.eye, self.width(), self.height())
            painter.grid()
            painter.pictures(still=True)
            painter.paths(still=True)
            painter.nulls(still=True)
            painter.projections(still=True)
            painter.lights(still=True)
            live = output_camera(scene)
            for node_id in dict.fromkeys([*([live] if live else []), *self._document.selection]):
                path = self._path(node_id)
                if path is not None:
                    painter.path(path, TEXT if node_id == live else SKY)
            if self.onion:
                painter.onion()
            p.end()
            self._still = (scene, key, pixmap)
        return self._still[2]

    # Selecting and moving

    def node_at(self, at: QPointF) -> str | None:
        """The node under a pixel."""
        return node_at(self._document, self.eye, (self.width(), self.height()), np.array([at.x(), at.y()]))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        button = event.button()
        if button == Qt.MouseButton.RightButton and self.mode == "free":
            self._drag = ("orbit", at, self.eye)
        elif button in (Qt.MouseButton.MiddleButton, Qt.MouseButton.RightButton):
            self._drag = ("pan", at, self.eye)
        elif button == Qt.MouseButton.LeftButton:
            if self.path_editor.press(np.array([at.x(), at.y()]), self._project):
                self._drag = ("grip", at, None)
                self.update()
                return
            handle = handle_at(self._handles(), at.x(), at.y())
            if handle is not None:
                self._drag = ("handle", at, handle)
                return
            extend = bool(event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier))
            if self.way_editor.press(np.array([at.x(), at.y()]), self._project, extend):
                self._drag = ("way", at, None)
                self.update()
                return
            node_id = self.node_at(at)
            if node_id is None:
                if not extend:
                    self._document.select([])
                self._drag = ("pan", at, self.eye)
            elif extend:
                kept = [each for each in self._document.selection if each != node_id]
                self._document.select(kept if node_id in self._document.selection else [*kept, node_id])
            else:
                if node_id not in self._document.selection:
                    self._document.select([node_id])
                self._drag = ("move", at, node_id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self._drag is None:
            hovered = handle_at(self._handles(), at.x(), at.y())
            if (hovered and hovered.channel) != (self._hovered and self._hovered.channel):
                self._hovered = hovered
                self.setCursor(Qt.CursorShape.PointingHandCursor if hovered else Qt.CursorShape.ArrowCursor)
                self.update()
            return
        kind, start, what = self._drag
        offset = at - start
        if kind == "orbit" and isinstance(what, Eye):
            self.look(what.orbited(offset.x(), offset.y()))
        elif kind == "pan" and isinstance(what, Eye):
            self.look(what.panned(offset.x(), offset.y(), self.width()))
        elif abs(offset.x()) + abs(offset.y()) >= 3 or self._document.in_gesture:
            slow = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            broken = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            if kind == "way":
                self.way_editor.drag(lambda place: self._step(place, offset * slow), broken)
            elif kind == "grip":
                self.path_editor.drag(np.array([offset.x(), offset.y()]) * slow, self.eye, self.width(), broken)
            elif isinstance(what, Handle):
                self._drag_handle(what, start, start + offset * slow)
            elif isinstance(what, str):
                self._drag_node(what, offset * slow)

    def _drag_handle(self, handle: Handle, start: QPointF, end: QPointF) -> None:
        document = self._document
        node = document.active
        if node is None:
            return
        name = document.label(node.id, handle.channel)
        document.begin(name)
        base = document.gesture_base.shown(document.frame)
        before = _value_in(base, node.id, handle.channel, document.frame)
        origin = document.here.position(node.id)[0] if handle.turns else _origin_in(base, node.id, document.frame)
        amount = moved_by(
            handle,
            np.array([start.x(), start.y()]),
            np.array([end.x(), end.y()]),
            origin,
            self.eye,
            self.width(),
            self.height(),
        )
        document.set_values(name, {(node.id, handle.channel): before + amount})

    def _step(self, place: np.ndarray, offset: QPointF) -> np.ndarray:
        """A drag in pixels as a step in the world (3,), in the plane of the view; or along the axis whose key (X, Y, Z)
        is held down."""
        unit = self.eye.units_per_pixel(place, self.width())
        axes = self.eye.axes()
        step = axes[:, 0] * offset.x() * unit - axes[:, 1] * offset.y() * unit
        if self._only is None:
            return step
        along = np.eye(3)[self._only]
        seen = along - axes[:, 2] * float(along @ axes[:, 2])
        size = float(seen @ seen)
        # As far along the axis as brings it under the pointer.
        return along * (float(step @ seen) / size) if size > 1e-4 else np.zeros(3)

    def _drag_node(self, node_id: str, offset: QPointF) -> None:
        """Move a node in the plane of the view, along its carrier's axes as they come."""
        document = self._document
        node = document.scene.node(node_id)
        document.begin(f"Move {node.name}")
        base = document.gesture_base.shown(document.frame)
        world = evaluate(base, document.frame, [node_id]).world(node_id)[0].copy()
        world[:3, 3] += self._step(world[:3, 3], offset)
        try:
            values = values_for_pose(base, node_id, world, document.frame)
        except SceneError as problem:
            document.say(str(problem), True)
            return
        changes = {(node_id, name): value for name, value in values.items() if name in POSITION}
        document.set_values(f"Move {node.name}", changes)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is not None:
            self._drag = None
            self._only = None
            self.path_editor.release()
            self.way_editor.release()
            self._document.commit()

    def event(self, event) -> bool:  # type: ignore[no-untyped-def]
        # With a point of a path chosen, Delete means the point.
        editor = self.path_editor
        chosen = editor.path is not None and editor.chosen is not None
        if self._drag is not None and event.type() == event.Type.ShortcutOverride and event.key() in _AXIS_KEYS:
            event.accept()
            return True
        if chosen and event.type() == event.Type.ShortcutOverride and event.key() in _DELETES:
            event.accept()
            return True
        return bool(super().event(event))

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in _AXIS_KEYS and not event.isAutoRepeat():
            self._only = None
        super().keyReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in _AXIS_KEYS and self._drag is not None:
            self._only = _AXIS_KEYS[event.key()]
            return
        if event is not None and event.key() in _DELETES and self.path_editor.delete_chosen():
            return
        if event is not None and event.key() == Qt.Key.Key_Escape and self._drag is not None:
            self._drag = None
            self.path_editor.release()
            self.way_editor.release()
            self._document.cancel()
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            factor = 1.15 ** (event.angleDelta().y() / 120.0)
            at = event.position()
            self.look(self.eye.zoomed(factor, (at.x(), at.y()), self.width(), self.height()))
            event.accept()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            at = event.position()
            if self.path_editor.add_at(np.array([at.x(), at.y()]), self._project):
                return
        self.frame_all(self._document.selection)


def _value_in(scene: Scene, node_id: str, channel: str, frame: float) -> float:
    return float(evaluate(scene, frame, [node_id]).value(node_id, channel)[0])


def _origin_in(scene: Scene, node_id: str, frame: float) -> np.ndarray:
    return evaluate(scene, frame, [node_id]).position(node_id)[0]
