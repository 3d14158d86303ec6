"""Values of nodes over frames as records, for tables and scripts."""

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from ..scene import Scene
from ..scene.output import has_output, lens_nodes, shown_nodes
from ..space.transform import decompose
from .evaluation import evaluate


def sample(
    scene: Scene,
    node_ids: Sequence[str],
    frames: Sequence[float],
    camera_id: str | None,
    size: tuple[int, int] | None = None,
) -> Iterator[dict[str, Any]]:
    """One record for each frame and node, as docs/file-format.md describes them; frames are the outer loop.

    ``pixel``, ``in_frame`` and ``depth`` are as seen by ``camera_id``, with None in what the output shows; null where
    that is nothing, or behind the lens.
    """
    with np.errstate(all="ignore"):  # A point in the lens itself has no place in the picture.
        yield from _records(scene, node_ids, frames, camera_id, size)


def _records(
    scene: Scene,
    node_ids: Sequence[str],
    frames: Sequence[float],
    camera_id: str | None,
    size: tuple[int, int] | None,
) -> Iterator[dict[str, Any]]:
    seen_through = lens_nodes(scene, camera_id) if camera_id or has_output(scene) else ()
    evaluation = evaluate(scene, frames, [*node_ids, *seen_through])
    view = evaluation.camera(camera_id, size=size) if seen_through else None
    looked_through = camera_id or (seen_through[0] if len(seen_through) == 1 else None)
    parts = {node_id: decompose(evaluation.world(node_id)) for node_id in node_ids}
    seen = {node_id: view.pixels(evaluation.position(node_id)) for node_id in node_ids} if view else {}
    shown = shown_nodes(scene)
    lenses = {node_id: evaluation.camera(node_id, size=size) for node_id in node_ids if node_id in shown}
    angles = {node_id: lens.angles() for node_id, lens in lenses.items()}
    for i, frame in enumerate(frames):
        for node_id in node_ids:
            position, quaternion, scale = (part[i].tolist() for part in parts[node_id])
            record: dict[str, Any] = {
                "frame": float(frame),
                "node": scene.node(node_id).name,
                "id": node_id,
                "position": position,
                "quaternion": quaternion,
                "scale": scale,
                "matrix": evaluation.world(node_id)[i].ravel().tolist(),
                "pixel": None,
                "in_frame": None,
                "depth": None,
            }
            if view is not None and node_id != looked_through:
                pixel, depth = (part[i] for part in seen[node_id])
                record["depth"] = float(depth)
                visible = bool(np.isfinite(pixel).all())
                record["pixel"] = pixel.tolist() if visible else None
                record["in_frame"] = bool(visible and 0 <= pixel[0] <= view.width and 0 <= pixel[1] <= view.height)
            if node_id in lenses:
                record |= {
                    "focal_mm": float(lenses[node_id].focal_mm[i]),
                    "sensor_mm": lenses[node_id].sensor[i].tolist(),
                    "hfov_deg": float(angles[node_id][0][i]),
                    "vfov_deg": float(angles[node_id][1][i]),
                    "focus_distance": float(lenses[node_id].focus[i]),
                }
            yield record
