"""What is drawn over the Overview's picture: outlines, nulls, carriers, frusta, paths, and the handles."""

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QPainter, QPen, QPolygonF

from ...arrays import Array
from ...evaluate import output
from ...evaluate.extent import corners as box_corners
from ...scene import Light, Path, Picture, Projection, may_change
from ...scene.channels import FOCAL
from ...scene.output import has_output
from ...space.lens import pixel_to_world
from ...space.transform import rigid
from ..state.document import Document
from ..widgets.strokes import draw_lines
from ..widgets.theme import AMBER, AXES, DEEP, LINE, REED, SKY, SOFT, TEXT, colour, font
from .camera_shapes import CameraPainter, seen_cameras
from .clipping import clipped_line
from .free_view import Eye
from .gizmo import Handle
from .path_editing import paint_path
from .shapes import MotionPath, all_corners, areas

_MOST_ONIONS = 60
_BOX_EDGES = [(i, i | bit) for bit in (1, 2, 4) for i in range(8) if not i & bit]


_FARTHEST_DASH = 2e4


def _points(pixels: Array) -> QPolygonF:
    return QPolygonF([QPointF(*pair) for pair in pixels.tolist()])


def _broken_line(tone: QColor, width: float, pixels: Array, style: Qt.PenStyle = Qt.PenStyle.DashLine) -> QPen:
    """A dashed pen for a line through points (N, 2). One that runs far out of the window is drawn whole: all of its
    dashes would be worked out, however many there are."""
    return QPen(tone, width, style if float(np.abs(pixels).max()) < _FARTHEST_DASH else Qt.PenStyle.SolidLine)


class OverviewPainter:
    """Draws one frame of the overlay."""

    def __init__(self, p: QPainter, document: Document, eye: Eye, width: float, height: float) -> None:
        self.p, self.document, self.eye = p, document, eye
        self.width, self.height = width, height
        self.scene, self.here = document.views.shown, document.evaluations.here
        p.setRenderHint(QPainter.RenderHint.Antialiasing)

    def project(self, points: Array) -> Array:
        """Where world points (N, 3) fall, in pixels, with their depth (N, 3)."""
        return self.eye.project(np.asarray(points, dtype=np.float64), self.width, self.height)[0]

    def grid(self) -> None:
        """The floor, a line every so many units."""
        if self.eye.mode == "front" or self.eye.mode == "side":
            ends = self.project(
                np.array([[-1e4, 0, 0], [1e4, 0, 0]])
                if self.eye.mode == "front"
                else np.array([[0, 0, -1e4], [0, 0, 1e4]])
            )
            self.p.setPen(QPen(colour(LINE), 1))
            self.p.drawLine(QPointF(*ends[0]), QPointF(*ends[1]))
            return
        step = 10.0 ** np.floor(np.log10(max(self.eye.span / 4, 1e-3)))
        reach = np.arange(-12, 13) * step
        cx, cz = (round(self.eye.centre[k] / step) * step for k in (0, 2))
        along = np.linspace(reach[0], reach[-1], 2 if self.eye.is_parallel else 9)
        # Every line at once: (25, samples, 3) in each of the two directions.
        across, down = np.meshgrid(reach, along, indexing="ij")
        lines = np.concatenate(
            [
                np.stack([cx + across, 0 * across, cz + down], axis=-1),
                np.stack([cx + down, 0 * down, cz + across], axis=-1),
            ]
        )
        pixels = self.project(lines.reshape(-1, 3)).reshape(lines.shape[0], len(along), 2)
        seen = np.asarray(np.isfinite(pixels).all(axis=2))
        self.p.setPen(QPen(colour(LINE, 0.55), 1))
        for line, good in zip(pixels, seen, strict=True):
            if good.sum() > 1:
                self.p.drawPolyline(_points(line[good]))

    def pictures(self, still: bool) -> None:
        """Outlines of the pictures that stand still, or of those that move."""
        shown = [
            node
            for node in self.scene.nodes
            if isinstance(node, Picture) and not node.hidden and self.here.is_still(node.id) == still
        ]
        self._boxes(still)
        if not shown:
            return
        outlines = self.project(all_corners(shown, self.scene, self.here).reshape(-1, 3)).reshape(-1, 4, 2)
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        whole, sizes = np.asarray(np.isfinite(outlines).all(axis=(1, 2))), areas(outlines)
        chosen = frozenset(self.document.selection.nodes)
        for node, outline, finite, area in zip(shown, outlines, whole.tolist(), sizes.tolist(), strict=True):
            if not finite:
                continue
            selected = node.id in chosen
            edge_on = area < 60.0
            tone = AMBER if selected else node.colour or SOFT
            strength = 1.0 if selected or edge_on else 0.4
            self.p.setPen(QPen(colour(tone, strength), 3 if edge_on else 1.6 if selected else 1))
            self.p.drawPolygon(_points(outline))

    def _boxes(self, still: bool) -> None:
        """The boxes around selected solids; the others show as they are."""
        for node in self.scene.nodes:
            if not node.serves_as("solid") or node.hidden or node.id not in self.document.selection.nodes:
                continue
            if self.here.is_still(node.id) != still:
                continue
            pixels = self.project(box_corners(self.here, node.id))
            if np.isfinite(pixels).all():
                self.p.setPen(QPen(colour(AMBER), 1.4))
                for i, j in _BOX_EDGES:
                    self.p.drawLine(QPointF(*pixels[i]), QPointF(*pixels[j]))

    def lights(self, still: bool) -> None:
        """Lights that stand still, or that move, as small suns; one that shines from afar has a ray that shows where
        to."""
        for node in self.scene.nodes:
            if not isinstance(node, Light) or node.hidden or self.here.is_still(node.id) != still:
                continue
            world = self.here.world(node.id)[0]
            unit = self.eye.units_per_pixel(world[:3, 3], self.width)
            ahead = world[:3, 3] - world[:3, 2] / max(float(np.linalg.norm(world[:3, 2])), 1e-9) * 34 * unit
            at, end = self.project(np.stack([world[:3, 3], ahead]))
            if not np.isfinite(at).all():
                continue
            tone = colour(AMBER if node.id in self.document.selection.nodes else node.tint)
            self.p.setPen(QPen(tone, 1.5))
            self.p.setBrush(colour(DEEP))
            x, y = at
            self.p.drawEllipse(QPointF(x, y), 4, 4)
            for angle in np.linspace(0.0, 2.0 * np.pi, 8, endpoint=False):
                c, s = np.cos(angle), np.sin(angle)
                self.p.drawLine(QPointF(x + 6 * c, y + 6 * s), QPointF(x + 9 * c, y + 9 * s))
            if node.light == "directional" and np.isfinite(end).all():
                self.p.drawLine(QPointF(*at), QPointF(*end))

    def projections(self, still: bool) -> None:
        """Photo projections that stand still, or that move, as the pyramids they light, up to their receivers."""
        for node in self.scene.nodes:
            if not isinstance(node, Projection) or node.hidden:
                continue
            if (self.here.is_still(node.id) and not may_change(node, FOCAL)) != still:
                continue
            pose = rigid(self.here.world(node.id))[0]
            focal = self.here.value(node.id, FOCAL)[:1] * node.width / node.sensor_width
            away = [float((pose[:3, 3] - self.here.position(each)[0]) @ pose[:3, 2]) for each in node.receivers]
            depth = max([each for each in away if each > 0.0], default=5.0)
            w, h = float(node.width), float(node.height)
            pixels = np.array([[0, 0], [w, 0], [w, h], [0, h]])
            far = pixel_to_world(pixels, np.full(4, depth), pose[None], focal, w, h)
            at, *edges = self.project(np.concatenate([pose[None, :3, 3], far]))
            if not (np.isfinite(at).all() and np.isfinite(edges).all()):
                continue
            selected = node.id in self.document.selection.nodes
            self.p.setPen(_broken_line(colour(AMBER if selected else SKY, 0.8), 1.2, np.array([at, *edges])))
            self.p.setBrush(Qt.BrushStyle.NoBrush)
            self.p.drawPolygon(_points(np.array(edges)))
            for edge in edges:
                self.p.drawLine(QPointF(*at), QPointF(*edge))
            self.p.setPen(QPen(colour(DEEP), 1))
            self.p.setBrush(colour(AMBER if selected else SKY))
            self.p.drawRect(QRectF(at[0] - 5, at[1] - 4, 10, 8))

    def paths(self, still: bool) -> None:
        """The paths that stand still, or that move."""
        for node in self.scene.nodes:
            if isinstance(node, Path) and not node.hidden and self.here.is_still(node.id) == still:
                selected = node.id in self.document.selection.nodes
                paint_path(self.p, self.project, node, self.here.world(node.id)[0], selected)

    def carriers(self) -> None:
        hung = [(n.id, n.carrier) for n in self.scene.nodes if n.carrier is not None and not isinstance(n, Picture)]
        if not hung:
            return
        ends = np.stack([self.here.position(node_id)[0] for pair in hung for node_id in pair])
        lines = self.project(ends).reshape(-1, 2, 2)
        lines = lines[np.isfinite(lines).all(axis=(1, 2))]
        size = (self.width, self.height)
        cut = [clipped_line((a, b), (c, d), *size) for (a, b), (c, d) in lines.tolist()]
        self.p.setPen(QPen(colour(REED, 0.6), 1, Qt.PenStyle.DotLine))
        draw_lines(self.p, [QLineF(*line[0], *line[1]) for line in cut if line is not None])

    def nulls(self, still: bool) -> None:
        """The nulls that stand still, or that move."""
        shown = [
            node
            for node in self.scene.nodes
            if node.kind == "null" and not node.hidden and self.here.is_still(node.id) == still
        ]
        if not shown:
            return
        places = self.project(np.concatenate([self.here.position(node.id) for node in shown]))
        chosen = frozenset(self.document.selection.nodes)
        crosses: dict[tuple[str, float], list[QLineF]] = {}
        for node, (x, y) in zip(shown, places.tolist(), strict=True):
            if x == x and y == y:
                look = (AMBER, 2.0) if node.id in chosen else (node.colour or REED, 1.5)
                crosses.setdefault(look, []).extend((QLineF(x - 5, y, x + 5, y), QLineF(x, y - 5, x, y + 5)))
        for (tone, width), lines in crosses.items():
            self.p.setPen(QPen(colour(tone), width))
            draw_lines(self.p, lines)

    def cameras(self) -> None:
        live, chosen = self.document.views.camera_id, self.document.selection.nodes
        size = (self.width, self.height)
        painter = CameraPainter(self.p, size, live, chosen)
        for camera in seen_cameras(self.scene, self.here, self.eye, size, live, chosen):
            painter.paint(camera)

    def path(self, path: MotionPath, tone: str) -> None:
        """One dot a frame; keys are larger and amber, the playhead is ringed."""
        pixels = self.project(path.positions)
        good = np.isfinite(pixels).all(axis=1)
        self.p.setPen(QPen(colour(tone, 0.35), 1))
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        if good.all():
            self.p.drawPolyline(_points(pixels))
        self.p.setPen(QPen(colour(tone, 0.95), 2.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        self.p.drawPoints(_points(pixels[good]))
        self.p.setPen(QPen(colour(DEEP), 1))
        self.p.setBrush(colour(AMBER))
        for x, y in pixels[good & path.keyed].tolist():
            self.p.drawEllipse(QPointF(x, y), 3.4, 3.4)

    def onion(self) -> None:
        """The scene's camera at every second of its way, faint."""
        if not has_output(self.scene):
            return
        settings = self.scene.settings
        step = max(round(settings.rate.fps), settings.frame_count // _MOST_ONIONS, 1)
        frames = np.arange(settings.first, settings.last + 1, step, dtype=np.float64)
        view = output(self.scene, frames)
        w, h = float(view.width), float(view.height)
        corner = np.array([[0, 0], [w, 0], [w, h], [0, h]])
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        for k in range(len(frames)):
            pose, focal = view.pose[k : k + 1], view.focal_px[k : k + 1]
            depth = np.full(4, 0.12 * self.eye.span)
            far = self.project(pixel_to_world(corner, depth, pose, focal, w, h))
            at = self.project(pose[:, :3, 3])[0]
            if np.isfinite(far).all() and np.isfinite(at).all():
                self.p.setPen(QPen(colour(AMBER, 0.32), 1))
                self.p.drawPolygon(_points(far))
                for edge in far:
                    self.p.drawLine(QPointF(*at), QPointF(*edge))

    def handles(self, found: list[Handle], active: Handle | None) -> None:
        for handle in found:
            bright = active is not None and handle.channel == active.channel
            tone = colour(AMBER if bright else AXES[handle.axis])
            self.p.setBrush(Qt.BrushStyle.NoBrush)
            self.p.setPen(QPen(colour(DEEP, 0.8), 4 if not handle.turns else 3))
            self.p.drawPolyline(_points(handle.line))
            self.p.setPen(QPen(tone, 2 if not handle.turns else 1.5))
            self.p.drawPolyline(_points(handle.line))
            self.p.setPen(QPen(colour(DEEP), 1))
            self.p.setBrush(tone)
            x, y = handle.bead
            if handle.turns:
                self.p.drawEllipse(QPointF(x, y), 3.6, 3.6)
            else:
                self.p.drawRoundedRect(QRectF(x - 4, y - 4, 8, 8), 2, 2)

    def labels(self) -> None:
        """Names of what is selected."""
        self.p.setFont(font(11, QFont.Weight.Medium))
        for node_id in self.document.selection.nodes:
            if not self.scene.node(node_id).placed:
                continue
            at = self.project(self.here.position(node_id))[0]
            if np.isfinite(at).all():
                text = self.scene.node(node_id).name
                box = QRectF(at[0] + 8, at[1] + 26, self.p.fontMetrics().horizontalAdvance(text) + 10, 17)
                if box.right() > self.width - 4:
                    box.moveRight(at[0] - 12)
                self.p.setPen(Qt.PenStyle.NoPen)
                self.p.setBrush(colour(DEEP, 0.82))
                self.p.drawRoundedRect(box, 3, 3)
                self.p.setPen(colour(AMBER if node_id == self.document.selection.nodes[-1] else TEXT))
                self.p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
