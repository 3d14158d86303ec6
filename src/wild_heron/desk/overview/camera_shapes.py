"""Bodies, frusta and aims of all cameras in the Overview, computed at once."""

from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from ...evaluate import Evaluation
from ...scene import Scene, View
from ..widgets.strokes import draw_lines
from ..widgets.theme import AMBER, DEEP, SKY, SOFT, colour
from .clipping import Point, clipped_area, clipped_line
from .free_view import Eye

_AHEAD_PX = 14.0
"""How far before the lens lies what tells where a camera points."""


class SeenCamera(NamedTuple):
    """A camera in pixels: its lens, a point before it, the corners of what it sees at its aim's depth, and its aim;
    None where they cannot be seen."""

    node: View
    lens: Point | None
    ahead: Point | None
    corners: list[Point] | None
    aim: Point | None


def seen_cameras(
    scene: Scene, here: Evaluation, eye: Eye, size: tuple[float, float], live: str | None, chosen: tuple[str, ...]
) -> list[SeenCamera]:
    """The cameras of a scene at one frame, and the framings that are chosen: all of them would clutter it."""
    nodes = [
        node
        for node in scene.nodes
        if isinstance(node, View) and not node.hidden and (node.serves_as("camera") or node.id in chosen)
    ]
    if not nodes:
        return []
    views = [here.camera(node.id) for node in nodes]
    poses = np.stack([view.pose[0] for view in views])
    places, axes = poses[:, :3, 3], -poses[:, :3, 2]
    aims = np.stack([places[k] * np.nan if view.aim is None else view.aim[0] for k, view in enumerate(views)])
    focus = np.array([view.focus[0] for view in views])
    away = np.einsum("ki,ki->k", np.nan_to_num(aims - places), axes)
    depth = np.maximum(np.where(np.isfinite(aims[:, 0]), away, focus), 1.0)
    depth *= [1.15 if node.id == live else 1.0 for node in nodes]
    half = 0.5 * np.array([(view.width, view.height) for view in views]) / [[view.focal_px[0]] for view in views]
    across = np.array([(-1, 1), (1, 1), (1, -1), (-1, -1)]) * half[:, None, :]
    rays = np.concatenate([across, np.full((len(nodes), 4, 1), -1.0)], axis=2)
    corners = places[:, None] + depth[:, None, None] * np.einsum("kij,kcj->kci", poses[:, :3, :3], rays)
    ahead = places + axes * _AHEAD_PX * np.array([eye.units_per_pixel(place, size[0]) for place in places])[:, None]
    points = np.concatenate([places[:, None], ahead[:, None], aims[:, None], corners], axis=1)
    pixels = eye.project(points.reshape(-1, 3), *size)[0].reshape(len(nodes), 7, 2)
    out = []
    for node, found in zip(nodes, pixels.tolist(), strict=True):
        lens, before, aim, *rest = [(x, y) if x == x and y == y else None for x, y in found]
        around = [each for each in rest if each is not None]
        out.append(SeenCamera(node, lens, before, around if lens is not None and len(around) == 4 else None, aim))
    return out


class CameraPainter:
    """Draws them over the Overview's picture."""

    def __init__(self, p: QPainter, size: tuple[float, float], live: str | None, chosen: tuple[str, ...]) -> None:
        self._p, self._size, self._live, self._chosen = p, size, live, chosen

    def paint(self, camera: SeenCamera) -> None:
        live = camera.node.id == self._live
        if camera.corners is not None and camera.lens is not None:
            self._frustum(camera.lens, camera.corners, live)
        if camera.lens is not None:
            self._body(camera.lens, camera.ahead, camera.node, live)
        if camera.aim is not None:
            self._aim(camera.lens, camera.aim)

    def _frustum(self, lens: Point, corners: list[Point], live: bool) -> None:
        area = clipped_area(corners, *self._size)
        if len(area) > 2:
            self._p.setPen(Qt.PenStyle.NoPen)
            self._p.setBrush(colour(AMBER, 0.12 if live else 0.05))
            # Its edges are drawn over it: there it need not be smooth, which costs most of the time.
            self._p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            self._p.drawPolygon(QPolygonF([QPointF(x, y) for x, y in area]))
            self._p.setRenderHint(QPainter.RenderHint.Antialiasing)
        edges = [(corners[k - 1], corners[k]) for k in range(4)] + [(lens, corner) for corner in corners]
        cut = [line for start, end in edges if (line := clipped_line(start, end, *self._size)) is not None]
        self._p.setPen(QPen(colour(AMBER, 0.75 if live else 0.35), 1))
        draw_lines(self._p, [QLineF(*start, *end) for start, end in cut])

    def _body(self, at: Point, ahead: Point | None, node: View, live: bool) -> None:
        """The camera itself: a wedge that points where it looks."""
        wide, high = self._size
        (x, y), rim = at, 40.0
        if not (-rim <= x <= wide + rim and -rim <= y <= high + rim):
            return
        dx, dy = (ahead[0] - x, ahead[1] - y) if ahead is not None else (0.0, 0.0)
        size = float(np.hypot(dx, dy))
        dx, dy = (dx / size, dy / size) if size > 3.0 else (0.0, -1.0)

        def polygon(*places: tuple[float, float]) -> QPolygonF:
            """Of points so far ahead, and so far aside."""
            return QPolygonF([QPointF(x + dx * far - dy * side, y + dy * far + dx * side) for far, side in places])

        self._p.setPen(QPen(colour(DEEP), 1))
        self._p.setBrush(colour(AMBER if live or node.id in self._chosen else node.colour or SOFT))
        self._p.drawPolygon(polygon((-9, -6), (-9, 6), (0, 3.5), (0, -3.5)))
        self._p.drawPolygon(polygon((0, 0), (7, 6), (7, -6)))

    def _aim(self, lens: Point | None, aim: Point) -> None:
        """The aim, which looks like nothing else: a sky-blue ring with a cross-hair, on a line from the lens."""
        line = clipped_line(lens, aim, *self._size) if lens is not None else None
        if line is not None:
            self._p.setPen(QPen(colour(SKY, 0.7), 1, Qt.PenStyle.DashLine))
            self._p.drawLine(QLineF(*line[0], *line[1]))
        x, y = aim
        self._p.setBrush(Qt.BrushStyle.NoBrush)
        for tone, width in ((DEEP, 4), (SKY, 2)):
            self._p.setPen(QPen(colour(tone), width))
            self._p.drawEllipse(QPointF(x, y), 7, 7)
        ways = ((1, 0), (-1, 0), (0, 1), (0, -1))
        draw_lines(self._p, [QLineF(x + dx * 4, y + dy * 4, x + dx * 10, y + dy * 10) for dx, dy in ways])
