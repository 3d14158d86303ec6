"""How fast the picture slides, in pixels a second: of what is in the middle of the frame, and of the subject.

Told from geometry: what the middle of the frame falls on, by the plane or the box that each node takes up.
"""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..scene import Scene
from ..scene.dependencies import final_stage
from ..scene.lookup import nodes_by_id
from .cameras import CameraView
from .evaluation import Evaluation, evaluate, output
from .extent import local_bounds
from .film import film_of

_STEP = 0.25
"""How many frames to either side a speed is measured over, within a shot."""
_JUST_BEFORE = 1e-6
_BLOCK = 1000


class PictureSpeed(NamedTuple):
    """Pixels a second of the scene's frame at N frames, of the middle of the picture (N,) and of the subject (N,); NaN
    where there is none."""

    middle: Array
    subject: Array


def picture_speed(
    scene: Scene, frames: Array, lens: str | None = None, cancelled: Callable[[], bool] = lambda: False
) -> PictureSpeed:
    """How fast the picture of a camera (None: the output) slides at frames (N,); across a cut it is not measured.

    Once ``cancelled()`` says so what has not been measured is NaN.
    """
    middle, subject = np.full(len(frames), np.nan), np.full(len(frames), np.nan)
    for start in range(0, len(frames), _BLOCK):
        if cancelled():
            break
        part = slice(start, start + _BLOCK)
        middle[part], subject[part] = _measured(scene, frames[part], lens)
    return PictureSpeed(middle, subject)


def _seen(scene: Scene, frames: Array, lens: str | None) -> CameraView:
    return output(scene, frames) if lens is None else evaluate(scene, frames, [lens]).camera(lens)


def _measured(scene: Scene, frames: Array, lens: str | None) -> PictureSpeed:
    before, after = frames - _STEP, frames + _STEP
    if lens is None and scene.shots:
        segments = film_of(Evaluation.elsewhere, scene).segments
        edges = np.array([-np.inf, *segments.starts, np.inf])
        number = segments.number(frames)
        before, after = np.maximum(before, edges[number]), np.minimum(after, edges[number + 1] - _JUST_BEFORE)
    views = [_seen(scene, each, lens) for each in (before, frames, after)]
    seconds = (after - before) / scene.settings.rate.fps
    drawn = [node.id for node in scene.nodes if node.serves_as("seen") and not node.hidden]
    here = evaluate(scene, frames, drawn)
    points = _middles(scene, here, views[1], drawn)
    ends = [points.point.copy(), points.point.copy()]
    nodes = nodes_by_id(scene)
    for k in np.unique(points.node[points.node >= 0]).tolist():
        node_id = drawn[k]
        if len(here.pose_of(node_id)) > 1:
            # What the middle falls on moves: the same spot of it is followed.
            rows = np.flatnonzero(points.node == k)
            for end, times in zip(ends, (before, after), strict=True):
                there = Evaluation(scene, times[rows], [final_stage(nodes[node_id])])
                world = there.content(node_id)
                end[rows] = (world[:, :3, :3] @ points.local[rows][:, :, None])[:, :, 0] + world[:, :3, 3]
    middle = _speed(views[0], views[2], ends[0], ends[1], seconds)
    subject = np.full(len(frames), np.nan)
    if views[0].aim is not None and views[2].aim is not None:
        subject = _speed(views[0], views[2], views[0].aim, views[2].aim, seconds)
    return PictureSpeed(middle, subject)


def _speed(before: CameraView, after: CameraView, start: Array, end: Array, seconds: Array) -> Array:
    with np.errstate(all="ignore"):
        step = after.pixels(end)[0] - before.pixels(start)[0]
        return np.asarray(np.hypot(step[:, 0], step[:, 1]) / seconds)


class _Middles(NamedTuple):
    """What is in the middle of the picture: world points (N, 3), the numbers of the nodes (N,), -1 where there is only
    the subject's distance, and the points in their own units (N, 3)."""

    point: Array
    node: Array
    local: Array


def _middles(scene: Scene, here: Evaluation, view: CameraView, drawn: list[str]) -> _Middles:
    origin, axis = view.position, view.axis
    subject = view.subject()
    distance = np.maximum(np.sqrt(((subject - origin) ** 2).sum(axis=1)), 1e-6)
    nearest = np.full(len(view), np.inf)
    node = np.full(len(view), -1)
    local = np.zeros((len(view), 3))
    for k, node_id in enumerate(drawn):
        low, high = local_bounds(scene.node(node_id), scene.settings)
        if (high <= low).all():
            continue
        with np.errstate(all="ignore"):
            far, spot = _hit(here.content(node_id), origin, axis, low, high)
        closer = (far > view.near) & (far < nearest)
        nearest = np.where(closer, far, nearest)
        node[closer], local[closer] = k, spot[closer]
    hit = np.isfinite(nearest)
    reach = np.where(hit, nearest, distance)
    return _Middles(origin + axis * reach[:, None], node, local)


def _hit(world: Array, origin: Array, axis: Array, low: Array, high: Array) -> tuple[Array, Array]:
    """How far along rays (N,) a box is met, infinite where it is not, and where in the box's own units (N, 3)."""
    try:
        back = np.linalg.inv(world)
    except np.linalg.LinAlgError:
        return np.full(len(origin), np.inf), np.zeros((len(origin), 3))
    start = (back[:, :3, :3] @ origin[:, :, None])[:, :, 0] + back[:, :3, 3]
    along = (back[:, :3, :3] @ axis[:, :, None])[:, :, 0]
    a, b = (low - start) / along, (high - start) / along
    # Along a side that it is level with, it is inside or it is not.
    level = np.abs(along) < 1e-12
    inside = (start >= low) & (start <= high)
    near = np.where(level, np.where(inside, -np.inf, np.inf), np.minimum(a, b)).max(axis=1)
    far = np.where(level, np.where(inside, np.inf, -np.inf), np.maximum(a, b)).min(axis=1)
    met = (near <= far + 1e-9) & (far > 0.0)
    reach = np.where(met, np.where(near > 0.0, near, far), np.inf)
    return reach, start + along * np.where(met, reach, 0.0)[:, None]
