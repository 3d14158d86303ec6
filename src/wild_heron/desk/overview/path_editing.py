"""Paths in the Overview: drawn with their length, and reshaped by their points and handles."""

from collections.abc import Callable
from typing import NamedTuple

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from ...arrays import Array
from ...scene import Path, Scene, SceneError
from ...space.path import track
from ...space.path_shape import Grip, grips, moved, nearest, with_point, without_point
from ..state.document import Document
from ..widgets.theme import AMBER, DEEP, SKY, TEXT, colour, font
from .free_view import Eye

Project = Callable[[Array], Array]

_REACH = 9.0
_SAMPLES = 49


class SeenGrip(NamedTuple):
    """A grip and where it is seen, in pixels (2,)."""

    grip: Grip
    pixel: Array


def samples(path: Path, world: Array) -> Array:
    """World points (N, 3) along a path, at even parameters."""
    way = track(path.curve)
    points = way.point(np.linspace(0.0, 1.0, min(_SAMPLES * max(len(way._pieces), 1), 2000) + 1))
    return np.asarray(points @ world[:3, :3].T + world[:3, 3])


def paint_path(p: QPainter, project: Project, path: Path, world: Array, selected: bool) -> None:
    """The curve of a path whose world matrix is (4, 4), an arrow at its start, and when it is selected its length."""
    points = samples(path, world)
    pixels = project(points)
    tone = AMBER if selected else path.colour or SKY
    p.setBrush(Qt.BrushStyle.NoBrush)
    for width, colour_ in ((4.0, colour(DEEP, 0.6)), (2.0 if selected else 1.4, colour(tone, 0.95))):
        p.setPen(QPen(colour_, width))
        for run in _runs(pixels):
            p.drawPolyline(QPolygonF([QPointF(x, y) for x, y in run.tolist()]))
    if np.isfinite(pixels[:3]).all():
        way = pixels[min(2, len(pixels) - 1)] - pixels[0]
        size = float(np.linalg.norm(way))
        if size > 1e-6:
            way, side = way / size, np.array([-way[1], way[0]]) / size
            p.setPen(QPen(colour(DEEP), 1))
            p.setBrush(colour(tone))
            tip = [pixels[0] + way * 8, pixels[0] - way * 3 + side * 4.5, pixels[0] - way * 3 - side * 4.5]
            p.drawPolygon(QPolygonF([QPointF(*each) for each in tip]))
    if selected and np.isfinite(pixels[-1]).all():
        p.setFont(font(11))
        p.setPen(colour(TEXT))
        length = track(path.curve).length
        p.drawText(QPointF(pixels[-1][0] + 9, pixels[-1][1] - 7), f"{length:.2f} units")


def _runs(pixels: Array) -> list[Array]:
    """The stretches of a line that can be seen."""
    good = np.isfinite(pixels).all(axis=1)
    if good.all():
        return [pixels]
    cuts = np.flatnonzero(np.diff(good.astype(np.int8))) + 1
    return [part for part in np.split(pixels, cuts) if len(part) > 1 and np.isfinite(part).all()]


class PathEditor:
    """Drags the grips of the selected path."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self.chosen: int | None = None
        """The point that Delete takes away."""
        self._drag: tuple[Grip, Path, Array] | None = None

    @property
    def path(self) -> Path | None:
        node = self._document.selection.active
        return node if isinstance(node, Path) and not node.locked else None

    def grips(self, project: Project) -> list[SeenGrip]:
        path = self.path
        if path is None:
            return []
        world = self._document.evaluations.world(path.id)
        found = grips(path.curve)
        if not found:
            return []
        pixels = project(np.stack([each.at for each in found]) @ world[:3, :3].T + world[:3, 3])
        return [SeenGrip(grip, pixel) for grip, pixel in zip(found, pixels, strict=True) if np.isfinite(pixel).all()]

    def paint(self, p: QPainter, project: Project) -> None:
        path = self.path
        if path is None:
            return
        world = self._document.evaluations.world(path.id)
        for grip, pixel in self.grips(project):
            if grip.of is not None:
                foot = project((grip.of @ world[:3, :3].T + world[:3, 3])[None])[0]
                if np.isfinite(foot).all():
                    p.setPen(QPen(colour(SKY, 0.8), 1))
                    p.drawLine(QPointF(*foot), QPointF(*pixel))
        for grip, pixel in self.grips(project):
            x, y = pixel
            p.setPen(QPen(colour(DEEP), 1.2))
            chosen = grip.name == "point" and grip.number == self.chosen
            p.setBrush(colour(AMBER if chosen or grip.name != "point" else TEXT))
            if grip.name == "point":
                p.drawRoundedRect(QRectF(x - 4.2, y - 4.2, 8.4, 8.4), 1.5, 1.5)
            else:
                p.drawEllipse(QPointF(x, y), 3.8, 3.8)

    def press(self, at: Array, project: Project) -> bool:
        """Take hold of the grip under a pixel (2,), if there is one."""
        path = self.path
        if path is None:
            return False
        seen = [(float(np.linalg.norm(each.pixel - at)), k, each) for k, each in enumerate(self.grips(project))]
        near = [each for each in seen if each[0] < _REACH]
        self.chosen = None
        if not near:
            return False
        # Handles lie over points: the one drawn last is on top where two are as near.
        grip = min(near, key=lambda each: (round(each[0]), -each[1]))[2].grip
        self.chosen = grip.number if grip.name == "point" else None
        self._drag = (grip, path, self._document.evaluations.world(path.id).copy())
        return True

    def drag(self, offset: Array, eye: Eye, width: float, broken: bool) -> None:
        """Put the grip so far, in pixels (2,), from where it was taken hold of, in the plane of the view."""
        if self._drag is None:
            return
        document = self._document
        grip, path, world = self._drag
        document.gesture.begin(f"Reshape {path.name}")
        start = world[:3, :3] @ grip.at + world[:3, 3]
        unit = eye.units_per_pixel(start, width)
        axes = eye.axes()
        there = start + axes[:, 0] * offset[0] * unit - axes[:, 1] * offset[1] * unit
        try:
            local = np.linalg.solve(world[:3, :3], there - world[:3, 3])
        except np.linalg.LinAlgError:
            return
        curve = moved(path.curve, grip, local, broken)
        base = document.gesture.base
        document.gesture.preview(base.with_scene(base.scene.with_node(msgspec.structs.replace(path, curve=curve))))

    def release(self) -> None:
        self._drag = None

    def add_at(self, at: Array, project: Project) -> bool:
        """A point more where a pixel (2,) is on the path."""
        path = self.path
        if path is None:
            return False
        u, off = nearest(path.curve, project(samples(path, self._document.evaluations.world(path.id))), at)
        if off > _REACH:
            return False

        def change(scene: Scene) -> Scene:
            curve, self.chosen = with_point(path.curve, u)
            return scene.with_node(msgspec.structs.replace(path, curve=curve))

        self._document.edit(f"Add a point to {path.name}", change)
        return True

    def delete_chosen(self) -> bool:
        """Take the chosen point away."""
        path, number = self.path, self.chosen
        if path is None or number is None:
            return False
        self.chosen = None
        try:
            curve = without_point(path.curve, number)
        except SceneError as problem:
            self._document.messages.say(str(problem), True)
            return True
        changed = msgspec.structs.replace(path, curve=curve)
        self._document.edit(f"Delete a point of {path.name}", lambda scene: scene.with_node(changed))
        return True
