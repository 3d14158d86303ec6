"""The Overview: look round the set, select nodes, move and turn them."""

import time
from collections import OrderedDict
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QWheelEvent

from ...gl.request import FrameRequest, FreeView
from ...scene import Path as ScenePath
from ...scene import Scene
from ..pictures.render_link import RenderLink
from ..pictures.shown_pictures import ShownFrame
from ..state.document import Document
from ..widgets.drag import Keys
from ..widgets.theme import DEEP, SKY, TEXT, colour, font, shown, theme_name
from ..widgets.unexpected import painted
from .gizmo import Handle, handle_at, handles
from .overview_drags import GripDrag, HandleDrag, NodeDrag, OrbitDrag, OverviewPanDrag, PathKeyDrag
from .overview_painting import OverviewPainter
from .path_editing import samples
from .picking import node_at
from .shapes import MotionPath, body_corners, motion_path
from .viewpoint import MODES, Viewpoint

_REST_MS = 140
_RECORDING_REST = 0.2
"""Seconds between two looks at a set in which a camera is recorded."""
_MOST_LAYERS = 6
_AXIS_KEYS = {Qt.Key.Key_X: 0, Qt.Key.Key_Y: 1, Qt.Key.Key_Z: 2}
_DELETES = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)

_CLICK = 5
"""Pixels that a hand may move in a click."""


class OverviewView(Viewpoint):
    """The set from outside. Left: select, move, turn. Right or middle: look round, slide. Wheel: nearer, farther."""

    menu_wanted = pyqtSignal(QPoint)
    """A right click that was no drag, or the menu key."""

    def __init__(self, document: Document, link: RenderLink) -> None:
        super().__init__(document)
        self._link = link
        self.scale = 0.5
        self.onion = False
        self._asked = 0.0
        self.image: QImage | None = None
        self._still: tuple[Scene | None, OrderedDict[tuple[object, ...], QPixmap]] = (None, OrderedDict())
        self._paths: dict[str, tuple[Scene, MotionPath | None]] = {}
        self._framed = False
        self._hovered: Handle | None = None
        # While the playhead moves nobody reaches for a handle: they come back once it rests.
        self.at_rest = QTimer(self)
        self.at_rest.setSingleShot(True)
        self.at_rest.setInterval(_REST_MS)
        self.at_rest.timeout.connect(self.update)
        document.playhead.moved.connect(self.at_rest.start)
        self.setMinimumSize(200, 130)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Overview")
        self.setToolTip("")
        link.drawn.connect(self._drawn)
        link.restarted.connect(self.ask)
        for signal in (
            document.changed,
            document.playhead.moved,
            document.settings_changed,
            document.selection.changed,
        ):
            signal.connect(lambda: document.turns.ask(self, self.ask))
        document.selection.keys_changed.connect(lambda: document.turns.ask(self, self.ask))

    def sizeHint(self) -> QSize:
        return QSize(380, 226)

    def set_mode(self, mode: str) -> None:
        self.mode = mode
        self.image = None
        self.ask()

    def show_onion(self, on: bool) -> None:
        self.onion = on
        self.update()

    def set_scale(self, scale: float) -> None:
        self.scale = scale
        self.ask()

    def frame_all(self, node_ids: tuple[str, ...] = ()) -> None:
        """Show the given nodes, or everything that the camera has to do with."""
        node_ids = tuple(each for each in node_ids if self.document.views.shown.node(each).placed)
        extent, width, height = self._extent(node_ids), max(self.width(), 1), max(self.height(), 1)
        for mode in MODES if not node_ids else (self.mode,):
            self.eyes[mode] = self.eyes[mode].framing(extent, width, height)
        self.ask()

    def _extent(self, node_ids: tuple[str, ...]) -> np.ndarray:
        """World points (N, 3) to be seen, with the whole way of what moves. Without ids: the camera's way, and what is
        not far beyond its aim, so that a distant backdrop does not make everything else small."""
        scene, here = self.document.views.shown, self.document.evaluations.here
        points = []
        camera = self.document.views.camera
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
            path = self._path(node.id) if node_ids or node.id == self.document.views.camera_id else None
            if path is not None:
                points.append(path.positions)
        return np.concatenate(points) if points else np.zeros((0, 3))

    def ask(self) -> None:
        """Ask for the picture, and draw what lies over it."""
        now = time.perf_counter()
        if self._follows_a_hand() and now - self._asked < _RECORDING_REST:
            return  # It is the Lens that is looked at.
        self._asked = now
        self.update()
        if not self.isVisible():
            return
        eye = self.eye
        ratio = self.devicePixelRatioF() * self.scale
        width, height = max(16, round(self.width() * ratio)), max(16, round(self.height() * ratio))
        view = FreeView(
            tuple(eye.pose().ravel().tolist()), eye.focal_px(width), eye.pixels_per_unit(width), shown(DEEP)
        )
        self._link.want(
            "overview", FrameRequest(self.document.playhead.frame, view, min(width, 8192), min(height, 4320))
        )

    def _drawn(self, stream: str, drawn: ShownFrame) -> None:
        if stream == "overview":
            self.image = drawn.picture.image
            self.update()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if not self._framed and self.width() > 50:
            self._framed = True
            self.frame_all()
        self.ask()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.ask()

    def _path(self, node_id: str) -> MotionPath | None:
        scene = self.document.views.moving
        known = self._paths.get(node_id)
        if known is None or known[0] is not scene:
            self._paths = {key: value for key, value in self._paths.items() if value[0] is scene}
            known = self._paths[node_id] = (scene, motion_path(scene, node_id))
        return known[1]

    def _handles(self) -> list[Handle]:
        node = self.document.selection.active
        if node is None or not node.placed or node.locked or self.at_rest.isActive():
            return []
        return handles(node, self.document.evaluations.here, self.eye, self.width(), self.height())

    @painted
    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        if self.image is None:
            p.fillRect(self.rect(), colour(DEEP))
        else:
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(self.rect(), self.image)
        scene = self.document.views.shown
        if not scene.nodes:
            p.setPen(colour(TEXT, 0.8))
            p.setFont(font(12))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "The set appears here.\nAdd pictures and a camera.")
            return
        p.drawPixmap(0, 0, self._still_layer())
        painter = OverviewPainter(p, self.document, self.eye, self.width(), self.height())
        painter.pictures(still=False)
        painter.carriers()
        painter.nulls(still=False)
        painter.projections(still=False)
        painter.lights(still=False)
        painter.cameras()
        painter.paths(still=False)
        painter.labels()
        if not self.at_rest.isActive():
            self.path_editor.paint(p, self.project)
            self.path_key_editor.paint(p, self.project)
        painter.handles(self._handles(), self._hovered)

    def project(self, points: np.ndarray) -> np.ndarray:
        return self.eye.project(np.asarray(points, dtype=np.float64), self.width(), self.height())[0]

    def _still_layer(self) -> QPixmap:
        """The grid, the pictures that stand still and the paths: drawn once for as long as nothing of them changes, for
        each of the cameras between which the film cuts."""
        scene = self.document.views.shown
        live = self.document.views.camera_id
        alike = (self.eye, self.size(), self.document.selection.nodes, self.devicePixelRatioF(), theme_name())
        key = (*alike, live, self.onion)
        if self._still[0] is not scene and not (key in self._still[1] and self._follows_a_hand()):
            self._still = (scene, OrderedDict())
        return self._held(key, lambda: self._with_paths(self._held(alike, self._without_paths), live))

    def _held(self, key: tuple[object, ...], make: Callable[[], QPixmap]) -> QPixmap:
        """A layer that is kept, or is from now on; those that were used longest ago go."""
        held = self._still[1]
        if key not in held:
            held[key] = make()
            if len(held) > _MOST_LAYERS:
                held.popitem(last=False)
        held.move_to_end(key)
        return held[key]

    def _without_paths(self) -> QPixmap:
        """What is the same whichever camera is live."""
        pixmap = QPixmap(self.size() * self.devicePixelRatioF())
        pixmap.setDevicePixelRatio(self.devicePixelRatioF())
        pixmap.fill(Qt.GlobalColor.transparent)
        p = QPainter(pixmap)
        painter = OverviewPainter(p, self.document, self.eye, self.width(), self.height())
        painter.grid()
        painter.pictures(still=True)
        painter.paths(still=True)
        painter.nulls(still=True)
        painter.projections(still=True)
        painter.lights(still=True)
        p.end()
        return pixmap

    def _with_paths(self, under: QPixmap, live: str | None) -> QPixmap:
        """A copy of that with the ways of the camera that is live, and of what is selected."""
        pixmap = under.copy()
        p = QPainter(pixmap)
        painter = OverviewPainter(p, self.document, self.eye, self.width(), self.height())
        for node_id in dict.fromkeys([*([live] if live else []), *self.document.selection.nodes]):
            path = self._path(node_id)
            if path is not None:
                painter.path(path, TEXT if node_id == live else SKY)
        if self.onion:
            painter.onion()
        p.end()
        return pixmap

    def _follows_a_hand(self) -> bool:
        """Whether all that changes is a camera that is recorded, which is none of what stands still."""
        active = self.document.selection.active
        return self.document.gesture.is_held and active is not None and active.serves_as("shown")

    # Selecting and moving

    def node_at(self, at: QPointF) -> str | None:
        """The node under a pixel."""
        return node_at(self.document, self.eye, (self.width(), self.height()), np.array([at.x(), at.y()]))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        button = event.button()
        if button == Qt.MouseButton.RightButton and self.mode == "free":
            self.drag = OrbitDrag(self, at)
        elif button in (Qt.MouseButton.MiddleButton, Qt.MouseButton.RightButton):
            self.drag = OverviewPanDrag(self, at)
        elif button == Qt.MouseButton.LeftButton:
            self._press(at, bool(event.modifiers() & (Keys.ControlModifier | Keys.ShiftModifier)))

    def _press(self, at: QPointF, extend: bool) -> None:
        selection, pixel = self.document.selection, np.array([at.x(), at.y()])
        if self.path_editor.press(pixel, self.project):
            self.drag = GripDrag(self, at)
            self.update()
            return
        handle = handle_at(self._handles(), at.x(), at.y())
        if handle is not None:
            self.drag = HandleDrag(self, at, handle)
            return
        if self.path_key_editor.press(pixel, self.project, extend):
            self.drag = PathKeyDrag(self, at)
            self.update()
            return
        node_id = self.node_at(at)
        if node_id is None:
            if not extend:
                selection.choose([])
            self.drag = OverviewPanDrag(self, at)
        elif extend:
            kept = [each for each in selection.nodes if each != node_id]
            selection.choose(kept if node_id in selection.nodes else [*kept, node_id])
        else:
            if node_id not in selection.nodes:
                selection.choose([node_id])
            self.drag = NodeDrag(self, at, node_id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if self.drag is None:
            hovered = handle_at(self._handles(), at.x(), at.y())
            if (hovered and hovered.channel) != (self._hovered and self._hovered.channel):
                self._hovered = hovered
                self.setCursor(Qt.CursorShape.PointingHandCursor if hovered else Qt.CursorShape.ArrowCursor)
                self.update()
            return
        self.drag.move(at, event.modifiers())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.only = None
        clicked = (
            event is not None
            and event.button() == Qt.MouseButton.RightButton
            and self.drag is not None
            and (event.position() - self.drag.start).manhattanLength() < _CLICK
        )
        super().mouseReleaseEvent(event)
        if clicked and event is not None:
            self.menu_wanted.emit(event.position().toPoint())

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        # Of the mouse, a release tells whether it was a click.
        if event is not None and event.reason() == QContextMenuEvent.Reason.Keyboard:
            self.menu_wanted.emit(self.rect().center())

    def event(self, event) -> bool:  # type: ignore[no-untyped-def]
        # With a point of a path chosen, Delete means the point.
        editor = self.path_editor
        chosen = editor.path is not None and editor.chosen is not None
        if self.drag is not None and event.type() == event.Type.ShortcutOverride and event.key() in _AXIS_KEYS:
            event.accept()
            return True
        if chosen and event.type() == event.Type.ShortcutOverride and event.key() in _DELETES:
            event.accept()
            return True
        return bool(super().event(event))

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in _AXIS_KEYS and not event.isAutoRepeat():
            self.only = None
        super().keyReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in _AXIS_KEYS and self.drag is not None:
            self.only = _AXIS_KEYS[Qt.Key(event.key())]
            return
        if event is not None and event.key() in _DELETES and self.path_editor.delete_chosen():
            return
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
            if self.path_editor.add_at(np.array([at.x(), at.y()]), self.project):
                return
        self.frame_all(self.document.selection.nodes)
