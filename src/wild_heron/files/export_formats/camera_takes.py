"""Converts imported cameras to nodes, with as few keys as their motion needs."""

import msgspec
import numpy as np

from ...arrays import Array
from ...edits import add_nodes, free_id, free_name
from ...motion.takes.sampling import side_by_side, unrolled
from ...motion.thinning import thinned
from ...scene import AnyNode, Camera, Channel, Format, FormatWindow, Scene
from ...scene.channels import ACROSS, APERTURE, FOCAL, FOCUS, POSITION, ROTATION, SHUTTER, UP
from ...scene.nodes import Fit, RotationOrder
from ...scene.validate import validate_change
from ..contents import CameraTrack, FoundCameras

_UNITS, _DEGREES, _SHARE = 5e-6, 1e-4, 1e-6
_ORDER: RotationOrder = "yxz"
_SENSORS = (0.1, 1000.0)
"""Millimetres, between which a sensor's sides are taken as they are."""


_FARTHEST_SHIFT = 4.0
"""Frames, by which the middle of a format's window can lie off."""


def with_cameras(scene: Scene, found: FoundCameras, start: float) -> tuple[Scene, tuple[str, ...], tuple[str, ...]]:
    """The scene with a camera for each that was found, whose first second is at frame ``start``; their ids; and what is
    to be said of them, a sentence each.

    A shifted lens becomes a format whose window is shifted: in it, the camera's picture is the file's.
    """
    ids = {node.id for node in scene.nodes}
    names = {node.name for node in scene.nodes}
    nodes: list[AnyNode] = []
    cameras: list[str] = []
    formats = list(scene.formats)
    notes = list(found.notes)

    def fresh(name: str) -> tuple[str, str]:
        made = free_id(ids, name), free_name(names, name)
        ids.add(made[0])
        names.add(made[1])
        return made

    for track in found.tracks:
        camera = _camera(scene, track, *fresh(track.name or "Camera"), start)
        nodes.append(camera)
        cameras.append(camera.id)
        if track.shift is not None and np.abs(track.shift).max() >= _FARTHEST_SHIFT:
            notes.append(f"The lens of {camera.name} is shifted by more than a format can be, and stands straight.")
        elif track.shift is not None:
            taken = {each.name for each in (*scene.formats_with_main(), *formats)}
            window, shape = _shifted(scene, track, camera.name, *fresh(f"{camera.name} window"), start, taken)
            nodes.append(window)
            formats.append(shape)
            notes.append(f"The lens of {camera.name} is shifted: its picture is that of the format “{shape.name}”.")
    if any(track.metres is None for track in found.tracks):
        notes.append("The file says nothing of its unit: one of it is one here.")
    grown = msgspec.structs.replace(add_nodes(scene, nodes), formats=tuple(formats))
    validate_change(scene, grown)
    return grown, tuple(cameras), tuple(notes)


def _camera(scene: Scene, track: CameraTrack, node_id: str, name: str, start: float) -> Camera:
    settings = scene.settings
    unit = 1.0 if track.metres is None else track.metres * 1000.0 / settings.mm_per_unit
    angles = unrolled(side_by_side(track.quaternions), _ORDER)
    values: dict[str, tuple[Array, float]] = {}
    for k, channel in enumerate(POSITION):
        values[channel] = (track.positions[:, k] * unit, _UNITS)
    for k, channel in enumerate(ROTATION):
        values[channel] = (angles[:, k], _DEGREES)
    focus = None if track.focus is None else track.focus * unit
    # A sensor beyond all measure is another one with another lens: only their ratio is seen.
    wide, high = track.sensor
    times = 1.0 if _SENSORS[0] < min(wide, high) and max(wide, high) < _SENSORS[1] else 36.0 / wide
    for channel, column in ((FOCAL, track.focal_mm * times), (FOCUS, focus), (APERTURE, track.f_stop),
                            (SHUTTER, track.shutter)):  # fmt: skip
        if column is not None:
            values[channel] = (column, _SHARE * max(float(np.abs(column).max()), 1e-9))
    fit: Fit = "height" if track.fits_height else "width"
    return Camera(
        id=node_id, name=name, channels=_channels(scene, track, values, start), rotation_order=_ORDER,
        sensor_width=wide * times, sensor_height=high * times, fit=fit,
        depth_of_field=track.f_stop is not None and bool((track.f_stop > 0.0).any()),
    )  # fmt: skip


def _channels(
    scene: Scene, track: CameraTrack, values: dict[str, tuple[Array, float]], start: float
) -> tuple[Channel, ...]:
    """Channels, by name with what they come to at the track's moments and a tolerance."""
    frames = start + track.seconds * scene.settings.rate.fps
    channels = []
    for name, (column, within) in sorted(values.items()):
        keys = thinned(frames, column, within)
        channels.append(Channel(name, float(column[0]), keys if len(keys) > 1 else ()))
    return tuple(channels)


def _shifted(
    scene: Scene, track: CameraTrack, camera: str, node_id: str, name: str, start: float, taken: set[str]
) -> tuple[FormatWindow, Format]:
    """A window as far off the middle as the track's picture is, and the format that it is of."""
    assert track.shift is not None
    settings = scene.settings
    wide, high = track.sensor
    if track.fits_height:
        width, height = round(settings.height * wide / high), settings.height
    else:
        width, height = settings.width, round(settings.width * high / wide)
    across = -track.shift[:, 0] * width / settings.width
    up = -track.shift[:, 1] * height / settings.height
    channels = _channels(scene, track, {ACROSS: (across, _SHARE), UP: (up, _SHARE)}, start)
    fit: Fit = "height" if track.fits_height else "width"
    return (
        FormatWindow(id=node_id, name=name, channels=channels),
        Format(free_name(taken, camera), width, height, fit, window=node_id),
    )
