"""Projected shapes of nodes in the Overview: motion paths, corners, outlines. Free of Qt."""

import msgspec
import numpy as np
from numpy.typing import NDArray

from ...arrays import Array
from ...evaluate import Evaluation, evaluate
from ...evaluate.extent import corners as box_corners
from ...scene import AnyNode, Picture, Scene

_MAX_PATH = 4000


class MotionPath(msgspec.Struct, frozen=True):
    """A node's way through the scene: frames (N,), world positions (N, 3), and which frames have keys."""

    frames: Array
    positions: Array
    keyed: NDArray[np.bool_]


def motion_path(scene: Scene, node_id: str) -> MotionPath | None:
    """The node's path over the scene's range, or None where it stands still."""
    settings = scene.settings
    step = max(1, -(-settings.frame_count // _MAX_PATH))
    frames = np.arange(settings.first, settings.last + 1, step, dtype=np.float64)
    there = evaluate(scene, frames, [node_id])
    if there.is_still(node_id):
        return None
    positions = np.array(there.position(node_id))
    if np.ptp(positions, axis=0).max() < 1e-9:
        return None
    keyed = {
        round(key.frame)
        for node in _with_carriers(scene, node_id)
        for channel in node.channels
        for key in channel.keys
        if channel.name.startswith(("position", "rotation", "scale"))
    }
    return MotionPath(frames, positions, np.isin(frames, list(keyed)))


def _with_carriers(scene: Scene, node_id: str) -> list[AnyNode]:
    found = [scene.node(node_id)]
    while found[-1].carrier is not None:
        found.append(scene.node(found[-1].carrier))
    return found


def all_corners(pictures: list[Picture], scene: Scene, here: Evaluation) -> Array:
    """The corners (P, 4, 3) of pictures in the world."""
    unit = 2.0 * scene.settings.pixels_per_unit
    half = np.array([(node.width / unit, node.height / unit) for node in pictures])
    worlds = np.stack([here.content(node.id)[0] for node in pictures])
    signs = np.array([(-1, 1), (1, 1), (1, -1), (-1, -1)], dtype=np.float64)
    flat = half[:, None, :] * signs
    return worlds[:, None, :3, 0] * flat[..., :1] + worlds[:, None, :3, 1] * flat[..., 1:] + worlds[:, None, :3, 3]


def body_corners(node: AnyNode, scene: Scene, here: Evaluation) -> Array:
    """The corners of a body in the world: (4, 3) of a picture in turn, (8, 3) of the box around a solid."""
    return all_corners([node], scene, here)[0] if isinstance(node, Picture) else box_corners(here, node.id)


def hull(points: Array) -> Array:
    """The convex outline (K, 2) of points (N, 2) in turn (Andrew 1979)."""
    order = sorted({(float(x), float(y)) for x, y in points})
    if len(order) < 3:
        return np.array(order).reshape(-1, 2)
    chains: list[list[tuple[float, float]]] = []
    for run in (order, order[::-1]):
        chain: list[tuple[float, float]] = []
        for point in run:
            while len(chain) >= 2 and _turn(chain[-2], chain[-1], point) <= 0:
                chain.pop()
            chain.append(point)
        chains.append(chain[:-1])
    return np.array(chains[0] + chains[1])


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def areas(polygons: Array) -> Array:
    """Of polygons (P, K, 2), (P,)."""
    x, y = polygons[..., 0], polygons[..., 1]
    return np.asarray(0.5 * np.abs((x * np.roll(y, -1, axis=1) - y * np.roll(x, -1, axis=1)).sum(axis=1)))
