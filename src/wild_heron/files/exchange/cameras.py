"""Cameras from other programs as nodes, with as few keys as their motion needs."""

from collections.abc import Iterable

import numpy as np

from ...arrays import Array
from ...motion.takes.sampling import side_by_side, unrolled
from ...motion.thinning import thinned
from ...scene import Camera, Channel, Scene
from ...scene.channels import APERTURE, FOCAL, FOCUS, POSITION, ROTATION, SHUTTER
from ...scene.edits import add_nodes, free_id, free_name
from ...scene.nodes import Fit, RotationOrder
from ..contents import CameraTrack

_UNITS, _DEGREES, _SHARE = 1e-4, 1e-3, 1e-5
_ORDER: RotationOrder = "yxz"


def with_cameras(scene: Scene, tracks: Iterable[CameraTrack], start: float) -> tuple[Scene, tuple[str, ...]]:
    """The scene with a camera for each track, whose first second is at frame ``start``; and their ids."""
    nodes = []
    ids = {node.id for node in scene.nodes}
    names = {node.name for node in scene.nodes}
    for track in tracks:
        node_id, name = free_id(ids, track.name), free_name(names, track.name or "Camera")
        ids.add(node_id)
        names.add(name)
        nodes.append(_camera(scene, track, node_id, name, start))
    return add_nodes(scene, nodes), tuple(node.id for node in nodes)


def _camera(scene: Scene, track: CameraTrack, node_id: str, name: str, start: float) -> Camera:
    frames = start + track.seconds * scene.settings.rate.fps
    angles = unrolled(side_by_side(track.quaternions), _ORDER)
    values: dict[str, tuple[Array, float]] = {}
    for k, channel in enumerate(POSITION):
        values[channel] = (track.positions[:, k], _UNITS)
    for k, channel in enumerate(ROTATION):
        values[channel] = (angles[:, k], _DEGREES)
    for channel, column in ((FOCAL, track.focal_mm), (FOCUS, track.focus), (APERTURE, track.f_stop),
                            (SHUTTER, track.shutter)):  # fmt: skip
        if column is not None:
            values[channel] = (column, _SHARE * max(float(np.abs(column).max()), 1e-9))
    channels = []
    for channel, (column, within) in values.items():
        keys = thinned(frames, column, within)
        channels.append(
            Channel(channel, float(column[0]), keys) if len(keys) > 1 else Channel(channel, float(column[0]))
        )
    fit: Fit = "height" if track.fits_height else "width"
    return Camera(
        id=node_id, name=name, channels=tuple(sorted(channels, key=lambda each: each.name)), rotation_order=_ORDER,
        sensor_width=track.sensor[0], sensor_height=track.sensor[1], fit=fit,
        depth_of_field=track.f_stop is not None and bool((track.f_stop > 0.0).any()),
    )  # fmt: skip
