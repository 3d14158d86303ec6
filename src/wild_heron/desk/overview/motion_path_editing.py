"""Ways in the Overview: position keys and their handles, picked and dragged where they are in space."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPen

from ...arrays import Array
from ...edits import KeyRef
from ...edits.motion_path import Side, carrier_map, move_path_key, path_handles, path_key_frames, shape_path
from ...evaluate import evaluate
from ...scene import Scene
from ...scene.channels import POSITION
from ..state.document import Document
from ..state.key_edits import drag_keys
from ..widgets.theme import AMBER, DEEP, TEXT, colour

Project = Callable[[Array], Array]

_REACH = 7.0
_MOST = 6
"""Of how many keys handles are shown at once."""


class PathKey(NamedTuple):
    """A node's position keys at a frame, or one of their handles."""

    node: str
    frame: float
    side: Side | None = None


class SeenHandle(NamedTuple):
    """A handle: the world places (3,) of its key and of its bead."""

    key: PathKey
    foot: Array
    bead: Array


class MotionPathEditor:
    """Keys on the motion paths of selected nodes; handles of those that are selected."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self._held: PathKey | None = None
        self._known: tuple[tuple[object, ...], list[SeenHandle]] | None = None

    # What is where

    def handles(self) -> list[SeenHandle]:
        """The handles of selected position keys of selected nodes, worked out once for each scene and selection."""
        document = self._document
        key = (document.scene, document.selection.nodes, document.selection.keys)
        if self._known is None or any(a is not b for a, b in zip(self._known[0], key, strict=True)):
            self._known = (key, self._found())
        return self._known[1]

    def _found(self) -> list[SeenHandle]:
        document, found = self._document, []
        scene = document.scene
        keys = {(ref.node, ref.frame) for ref in document.selection.keys if ref.channel in POSITION}
        for node_id, frame in sorted(keys)[:_MOST]:
            node = scene.node(node_id)
            if node_id not in document.selection.nodes or node.locked or len(path_key_frames(node)) < 2:
                continue
            foot, turned = evaluate(scene, frame, [node_id]).position(node_id)[0], carrier_map(scene, node_id, frame)
            for side, step in path_handles(scene, node_id, frame).items():
                found.append(SeenHandle(PathKey(node_id, frame, side), foot, foot + turned @ step))
        return found

    def at(self, pointer: Array, project: Project) -> PathKey | None:
        """The handle or key under a pixel (2,); a handle before the key that it belongs to, unless it lies on it."""
        found: list[tuple[float, PathKey]] = []
        for handle in self.handles():
            foot, bead = project(np.stack([handle.foot, handle.bead]))
            if float(np.linalg.norm(bead - foot)) > _REACH:
                found.append((float(np.linalg.norm(bead - pointer)), handle.key))
        near = [each for each in found if each[0] < _REACH]
        if near:
            return min(near, key=lambda each: each[0])[1]
        for node_id in self._document.selection.nodes:
            node = self._document.scene.node(node_id)
            frames = path_key_frames(node)
            if node.locked or len(frames) < 2:
                continue
            pixels = project(evaluate(self._document.scene, frames, [node_id]).position(node_id))
            found += [
                (float(np.linalg.norm(pixel - pointer)), PathKey(node_id, frame))
                for frame, pixel in zip(frames, pixels, strict=True)
            ]
        near = [each for each in found if each[1].side is None and each[0] < _REACH]
        return min(near, key=lambda each: each[0])[1] if near else None

    # The mouse

    def press(self, pointer: Array, project: Project, extend: bool) -> bool:
        """Take hold of what is under a pixel (2,); a key is selected, in Lanes and Curves too."""
        self._held = held = self.at(pointer, project)
        if held is not None and held.side is None:
            node = self._document.scene.node(held.node)
            refs = frozenset(
                KeyRef(held.node, name, held.frame)
                for name in POSITION
                if (c := node.channel(name)) is not None and c.key_at(held.frame) is not None
            )
            chosen = self._document.selection.keys
            if extend:
                self._document.selection.choose_keys(chosen - refs if refs <= chosen else chosen | refs)
            elif not refs <= chosen:
                self._document.selection.choose_keys(refs)
        return held is not None

    def drag(self, step: Callable[[Array], Array], broken: bool) -> None:
        """Put what is held a step (3,) from where it was; ``step`` says what step a place in the world makes."""
        held, document = self._held, self._document
        if held is None:
            return
        name = document.scene.node(held.node).name
        what = "Move" if held.side is None else "Shape the path of"

        def change(scene: Scene) -> Scene:
            place = evaluate(scene, held.frame, [held.node]).position(held.node)[0]
            if held.side is None:
                return move_path_key(scene, held.node, held.frame, place + step(place))
            turned = carrier_map(scene, held.node, held.frame)
            old = path_handles(scene, held.node, held.frame)[held.side]
            try:
                new = old + np.linalg.solve(turned, step(place + turned @ old))
            except np.linalg.LinAlgError:
                return scene  # Its carrier is scaled to nothing here.
            return shape_path(scene, held.node, held.frame, held.side, new, broken)

        axes = [(held.node, axis) for axis in POSITION]
        drag_keys(document, f"{what} {name} at frame {held.frame:g}", axes, change)

    def release(self) -> None:
        self._held = None

    def paint(self, p: QPainter, project: Project) -> None:
        for handle in self.handles():
            foot, bead = project(np.stack([handle.foot, handle.bead]))
            if not np.isfinite([foot, bead]).all() or float(np.linalg.norm(bead - foot)) <= _REACH:
                continue
            p.setPen(QPen(colour(DEEP, 0.7), 3))
            p.drawLine(QPointF(*foot), QPointF(*bead))
            p.setPen(QPen(colour(TEXT, 0.85), 1.2))
            p.drawLine(QPointF(*foot), QPointF(*bead))
            p.setPen(QPen(colour(DEEP), 1.2))
            p.setBrush(colour(AMBER if handle.key == self._held else TEXT))
            x, y = bead
            p.drawEllipse(QRectF(x - 4, y - 4, 8, 8))
