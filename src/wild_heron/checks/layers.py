"""How near flat artwork comes to the lens, how far it is enlarged, and whether it is in the frame."""

from typing import NamedTuple

import numpy as np

from ..arrays import Array
from ..evaluate import CameraView, Evaluation
from ..evaluate.extent import local_bounds
from ..scene import ImageFile, Layer, Picture, Scene, Text
from ..scene.channels import OPACITY
from ..scene.lookup import nodes_by_id

_GRID = 3
_MOST = 20_000_000
"""Layers times frames: what is kept of all of them takes up some hundred bytes each."""
_CLEAR = 0.02
"""Below this opacity nothing is seen."""


class LayerMeasures(NamedTuple):
    """At N frames of L layers, (N, L) each: how far the lens is from it in units (less than nothing behind its back),
    how far it is beside it in its plane (0 before it), pixels of the scene's frame to a pixel of artwork where it is
    seen (0 where it is not, or is drawn as fine as it is seen), the share of it that is in the frame, and the depth of
    its nearest part ahead of the lens."""

    distance: Array
    beside: Array
    magnified: Array
    shown: Array
    front: Array


def checked_layers(scene: Scene) -> tuple[str, ...]:
    """The pictures that may be seen; of very many over very long only the first."""
    most = _MOST // scene.settings.frame_count
    return tuple(node.id for node in scene.nodes if isinstance(node, Picture) and not node.hidden)[:most]


def has_pixels(node: Picture) -> bool:
    """Whether it has pixels of its own, and is not drawn as fine as it is seen."""
    artwork = node.artwork
    if isinstance(artwork, ImageFile | Layer):
        return not artwork.source.lower().endswith((".svg", ".svgz"))
    return hasattr(artwork, "source")


def words_of(node: Picture) -> int:
    """How many words it has to be read."""
    return len(node.artwork.text.split()) if isinstance(node.artwork, Text) else 0


def measure_layers(here: Evaluation, seen: CameraView, layers: tuple[str, ...]) -> LayerMeasures:
    """All of it, for what a camera sees."""
    count, nodes = len(here), nodes_by_id(here.scene)
    out = LayerMeasures(*(np.zeros((count, len(layers))) for _ in LayerMeasures._fields))
    for k, node_id in enumerate(layers):
        node = nodes[node_id]
        assert isinstance(node, Picture)
        low, high = local_bounds(node, here.scene.settings)
        content = here.content(node_id)
        visible = here.value(node_id, OPACITY) > _CLEAR
        away, beside = _distance(content, low, high, seen)
        out.distance[:, k], out.beside[:, k] = np.where(visible, away, np.inf), beside
        depth, inside, front = _in_frame(content, low, high, seen)
        per = np.linalg.norm(content[:, :3, :2], axis=1).max(axis=1) / here.scene.settings.pixels_per_unit
        with np.errstate(all="ignore"):
            magnified = np.where(np.isfinite(depth) & visible, seen.focal_px / depth * per, 0.0)
        out.magnified[:, k] = magnified if has_pixels(node) else 0.0
        out.shown[:, k] = np.where(visible, inside, 0.0)
        out.front[:, k] = np.where(visible, front, np.inf)
    return out


def _distance(content: Array, low: Array, high: Array, seen: CameraView) -> tuple[Array, Array]:
    """How far the lens is from a picture (N,), with the sign of the side that it is on, and how far beside it."""
    axes, origin = content[:, :3, :3], content[:, :3, 3]
    offset = seen.position - origin
    with np.errstate(all="ignore"):
        sizes = np.maximum((axes**2).sum(axis=1), 1e-18)
        local = (axes * offset[:, :, None]).sum(axis=1) / sizes
    on = local.copy()
    on[:, :2] = np.clip(local[:, :2], low[:2], high[:2])
    on[:, 2] = 0.0
    away = offset - (axes @ on[:, :, None])[:, :, 0]
    across = (axes[:, :, :2] @ (local - on)[:, :2, None])[:, :, 0]
    side = np.where(local[:, 2] < 0.0, -1.0, 1.0)
    return np.linalg.norm(away, axis=1) * side, np.linalg.norm(across, axis=1)


def _in_frame(content: Array, low: Array, high: Array, seen: CameraView) -> tuple[Array, Array, Array]:
    """The middle one of the depths at which it is seen (N,), infinite where it is not; the share of it that is in the
    frame; and the depth of its nearest corner, or of the lens's own plane where it reaches behind."""
    steps = np.linspace(0.0, 1.0, _GRID)
    depths, inside = [], np.zeros(len(seen))
    front = np.full(len(seen), np.inf)
    for u in steps:
        for v in steps:
            local = np.array([low[0] + u * (high[0] - low[0]), low[1] + v * (high[1] - low[1]), 0.0])
            point = content[:, :3, :3] @ local + content[:, :3, 3]
            place, away = seen.pixels(point)
            with np.errstate(all="ignore"):
                within = (away > 0.0) & (place >= 0.0).all(axis=1) & (place <= (seen.width, seen.height)).all(axis=1)
            depths.append(np.where(within, away, np.nan))
            inside += within / _GRID**2
            front = np.minimum(front, np.maximum(away, 0.0))
    for across in (-0.5, 0.0, 0.5):
        for up in (-0.5, 0.0, 0.5):
            depths.append(_hit(content, low, high, seen, across, up))
    return middle(np.array(depths)), inside, front


def middle(values: Array) -> Array:
    """The median of values (K, N) over K, those that are NaN left out; infinite where all are."""
    ordered = np.sort(values, axis=0)
    count = np.isfinite(ordered).sum(axis=0)
    at = np.maximum(count - 1, 0) // 2
    return np.where(count > 0, np.take_along_axis(ordered, at[None], axis=0)[0], np.inf)


def _hit(content: Array, low: Array, high: Array, seen: CameraView, across: float, up: float) -> Array:
    """The depth (N,) at which a ray through a place of the frame falls on a picture; NaN where it misses."""
    ray = np.stack([across * seen.width / seen.focal_px, up * seen.height / seen.focal_px, -np.ones(len(seen))], axis=1)
    along = (seen.pose[:, :3, :3] @ ray[:, :, None])[:, :, 0]
    axes, origin = content[:, :3, :3], content[:, :3, 3]
    with np.errstate(all="ignore"):
        normal = np.cross(axes[:, :, 0], axes[:, :, 1])
        reach = (normal * (origin - seen.position)).sum(axis=1) / (normal * along).sum(axis=1)
        spot = seen.position + along * reach[:, None] - origin
        x = (axes[:, :, 0] * spot).sum(axis=1) / (axes[:, :, 0] ** 2).sum(axis=1)
        y = (axes[:, :, 1] * spot).sum(axis=1) / (axes[:, :, 1] ** 2).sum(axis=1)
        on = (reach > 0.0) & (x >= low[0]) & (x <= high[0]) & (y >= low[1]) & (y <= high[1])
        return np.asarray(np.where(on, reach, np.nan))
