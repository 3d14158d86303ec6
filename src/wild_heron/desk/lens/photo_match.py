"""What is known of a photograph that is matched: corners and lines laid on it, and the lens and place that follow."""

from collections.abc import Callable

import msgspec
import numpy as np

from ...edits.posing import values_for_pose
from ...evaluate.extent import corners
from ...scene import Projection, SceneError
from ...scene.channels import FOCAL
from ...space.lens import world_to_pixel
from ...space.matching import LensMatch, solve
from ..state.document import Document

_FLAT = 1e-9
_NEAR = 0.05
_EDGES = [(i, i | bit) for bit in (1, 2, 4) for i in range(8) if not i & bit]
Corner = tuple[str, int]
"""A receiver's id, and the number of one of its corners."""


class Pin(msgspec.Struct, frozen=True):
    """A corner of a receiver, and the pixel of the photograph where it is."""

    node: str
    corner: int
    pixel: tuple[float, float]


class Line(msgspec.Struct, frozen=True):
    """A segment in the photograph that runs along a world axis."""

    axis: int
    ends: tuple[tuple[float, float], tuple[float, float]]


class PhotoMatch:
    """Pins and lines, and the match they give, written to the projection's place, turn and lens."""

    def __init__(self, document: Document, changed: Callable[[], None]) -> None:
        self._document, self._changed = document, changed
        self.projection: str | None = None
        self.pins: tuple[Pin, ...] = ()
        self.lines: tuple[Line, ...] = ()
        self.match: LensMatch | None = None

    @property
    def node(self) -> Projection | None:
        """The projection that is matched; None once it is gone."""
        if self.projection is None or self.projection not in self._document.scene:
            return None
        node = self._document.scene.node(self.projection)
        return node if isinstance(node, Projection) else None

    def begin(self, node: Projection) -> None:
        self.projection, self.pins, self.lines, self.match = node.id, (), (), None

    def receiver_corners(self) -> dict[Corner, np.ndarray]:
        """The corners of all receivers in the world, those of a plane once."""
        node, here = self.node, self._document.evaluations.here
        found: dict[Corner, np.ndarray] = {}
        for receiver in node.receivers if node else ():
            places: list[np.ndarray] = []
            for number, point in enumerate(corners(here, receiver)):
                if all(np.linalg.norm(point - other) > _FLAT for other in places):
                    places.append(point)
                    found[receiver, number] = point
        return found

    def seen(self, points: np.ndarray) -> np.ndarray:
        """Pixels (N, 2) of the photograph at which world points are seen; NaN behind the lens."""
        node = self.node
        assert node is not None
        view = self._document.evaluations.here.camera(node.id)
        count = len(points)
        poses, focal = np.broadcast_to(view.pose[0], (count, 4, 4)), np.full(count, view.focal_px[0])
        return world_to_pixel(points, poses, focal, node.width, node.height)[0]

    def edges(self) -> list[np.ndarray]:
        """The edges of all receivers as pairs of pixels (2, 2), cut off where they pass behind the lens."""
        node, here = self.node, self._document.evaluations.here
        if node is None:
            return []
        pose = here.camera(node.id).pose[0]
        found = []
        for receiver in node.receivers:
            points = corners(here, receiver)
            depths = (pose[:3, 3] - points) @ pose[:3, 2]
            for i, j in _EDGES:
                near, far = (i, j) if depths[i] < depths[j] else (j, i)
                if depths[far] <= _NEAR or np.linalg.norm(points[i] - points[j]) < _FLAT:
                    continue
                start = points[near]
                if depths[near] < _NEAR:
                    share = (_NEAR - depths[near]) / (depths[far] - depths[near])
                    start = start + (points[far] - start) * (share * (1.0 + 1e-9))
                found.append(self.seen(np.stack([start, points[far]])))
        return found

    def horizon(self) -> tuple[tuple[float, float], tuple[float, float]] | None:
        """Where the horizon meets the left and right edge of the photograph; None where it is not in front."""
        node = self.node
        if node is None:
            return None
        view = self._document.evaluations.here.camera(node.id)
        pose, focal = view.pose[0], float(view.focal_px[0])
        # Directions (x, y, −f) of the lens that are level in the world.
        up = pose[1, :3]
        if abs(up[1]) < 1e-6:
            return None
        ends = []
        for x in (0.0, float(node.width)):
            y = (-(x - node.width / 2) * up[0] + focal * up[2]) / up[1]
            ends.append((x, node.height / 2 - y))
        return ends[0], ends[1]

    def pin(self, node_id: str, corner: int, pixel: tuple[float, float]) -> None:
        """Say where in the photograph a corner of a receiver is."""
        kept = tuple(pin for pin in self.pins if (pin.node, pin.corner) != (node_id, corner))
        self.pins = (*kept, Pin(node_id, corner, pixel))
        self._solve()

    def let_go(self, key: Corner) -> None:
        """Forget where a corner is."""
        self.pins = tuple(pin for pin in self.pins if (pin.node, pin.corner) != key)
        self._solve()

    def let_all_go(self) -> None:
        """Forget pins and lines; the match stays as it is."""
        self.pins, self.match = (), None
        self.lines = ()
        self._changed()

    def show_lines(self, on: bool) -> None:
        """Two lines along the set's x and two along its z, to be laid on edges of the photograph."""
        node = self.node
        if node is None:
            return
        w, h = float(node.width), float(node.height)
        start = (
            Line(0, ((0.3 * w, 0.3 * h), (0.7 * w, 0.3 * h))),
            Line(0, ((0.3 * w, 0.7 * h), (0.7 * w, 0.7 * h))),
            Line(2, ((0.08 * w, 0.2 * h), (0.28 * w, 0.36 * h))),
            Line(2, ((0.92 * w, 0.2 * h), (0.72 * w, 0.36 * h))),
        )
        self.lines = start if on else ()
        self.match = None
        self._changed()

    def move_end(self, number: int, end: int, pixel: tuple[float, float]) -> None:
        """Lay one end of a line on a pixel of the photograph."""
        line = self.lines[number]
        ends = (pixel, line.ends[1]) if end == 0 else (line.ends[0], pixel)
        self.lines = tuple(Line(line.axis, ends) if k == number else other for k, other in enumerate(self.lines))
        self._solve()

    def _solve(self) -> None:
        node = self.node
        if node is None:
            return
        places = self.receiver_corners()
        pins = [pin for pin in self.pins if (pin.node, pin.corner) in places]
        document = self._document
        if pins or self.lines:
            view = document.evaluations.here.camera(node.id)
            self.match = solve(
                np.array([places[pin.node, pin.corner] for pin in pins]).reshape(-1, 3),
                np.array([pin.pixel for pin in pins]).reshape(-1, 2),
                np.array([line.ends for line in self.lines]).reshape(-1, 2, 2),
                np.array([np.eye(3)[line.axis] for line in self.lines]).reshape(-1, 3),
                (node.width, node.height),
                np.array(view.pose[0]),
                float(view.focal_px[0]),
            )
            focal = self.match.focal_px * node.sensor_width / node.width
            try:
                # Its scale plays no part in what a projection sees.
                values = {
                    name: value
                    for name, value in values_for_pose(
                        document.views.shown, node.id, self.match.pose, document.playhead.frame
                    ).items()
                    if not name.startswith("scale")
                }
                changes = {(node.id, name): value for name, value in values.items()}
                document.recorder.set_values(
                    f"Match {node.name}", changes | {(node.id, FOCAL): min(max(focal, 1.0), 5000.0)}
                )
            except SceneError as problem:
                document.messages.say(str(problem), True)
        else:
            self.match = None
        self._changed()
