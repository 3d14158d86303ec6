"""How fast the picture slides, in pixels a second: of what is in the middle of the frame, and of the subject.

Told from geometry, by five rays about the middle of the frame: one alone would fall on the aim, which stands still
however the camera goes round it. Of the planes and boxes that a ray falls on it is the one nearest to what the camera
is about, since whether a layer is transparent there is not known.
"""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..scene import Scene
from .cameras import CameraView
from .evaluation import Evaluation, evaluate
from .extent import local_bounds
from .film import film_of
from .film_output import output

_STEP = 0.25
"""How many frames to either side a speed is measured over, within a shot."""
_JUST_BEFORE = 1e-6
_BLOCK = 1000
_RAYS = ((0.0, 0.0), (-0.2, 0.2), (0.2, 0.2), (-0.2, -0.2), (0.2, -0.2))
"""Where in the picture speeds are measured, in shares of the frame from its middle; the mean is of their squares."""


class PictureSpeed(NamedTuple):
    """Pixels a second of the scene's frame at N frames, of the middle of the picture (N,), of the subject (N,), NaN
    where there is none, and of whatever slides fastest (N,)."""

    middle: Array
    subject: Array
    fastest: Array


def picture_speed(
    scene: Scene, frames: Array, lens: str | None = None, cancelled: Callable[[], bool] = lambda: False
) -> PictureSpeed:
    """How fast the picture of a camera (None: the output) slides at frames (N,); across a cut it is not measured.

    Once ``cancelled()`` says so what has not been measured is NaN.
    """
    found = PictureSpeed(*(np.full(len(frames), np.nan) for _ in PictureSpeed._fields))
    for start in range(0, len(frames), _BLOCK):
        if cancelled():
            break
        part = slice(start, start + _BLOCK)
        for whole, values in zip(found, _measured(scene, frames[part], lens), strict=True):
            whole[part] = values
    return found


def _seen(scene: Scene, frames: Array, lens: str | None) -> CameraView:
    return output(scene, frames) if lens is None else evaluate(scene, frames, [lens]).camera(lens)


def _measured(scene: Scene, frames: Array, lens: str | None) -> PictureSpeed:
    before, after = frames - _STEP, frames + _STEP
    if lens is None and scene.shots:
        segments = film_of(Evaluation.evaluator, scene).segments
        edges = np.array([-np.inf, *segments.starts, np.inf])
        number = segments.number(frames)
        before, after = np.maximum(before, edges[number]), np.minimum(after, edges[number + 1] - _JUST_BEFORE)
    views = [_seen(scene, each, lens) for each in (before, frames, after)]
    seconds = (after - before) / scene.settings.rate.fps
    bodies = _bodies(scene, frames, (before, after))
    speeds = [_slide(bodies, views, seconds, across, up) for across, up in _RAYS]
    with np.errstate(all="ignore"):
        middle = np.sqrt(np.mean(np.square(speeds), axis=0))
        fastest = np.max(np.where(np.isfinite(speeds), speeds, 0.0), axis=0)
    subject = np.full(len(frames), np.nan)
    if views[0].aim is not None and views[2].aim is not None:
        subject = _speed(views[0], views[2], views[0].aim, views[2].aim, seconds)
    return PictureSpeed(middle, subject, fastest)


class _Body(NamedTuple):
    """What takes up room: world matrices (N, 4, 4) and their inverses, the matrices before and after where it moves,
    and its corners."""

    world: Array
    back: Array
    ends: tuple[Array, Array] | None
    low: Array
    high: Array


def _bodies(scene: Scene, frames: Array, times: tuple[Array, Array]) -> list[_Body]:
    nodes = [node for node in scene.nodes if node.serves_as("seen") and not node.hidden]
    here = evaluate(scene, frames, [node.id for node in nodes])
    moving = [node.id for node in nodes if len(here.pose_of(node.id)) > 1]
    there = [evaluate(scene, each, moving) for each in times]
    found = []
    for node in nodes:
        low, high = local_bounds(node, scene.settings)
        world = here.content(node.id)
        try:
            back = np.linalg.inv(here.content_of(node.id))
        except np.linalg.LinAlgError:
            continue
        if (high > low).any():
            ends = (there[0].content(node.id), there[1].content(node.id)) if node.id in moving else None
            found.append(_Body(world, np.broadcast_to(back, world.shape), ends, low, high))
    return found


def _slide(bodies: list[_Body], views: list[CameraView], seconds: Array, across: float, up: float) -> Array:
    """How fast what one ray of the picture falls on slides, (N,); its place is told in shares of the frame."""
    view = views[1]
    ray = np.stack(
        [across * view.width / view.focal_px, up * view.height / view.focal_px, np.full(len(view), -1.0)], axis=1
    )
    along = (view.pose[:, :3, :3] @ ray[:, :, None])[:, :, 0]
    depth = np.maximum(-((view.subject() - view.position) * view.pose[:, :3, 2]).sum(axis=1), 1e-6)
    best, reach = np.full(len(view), np.inf), depth.copy()
    body, local = np.full(len(view), -1), np.zeros((len(view), 3))
    for k, each in enumerate(bodies):
        with np.errstate(all="ignore"):
            far, spot = _hit(each, view.position, along)
            off = np.abs(np.log(far / depth))
        closer = (far > view.near) & (off < best)
        best, reach = np.where(closer, off, best), np.where(closer, far, reach)
        body[closer], local[closer] = k, spot[closer]
    point = view.position + along * reach[:, None]
    starts, ends = point, point
    for k, each in enumerate(bodies):
        if each.ends is not None and (body == k).any():
            # What it falls on moves: the same spot of it is followed.
            here = (body == k)[:, None]
            starts, ends = (
                np.where(here, (m[:, :3, :3] @ local[:, :, None])[:, :, 0] + m[:, :3, 3], now)
                for m, now in zip(each.ends, (starts, ends), strict=True)
            )
    return _speed(views[0], views[2], starts, ends, seconds)


def _speed(before: CameraView, after: CameraView, start: Array, end: Array, seconds: Array) -> Array:
    with np.errstate(all="ignore"):
        step = after.pixels(end)[0] - before.pixels(start)[0]
        return np.asarray(np.hypot(step[:, 0], step[:, 1]) / seconds)


def _hit(body: _Body, origin: Array, ray: Array) -> tuple[Array, Array]:
    """How far along rays (N,), in their own lengths, a box is met, infinite where it is not, and where in the box's own
    units (N, 3)."""
    low, high = body.low, body.high
    start = (body.back[:, :3, :3] @ origin[:, :, None])[:, :, 0] + body.back[:, :3, 3]
    along = (body.back[:, :3, :3] @ ray[:, :, None])[:, :, 0]
    a, b = (low - start) / along, (high - start) / along
    # Along a side that it is level with, it is inside or it is not.
    level = np.abs(along) < 1e-12
    inside = (start >= low) & (start <= high)
    near = np.where(level, np.where(inside, -np.inf, np.inf), np.minimum(a, b)).max(axis=1)
    far = np.where(level, np.where(inside, np.inf, -np.inf), np.maximum(a, b)).min(axis=1)
    met = (near <= far + 1e-9) & (far > 0.0)
    reach = np.where(met, np.where(near > 0.0, near, far), np.inf)
    return reach, start + along * np.where(met, reach, 0.0)[:, None]
